"""The body: what was screened, with sides and dates, what failed on the day, and what it says about findings."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.capacity import FAILED, MEASURED, SIDES, Capacity, Examination, Item, Reading
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.explain import Explanation
from waxtwin.library.screening_file import COLUMNS, read_screening
from waxtwin.ui.shared.file_dialogs import ask_one
from waxtwin.ui.shared.widgets import label, number

_EMPTY = -100.0  # below every reading: “not measured”
_MOST = 400.0
_STANDINGS = {"low": "below the band", "in band": "in the band", "high": "above the band"}


class Field(QWidget):
    """One reading: a figure, “not measured”, or failed on the day."""

    def __init__(self, item: Item, key: str) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        decimals = 2 if item.unit.startswith("x") else 1 if item.unit == "m/s" else 0
        self.value: QDoubleSpinBox = number(_EMPTY, _MOST, decimals=decimals, empty="not measured")
        self.value.setValue(_EMPTY)
        self.value.setFixedWidth(104)
        self.value.setAccessibleName(key.replace("_", " ").replace(":", ", "))
        self.failed = QCheckBox("failed")
        self.failed.setToolTip("It was tried on the day and gave no usable figure")
        self.failed.toggled.connect(lambda on: self.value.setEnabled(not on))
        row.addWidget(self.value)
        row.addWidget(self.failed)

    def fill(self, reading: Reading | None) -> None:
        """Show a reading."""
        failed = reading is not None and reading.state == FAILED
        self.failed.setChecked(failed)
        shown = reading.value if reading is not None and reading.state == MEASURED else None
        self.value.setValue(_EMPTY if shown is None else shown)

    def reading(self, day: str, test: Examination | None, by: str) -> Reading | None:
        """What stands there; None for not measured."""
        if self.failed.isChecked():
            return Reading(FAILED, None, day, test, by)
        if self.value.value() <= _EMPTY:
            return None
        return Reading(MEASURED, self.value.value(), day, test, by)


class HowTested(QComboBox):
    """How a range was tested: one of the ways that are known, the band's first, or another that was kept."""

    def __init__(self, item: Item) -> None:
        super().__init__()
        self.setAccessibleName(f"{item.label}, how it was tested")
        self.setToolTip("Ranges differ by how they are tested. The band belongs to the first of these.")
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(18)
        self.addItem("how was it tested?", None)
        for test in item.tests:
            self.addItem(str(test), test)

    def choose(self, test: Examination | None) -> None:
        """Show a way of testing; one that is not listed is added."""
        known = next((n for n in range(self.count()) if self.itemData(n) == test), None)
        if known is None:
            self.addItem(str(test), test)
        self.setCurrentIndex(self.count() - 1 if known is None else known)


class BodyView(QWidget):
    """`kept(readings, pain)` when the form is to be kept with the athlete's throw."""

    kept = Signal(object, str)

    def __init__(self) -> None:
        super().__init__()
        self.capacity: Capacity | None = None
        self._who: object = None
        self.fields: dict[str, Field] = {}
        self.dates: dict[str, QLineEdit] = {}
        self.tests: dict[str, HowTested] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(22)
        left = QVBoxLayout()
        top = QHBoxLayout()
        top.addWidget(label("Pain or loss of range reported", role="soft"))
        self.pain = QLineEdit()
        self.pain.setPlaceholderText("where, since when; empty if none")
        self.pain.setAccessibleName("pain or loss of range reported")
        top.addWidget(self.pain, 1)
        self.by = QLineEdit()
        self.by.setPlaceholderText("name or role")
        self.by.setAccessibleName("measured by")
        top.addWidget(label("Measured by", role="soft"))
        top.addWidget(self.by, 1)
        left.addLayout(top)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        left.addWidget(self._scroll, 1)
        bottom = QHBoxLayout()
        self.fault = label("", role="thread")
        self.fault.setWordWrap(True)
        self.keep = QPushButton("Save")
        self.keep.setProperty("role", "main")
        self.keep.clicked.connect(self._keep)
        self.bring = QPushButton("From a CSV file…")
        self.bring.setToolTip(f"Columns: {', '.join(COLUMNS)}")
        self.bring.clicked.connect(self._ask_file)
        bottom.addWidget(self.fault, 1)
        bottom.addWidget(self.bring)
        bottom.addWidget(self.keep)
        left.addLayout(bottom)
        row.addLayout(left, 17)
        right = QVBoxLayout()
        right.addWidget(label("What the body says", role="title", grow=1.5))
        self.said = label("")
        self.said.setWordWrap(True)
        right.addWidget(self.said)
        right.addStretch(1)
        self.source = label("", role="soft", grow=-1)
        self.source.setWordWrap(True)
        right.addWidget(self.source)
        row.addLayout(right, 7)

    def show_explanation(self, found: Explanation | None, who: object) -> None:
        """Show an athlete's screening; the form is filled again only for another athlete or kept data."""
        capacity = None if found is None else found.perspective.capacity
        self.keep.setEnabled(capacity is not None)
        self.bring.setEnabled(capacity is not None)
        if capacity is None:
            self._who = None
            self.said.setText("")
            return
        if not self.fields:
            self._build(capacity)
        if (who, capacity.readings, capacity.pain) != self._who:
            self._who = (who, capacity.readings, capacity.pain)
            self.capacity = capacity
            self._fill(capacity)
        self.said.setText(_told(capacity, found))
        self.source.setText(f"Bands: {capacity.screening.source}. A band is no target.")

    def _ask_file(self) -> None:
        path = ask_one(self, "Screening", "CSV (*.csv)")
        if path is not None:
            self.take_file(path)

    def take_file(self, path: Path) -> None:
        """Keep the readings of a file beside those that are there; what is wrong with it is said here."""
        if self.capacity is None:
            return
        try:
            found = read_screening(path, self.capacity.screening.items)
        except WaxTwinError as fault:
            self.fault.setText(str(fault))
            return
        self.kept.emit({**self.capacity.readings, **found}, self.pain.text().strip())

    def _build(self, capacity: Capacity) -> None:
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(4)
        for column, words in ((1, "throwing side"), (2, "glove side"), (3, "band"), (4, "date")):
            grid.addWidget(label(words, role="soft", grow=-0.5), 0, column)
        for n, item in enumerate(capacity.screening.items.values(), start=1):
            grid.addLayout(self._named(item), n, 0)
            keys = [f"{item.id}:{side}" for side in SIDES] if item.sides else [item.id]
            for column, key in enumerate(keys, start=1):
                self.fields[key] = Field(item, key)
                grid.addWidget(self.fields[key], n, column)
            grid.addWidget(label(f"{item.low:g} to {item.high:g}", role="soft"), n, 3)
            self.dates[item.id] = QLineEdit()
            self.dates[item.id].setPlaceholderText("yyyy-mm-dd")
            self.dates[item.id].setFixedWidth(102)
            grid.addWidget(self.dates[item.id], n, 4)
        grid.setColumnStretch(0, 1)
        grid.setRowStretch(len(self.dates) + 1, 1)
        self._scroll.setWidget(inner)

    def _named(self, item: Item) -> QVBoxLayout:
        """What is measured and, where that matters, how."""
        column = QVBoxLayout()
        column.setSpacing(1)
        column.addWidget(label(f"{item.label}, {item.unit}"))
        if item.tests:
            self.tests[item.id] = HowTested(item)
            column.addWidget(self.tests[item.id])
        return column

    def _fill(self, capacity: Capacity) -> None:
        self.pain.setText(capacity.pain)
        self.by.setText(next((one.by for one in capacity.readings.values() if one.by), ""))
        self.fault.setText("")
        for line in self.dates.values():  # nothing of another athlete's stays
            line.clear()
        for test in self.tests.values():
            test.choose(None)
        for key, field in self.fields.items():
            reading = capacity.readings.get(key)
            field.fill(reading)
            if reading is not None and reading.date:
                self.dates[key.partition(":")[0]].setText(reading.date)
            if reading is not None and reading.test is not None:
                self.tests[key.partition(":")[0]].choose(reading.test)

    def _keep(self) -> None:
        days = {}
        for name, line in self.dates.items():
            text = line.text().strip()
            try:
                days[name] = date.fromisoformat(text).isoformat() if text else ""
            except ValueError:
                self.fault.setText(f"“{text[:30]}” is not a date; write it as year-month-day, such as 2026-11-26.")
                return
        self.fault.setText("")
        readings = {}
        for key, field in self.fields.items():
            name = key.partition(":")[0]
            test = self.tests[name].currentData() if name in self.tests else None
            readings[key] = field.reading(days[name], test, self.by.text().strip())
        self.kept.emit({key: one for key, one in readings.items() if one is not None}, self.pain.text().strip())


def _other_test(item: Item, reading: Reading) -> str:
    """Why a range is not held against its band."""
    if reading.test is None:
        return f"not held against its band: say how it was tested. The band is for {item.tests[0]}."
    return f"{reading.test}; its band is for {item.tests[0]}, so the two are not compared."


def _told(capacity: Capacity, found: Explanation | None) -> str:
    """What is outside its band, how the athlete is built, and what that means for the findings."""
    lines = []
    for key, reading in capacity.readings.items():
        item = capacity.screening.items[key.partition(":")[0]]
        side = key.partition(":")[2]
        where = f"{item.label}{f', {side} side' if side else ''}"
        standing = capacity.standing(key)
        if reading.state == FAILED:
            lines.append(f"{where}: failed on the day; nothing is concluded from it.")
        elif reading.value is not None and standing is None:
            lines.append(f"{where}: {reading.value:g} {item.unit}, {_other_test(item, reading)}")
        elif standing in ("low", "high"):
            lines.append(f"{where}: {reading.value:g} {item.unit}, {_STANDINGS[standing]}.")
    if capacity.long_limbed:
        lines.append("Long arms for the height: less extreme positions are accepted by all schools.")
    if capacity.stiff:
        lines.append("Stiff in several joints: less extreme positions are accepted by all schools.")
    titles = {one.id: one for one in found.judgement.findings} if found is not None else {}
    for one in titles.values():
        lines += [f"{one.rule.title}: {said}" for said in one.body]
    if not lines:
        lines = ["Nothing was screened yet, or everything lies in its band. Technique or capacity cannot be told apart "
                 "without it."]  # fmt: skip
    return "\n\n".join(lines)
