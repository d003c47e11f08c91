"""Help: a page a room, and the sheet of keys. The pages are files of the program."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QTextBrowser, QVBoxLayout, QWidget

from waxtwin import ASSETS
from waxtwin.ui import rooms
from waxtwin.ui.shared.widgets import close_row

PAGES = ASSETS / "help"
KEYS = "Keys"


def titles() -> list[str]:
    """Titles of the pages: where to start, one a room, devices, keys."""
    return ["Start", *(room.title for room in rooms.ROOMS), "Devices", KEYS]


class HelpDialog(QDialog):
    """Opens at a page; the others stand beside it."""

    def __init__(self, title: str, keys: Sequence[tuple[str, str, str]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Help")
        self.resize(860, 600)
        self._keys = list(keys)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 16, 18, 16)
        row = QHBoxLayout()
        row.setSpacing(14)
        self.list = QListWidget()
        self.list.setAccessibleName("pages")
        self.list.ensurePolished()  # else the items are laid out before they are dressed
        self.list.addItems(titles())
        self.list.setFixedWidth(150)
        row.addWidget(self.list)
        self.text = QTextBrowser()
        self.text.setOpenLinks(False)
        self.text.setAccessibleName("help")
        row.addWidget(self.text, 1)
        column.addLayout(row, 1)
        column.addLayout(close_row(self))
        self.list.currentTextChanged.connect(self.show_page)
        self.list.setCurrentRow(titles().index(title) if title in titles() else 0)

    def show_page(self, title: str) -> None:
        """Show a page by its title."""
        self.text.setMarkdown(keys_page(self._keys) if title == KEYS else page(title))


def page(title: str) -> str:
    """A page as Markdown."""
    return (PAGES / f"{title.lower()}.md").read_text(encoding="utf-8")


def keys_page(keys: Sequence[tuple[str, str, str]]) -> str:
    """The sheet of keys as Markdown, menu by menu."""
    lines = ["# Keys"]
    for menu, each in groupby(keys, key=lambda one: one[0]):
        lines += ["", f"## {menu}", "", "| what | keys |", "|---|---|"]
        lines += [f"| {title} | {said.replace('|', 'bar')} |" for _, title, said in each]
    return "\n".join(lines)
