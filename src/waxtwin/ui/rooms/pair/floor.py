"""The ground between rubber and front foot, as the feet themselves show it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from waxtwin.core.analysis import Analysis
from waxtwin.core.body import Body
from waxtwin.core.camera import project
from waxtwin.core.motion import Motion
from waxtwin.ui.shared.theme import colour, theme

Ground = tuple[float, float, float]  # m: its height at the rubber; place and height of it at the front foot


class Floor:
    """Stage and floor as a picture, painted anew only when they are seen from elsewhere: stepping must be quick."""

    def __init__(self) -> None:
        self._ground: tuple[Analysis | None, Ground] | None = None
        self._still: tuple[object, QPixmap] | None = None

    def picture(
        self, matrix: np.ndarray, motion: Motion, analysis: Analysis | None, size: QSize, ratio: float
    ) -> QPixmap:
        """The picture of a size (points) at so many pixels a point, through a projection."""
        ground = self.ground(motion, analysis)
        state = (matrix.tobytes(), ground, size, ratio, theme().name)
        if self._still is None or self._still[0] != state:
            picture = QPixmap(size * ratio)
            picture.setDevicePixelRatio(ratio)
            picture.fill(colour("stage"))
            painter = QPainter(picture)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_floor(painter, matrix, ground)
            painter.end()
            self._still = (state, picture)
        return self._still[1]

    def ground(self, motion: Motion, analysis: Analysis | None) -> Ground:
        """Where the feet show the ground to be."""
        if self._ground is None or self._ground[0] is not analysis:
            self._ground = (analysis, _found(motion, None if analysis is None else analysis.time("landing")))
        return self._ground[1]


def _found(motion: Motion, landing: float | None) -> Ground:
    feet = Body(motion.points[0])
    z0 = float(np.nan_to_num(np.nanmin(feet.at("drive_toe")[:8, 2]))) - 0.02
    x1, z1 = 0.85 * motion.height, z0
    if landing is not None:
        toe = motion.sample(feet.points[None], np.array([min(landing + 0.05, motion.times[-1])]))[0]
        ankle, low = Body(toe).at("lead_ankle"), Body(toe).at("lead_heel")
        if np.isfinite(ankle).all() and np.isfinite(low).all():
            x1, z1 = float(ankle[0]), float(low[2]) - 0.02
    return z0, x1, z1


def paint_floor(painter: QPainter, matrix: np.ndarray, ground: Ground) -> None:
    """The ground between rubber and front foot, as the feet themselves show it."""
    z0, x1, z1 = ground
    xs = np.array([-0.6, 0.0, *np.linspace(0.1, x1, 6), x1 + 0.9])
    zs = np.interp(xs, [0.0, x1], [z0, z1])
    width = 0.8
    edge = np.array([*([x, -width, z] for x, z in zip(xs, zs, strict=True)),
                     *([x, width, z] for x, z in zip(xs[::-1], zs[::-1], strict=True))])  # fmt: skip
    flat, _ = project(matrix, edge)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(255, 255, 255, 14))
    painter.drawPolygon(QPolygonF([QPointF(*p) for p in flat]))
    painter.setPen(QPen(QColor(255, 255, 255, 46), 1))
    for x, z in zip(xs, zs, strict=True):
        line, _ = project(matrix, np.array([[x, -width, z], [x, width, z]]))
        painter.drawLine(QPointF(*line[0]), QPointF(*line[1]))
    middle, _ = project(matrix, np.stack([xs, np.zeros_like(xs), zs], axis=1))
    painter.drawPolyline([QPointF(*p) for p in middle])
    z = z0 + 0.012
    rubber, _ = project(matrix, np.array([[-0.15, -0.3, z], [0, -0.3, z], [0, 0.3, z], [-0.15, 0.3, z]]))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(233, 228, 218, 200))
    painter.drawPolygon(QPolygonF([QPointF(*p) for p in rubber]))
