"""By eye: the checks of the stop that is held, with an answer a side."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QToolButton, QVBoxLayout, QWidget

from waxtwin.core.eye import EyeCheck
from waxtwin.core.stops import EVENTS
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.rooms.pair.eye_flow import EyeFlow
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.theme import font
from waxtwin.ui.shared.widgets import Choice, label


class EyePanel(QWidget):
    """Follows the stop that is held and what was answered. `editing` when the list is to be changed."""

    editing = Signal()

    def __init__(self, flow: EyeFlow) -> None:
        super().__init__()
        self.flow = flow
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 0, 0, 0)
        column.setSpacing(4)
        self._title = label("By eye", role="title", grow=1.5)
        column.addWidget(self._title)
        self._hint = label("", role="soft", grow=-1, wrap=True)
        column.addWidget(self._hint)
        row = QHBoxLayout()
        self._asked = Choice("", [("school", "asked by the school"), ("all", "all")], self._switch)
        row.addWidget(self._asked)
        row.addStretch(1)
        column.addLayout(row)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        column.addWidget(self._scroll, 1)
        buttons = QHBoxLayout()
        self.following = QPushButton("Next check (M)")
        self.following.clicked.connect(flow.go_on)
        edit = QPushButton("Change the list…")
        edit.clicked.connect(self.editing)
        buttons.addWidget(self.following)
        buttons.addWidget(edit)
        column.addLayout(buttons)
        self.answers: dict[tuple[str, str, str], QToolButton] = {}
        self._shown: object = None
        flow.changed.connect(self.fill)

    def _switch(self, key: str) -> None:
        self.flow.switch_school(key == "school")

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.fill()

    def fill(self) -> None:
        """Show the checks of the stop that is held."""
        if not self.isVisible():
            return
        here, at_hand, pair = self.flow.here, self.flow.at_hand, self.flow.desk.pair
        given = {(side, one.id): self.flow.answer_of(side, one) for one in here for side in SIDES}
        state = (self.flow.desk.clock.stop, here, at_hand, given, tuple(pair.stored), self.flow.only_school)
        if state == self._shown:
            return
        self._shown = state
        stop = self.flow.desk.clock.stop
        self._title.setText(f"By eye: {EVENTS[stop].short}" if stop else "By eye")
        self._asked.set("school" if self.flow.only_school else "all")
        if not pair.stored:
            self._hint.setText("Choose a pair on the Bench.")
        elif not here:
            self._hint.setText(self.flow.nothing_here)
        else:
            self._hint.setText("J answers for the athlete, L for the twin, again for the next answer; M goes on.")
        self.answers = {}
        at = self._scroll.verticalScrollBar().value()
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 4, 0)
        column.setSpacing(10)
        cards = {check.id: self._card(check, check is at_hand) for check in here}
        for card in cards.values():
            column.addWidget(card)
        column.addStretch(1)
        self._scroll.setWidget(inner)
        self._scroll.verticalScrollBar().setValue(at)
        if at_hand is not None:
            inner.resize(self._scroll.viewport().width(), inner.sizeHint().height())
            column.activate()
            self._scroll.ensureWidgetVisible(cards[at_hand.id], 0, 4)

    def _card(self, check: EyeCheck, at_hand: bool) -> QWidget:
        made = QFrame()
        made.setObjectName("eye")
        made.setProperty("hand", at_hand)
        column = QVBoxLayout(made)
        column.setContentsMargins(8, 5, 4, 6)
        column.setSpacing(3)
        column.addWidget(label(check.question, grow=-0.5, bold=True, wrap=True))
        if check.look:
            column.addWidget(label(f"Look at {check.look}.", role="soft", grow=-1.5, wrap=True))
        for side in SIDES:
            if side in self.flow.desk.pair.stored:
                column.addWidget(self._side(check, side))
        return made

    def _side(self, check: EyeCheck, side: str) -> QWidget:
        made = QWidget()
        row = FlowLayout(made, spacing=3)
        row.addWidget(label(side, side=side, grow=-1))
        given = self.flow.answer_of(side, check)
        for answer, words in check.answers.items():
            button = QToolButton()
            button.setText(words)
            button.setProperty("role", "small")
            button.setFont(font(-1.0))
            button.setCheckable(True)
            chosen = given is not None and given.answer == answer
            button.setChecked(chosen)
            button.setAccessibleName(f"{side}: {words}")
            if chosen and given is not None:
                who = given.by or "somebody whose name is not in the settings"
                button.setToolTip(f"Seen by {who}, {given.at[:10]}. Click again to take it back.")
            button.clicked.connect(partial(self._pick, side, check, None if chosen else answer))
            self.answers[side, check.id, answer] = button
            row.addWidget(button)
        return made

    def _pick(self, side: str, check: EyeCheck, answer: str | None, _checked: bool = False) -> None:
        self.flow.answer(side, check, answer)
