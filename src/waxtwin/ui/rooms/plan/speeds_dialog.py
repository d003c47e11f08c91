"""Speeds of a day without footage: typed, or from a CSV file."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from datetime import date
from pathlib import Path

from PySide6.QtCore import QDate, Qt, Signal
from PySide6.QtWidgets import (
    QDateEdit,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.units import figure
from waxtwin.library.speeds import read_speeds, speed_of
from waxtwin.ui.shared.file_dialogs import ask_one
from waxtwin.ui.shared.widgets import label

_BETWEEN = re.compile(r"[;\n]|,(?!\d)|(?<=[\d./hsp]) +(?=\d)")  # a comma between digits is a decimal point
_ISO = "yyyy-MM-dd"
_SAYS = (
    "Readings of a radar gun on a day, also where nothing was filmed. They count in the log's speed beside the throws "
    "that are kept."
)


class SpeedsDialog(QDialog):
    """`kept({day: speeds in m/s})` when they are to be kept. `known(day)` are those typed for a day before."""

    kept = Signal(object)

    def __init__(
        self, today: date, known: Callable[[str], Sequence[float]], imperial: bool, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Speeds without footage")
        self.setMinimumWidth(480)
        self._known, self._imperial = known, imperial
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.addWidget(label(_SAYS, role="soft", wrap=True))
        form = QFormLayout()
        self.day = QDateEdit(QDate(today.year, today.month, today.day))
        self.day.setDisplayFormat("d MMM yyyy")
        self.day.setCalendarPopup(True)
        self.day.dateChanged.connect(lambda _: self._fill())
        form.addRow("Day", self.day)
        self.speeds = QPlainTextEdit()
        self.speeds.setAccessibleName("speeds of the day")
        self.speeds.setPlaceholderText("74 mph; 73.5 mph; 75" if imperial else "33.2; 32.9; 73 mph")
        self.speeds.setFixedHeight(96)
        form.addRow("Speeds", self.speeds)
        column.addLayout(form)
        self.fault = label("", role="thread")
        self.fault.setWordWrap(True)
        column.addWidget(self.fault)
        bring = QPushButton("From a CSV file…")
        bring.setToolTip("Columns “date” and “speed_mps”, “speed_mph”, “speed_kmh” or “speed”; several days at once")
        bring.clicked.connect(self._bring)
        column.addWidget(bring, 0, Qt.AlignmentFlag.AlignLeft)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self._keep)
        self.buttons.rejected.connect(self.reject)
        column.addWidget(self.buttons)
        self._fill()

    def _fill(self) -> None:
        known = self._known(self.day.date().toString(_ISO))
        self.speeds.setPlainText("; ".join(figure(one, "m/s", self._imperial) for one in known))

    def _keep(self) -> None:
        said = [one for one in _BETWEEN.split(self.speeds.toPlainText()) if one.strip()]
        try:
            speeds = [speed_of(one, self._imperial) for one in said]
        except ValueError as fault:
            self.fault.setText(str(fault))
            return
        self.kept.emit({self.day.date().toString(_ISO): speeds})
        self.accept()

    def _bring(self) -> None:
        path = ask_one(self, "Speeds", "CSV (*.csv)")
        if path is not None:
            self.bring(path)

    def bring(self, path: Path) -> None:
        """Take the speeds of a file; what is wrong with it is said here."""
        try:
            days = read_speeds(path, self._imperial)
        except WaxTwinError as fault:
            self.fault.setText(str(fault))
            return
        self.kept.emit(days)
        self.accept()
