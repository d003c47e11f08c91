"""The window's frame: the rail of rooms, the notice, progress. Light to load, so that it is painted at once."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QPaintEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.ui import rooms
from waxtwin.ui.shell.notices import Busy, Notice

if TYPE_CHECKING:
    from waxtwin.ui.shared.room import Room

_RAIL_WIDTH = 96


class MainWindow(QMainWindow):
    """The main window without its rooms.

    `painted` once after the first paint; `asked(room)` when a room is chosen on the rail; `dropped(paths, x)` for files
    dropped at a window position; `closing` before it goes.
    """

    painted = Signal()
    asked = Signal(str)
    dropped = Signal(object, float)
    closing = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Wax Twin")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.notice, self.busy = Notice(), Busy()
        self.place = QStackedWidget()
        self._rail: dict[str, QToolButton] = {}
        self._rooms: dict[str, Room] = {}
        self._was_painted = False
        right = QVBoxLayout()
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(0)
        right.addWidget(self.notice)
        right.addWidget(self.busy)
        right.addWidget(self.place, 1)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.rail = self._make_rail()
        row.addWidget(self.rail)
        row.addLayout(right, 1)
        centre = QWidget()
        centre.setLayout(row)
        self.setCentralWidget(centre)
        self.menuBar().addMenu("File")  # takes its place before the first paint; the commands come with the rooms

    def _make_rail(self) -> QWidget:
        rail = QWidget()
        rail.setObjectName("rail")
        rail.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        rail.setFixedWidth(_RAIL_WIDTH)
        column = QVBoxLayout(rail)
        column.setContentsMargins(0, 22, 0, 14)
        column.setSpacing(6)
        group = QButtonGroup(self)
        for record in rooms.ROOMS:
            title = record.title
            button = QToolButton()
            button.setText(title)
            button.setCheckable(True)
            button.setFixedWidth(_RAIL_WIDTH)
            button.clicked.connect(lambda _=False, title=title: self.asked.emit(title))
            group.addButton(button)
            self._rail[title] = button
            column.addWidget(button)
        column.addStretch(1)
        return rail

    def put(self, title: str, room: Room) -> None:
        """Put a room in."""
        self._rooms[title] = room
        self.place.addWidget(room)

    def show_room(self, title: str) -> None:
        """Show a room that was put in, and mark it on the rail."""
        self.place.setCurrentWidget(self._rooms[title])
        self._rail[title].setChecked(True)

    def fill_screen(self, full: bool) -> None:
        """The room over the whole screen without the rail, or the window as it was."""
        self.rail.setVisible(not full)
        if full:
            self.showFullScreen()
        else:
            self.showNormal()

    @property
    def room(self) -> Room | None:
        """The room on show."""
        return self._rooms.get(self.title)

    @property
    def title(self) -> str:
        """The title of the room on show; nothing before there are rooms."""
        return next((title for title, room in self._rooms.items() if room is self.place.currentWidget()), "")

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self._was_painted:
            self._was_painted = True
            self.painted.emit()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        self.dropped.emit(paths, event.position().x())
        event.acceptProposedAction()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.closing.emit()
        super().closeEvent(event)
