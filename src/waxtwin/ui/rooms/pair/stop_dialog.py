"""The held stop on both sides: where it comes from, how sure it is, and what was done to it."""

from __future__ import annotations

from datetime import datetime
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QComboBox, QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from waxtwin.core.stops import ACCEPTED, BY_HAND, DETECTED, ESTIMATED, EVENTS, ORDER
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.open_library import OpenLibrary
from waxtwin.ui.shared.widgets import label, leave_return_alone

_SOURCES = {
    DETECTED: "proposed by the program", ACCEPTED: "proposed, and accepted", BY_HAND: "set by hand",
    ESTIMATED: "estimated by hand: outside the picture",
}  # fmt: skip
_SHOWN = 6  # entries of history


class StopDialog(QDialog):
    """Follows the held stop. `accepted_stop`, `rejected_stop`, `given_back` (side, stop); `asked` for a time."""

    accepted_stop = Signal(str, str)
    rejected_stop = Signal(str, str)
    given_back = Signal(str, str)
    asked = Signal(str, str)

    def __init__(self, desk: Desk, library: OpenLibrary, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Tool)
        self.desk, self.library = desk, library
        self.setWindowTitle("This stop")
        self.setMinimumWidth(640)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(8)
        self.picker = QComboBox()
        self.picker.setAccessibleName("stop")
        for stop in ORDER:
            self.picker.addItem(EVENTS[stop].label, stop)
        self.picker.activated.connect(lambda i: self._pick(self.picker.itemData(i)))
        self.stop: str | None = None
        self.definition = label("", role="soft")
        self.definition.setWordWrap(True)
        column.addWidget(self.picker, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.definition)
        sides = QHBoxLayout()
        sides.setSpacing(24)
        self.facts: dict[str, QLabel] = {}
        self.history: dict[str, QLabel] = {}
        self.buttons: dict[tuple[str, str], QPushButton] = {}
        for side in SIDES:
            sides.addLayout(self._make_side(side), 1)
        column.addLayout(sides)
        column.addStretch(1)
        leave_return_alone(self)
        desk.listen(self._follow, Topic.PAIR, Topic.FIGURES, Topic.TIME)
        library.altered.connect(lambda _: self.fill())

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.stop = self.desk.clock.stop
        self.fill()

    def _follow(self, topic: Topic) -> None:
        if not self.isVisible():
            return
        if topic is Topic.TIME:
            self.stop = self.desk.clock.stop
        self.fill()

    def _pick(self, stop: str) -> None:
        """Another stop: held where both sides have it, else only shown here, to be given back."""
        self.stop = stop
        if stop in self.desk.pair.stops():
            self.desk.clock.hold(stop)
        else:
            self.fill()

    def _make_side(self, side: str) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        column.addWidget(label(side, side=side, grow=1, bold=True))
        self.facts[side] = label("")
        self.facts[side].setWordWrap(True)
        column.addWidget(self.facts[side])
        for row in ((("accept", "Accept it"), ("type", "Type a time…")),
                    (("reject", "Not in this footage"), ("back", "Give it back"))):  # fmt: skip
            line = QHBoxLayout()
            for key, words in row:
                button = QPushButton(words)
                button.clicked.connect(partial(self._do, side, key))
                self.buttons[side, key] = button
                line.addWidget(button)
            column.addLayout(line)
        column.addWidget(label("What was done to it", role="soft"))
        self.history[side] = label("", grow=-0.5)
        self.history[side].setWordWrap(True)
        column.addWidget(self.history[side])
        column.addStretch(1)
        return column

    def _do(self, side: str, key: str) -> None:
        stop = self.stop
        if stop is None:
            return
        if key == "type":
            self.asked.emit(side, stop)
        else:
            {"accept": self.accepted_stop, "reject": self.rejected_stop, "back": self.given_back}[key].emit(side, stop)

    def fill(self) -> None:
        """Show the stop that is held now, or that was picked here."""
        stop = self.stop or ORDER[0]
        self.picker.setCurrentIndex(ORDER.index(stop))
        self.definition.setText(EVENTS[stop].definition)
        for side in SIDES:
            self._fill_side(side, stop)

    def _fill_side(self, side: str, stop: str) -> None:
        analysis, stored = self.desk.pair.analysis(side), self.desk.pair.stored.get(side)
        event = None if analysis is None else analysis.proposal(stop)
        rejected = stored is not None and stop in stored.delivery.by_hand.rejected
        if event is not None:
            words = f"{event.time:.4f} s, ± {event.interval:.1f} ms\n{_SOURCES[event.source]}"
            if analysis is not None and stop in analysis.withheld:
                words += f"\nnot used: {analysis.withheld[stop].why}"
        else:
            words = "not in this footage, as you said" if rejected else "not found in this footage"
        self.facts[side].setText(words)
        proposed = event is not None and event.source == DETECTED
        self.buttons[side, "accept"].setEnabled(proposed)
        self.buttons[side, "type"].setEnabled(analysis is not None)
        self.buttons[side, "reject"].setEnabled(event is not None and stop != "release")
        self.buttons[side, "back"].setEnabled(rejected or (event is not None and event.source != DETECTED))
        self.history[side].setText(self._told(stored.key if stored else None, stop))

    def _told(self, key: int | None, stop: str) -> str:
        store = self.library.store
        if key is None or store is None:
            return "nothing yet"
        from waxtwin.library.throws import stop_history

        found = stop_history(store, key, stop)
        lines = [
            f"{datetime.fromisoformat(at).astimezone():%d %b, %H:%M}  {words}{', undone' if undone else ''}"
            for at, words, undone in found[:_SHOWN]
        ]
        return "\n".join(lines) or "nothing yet"
