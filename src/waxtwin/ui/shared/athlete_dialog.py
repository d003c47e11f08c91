"""Who an athlete is, what a guardian agreed to, and how long data may be kept."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.ui.shared.quantity import Length
from waxtwin.ui.shared.widgets import label, number

_LENGTHS = (("height_m", "Standing height", 0.9, 2.5, " m"), ("span_m", "Arm span", 0.9, 2.8, " m"),
            ("mass_kg", "Mass", 20, 200, " kg"))  # fmt: skip
_DATES = (("born", "Born"), ("consent_on", "Guardian agreed on"), ("keep_until", "Keep until"))


class AthleteDialog(QDialog):
    """Edit an athlete. `kept(facts)` when it is to be kept; `export_wanted`, `bundle_wanted`, `erase_wanted`."""

    kept = Signal(dict)
    export_wanted = Signal()
    bundle_wanted = Signal()
    erase_wanted = Signal()

    def __init__(self, facts: Mapping[str, Any], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Athlete")
        self._unclear = False
        self.setMinimumWidth(520)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(12)
        form = QFormLayout()
        form.setVerticalSpacing(8)
        self.name = QLineEdit(facts["name"])
        self.throws = QComboBox()
        self.throws.addItems(["right", "left"])
        self.throws.setCurrentIndex(int(facts["throws"] == "L"))
        form.addRow("Name", self.name)
        form.addRow("Throws", self.throws)
        self.lengths = {row[0]: self._number(form, row, facts[row[0]]) for row in _LENGTHS}
        self.dates: dict[str, QLineEdit] = {}
        self._date_row(form, "born", "Born", facts)
        self.guardian = QLineEdit(facts["guardian"])
        self.guardian.setPlaceholderText("who agreed to filming, keeping and sharing")
        form.addRow("Guardian", self.guardian)
        for name, title in _DATES[1:]:
            self._date_row(form, name, title, facts)
        self.notes = QPlainTextEdit(facts["notes"])
        self.notes.setFixedHeight(64)
        form.addRow("Notes", self.notes)
        column.addLayout(form)
        self.said = label("", role="thread")
        self.said.setWordWrap(True)
        column.addWidget(self.said)
        hint = label(
            f"Throws kept: {facts['throws_kept']}. For minors, a guardian agrees to filming, keeping and sharing.",
            role="soft", grow=-0.5,
        )  # fmt: skip
        hint.setWordWrap(True)
        column.addWidget(hint)
        row = QHBoxLayout()
        for text, do in (
            ("Hand out everything…", self.export_wanted.emit),
            ("Bundle…", self.bundle_wanted.emit),
            ("Erase for good…", self.erase_wanted.emit),
        ):
            button = QPushButton(text)
            button.clicked.connect(do)
            row.addWidget(button)
        row.addStretch(1)
        cancel = QPushButton("Cancel")
        cancel.clicked.connect(self.reject)
        row.addWidget(cancel)
        keep = QPushButton("Save")
        keep.setProperty("role", "main")
        keep.setDefault(True)
        keep.clicked.connect(self._keep)
        row.addWidget(keep)
        column.addLayout(row)

    def _number(
        self, form: QFormLayout, row: tuple[str, str, float, float, str], value: float | None
    ) -> QDoubleSpinBox:
        _, title, low, high, unit = row
        step = 0.01 if high < 10 else 1.0
        box: QDoubleSpinBox
        if unit == " m":
            box = Length(low - step, high, empty="not known", tall=True)
            box.misread.connect(self._misread)
        else:
            box = number(low - step, high, decimals=1, suffix=unit, empty="not known")
        box.setValue(value if value is not None else low - step)
        form.addRow(title, box)
        return box

    def _date_row(self, form: QFormLayout, name: str, title: str, facts: Mapping[str, Any]) -> None:
        line = QLineEdit(facts[name] or "")
        line.setPlaceholderText("year-month-day")
        self.dates[name] = line
        form.addRow(title, line)

    def _misread(self, sentence: str) -> None:
        self.said.setText(sentence)
        self._unclear = True

    def _keep(self) -> None:
        facts: dict[str, Any] = {
            "name": self.name.text().strip(), "throws": "RL"[self.throws.currentIndex()],
            "guardian": self.guardian.text().strip(), "notes": self.notes.toPlainText(),
        }  # fmt: skip
        if not facts["name"]:
            self.said.setText("Please give a name.")
            return
        for box in self.lengths.values():
            box.interpretText()
        if self._unclear:  # what was typed last is not understood: say so first, nothing is kept in its place
            self._unclear = False
            return
        for name, box in self.lengths.items():
            facts[name] = None if box.value() == box.minimum() else round(box.value(), 3)
        for name, line in self.dates.items():
            text = line.text().strip()
            try:
                facts[name] = date.fromisoformat(text).isoformat() if text else None
            except ValueError:
                self.said.setText(f"“{text[:30]}” is not a date; write it as year-month-day, such as 2026-11-23.")
                return
        self.kept.emit(facts)
        self.accept()
