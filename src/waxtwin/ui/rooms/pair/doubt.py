"""What an estimated figure might as well be: thin figures of the estimate's draws behind it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen

from waxtwin.core.camera import project
from waxtwin.core.depth.skeleton import SEGMENTS
from waxtwin.core.estimated import InSpace
from waxtwin.core.landmarks import INDEX
from waxtwin.ui.shared.theme import colour

_SHOWN = 6
_BONES = [tuple(INDEX[name] for name in one.weights) for one in SEGMENTS if len(one.weights) == 2]


def paint_doubt(
    painter: QPainter, matrix: np.ndarray, found: InSpace, time: float, as_shown: Callable[[np.ndarray], np.ndarray]
) -> None:
    """A few of the draws at an instant, through a projection (3, 4); `as_shown` turns points over where the side is."""
    frame = int(np.argmin(np.abs(found.times - time)))
    painter.save()
    painter.setOpacity(0.35)
    painter.setPen(QPen(colour("soft"), 1.4))
    for draw in found.draws[:_SHOWN, frame]:
        flat, _ = project(matrix, as_shown(draw.astype(float)))
        for a, b in _BONES:
            painter.drawLine(QPointF(*flat[a]), QPointF(*flat[b]))
    painter.restore()
