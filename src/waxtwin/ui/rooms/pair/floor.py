"""The ground between rubber and front foot, as the feet themselves show it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from waxtwin.core.analysis import Analysis
from waxtwin.core.body import Body
from waxtwin.core.camera import project
from waxtwin.core.motion import Motion
from waxtwin.figure.ground import Ground
from waxtwin.ui.rooms.pair.kept_pictures import KeptPictures
from waxtwin.ui.shared.wax_figure import paint_mound


class Floor:
    """Stage and floor as a picture, painted anew only when they are seen from elsewhere: stepping must be quick."""

    def __init__(self) -> None:
        self._ground: tuple[Analysis | None, Ground] | None = None
        self._still = KeptPictures("stage")

    def picture(
        self, matrix: np.ndarray, motion: Motion, analysis: Analysis | None, size: QSize, ratio: float
    ) -> QPixmap:
        """The picture of a size (points) at so many pixels a point, through a projection."""
        ground = self.ground(motion, analysis)
        return self._still.picture(
            size, ratio, (), (matrix.tobytes(), ground), lambda painter: paint_floor(painter, matrix, ground)
        )

    def ground(self, motion: Motion, analysis: Analysis | None) -> Ground:
        """Where the feet show the ground to be."""
        if self._ground is None or self._ground[0] is not analysis:
            self._ground = (analysis, _found(motion, None if analysis is None else analysis.time("landing")))
        return self._ground[1]


def _found(motion: Motion, landing: float | None) -> Ground:
    feet = Body(motion.points[0])
    first = feet.at("drive_toe")[:8, 2]
    z0 = float(np.min(first[np.isfinite(first)], initial=0.0)) - 0.02
    x1, z1 = 0.85 * motion.height, z0
    if landing is not None:
        toe = motion.sample(feet.points[None], np.array([min(landing + 0.05, motion.times[-1])]))[0]
        ankle, low = Body(toe).at("lead_ankle"), Body(toe).at("lead_heel")
        if np.isfinite(ankle).all() and np.isfinite(low).all():
            x1, z1 = float(ankle[0]), float(low[2]) - 0.02
    return Ground(z0, x1, z1)


def paint_floor(painter: QPainter, matrix: np.ndarray, ground: Ground) -> None:
    """The mound, the rubber on it, and a thin line to the plate with a mark every half metre."""
    paint_mound(painter, matrix, ground)
    xs = np.arange(0.0, ground.x1 + 0.9, 0.5)

    def line(ends: np.ndarray) -> None:
        flat, _ = project(matrix, np.column_stack([ends, ground.at(ends[:, 0]) + 0.002]))
        painter.drawPolyline([QPointF(*p) for p in flat])

    painter.setPen(QPen(QColor(255, 255, 255, 40), 1))
    line(np.column_stack([np.append(xs, ground.x1 + 0.9), np.zeros(len(xs) + 1)]))
    for x in xs[1:]:
        line(np.array([[x, -0.09], [x, 0.09]]))
    painter.setPen(Qt.PenStyle.NoPen)
    for drop, tone in ((-0.02, QColor(120, 115, 108)), (0.012, QColor(226, 220, 208))):
        corners = np.array([[-0.15, -0.3], [0, -0.3], [0, 0.3], [-0.15, 0.3]])
        rubber, _ = project(matrix, np.column_stack([corners, np.full(4, ground.z0 + drop)]))
        painter.setBrush(tone)
        painter.drawPolygon(QPolygonF([QPointF(*p) for p in rubber]))
