"""Pointing at a stage while somebody speaks: a soft light where the hand is, that stays on the body it points at."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QRadialGradient

from waxtwin.core.camera import pixels_a_metre, project
from waxtwin.core.landmarks import INDEX
from waxtwin.formats.talk import Point

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.stage import Stage

_WIDE = 26  # px
_FAR = 20.0  # m from the pelvis that a pointer may be


def point_on(stage: Stage, at: QPointF, seconds: float) -> Point:
    """A place of a stage as a point that is kept, `seconds` into a recording."""
    anchor = _anchor(stage)
    if anchor is not None:
        middle, scale = anchor
        off = (at - middle) / scale
        if max(abs(off.x()), abs(off.y())) < _FAR:
            return Point(at=seconds, x=round(off.x(), 4), y=round(off.y(), 4), side=stage.side, body=True)
    x, y = (min(max(one, 0.0), 1.0) for one in (at.x() / stage.width(), at.y() / stage.height()))
    return Point(at=seconds, x=round(x, 4), y=round(y, 4), side=stage.side)


def spot(stage: Stage, point: Point) -> QPointF:
    """Where a point that was kept lies on a stage now."""
    anchor = _anchor(stage) if point.body else None
    if anchor is None:
        return QPointF(
            stage.width() * (0.5 if point.body else point.x), stage.height() * (0.5 if point.body else point.y)
        )
    return anchor[0] + QPointF(point.x, point.y) * anchor[1]


def paint_light(painter: QPainter, at: QPointF) -> None:
    """The pointer, a soft light."""
    light = QRadialGradient(at, _WIDE)
    for stop, strength in ((0.0, 190), (0.35, 150), (1.0, 0)):
        light.setColorAt(stop, QColor(255, 236, 200, strength))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(light)
    painter.drawEllipse(at, _WIDE, _WIDE)


def _anchor(stage: Stage) -> tuple[QPointF, float] | None:
    """Where the pelvis is seen on a stage, and how many pixels a metre is there."""
    place = stage.place()
    if place is None or place.matrix is None:
        return None
    pelvis = place.motion.body_at(place.time)[[INDEX["drive_hip"], INDEX["lead_hip"]]].mean(axis=0) * place.turned
    if np.isnan(pelvis).any():
        return None
    at, _ = project(place.matrix, pelvis)
    scale = float(pixels_a_metre(place.matrix, pelvis))
    return (QPointF(*at), scale) if scale > 1.0 else None
