"""What was read on a day, throw by throw: typed, or from a CSV file."""

from __future__ import annotations

import re
from datetime import date
from pathlib import Path
from typing import Any, ClassVar

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
from waxtwin.ui.shared.file_dialogs import ask_one
from waxtwin.ui.shared.widgets import label

_ISO = "yyyy-MM-dd"


class DayDialog(QDialog):
    """`kept({ISO day: what was read})` when it is to be kept. A subclass says what is typed, and reads it."""

    kept = Signal(object)
    title: ClassVar[str]
    says: ClassVar[str]
    what: ClassVar[str]  # the label of what is typed
    columns: ClassVar[str]  # of a CSV file, in words
    between: ClassVar[re.Pattern[str]] = re.compile(r"[;\n]")

    def __init__(self, today: date, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(self.title)
        self.setMinimumWidth(480)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.addWidget(label(self.says, role="soft", wrap=True))
        self.form = QFormLayout()
        self.day = QDateEdit(QDate(today.year, today.month, today.day))
        self.day.setDisplayFormat("d MMM yyyy")
        self.day.setCalendarPopup(True)
        self.day.dateChanged.connect(lambda _: self.fill())
        self.form.addRow("Day", self.day)
        self.typed = QPlainTextEdit()
        self.typed.setAccessibleName(f"{self.what.lower()} of the day")
        self.typed.setFixedHeight(96)
        self.form.addRow(self.what, self.typed)
        column.addLayout(self.form)
        self.fault = label("", role="thread")
        self.fault.setWordWrap(True)
        column.addWidget(self.fault)
        bring = QPushButton("From a CSV file…")
        bring.setToolTip(self.columns)
        bring.clicked.connect(self._bring)
        column.addWidget(bring, 0, Qt.AlignmentFlag.AlignLeft)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self._keep)
        self.buttons.rejected.connect(self.reject)
        column.addWidget(self.buttons)

    def fill(self) -> None:
        """Show what is known of the day."""
        raise NotImplementedError

    def read(self, said: str, day: str) -> Any:
        """One reading of what was typed. Raises ValueError, one plain sentence."""
        raise NotImplementedError

    def read_file(self, path: Path) -> dict[str, list[Any]]:
        """{ISO day: readings} of a file. Raises FormatError."""
        raise NotImplementedError

    @property
    def iso_day(self) -> str:
        """The day that is shown."""
        return self.day.date().toString(_ISO)

    def _keep(self) -> None:
        day = self.iso_day
        said = [one for one in self.between.split(self.typed.toPlainText()) if one.strip()]
        try:
            found = [self.read(one, day) for one in said]
        except ValueError as fault:
            self.fault.setText(str(fault))
            return
        self.kept.emit({day: found})
        self.accept()

    def _bring(self) -> None:
        path = ask_one(self, self.what, "CSV (*.csv)")
        if path is None:
            return
        try:
            days = self.read_file(path)
        except WaxTwinError as fault:
            self.fault.setText(str(fault))
            return
        self.kept.emit(days)
        self.accept()
