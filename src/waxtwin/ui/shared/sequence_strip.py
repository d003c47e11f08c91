"""A practice task as a row of wax figures, from its beginning to its end."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from waxtwin.core.landmarks import INDEX
from waxtwin.figure.skin import body_pose
from waxtwin.library.poses import shipped_poses
from waxtwin.ui.shared.images import png
from waxtwin.ui.shared.theme import WAX, colour, font
from waxtwin.ui.shared.wax_figure import Figure, figure_matrix, paint_figure

_TALL, _WIDE = 128, 104  # pixels of one figure
_NEAR = 0.84  # of height: how near it is looked at
_MIDDLE = 0.46  # of height: where the projection looks at
_HIPS = (INDEX["drive_hip"], INDEX["lead_hip"])
_PAPER_SCALE = 3  # pixels of a printed picture for one on the screen


class SequenceStrip(QWidget):
    """The poses `shows`, by the names of the shipped ones; nothing where there are none."""

    def __init__(self, shows: Sequence[str] = ()) -> None:
        super().__init__()
        self.shows: tuple[str, ...] = ()
        self.setAccessibleName("how it goes, in figures")
        self.show_poses(shows)

    def show_poses(self, shows: Sequence[str]) -> None:
        """Show other poses."""
        self.shows = tuple(shows)
        self.setFixedHeight(_TALL)
        self.setMinimumWidth(_WIDE * len(self.shows))
        self.setVisible(bool(self.shows))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(_WIDE * len(self.shows), _TALL)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        paint_sequence(painter, self.shows)
        painter.end()


def paint_sequence(painter: QPainter, shows: Sequence[str]) -> None:
    """Paint poses side by side, numbered from the left, each `_WIDE` by `_TALL`."""
    poses = shipped_poses()
    matrix = figure_matrix((_WIDE, _TALL + 44), _NEAR * poses.height, 0.0, 0.07)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for n, name in enumerate(shows):
        body = poses.points[name]
        hips = body[list(_HIPS)].mean(axis=0)
        middle = np.array([_MIDDLE * _NEAR * poses.height - hips[0], -hips[1], 0.0])
        painter.save()
        painter.translate(n * _WIDE, -24)
        paint_figure(painter, matrix, Figure(body_pose(body + middle, poses.height), WAX["athlete"]))
        painter.restore()
        painter.setFont(font(-2))
        painter.setPen(colour("soft"))
        box = QRectF(n * _WIDE, _TALL - 16, _WIDE, 14)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(n + 1))


def sequence_png(shows: Sequence[str]) -> bytes:
    """The same as a PNG file for paper."""
    image = QImage(_WIDE * len(shows) * _PAPER_SCALE, _TALL * _PAPER_SCALE, QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.scale(_PAPER_SCALE, _PAPER_SCALE)
    paint_sequence(painter, shows)
    painter.end()
    return png(image)
