"""A practice task as a row of wax figures, from its beginning to its end."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QWidget

from waxtwin.core.findings import Task
from waxtwin.core.landmarks import INDEX
from waxtwin.figure.skin import body_pose
from waxtwin.library.poses import shipped_poses
from waxtwin.ui.shared.images import png
from waxtwin.ui.shared.theme import LIGHT, WAX, colour, font
from waxtwin.ui.shared.wax_figure import Figure, figure_matrix, paint_figure

SEQUENCE = 104, 128  # width and height of one figure of a sequence, in the painter's own units
_WIDE, _TALL = SEQUENCE
_MOST = 420  # pixels: a wider picture may be cut on a small window
_NEAR = 0.84  # of height: how near it is looked at
_MIDDLE = 0.46  # of height: where the projection looks at
_HIPS = (INDEX["drive_hip"], INDEX["lead_hip"])
_PAPER_SCALE = 3  # pixels of a printed picture for one on the screen


class SequenceStrip(QWidget):
    """A task in figures: the poses that draw it, or the picture that somebody put in their place."""

    def __init__(self, task: Task | None = None) -> None:
        super().__init__()
        self.shows: tuple[str, ...] = ()
        self.picture = QPixmap()
        self.setAccessibleName("how it goes, in figures")
        if task is not None:
            self.show_task(task)

    def show_task(self, task: Task) -> None:
        """Show another task."""
        self.shows, self.picture = task.shows, QPixmap()
        if task.picture and self.picture.loadFromData(task.picture):
            self.picture = self.picture.scaledToHeight(_TALL, Qt.TransformationMode.SmoothTransformation)
        self.setFixedHeight(_TALL)
        self.setMinimumWidth(min(self.sizeHint().width(), _MOST))
        self.setVisible(bool(self.shows) or not self.picture.isNull())
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(_WIDE * len(self.shows) if self.picture.isNull() else self.picture.width(), _TALL)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.picture.isNull():
            paint_sequence(painter, self.shows, colour("soft"))
        else:
            painter.drawPixmap(0, 0, self.picture)
        painter.end()


def paint_sequence(painter: QPainter, shows: Sequence[str], ink: QColor) -> None:
    """Paint poses side by side, numbered in `ink` from the left, each as large as SEQUENCE says."""
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
        painter.setPen(ink)
        box = QRectF(n * _WIDE, _TALL - 16, _WIDE, 14)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(n + 1))


@lru_cache(maxsize=64)
def sequence_png(shows: tuple[str, ...]) -> bytes:
    """The same as a PNG file for paper; the poses ship with the program, so that it is painted once."""
    image = QImage(_WIDE * len(shows) * _PAPER_SCALE, _TALL * _PAPER_SCALE, QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.scale(_PAPER_SCALE, _PAPER_SCALE)
    paint_sequence(painter, shows, QColor(LIGHT.soft))
    painter.end()
    return png(image)
