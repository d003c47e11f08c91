"""The window's frame: the rail of rooms, the notice, progress. Light to load, so that it is painted at once."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QPaintEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.ui.model.told import Fault, Success
from waxtwin.ui.widgets import Room, label

ROOMS = ("Bench", "Prepare", "Pair", "Contrast", "Gap", "Plan", "Report", "Session")
_RAIL_WIDTH = 96
_SOON_MS = 300  # work that is done by then needs no strip
_SYMBOLS = {"fault": "▲", "success": "✓", "fact": "●"}


class Notice(QFrame):
    """One plain sentence across the top of the room, until it is put away; a fault, a success or a plain fact."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 6, 12, 6)
        self._symbol, self._text = label("", bold=True), label("")
        self._text.setWordWrap(True)
        close = QPushButton("Dismiss")
        close.clicked.connect(self.hide)
        self.action = QPushButton()
        self.action.clicked.connect(self._act)
        self._do: Callable[[], object] = lambda: None
        row.addWidget(self._symbol, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self._text, 1)
        row.addWidget(self.action)
        row.addWidget(close)
        self.hide()

    def say(self, sentence: object, offer: str = "", do: Callable[[], object] = lambda: None) -> None:
        """Show a sentence: a Fault, a Success or a plain fact; with a button for what can be done about it."""
        kind = "fault" if isinstance(sentence, Fault) else "success" if isinstance(sentence, Success) else "fact"
        self._symbol.setText(_SYMBOLS[kind])
        self._text.setText(str(sentence))
        self._do = do
        self.action.setText(offer)
        self.action.setVisible(bool(offer))
        if self.property("kind") != kind:
            self.setProperty("kind", kind)
            for widget in (self, self._symbol, self._text):
                self.style().unpolish(widget)
                self.style().polish(widget)
        self.show()

    def _act(self) -> None:
        self.hide()
        self._do()

    @property
    def text(self) -> str:
        """What it says, or nothing."""
        return "" if self.isHidden() else self._text.text()


class Busy(QFrame):
    """What is being worked on, how far it is, and a way to stop it; what is soon done is not shown."""

    cancelled = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("busy")
        self._bar = QProgressBar()
        self._bar.setTextVisible(False)
        self._bar.setRange(0, 100)
        self._bar.setMaximumWidth(360)
        self._words = label("", role="soft")
        cancel = QPushButton("Cancel")
        cancel.setObjectName("cancel")
        cancel.clicked.connect(self.cancelled)
        row = QHBoxLayout(self)
        row.setContentsMargins(26, 4, 12, 4)
        row.addWidget(self._words)
        row.addWidget(self._bar, 1)
        row.addWidget(cancel)
        row.addStretch(0)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(_SOON_MS)
        self._wait.timeout.connect(self.show)
        self.hide()

    def tell(self, words: str, share: float) -> None:
        """Show progress, 0 to 1."""
        self._words.setText(words)
        self._bar.setValue(round(share * 100))
        if self.isHidden() and not self._wait.isActive():
            self._wait.start()

    def done(self) -> None:
        """Nothing is under way."""
        self._wait.stop()
        self.hide()


class Frame(QMainWindow):
    """The main window without its rooms.

    `painted` once after the first paint; `asked(room)` when a room is chosen on the rail; `dropped(path, x)` for a file
    dropped at a window position; `closing` before it goes.
    """

    painted = Signal()
    asked = Signal(str)
    dropped = Signal(Path, float)
    closing = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Wax Twin")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.notice, self.busy = Notice(), Busy()
        self._stack = QStackedWidget()
        self._rail: dict[str, QToolButton] = {}
        self._was_painted = False
        right = QVBoxLayout()
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(0)
        right.addWidget(self.notice)
        right.addWidget(self.busy)
        right.addWidget(self._stack, 1)
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
        for title in ROOMS:
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

    def furnish(self, rooms: list[Room]) -> None:
        """Put the rooms in."""
        for room in rooms:
            self._stack.addWidget(room)

    def show_room(self, room: Room) -> None:
        """Show a room and mark it on the rail."""
        self._stack.setCurrentWidget(room)
        self._rail[room.title].setChecked(True)

    def fill_screen(self, full: bool) -> None:
        """The room over the whole screen without the rail, or the window as it was."""
        self.rail.setVisible(not full)
        if full:
            self.showFullScreen()
        else:
            self.showNormal()

    @property
    def room(self) -> QWidget | None:
        """The room on show."""
        return self._stack.currentWidget()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self._was_painted:
            self._was_painted = True
            self.painted.emit()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            self.dropped.emit(Path(url.toLocalFile()), event.position().x())
        event.acceptProposedAction()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.closing.emit()
        super().closeEvent(event)
