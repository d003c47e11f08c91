"""What came of an import, file by file."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from waxtwin.ui.shared.widgets import close_row, label

if TYPE_CHECKING:
    from waxtwin.library.importing import Brought


class BroughtDialog(QDialog):
    """A list of files with what became of each; faults first."""

    def __init__(self, found: Sequence[Brought], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("What came in")
        self.resize(720, 420)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        new = sum(one.key is not None and not one.known for one in found)
        column.addWidget(label(f"{new} new, {len(found)} looked at", bold=True, grow=1))
        self.table = QTableWidget(len(found), 2)
        self.table.setHorizontalHeaderLabels(["File", "What became of it"])
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setWordWrap(True)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        for row, one in enumerate(sorted(found, key=lambda one: not one.fault)):
            for place, text in enumerate((one.file.name, became(one))):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                self.table.setItem(row, place, item)
        self.table.resizeRowsToContents()
        column.addWidget(self.table, 1)
        column.addLayout(close_row(self, main=True))


def became(one: Brought) -> str:
    """What became of a file, in one sentence."""
    if one.fault:
        return f"▲  Not taken: {one.fault}"
    if one.unmapped:
        return "Its markers have to be mapped first."
    return "In the library already." if one.known else "New in the library."
