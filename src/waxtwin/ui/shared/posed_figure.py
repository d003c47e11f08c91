"""One side's wax figure at a measure's stop, with the measure's gauge lit."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from waxtwin.core.analysis import Analysis
from waxtwin.core.body import Body
from waxtwin.core.measures import Measure
from waxtwin.core.motion import Motion
from waxtwin.figure.moving import body_at
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.display import VIEWS
from waxtwin.ui.model.gauges import marks, parts
from waxtwin.ui.shared.gauge_paint import paint_marks, paint_tag
from waxtwin.ui.shared.theme import WAX, colour, side_colour
from waxtwin.ui.shared.wax_figure import Figure, body_matrix, figure_matrix, paint_figure

_FROM_ABOVE = ("hip_line", "shoulder_line", "separation", "lead_foot")
_AROUND = 0.35  # s of path on either side of the stop


def seen_from(item: Measure) -> str:
    """The view, a key of VIEWS, from which a measure's gauge is read best."""
    if item.gauge in _FROM_ABOVE and item.view == "3D":
        return "top"
    return "front" if item.view.startswith("front") else "side"


def pose(
    painter: QPainter, size: tuple[int, int], analysis: Analysis, time: float, lit: Sequence[Measure], side: str, *,
    framed: bool = False,
) -> np.ndarray:  # fmt: skip
    """Paint a side's figure at an instant into `size` pixels, the gauges of these measures lit; the first one says from
    where it is seen. `framed` for the body, not the field in which it moves. Returns the projection (3, 4).
    """
    motion = analysis.motion
    points = body_at(motion, time)
    azimuth, elevation = VIEWS[seen_from(lit[0]) if lit else "side"]
    seen = math.radians(azimuth), math.radians(elevation)
    matrix = body_matrix(size, points, *seen) if framed else figure_matrix(size, motion.height, *seen)
    standing_out = parts(lit[0].gauge) if lit else ()
    figure = Figure.of(analysis, motion, time, WAX[side], lit=standing_out)
    paint_figure(painter, matrix, figure)
    paint_lit(painter, matrix, motion, points, time, lit)
    return matrix


def paint_lit(
    painter: QPainter, matrix: np.ndarray, motion: Motion, points: np.ndarray, time: float, lit: Sequence[Measure]
) -> None:
    """Paint the gauges of some measures on a body `points` (landmarks, 3) through a projection."""
    for item in lit:
        trail = None
        if item.gauge.startswith("trail:"):
            path = motion.body.seen(motion.body.at(item.gauge.removeprefix("trail:"))[0])
            trail = path[(np.abs(motion.times - time) < _AROUND) & ~np.isnan(path[:, 2])]
        paint_marks(painter, matrix, marks(item.gauge, Body(points), trail), lit=True)


class PosedFigure(QWidget):
    """One side's figure at a measure's stop, its gauge lit."""

    def __init__(self, desk: Desk, side: str) -> None:
        super().__init__()
        self.desk, self.side = desk, side
        self.item: Measure | None = None
        self.setMinimumSize(230, 210)
        self.setAccessibleName(f"gauge on the {side}")

    def sizeHint(self) -> QSize:
        return QSize(270, 230)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("stage"))
        analysis = self.desk.pair.analysis(self.side)
        time = None if analysis is None or self.item is None else analysis.time(self.item.at)
        if analysis is None or self.item is None or time is None:
            painter.setPen(colour("stage_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "this stop is not known")
            return
        pose(painter, (self.width(), self.height()), analysis, time, (self.item,), self.side, framed=True)
        paint_tag(painter, QPointF(8, 16), self.side, side_colour(self.side, soft=True))
