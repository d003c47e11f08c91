"""Curves of both deliveries over common time, with the stops marked."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxtwin.core.alignment import align
from waxtwin.core.analysis import Analysis
from waxtwin.core.events import EVENTS, LANDING
from waxtwin.ui.model.desk import SIDES, Desk
from waxtwin.ui.model.wording import converted
from waxtwin.ui.theme import colour, font
from waxtwin.ui.widgets import Choice, label

Curve = Callable[[Analysis], np.ndarray]
_SETS: dict[str, tuple[str, tuple[tuple[str, str, Curve], ...]]] = {
    "turn": (
        "Rotation and separation",
        (
            ("Hips turn, degrees", "deg", lambda a: a.motion.pelvis_rotation()[0]),
            ("Shoulders turn, degrees", "deg", lambda a: a.motion.trunk_rotation()[0]),
            ("Separation, degrees", "deg", lambda a: a.motion.separation()[0]),
        ),
    ),
    "speed": (
        "Segment speeds",
        (
            ("Pelvis", "m/s", lambda a: a.motion.speed("pelvis")[0]),
            ("Throwing shoulder", "m/s", lambda a: a.motion.speed("throwing_shoulder")[0]),
            ("Throwing elbow", "m/s", lambda a: a.motion.speed("throwing_elbow")[0]),
            ("Throwing hand", "m/s", lambda a: a.motion.speed("throwing_hand")[0]),
        ),
    ),
}
_NAMED = ("hand_break", "landing", "release")  # the others stand too close together for words


class Curves(QWidget):
    """A column of plots on one time axis: milliseconds from landing, the twin's time mapped through every stop."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self._set = "turn"
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self._choice = Choice("", [(key, name) for key, (name, _) in _SETS.items()], self._choose)
        self._choice.set(self._set)
        column.addWidget(self._choice)
        self.plots = pg.GraphicsLayoutWidget()
        column.addWidget(self.plots, 1)
        self._hint = label(
            "amber: athlete    teal, dashed: twin    time runs on the athlete's clock", role="soft", grow=-1
        )
        column.addWidget(self._hint)
        desk.listen(self._told)
        self.draw()

    def _choose(self, key: str) -> None:
        self._set = key
        self.draw()

    def _told(self, topic: str) -> None:
        if topic in ("figures", "units", "pair", "landing"):
            self.draw()

    def draw(self) -> None:
        """Draw the chosen set again."""
        self.plots.clear()
        self.plots.setBackground(colour("paper"))
        contrast = self.desk.contrast
        landing = contrast.athlete.time("landing") if contrast else None
        if contrast is None or landing is None:
            return
        sides = (contrast.athlete, contrast.twin)
        mapping = align(sides[0].event_times, sides[1].event_times, "all")
        first: pg.PlotItem | None = None
        curves = _SETS[self._set][1]
        for i, (name, unit, curve) in enumerate(curves):
            plot = self.plots.addPlot(row=i, col=0)
            self._dress(plot, name, unit, last=i == len(curves) - 1)
            if first is not None:
                plot.setXLink(first)
            else:
                first = plot
            for side, analysis in zip(SIDES, (contrast.athlete, contrast.twin), strict=True):
                times = analysis.motion.times
                if side == "twin":
                    times = np.array([mapping.to_athlete(float(t)) for t in times])
                factor = converted(1.0, unit, self.desk.imperial)[0]
                pen = pg.mkPen(colour(side), width=2.2)
                if side == "twin":
                    pen.setStyle(Qt.PenStyle.DashLine)
                plot.plot((times - landing) * 1000, curve(analysis) * factor, pen=pen, connect="finite")
            self._mark(plot, contrast.athlete, landing, named=i == 0)
        finish = contrast.athlete.time("finish")
        start = contrast.athlete.time("hand_break")
        if first is not None and finish is not None and start is not None:
            first.setXRange((start - landing) * 1000 - 60, (finish - landing) * 1000 + 40, padding=0)

    def _dress(self, plot: pg.PlotItem, name: str, unit: str, *, last: bool) -> None:
        shown = converted(1.0, unit, self.desk.imperial)[1]
        title = name if unit == "deg" else f"{name}, {shown}"
        plot.setTitle(title, color=colour("ink").name(), size=f"{font(-0.5).pointSizeF():.1f}pt", justify="left")
        for axis in ("left", "bottom"):
            item = plot.getAxis(axis)
            item.setPen(pg.mkPen(colour("hairline")))
            item.setTextPen(pg.mkPen(colour("soft")))
            item.setStyle(tickFont=font(-1.5), tickLength=-4)
        plot.getAxis("left").setWidth(40)
        if last:
            plot.getAxis("bottom").setLabel("ms from landing", color=colour("soft").name())
        plot.setMenuEnabled(False)
        plot.hideButtons()
        plot.setMouseEnabled(x=True, y=False)

    def _mark(self, plot: pg.PlotItem, athlete: Analysis, landing: float, *, named: bool) -> None:
        spoken = {LANDING[athlete.landing] if stop == "landing" else stop for stop in _NAMED}
        for stop, time in athlete.event_times.items():
            spelled = named and stop in spoken
            pen = pg.mkPen(colour("thread", 130 if stop in spoken else 60), width=1, style=Qt.PenStyle.DashLine)
            words = {"position": 0.88, "color": colour("thread"), "anchors": [(0, 0.5), (1, 0.5)]}
            name = EVENTS[stop].short if spelled else None
            line = pg.InfiniteLine((time - landing) * 1000, pen=pen, label=name, labelOpts=words)
            plot.addItem(line, ignoreBounds=True)
