"""Help: a page a room, and the sheet of keys. The pages are files of the program."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QUrl
from PySide6.QtGui import QColor, QPageLayout, QPageSize, QPdfWriter, QTextCharFormat, QTextCursor, QTextDocument
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QListWidget,
    QPushButton,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from waxtwin import ASSETS
from waxtwin.formats.files import FormatError, write_bytes
from waxtwin.ui import rooms
from waxtwin.ui.shared.file_dialogs import ask_save
from waxtwin.ui.shared.widgets import close_row

PAGES = ASSETS / "help"
KEYS, FILMING = "Keys", "Filming"
_PAPER_MARGIN = 18.0  # mm


def titles() -> list[str]:
    """Titles of the pages: where to start, how to film, one a room, devices, teams, keys."""
    return ["Start", FILMING, *(room.title for room in rooms.ROOMS), "Devices", "Team", KEYS]


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
        self.text.setSearchPaths([str(PAGES)])
        row.addWidget(self.text, 1)
        column.addLayout(row, 1)
        self.save = QPushButton("Save this page as PDF…")
        self.save.clicked.connect(lambda _=False: self._save())
        foot = QHBoxLayout()
        foot.addWidget(self.save)
        foot.addLayout(close_row(self), 1)
        column.addLayout(foot)
        self.list.currentTextChanged.connect(self.show_page)
        self.list.setCurrentRow(titles().index(title) if title in titles() else 0)

    def _save(self) -> None:
        """The page that is shown, as a PDF file."""
        title = self.list.currentItem().text()
        chosen = ask_save(self, "Save the page", f"{title.lower()}.pdf", "PDF (*.pdf)")
        if chosen is not None:
            try:
                write_bytes(chosen, paper(self.text.document()))
            except FormatError as fault:
                self.text.setPlainText(f"▲  {fault}")

    def show_page(self, title: str) -> None:
        """Show a page by its title."""
        self.text.setMarkdown(keys_page(self._keys) if title == KEYS else page(title))


def paper(document: QTextDocument) -> bytes:
    """A page of help as a PDF file."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(*[_PAPER_MARGIN] * 4), QPageLayout.Unit.Millimeter)
    copy = document.clone()
    copy.setBaseUrl(QUrl.fromLocalFile(f"{PAGES}/"))
    cursor = QTextCursor(copy)
    cursor.select(QTextCursor.SelectionType.Document)
    black = QTextCharFormat()
    black.setForeground(QColor("black"))  # the window may be dark, paper is not
    cursor.mergeCharFormat(black)
    copy.print_(writer)
    buffer.close()
    return bytes(data.data())


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
