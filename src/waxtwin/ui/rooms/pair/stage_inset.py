"""The magnifier: a round in the corner of a stage that follows a joint and shows it enlarged."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from waxtwin.core.camera import project
from waxtwin.core.landmarks import INDEX
from waxtwin.ui.shared.theme import colour, side_colour

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.stage import Stage

_RADIUS, _ZOOM, _BAR = 82.0, 2.6, 34.0  # px, times, px: the strip of words above


def paint_inset(painter: QPainter, stage: Stage, matrix: np.ndarray, points: np.ndarray, time: float) -> None:
    """The round, where a joint is followed and seen; `points` (landmarks, 3) as shown through `matrix` (3, 4)."""
    name, motion = stage.desk.view.display.inset, stage.motion
    joint = points[INDEX[name]] if name else np.full(3, np.nan)
    if motion is None or np.isnan(joint).any():
        return
    at, _ = project(matrix, joint)
    middle = _far_corner(stage, QPointF(*at))
    round_ = QPainterPath()
    round_.addEllipse(middle, _RADIUS, _RADIUS)
    painter.save()
    painter.setClipPath(round_)
    painter.fillRect(stage.rect(), colour("stage"))
    painter.translate(middle)
    painter.scale(_ZOOM, _ZOOM)
    painter.translate(-QPointF(*at))
    if stage.shows_clip:
        stage.draw_frame(painter)
    stage.paint_bodies(painter, matrix, points, motion, time)
    painter.restore()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(side_colour(stage.side, soft=True), 2))
    painter.drawEllipse(middle, _RADIUS, _RADIUS)


def _far_corner(stage: Stage, joint: QPointF) -> QPointF:
    """Middle of a round in the corner that is farthest from a joint."""
    room = _RADIUS + 12
    corners = [QPointF(x, y) for x in (room, stage.width() - room) for y in (_BAR + room, stage.height() - room)]
    return max(corners, key=lambda corner: (corner - joint).manhattanLength())
