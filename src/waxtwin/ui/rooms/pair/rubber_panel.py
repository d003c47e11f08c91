"""From the rubber: what is read off a landmark at the frame shown, on both sides."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont, QHideEvent, QShowEvent
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from waxtwin.core.read_off import LINES, POINTS, Reading, margin, other_foot, read_off
from waxtwin.core.units import figure
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.theme import font
from waxtwin.ui.shared.widgets import label, scrolling

_COLUMNS = (*SIDES, "difference")


class RubberPanel(QWidget):
    """A point of the body is chosen; its figures follow the clock."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 0, 0, 0)
        column.setSpacing(6)
        row = QHBoxLayout()
        row.addWidget(label("From the rubber", role="title", grow=1.5))
        row.addStretch(1)
        column.addLayout(row)
        self.point = QComboBox()
        self.point.setAccessibleName("point of the body")
        for name, words in POINTS.items():
            self.point.addItem(words, name)
        self.point.activated.connect(lambda i: desk.view.read_off(self.point.itemData(i)))
        column.addWidget(self.point)
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(7)
        grid.setColumnStretch(0, 1)
        self.cells: dict[tuple[str, str], QLabel] = {}
        self._names: dict[str, QLabel] = {}
        for k, what in enumerate(_COLUMNS, start=1):
            head = label(what, role="soft", grow=-1.5)
            head.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(head, 0, k)
        for n, line in enumerate(LINES, start=1):
            self._names[line] = label("", grow=-1, wrap=True)
            grid.addWidget(self._names[line], n, 0)
            for k, what in enumerate(_COLUMNS, start=1):
                self.cells[line, what] = cell = label("", side=what if what in SIDES else "", grow=-1)
                cell.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                grid.addWidget(cell, n, k)
        area, lines = scrolling(), QWidget()
        below = QVBoxLayout(lines)
        below.setContentsMargins(0, 0, 0, 0)
        below.addLayout(grid)
        self._hint = label("", role="soft", grow=-1, wrap=True)
        below.addWidget(self._hint)
        below.addStretch(1)
        area.setWidget(lines)
        column.addWidget(area, 1)
        shown = (Topic.PAIR, Topic.FIGURES, Topic.TIME, Topic.ALIGNMENT, Topic.UNITS, Topic.READ_OFF, Topic.LANDING)
        desk.listen(lambda _: self.fill(), *shown)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.desk.view.set_reading(True)
        self.fill()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.desk.view.set_reading(False)

    def fill(self) -> None:
        """Show the point's figures at the instants shown."""
        if not self.isVisible():
            return
        name = self.desk.view.read_point
        self.point.setCurrentIndex(list(POINTS).index(name))
        held = {side: self.desk.pair.analysis(side) for side in SIDES}
        found = {
            side: read_off(one, name, self.desk.clock.time_of(side)) for side, one in held.items() if one is not None
        }
        reasons = []
        for line, words in LINES.items():
            self._names[line].setText(f"from the {POINTS[other_foot(name)]}" if line == "foot" else words)
            readings = {side: lines[line] for side, lines in found.items()}
            for side in SIDES:
                self._show(self.cells[line, side], readings.get(side))
            self._show_difference(self.cells[line, "difference"], readings)
            reasons += [one.reason for one in readings.values() if one.reason]
        scaled = [one.motion.sight.scaled for one in held.values() if one is not None]
        words = "Lengths in % of standing height, so that tall and short can be held against each other."
        if not all(scaled):
            words += " Without a known length there are no centimetres."
        self._hint.setText(" ".join([words, *(f"Not available: {one}." for one in dict.fromkeys(reasons))]))

    def _show(self, cell: QLabel, reading: Reading | None) -> None:
        if reading is None or reading.value is None:
            cell.setText("–")
            return
        words = figure(reading.value, reading.unit)
        if reading.metres is not None:
            unit = "m/s" if reading.unit == "%/s" else "m"
            words += f"\n{figure(reading.metres, unit, self.desk.view.imperial)}"
        cell.setText(words)

    def _show_difference(self, cell: QLabel, readings: dict[str, Reading]) -> None:
        """Athlete less twin, bold where it is more than the footage can be off."""
        cell.setText("")
        if len(readings) < len(SIDES):
            return
        athlete, twin = (readings[side] for side in SIDES)
        if athlete.value is None or twin.value is None:
            return
        apart, least = athlete.value - twin.value, margin(athlete, twin)
        known = least is not None and abs(apart) > least
        cell.setFont(font(-1.0, QFont.Weight.Bold if known else QFont.Weight.Normal))
        words = figure(apart, athlete.unit, signed=True)
        cell.setText(words if least is None else f"{words}\n± {figure(least, athlete.unit)}")
        cell.setToolTip("more than the footage can be off" if known else "no more than the footage can be off")
