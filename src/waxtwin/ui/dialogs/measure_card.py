"""A measure explained: what it is, how it is worked out, and its gauge on both figures at its stop."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from waxtwin.core.body import Body
from waxtwin.core.contrast import Row
from waxtwin.core.events import EVENTS
from waxtwin.core.measures import MEASURES, Measure
from waxtwin.core.measures.registry import KINDS, spelled_out
from waxtwin.ui.figure import figure_matrix, paint_figure
from waxtwin.ui.gauge_paint import paint_marks, paint_tag
from waxtwin.ui.model.desk import SIDES, VIEWS, Desk
from waxtwin.ui.model.gauges import marks
from waxtwin.ui.model.wording import figure, resolution, stop_of, verdict
from waxtwin.ui.theme import WAX, colour, side_colour
from waxtwin.ui.widgets import label

_FROM_ABOVE = ("hip_line", "shoulder_line", "separation", "lead_foot")
_SEEN = {
    "3D": "both depth and height: two cameras or a lab", "side": "a camera at the side",
    "front": "a camera in front or behind", "any": "any camera",
}  # fmt: skip
_AROUND = 0.35  # s of path on either side of the stop


def seen_from(item: Measure) -> str:
    """The view, a key of VIEWS, from which a measure's gauge is read best."""
    if item.gauge in _FROM_ABOVE and item.view == "3D":
        return "top"
    return "front" if item.view.startswith("front") else "side"


class Posed(QWidget):
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
        analysis = self.desk.analysis(self.side)
        time = None if analysis is None or self.item is None else analysis.time(self.item.at)
        if analysis is None or self.item is None or time is None:
            painter.setPen(colour("stage_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "this stop is not known")
            return
        motion = analysis.motion
        points = motion.sample(motion.points, np.array([time]))[0]
        if motion.flat is not None:
            points[:, motion.flat] = 0.0
        azimuth, elevation = VIEWS[seen_from(self.item)]
        size = (self.width(), self.height() + 30)
        matrix = figure_matrix(size, motion.height, math.radians(azimuth), math.radians(elevation))
        painter.setOpacity(0.8)
        paint_figure(painter, matrix, points, motion.height, WAX[self.side])
        painter.setOpacity(1.0)
        trail = None
        if self.item.gauge.startswith("trail:"):
            path = motion.body.seen(motion.body.at(self.item.gauge.removeprefix("trail:"))[0])
            trail = path[(np.abs(motion.times - time) < _AROUND) & ~np.isnan(path[:, 2])]
        paint_marks(painter, matrix, marks(self.item.gauge, Body(points), trail), lit=True)
        paint_tag(painter, QPointF(8, 16), self.side, side_colour(self.side, soft=True))


class MeasureCard(QDialog):
    """Stays open beside the window and follows the measure that is chosen or under the pointer."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Tool)
        self.desk = desk
        self.setWindowTitle("About this measure")
        self.setMinimumWidth(560)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 16)
        column.setSpacing(8)
        self.name = label("", role="title", grow=5)
        self.facts = label("", role="soft")
        self.text = label("", grow=1)
        self.text.setWordWrap(True)
        column.addWidget(self.name)
        column.addWidget(self.facts)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.posed = {side: Posed(desk, side) for side in SIDES}
        for posed in self.posed.values():
            row.addWidget(posed, 1)
        column.addLayout(row, 1)
        self.stand = label("", grow=1, bold=True)
        column.addWidget(self.stand)
        column.addWidget(self.text)
        self._lines = QGridLayout()
        self._lines.setHorizontalSpacing(14)
        self._lines.setColumnStretch(1, 1)
        self.said: dict[str, QWidget] = {}
        for n, name in enumerate(("Worked out", "Sign", "Needs", "Band", "Literature")):
            said = label("")
            said.setWordWrap(True)
            self.said[name] = said
            self._lines.addWidget(label(name, role="soft"), n, 0, Qt.AlignmentFlag.AlignTop)
            self._lines.addWidget(said, n, 1)
        column.addLayout(self._lines)
        desk.listen(self._told)
        self.fill()

    def _told(self, topic: str) -> None:
        if topic in ("selection", "figures", "throws", "pair", "units", "landing"):
            self.fill()

    def fill(self) -> None:
        """Explain the measure that is chosen."""
        name = self.desk.lit
        if name is None:
            if not self.name.text():
                self.name.setText("No measure is chosen")
                self.text.setText("Choose a row in Contrast or beside the stages, and it is explained here.")
            return
        item = MEASURES[name]
        row = None if self.desk.figures is None else self.desk.figures.row(name)
        stop = EVENTS[stop_of(item, self.desk.landing)].label
        self.name.setText(item.label)
        self.facts.setText(f"{KINDS[item.kind]}  ·  read at: {stop}  ·  {name}")
        self.text.setText(item.text)
        self.stand.setText("" if row is None else _stands(row, self.desk.imperial))
        band = None if row is None else row.band
        said = {
            "Worked out": spelled_out(item.formula), "Sign": item.sign or "–",
            "Needs": _SEEN[item.view] + (f"; from the {item.planar} a stand-in in the picture" if item.planar else ""),
            "Band": "none" if band is None else band.told(), "Literature": item.reference or "none",
        }  # fmt: skip
        for key, words in said.items():
            self.said[key].setText(words)  # type: ignore[attr-defined]
        for posed in self.posed.values():
            posed.item = item
            posed.update()


def _stands(row: Row, imperial: bool) -> str:
    unit = row.measure.unit
    if row.difference is None:
        return f"Not available: {row.reason}."
    resolved = "" if row.resolution is None else f", ± {resolution(row, imperial)} resolved"
    return (
        f"{figure(row.athlete, unit, imperial)} against {figure(row.twin, unit, imperial)}: "
        f"{verdict(row, imperial)}{resolved}"
    )
