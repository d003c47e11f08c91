"""What stands beside the stages: one panel of several at a time."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from waxtwin.ui.shared.widgets import Choice

WIDTH = 288  # px: narrower, its figures would be cut beside a scroll bar


class SidePanel(QWidget):
    """`panels` {key: (word on its button, panel)}, the first on show."""

    def __init__(self, panels: Mapping[str, tuple[str, QWidget]]) -> None:
        super().__init__()
        self.setMinimumWidth(WIDTH)
        self._panels = {key: panel for key, (_, panel) in panels.items()}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        row = QHBoxLayout()
        row.setContentsMargins(14, 0, 0, 0)
        self._choice = Choice("", [(key, words) for key, (words, _) in panels.items()], self.show_panel)
        row.addWidget(self._choice)
        row.addStretch(1)
        column.addLayout(row)
        self._stack = QStackedWidget()
        for panel in self._panels.values():
            self._stack.addWidget(panel)
        column.addWidget(self._stack, 1)
        self.show_panel(next(iter(self._panels)))

    def show_panel(self, key: str) -> None:
        """Bring a panel to the front."""
        self._choice.set(key)
        self._stack.setCurrentWidget(self._panels[key])

    @property
    def shown(self) -> str:
        """The key of the panel on show."""
        return next(key for key, panel in self._panels.items() if panel is self._stack.currentWidget())

    def switch(self, key: str) -> None:
        """Bring a panel to the front, or the first one again."""
        self.show_panel(next(iter(self._panels)) if self.shown == key else key)
