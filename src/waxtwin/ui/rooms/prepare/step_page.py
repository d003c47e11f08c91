"""What the pages of the Prepare room share: a column of sections, and the list of what is left to do."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QLabel, QLayout, QPushButton, QVBoxLayout, QWidget

from waxtwin.ui.rooms.prepare.flow import PrepareFlow
from waxtwin.ui.rooms.prepare.state import PrepareState, PrepareTopic
from waxtwin.ui.shared.widgets import label


class Page(QWidget):
    """One step's page; `refresh` shows the workpiece as it is. Never calls back while refreshing."""

    step = ""

    def __init__(self, state: PrepareState, flow: PrepareFlow, place: QWidget) -> None:
        super().__init__(place)
        self.state, self.flow = state, flow
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(18, 6, 18, 10)
        self.column.setSpacing(7)
        self.build()
        self._left_title = label("Left to do", role="thread")
        self._left = label("")
        self._left.setWordWrap(True)
        self.column.addSpacing(6)
        self.column.addWidget(self._left_title)
        self.column.addWidget(self._left)
        self.column.addStretch(1)
        state.listen(self._told)

    def build(self) -> None:
        """Put the page's widgets into the column."""

    def refresh(self) -> None:
        """Show the workpiece."""

    def topics(self) -> frozenset[PrepareTopic]:
        """The topics upon which the page is shown anew."""
        return frozenset({PrepareTopic.WORK, PrepareTopic.ANALYSIS, PrepareTopic.AIM, PrepareTopic.PEOPLE})

    def _told(self, topic: PrepareTopic) -> None:
        if topic in self.topics():
            self.refresh()
            left = self.state.left()[self.step]
            self._left_title.setVisible(bool(left))
            self._left.setText("\n".join(f"·  {one}" for one in left))

    def heading(self, text: str) -> None:
        """A heading within the page."""
        self.column.addSpacing(4)
        self.column.addWidget(label(text, bold=True))

    def words(self, text: str = "") -> QLabel:
        """A soft paragraph."""
        made = label(text, role="soft", grow=-0.5)
        made.setWordWrap(True)
        self.column.addWidget(made)
        return made

    def row(self, *widgets: QWidget) -> QHBoxLayout:
        """Widgets side by side."""
        made = QHBoxLayout()
        made.setSpacing(6)
        for widget in widgets:
            made.addWidget(widget)
        self.column.addLayout(made)
        return made


def button(text: str, do: Callable[[], object], *, main: bool = False, hint: str = "") -> QPushButton:
    """A button."""
    made = QPushButton(text)
    if main:
        made.setProperty("role", "main")
    made.setToolTip(hint)
    made.clicked.connect(lambda _=False: do())
    return made


def emptied(layout: QLayout) -> None:
    """Take everything out of a layout."""
    while (item := layout.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.setParent(None)  # gone from sight at once, not at the next turn of the event loop
            widget.deleteLater()
