"""Curves of both deliveries over common or real time, with the stops marked; and the path of the throwing hand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxtwin.core.alignment import align
from waxtwin.core.analysis import Analysis
from waxtwin.core.contrast import Contrast
from waxtwin.core.curves import CURVES, Curve, curve_of
from waxtwin.core.stops import EVENTS, LANDING
from waxtwin.core.units import converted
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.shared.theme import colour, font

SETS: Mapping[str, tuple[str, ...]] = {
    "turn": ("pelvis_rotation", "trunk_rotation", "separation"),
    "speed": ("speed_pelvis", "speed_throwing_shoulder", "speed_throwing_elbow", "speed_throwing_hand"),
    "bend": ("trunk_tilt", "side_tilt", "lead_knee", "drive_knee"),
}
_NAMED = ("hand_break", "landing", "release")  # the others stand too close together for words


_BEGINS, _ENDS = ("hand_break", "peak_knee"), ("finish",)  # what the axis of time shows, where it is known
_HEADROOM = 0.4  # of what the curves span: room for the stops' names over them


class Curves(QWidget):
    """A column of plots on one time axis, milliseconds from landing on the athlete's clock.

    In common time the twin's clock is mapped through every stop; in real time both run from landing.
    """

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.shown: tuple[Curve, ...] = ()
        self.common = True
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.plots = pg.GraphicsLayoutWidget()
        column.addWidget(self.plots, 1)

    def show_curves(self, names: Sequence[str], *, common: bool) -> None:
        """Draw those of these curves that are seen on either side, one below the other."""
        contrast = self.desk.pair.contrast
        self.shown = tuple(CURVES[name] for name in names if contrast is not None and is_seen(CURVES[name], contrast))
        self.common = common
        self.draw()

    def draw(self) -> None:
        """Draw again what is shown."""
        self.plots.clear()
        self.plots.setBackground(colour("paper"))
        contrast = self.desk.pair.contrast
        landing = contrast.athlete.time("landing") if contrast else None
        if contrast is None or landing is None:
            return
        first: pg.PlotItem | None = None
        for i, curve in enumerate(self.shown):
            plot = self.plots.addPlot(row=i, col=0)
            dress(plot, f"{curve.label}, {self._unit(curve)}")
            if i == len(self.shown) - 1:
                plot.getAxis("bottom").setLabel("ms from landing", color=colour("soft").name())
            if first is not None:
                plot.setXLink(first)
            first = first or plot
            self._draw_sides(plot, curve, contrast, landing)
            self._mark(plot, contrast.athlete, landing, named=i == 0)
            if i == 0:
                plot.getViewBox().disableAutoRange(pg.ViewBox.YAxis)
                low, high = _extent(curve, contrast, converted(1.0, curve.unit, self.desk.view.imperial)[0])
                plot.setYRange(low, high + _HEADROOM * (high - low), padding=0.05)
        if first is not None:
            begin, end = (_first_known(contrast.athlete, stops) for stops in (_BEGINS, _ENDS))
            first.setXRange(*(1000 * (usual if found is None else found - landing) + more
                              for found, usual, more in ((begin, -1.0, -60), (end, 0.4, 40))), padding=0)  # fmt: skip

    def _unit(self, curve: Curve) -> str:
        return "degrees" if curve.unit == "deg" else converted(1.0, curve.unit, self.desk.view.imperial)[1]

    def _draw_sides(self, plot: pg.PlotItem, curve: Curve, contrast: Contrast, landing: float) -> None:
        mapping = align(contrast.athlete.event_times, contrast.twin.event_times, "all")
        factor = converted(1.0, curve.unit, self.desk.view.imperial)[0]
        for side, analysis in zip(SIDES, (contrast.athlete, contrast.twin), strict=True):
            times = analysis.motion.times
            if side == "twin" and self.common:
                times = np.array([mapping.to_athlete(float(t)) for t in times])
            elif side == "twin":
                own = analysis.time("landing")
                times = times - (own if own is not None else landing) + landing
            pen = pg.mkPen(colour(side), width=2.2)
            if side == "twin":
                pen.setStyle(Qt.PenStyle.DashLine)
            plot.plot((times - landing) * 1000, curve.values(analysis) * factor, pen=pen, connect="finite")

    def _mark(self, plot: pg.PlotItem, athlete: Analysis, landing: float, *, named: bool) -> None:
        spoken = {LANDING[athlete.landing] if stop == "landing" else stop for stop in _NAMED}
        for stop, time in athlete.event_times.items():
            spelled = named and stop in spoken
            pen = pg.mkPen(colour("thread", 130 if stop in spoken else 60), width=1, style=Qt.PenStyle.DashLine)
            words = {"position": 0.93, "color": colour("thread"), "anchors": [(0, 0.5), (1, 0.5)]}
            name = EVENTS[stop].short if spelled else None
            line = pg.InfiniteLine((time - landing) * 1000, pen=pen, label=name, labelOpts=words)
            plot.addItem(line, ignoreBounds=True)


def _first_known(analysis: Analysis, stops: Sequence[str]) -> float | None:
    return next((time for stop in stops if (time := analysis.time(stop)) is not None), None)


def is_seen(curve: Curve, contrast: Contrast) -> bool:
    """Whether a curve is seen on either side."""
    return any(bool(np.isfinite(curve.values(one)).any()) for one in (contrast.athlete, contrast.twin))


def _extent(curve: Curve, contrast: Contrast, factor: float) -> tuple[float, float]:
    """The least and the greatest value of a curve on both sides; 0 and 1 where nothing is known."""
    both = np.concatenate([curve.values(one) for one in (contrast.athlete, contrast.twin)]) * factor
    known = both[np.isfinite(both)]
    return (float(known.min()), float(known.max())) if known.size else (0.0, 1.0)


class HandPath(QWidget):
    """The way of the throwing hand against the chest from the hands' parting to release, with the hitch marked."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.plots = pg.GraphicsLayoutWidget()
        column.addWidget(self.plots, 1)
        self.draw()

    def draw(self) -> None:
        """Draw both paths again."""
        self.plots.clear()
        self.plots.setBackground(colour("paper"))
        contrast = self.desk.pair.contrast
        if contrast is None:
            return
        plot = self.plots.addPlot(row=0, col=0)
        flat = contrast.athlete.motion.flat
        across = "front" if flat == 0 else "side"
        dress(plot, f"Hand against the chest from the {across}, % of height; ● landing, ▲ hitch")
        plot.setAspectLocked(True)
        for side, analysis in zip(SIDES, (contrast.athlete, contrast.twin), strict=True):
            self._draw_side(plot, side, analysis, 1 if flat == 0 else 0)

    def _draw_side(self, plot: pg.PlotItem, side: str, analysis: Analysis, axis: int) -> None:
        body, times = analysis.motion.body, analysis.motion.times
        start, stop, landing = (analysis.time(name) for name in ("hand_break", "release", "landing"))
        if start is None or stop is None:
            return
        path = (body.at("throwing_hand") - body.at("chest"))[0] * 100 / analysis.motion.height
        inside = (times >= start) & (times <= stop)
        pen = pg.mkPen(colour(side), width=2.4)
        if side == "twin":
            pen.setStyle(Qt.PenStyle.DashLine)
        plot.plot(path[inside, axis], path[inside, 2], pen=pen, connect="finite")
        stall = analysis.measures["hand_stall_time"].value
        low = None if stall is None or landing is None else landing + stall / 1000
        for time, symbol in ((landing, "o"), (low, "t1")):
            if time is not None:
                at = analysis.motion.sample(path[None], np.array([time]))[0]
                plot.plot([at[axis]], [at[2]], pen=None, symbol=symbol, symbolSize=11, symbolBrush=colour(side),
                          symbolPen=colour("paper"))  # fmt: skip


def names_of(choice: str, selected: str | None, beside: str | None) -> tuple[str, ...]:
    """The curves of a choice: a set, or the chosen measure's curve with another one beside it."""
    if choice in SETS:
        return SETS[choice]
    own = curve_of(selected)
    names = [own.id] if own is not None else []
    if beside is not None and beside not in names:
        names.append(beside)
    return tuple(names)


def dress(plot: pg.PlotItem, title: str) -> None:
    """A plot in the program's colours and type, with a title."""
    plot.setTitle(title, color=colour("ink").name(), size=f"{font(-0.5).pointSizeF():.1f}pt", justify="left")
    for axis in ("left", "bottom"):
        item = plot.getAxis(axis)
        item.setPen(pg.mkPen(colour("hairline")))
        item.setTextPen(pg.mkPen(colour("soft")))
        item.setStyle(tickFont=font(-1.5), tickLength=-4)
    plot.getAxis("left").setWidth(40)
    plot.setMenuEnabled(False)
    plot.hideButtons()
    plot.setMouseEnabled(x=True, y=False)
