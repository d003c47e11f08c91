"""The trend: a measure, the ball speed and the arm over the same days, one above the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxtwin.core.arm_sensor import ArmReading, by_day, kind_said, latest_kind
from waxtwin.core.plan import Plan
from waxtwin.core.progress import day, label_of, unit_of_measure
from waxtwin.core.trend import SPEED, ArmNote, Figures, Point, trend, value_of
from waxtwin.core.units import converted
from waxtwin.ui.shared.curve_plot import dress
from waxtwin.ui.shared.theme import colour

_HEIGHTS = (5, 4, 3, 3)


@dataclass(frozen=True)
class ArmLog:
    """What is known of the arm: notes, throws thrown (ISO day, count), and what a sensor on it said."""

    notes: Sequence[ArmNote]
    thrown: Sequence[tuple[str, int]]
    sensed: Sequence[ArmReading]

    @property
    def days(self) -> set[str]:
        """Every day of which something is known."""
        return {n.date for n in self.notes} | {s.date for s in self.sensed} | {day for day, _ in self.thrown}


class Trend(QWidget):
    """Plots over one calendar: bars are what a session resolves, small dots its throws."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.plots = pg.GraphicsLayoutWidget()
        self.plots.setAccessibleName("trend")
        column.addWidget(self.plots)

    def show_trend(
        self, measure: str, figures: Sequence[Figures], arm: ArmLog, plans: Sequence[Plan], imperial: bool
    ) -> None:
        """Draw everything anew; without a measure, what is known of the arm alone."""
        self.plots.setBackground(colour("paper"))
        self.plots.clear()
        days = sorted({f.date for f in figures} | arm.days)
        first: pg.PlotItem | None = None
        for row, name in enumerate(dict.fromkeys([measure, SPEED] if measure else [])):
            plot = self._add(row, first, days)
            first = first or plot
            unit = converted(1.0, unit_of_measure(name), imperial)
            dress(plot, f"{label_of(name)}, {unit[1]}")
            self._draw(plot, trend(figures, name), figures, name, unit[0])
            self._mark(plot, plans, name, unit[0])
        plot = self._add(2, first, days)
        dress(plot, "Arm: soreness, 0 to 10 (bars), and throws thrown (line, tens)")
        self._draw_arm(plot, arm.notes, arm.thrown)
        self._mark(plot, plans, "", 1.0)
        kind = latest_kind(arm.sensed)
        if kind is not None:
            plot = self._add(3, first, days)
            dress(plot, f"Arm sensor: {kind_said(kind)}")
            self._draw_sensed(plot, [one for one in arm.sensed if one.kind == kind], kind)
            self._mark(plot, plans, "", 1.0)
        for row, height in enumerate(_HEIGHTS):
            self.plots.ci.layout.setRowStretchFactor(row, height if self.plots.ci.getItem(row, 0) is not None else 0)

    def _add(self, row: int, first: pg.PlotItem | None, days: Sequence[str]) -> pg.PlotItem:
        plot = self.plots.addPlot(row=row, col=0)
        if first is not None:
            plot.setXLink(first)
        marks = [(_at(said), day(said)) for said in _apart(days)]
        plot.getAxis("bottom").setTicks([marks])
        if days:
            plot.setXRange(_at(days[0]) - 3, _at(days[-1]) + 6, padding=0.02)
        return plot

    def _draw(
        self, plot: pg.PlotItem, points: Sequence[Point], figures: Sequence[Figures], name: str, factor: float
    ) -> None:
        for planar in (False, True):
            seen = [point for point in points if point.planar == planar]
            if not seen:
                continue
            x, y = np.array([_at(p.date) for p in seen]), np.array([p.value * factor for p in seen])
            spread = np.array([2 * (p.error or 0.0) * factor for p in seen])
            plot.addItem(
                pg.ErrorBarItem(x=x, y=y, height=2 * spread, beam=1.2, pen=pg.mkPen(colour("athlete"), width=2))
            )
            style = Qt.PenStyle.DashLine if planar else Qt.PenStyle.SolidLine
            plot.plot(x, y, pen=pg.mkPen(colour("athlete", 120), width=1.4, style=style), symbol="o", symbolSize=9,
                      symbolBrush=colour("athlete"), symbolPen=colour("paper"))  # fmt: skip
        _dots(plot, [(f.date, value * factor) for f in figures if (value := value_of(f, name)) is not None])

    def _draw_sensed(self, plot: pg.PlotItem, readings: Sequence[ArmReading], kind: tuple[str, str]) -> None:
        means = by_day(readings, kind)
        plot.plot(np.array([_at(one.date) for one in means]), np.array([one.mean for one in means]),
                  pen=pg.mkPen(colour("athlete", 120), width=1.4), symbol="d", symbolSize=9,
                  symbolBrush=colour("athlete"), symbolPen=colour("paper"))  # fmt: skip
        _dots(plot, [(one.date, one.value) for one in readings])

    def _draw_arm(self, plot: pg.PlotItem, notes: Sequence[ArmNote], thrown: Sequence[tuple[str, int]]) -> None:
        plot.setYRange(0, 10, padding=0.04)
        if notes:
            x = np.array([_at(note.date) for note in notes])
            height = np.array([max(note.soreness, 0.12) for note in notes])
            plot.addItem(pg.BarGraphItem(x=x, height=height, width=1.6, brush=colour("caution"), pen=colour("caution")))
        counted = [(when, count) for when, count in thrown if count]
        if counted:
            x = np.array([_at(when) for when, _ in counted])
            plot.plot(x, np.array([count / 10 for _, count in counted]), pen=pg.mkPen(colour("twin"), width=1.2),
                      symbol="s", symbolSize=7, symbolBrush=colour("twin"), symbolPen=colour("paper"))  # fmt: skip

    def _mark(self, plot: pg.PlotItem, plans: Sequence[Plan], name: str, factor: float) -> None:
        """Where versions started, and the latest one's target."""
        for plan in plans:
            if plan.start:
                pen = pg.mkPen(colour("thread", 130), width=1, style=Qt.PenStyle.DashLine)
                words = {"color": colour("thread"), "position": 0.94, "movable": False}
                named = f"plan {plan.version}" if name and name != SPEED else None
                plot.addItem(pg.InfiniteLine(_at(plan.start), pen=pen, label=named, labelOpts=words))
        aims = [focus.target.aim for plan in plans[-1:] for focus in plan.focus
                if focus.target is not None and focus.target.measure == name]  # fmt: skip
        if name == SPEED and plans and plans[-1].speed_aim is not None:
            aims = [plans[-1].speed_aim]
        for aim in aims:
            pen = pg.mkPen(colour("thread"), width=1.4)
            words = {"color": colour("thread"), "position": 0.96, "movable": False}
            plot.addItem(pg.InfiniteLine(aim * factor, angle=0, pen=pen, label="target", labelOpts=words))


def _dots(plot: pg.PlotItem, throws: Sequence[tuple[str, float]]) -> None:
    """Single throws of (ISO day, figure), beside their day."""
    if throws:
        dots = [(_at(when) + 0.9, value) for when, value in throws]
        plot.plot(*np.array(dots).T, pen=None, symbol="o", symbolSize=4, symbolBrush=colour("soft", 150),
                  symbolPen=None)  # fmt: skip


def _at(said: str) -> float:
    try:
        return float(date.fromisoformat(said).toordinal())
    except ValueError:
        return 0.0


def _apart(days: Sequence[str]) -> list[str]:
    """Days whose names do not touch: at least a twelfth of the whole apart."""
    kept: list[str] = []
    least = (_at(days[-1]) - _at(days[0])) / 12 if days else 0.0
    for said in days:
        if not kept or _at(said) - _at(kept[-1]) > least:
            kept.append(said)
    return kept
