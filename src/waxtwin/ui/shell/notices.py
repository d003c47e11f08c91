"""What the window says across the top of a room: one sentence, and the work that is under way."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QPushButton

from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.shared.widgets import label

_SOON_MS = 600  # work that is done by then needs no strip
_TICK_MS = 100  # how often the strip moves: each time it paints the window
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
        self._latest: tuple[str, float] = ("", 0.0)
        self._tick = QTimer(self)
        self._tick.setSingleShot(True)
        self._tick.setInterval(_TICK_MS)
        self._tick.timeout.connect(self._move)
        self.hide()

    def tell(self, words: str, share: float) -> None:
        """Show progress, 0 to 1."""
        self._latest = words, share
        if not self._tick.isActive():
            self._move()
            self._tick.start()
        if self.isHidden() and not self._wait.isActive():
            self._wait.start()

    def _move(self) -> None:
        words, share = self._latest
        self._words.setText(words)
        self._bar.setValue(round(share * 100))

    def done(self) -> None:
        """Nothing is under way."""
        self._wait.stop()
        self._tick.stop()
        self.hide()
