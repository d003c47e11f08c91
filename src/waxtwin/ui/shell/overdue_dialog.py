"""Whose data should not be kept any longer: erase it, or keep it for another year."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from PySide6.QtCore import Signal, SignalInstance
from PySide6.QtWidgets import QDialog, QGridLayout, QPushButton, QVBoxLayout, QWidget

from waxtwin.ui.shared.widgets import close_row, label


class OverdueDialog(QDialog):
    """A list of athletes whose date has passed. `prolonged(athlete)`, `erase_wanted(athlete)`."""

    prolonged = Signal(int)
    erase_wanted = Signal(int)

    def __init__(self, late: Sequence[tuple[int, str, str]], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Kept too long")
        self.setMinimumWidth(520)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(12)
        words = "The date until which these athletes' data was to be kept has passed."
        column.addWidget(label(words, bold=True, wrap=True))
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        self.buttons: dict[tuple[str, int], QPushButton] = {}
        for row, (athlete, name, until) in enumerate(late):
            grid.addWidget(label(name), row, 0)
            grid.addWidget(label(f"until {until}", role="soft"), row, 1)
            for place, (key, text, signal) in enumerate(
                (("keep", "Keep another year", self.prolonged), ("erase", "Erase…", self.erase_wanted)), start=2
            ):
                button = QPushButton(text)
                button.clicked.connect(lambda _=False, signal=signal, athlete=athlete: self._do(signal, athlete))
                self.buttons[key, athlete] = button
                grid.addWidget(button, row, place)
        grid.setColumnStretch(0, 1)
        column.addLayout(grid)
        column.addLayout(close_row(self))

    def _do(self, signal: SignalInstance, athlete: int) -> None:
        for key in ("keep", "erase"):
            self.buttons[key, athlete].setEnabled(False)
        signal.emit(athlete)


def in_a_year(today: date) -> date:
    """The same day next year."""
    try:
        return today.replace(year=today.year + 1)
    except ValueError:  # the 29th of February
        return today.replace(year=today.year + 1, day=28)
