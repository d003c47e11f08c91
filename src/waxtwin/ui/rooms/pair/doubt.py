"""What a figure does not know: a halo round a joint that may lie elsewhere, thin figures of an estimate's draws."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QRadialGradient

from waxtwin.core.camera import pixels_a_metre, project
from waxtwin.core.depth.skeleton import SEGMENTS
from waxtwin.core.estimated import InSpace
from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.ui.shared.theme import colour

_SHOWN = 6
_HALOED = [INDEX[name] for name in LANDMARKS if name.endswith(("shoulder", "elbow", "wrist", "hip", "knee", "ankle"))]
_REACH = 2.0  # standard deviations: nearly always, the joint lies within
_LEAST = 0.02  # m: what is known better than this needs no halo
_STRENGTHS = ((0.0, 130), (0.6, 95), (1.0, 0))  # share of the way out, opacity of 255
_BONES = [tuple(INDEX[name] for name in one.weights) for one in SEGMENTS if len(one.weights) == 2]


def paint_halos(painter: QPainter, matrix: np.ndarray, points: np.ndarray, doubt: np.ndarray) -> None:
    """A halo round each joint of a body `points` (landmarks, 3), as shown, as far as it may lie elsewhere; `doubt`
    (landmarks,) in metres, one standard deviation. Through a projection (3, 4).
    """
    chosen = [i for i in _HALOED if _REACH * doubt[i] > _LEAST and np.isfinite(points[i]).all()]
    if not chosen:
        return
    flat, _ = project(matrix, points[chosen])
    reach = _REACH * doubt[chosen] * pixels_a_metre(matrix, points[chosen])
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    for at, wide in zip(flat, reach, strict=True):
        middle, tone = QPointF(*at), QColor(colour("stage_ink"))
        halo = QRadialGradient(middle, wide)
        for share, strength in _STRENGTHS:
            tone.setAlpha(strength)
            halo.setColorAt(share, tone)
        painter.setBrush(halo)
        painter.drawEllipse(middle, wide, wide)
    painter.restore()


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
