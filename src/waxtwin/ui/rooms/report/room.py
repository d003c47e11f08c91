"""The Report room: choose what the athlete sees, look at it as the athlete will, send it out."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from waxtwin.ui.rooms.report.flow import ReportFlow
from waxtwin.ui.rooms.report.form import ReportForm
from waxtwin.ui.rooms.report.page_view import Sheet
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.room import Room, on_desk
from waxtwin.ui.shared.widgets import label

_OUT = {
    "pdf": "Save as PDF…", "html": "Save as HTML…", "clip": "Save a clip…", "data": "Data out…",
    "bundle": "Bundle for another analyst…",
}  # fmt: skip


class ReportRoom(Room):
    """`asked(kind)` for a way out; `entered` when it comes on show; what is edited goes on from the form."""

    asked = Signal(str)
    entered = Signal()

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.desk = context.desk
        column, top = self.begin_layout("Report")
        self.state = label("", role="soft")
        top.addWidget(self.state, 2)
        out = FlowLayout(right=True)
        top.addLayout(out, 5)
        self.buttons: dict[str, QPushButton] = {}
        for kind, words in _OUT.items():
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, kind=kind: self.asked.emit(kind))
            self.buttons[kind] = button
            out.addWidget(button)
        self.buttons["pdf"].setProperty("role", "main")
        self.hint = label("", role="soft", grow=1)
        self.hint.setWordWrap(True)
        column.addWidget(self.hint)
        self._body = QWidget()
        row = QHBoxLayout(self._body)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(16)
        self.form = ReportForm()
        left = QScrollArea()
        left.setWidgetResizable(True)
        left.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        left.setWidget(self.form)
        left.setFixedWidth(300)
        row.addWidget(left)
        self.preview = QScrollArea()
        self.preview.setObjectName("preview")
        self.preview.setWidgetResizable(True)
        self.preview.setAccessibleName("preview of the report")
        row.addWidget(self.preview, 1)
        column.addWidget(self._body, 1)
        self.sheets: list[Sheet] = []
        self.flow = ReportFlow(context, self)

    def show_state(self, words: str, *, ready: bool) -> None:
        """Say how far the preview is; nothing can be sent out until there is something to send."""
        self.hint.setText("" if ready else words)
        self.hint.setVisible(not ready)
        self._body.setVisible(ready)
        self.state.setText(words if ready else "")
        for button in self.buttons.values():
            button.setEnabled(ready)

    def show_sheets(self, pages: Sequence[np.ndarray]) -> None:
        """Show the pages as they will be printed; the place that was looked at stays."""
        at = self.preview.verticalScrollBar().value()
        inner = QWidget()
        inner.setObjectName("sheets")
        column = QVBoxLayout(inner)
        column.setContentsMargins(14, 14, 14, 14)
        column.setSpacing(14)
        self.sheets = []
        for n, page in enumerate(pages, start=1):
            sheet = Sheet(page)
            sheet.setAccessibleName(f"page {n} of {len(pages)}")
            self.sheets.append(sheet)
            column.addWidget(sheet)
        column.addStretch(1)
        self.preview.setWidget(inner)
        self.preview.verticalScrollBar().setValue(at)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.entered.emit()

    def throws_in_sight(self) -> frozenset[int]:
        return on_desk(self.desk)
