"""The plan itself: what is in focus, when it starts, when to look again, its versions."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QDate, Qt, Signal
from PySide6.QtWidgets import (
    QDateEdit,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.contrast import Contrast
from waxtwin.core.findings import MOST_IN_FOCUS
from waxtwin.core.plan import Focus, Plan
from waxtwin.core.progress import told_version
from waxtwin.core.schools import School
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.plan_state import PlanState
from waxtwin.ui.rooms.plan.focus_card import FocusCard
from waxtwin.ui.shared.quantity import Speed
from waxtwin.ui.shared.widgets import label

_NOTHING = (
    "Nothing is in focus yet. Take over what the Gap room proposes, or put in something of your own: one thing or two, "
    "no more."
)
_SEEN = " What was seen by eye on the desk is offered there, too."
_OWN = "Something of my own"
_WEEKS = 4  # until the next look, unless somebody says otherwise


class PlanSheet(QWidget):
    """`changed(plan, label)` for an edit; `proposed`, `sent`, `catalogue_wanted(place or None)`."""

    changed = Signal(object, str)
    misread = Signal(str)
    proposed = Signal()
    sent = Signal()
    catalogue_wanted = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.plan = Plan(1, ())
        self._seen: tuple[Focus, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        column.addLayout(self._make_top())
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(self._scroll, 1)
        column.addLayout(self._make_dates())
        self.versions = label("", role="soft", grow=-0.5)
        self.versions.setWordWrap(True)
        column.addWidget(self.versions)
        self.cards: list[FocusCard] = []

    def _make_top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        for key, words, do in (
            ("propose", "Take over what the Gap proposes", self.proposed.emit),
            ("own", "Something of my own…", self._ask_own),
            ("catalogue", "Practice catalogue…", lambda: self.catalogue_wanted.emit(None)),
        ):  # fmt: skip
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, do=do: do())
            self.buttons[key] = button
            row.addWidget(button)
        row.addStretch(1)
        hand = QPushButton("Handed over today")
        hand.setProperty("role", "main")
        hand.setToolTip("Keeps this version as it is; the next change makes a new one")
        hand.clicked.connect(self.sent)
        self.buttons["sent"] = hand
        row.addWidget(hand)
        return row

    def _make_dates(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.start, self.next_look = _date("start"), _date("next look")
        for words, box in (("Starts", self.start), ("Look again", self.next_look)):
            row.addWidget(label(words, role="soft"))
            row.addWidget(box)
            row.addSpacing(8)
        row.addWidget(label("Ball speed to reach", role="soft"))
        self.speed = Speed(0.0, 60.0, empty="not set")
        self.speed.setAccessibleName("ball speed to reach")
        self.speed.editingFinished.connect(self._edit_speed)
        self.speed.misread.connect(self.misread)
        row.addWidget(self.speed)
        row.addSpacing(8)
        self.notes = QLineEdit()
        self.notes.setPlaceholderText("Anything else the athlete should know")
        self.notes.setAccessibleName("notes")
        row.addWidget(self.notes, 1)
        self.start.editingFinished.connect(self._edit_start)
        self.next_look.editingFinished.connect(
            lambda: self._edit(replace(self.plan, next_look=_iso(self.next_look)), "When to look again")
        )
        self.notes.editingFinished.connect(
            lambda: self._edit(replace(self.plan, notes=self.notes.text().strip()), "Notes of the plan")
        )
        return row

    def show_state(self, state: PlanState, pair: Contrast | None, school: Callable[[], School]) -> None:
        """Show the latest version; a pair on the desk offers targets."""
        self.plan, self._seen = state.plan or Plan(1, ()), state.seen
        self._fill_cards(state, pair, school)
        _set(self.start, self.plan.start)
        _set(self.next_look, self.plan.next_look)
        self.notes.setText(self.plan.notes)
        if not self.speed.hasFocus():
            self.speed.setValue(self.plan.speed_aim or 0.0)
        self.buttons["propose"].setEnabled(pair is not None)
        self.buttons["own"].setEnabled(len(self.plan.focus) < MOST_IN_FOCUS)
        self.buttons["sent"].setEnabled(bool(self.plan.focus) and self.plan.sent is None and bool(state.plans))
        self.versions.setText("\n".join(told_version(plan) for plan in reversed(state.plans[-4:])))

    def _fill_cards(self, state: PlanState, pair: Contrast | None, school: Callable[[], School]) -> None:
        inner = QWidget()
        row = QHBoxLayout(inner)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(14)
        self.cards = []
        for at, focus in enumerate(self.plan.focus):
            card = FocusCard(focus, state.tasks, desk=self.desk, pair=pair, school=school(), aim=state.aim)
            card.changed.connect(lambda new, words, at=at: self._edit(self.plan.with_focus(at, new), words))
            card.task_wanted.connect(lambda at=at: self.catalogue_wanted.emit(at))
            self.cards.append(card)
            row.addWidget(card, 1)
        if not self.cards:
            empty: QLabel = label(_NOTHING + (_SEEN if self._seen else ""), grow=1)
            empty.setWordWrap(True)
            row.addWidget(empty)
        self._scroll.setWidget(inner)

    # editing -------------------------------------------------------------------------------------------------------
    def _edit(self, plan: Plan, words: str) -> None:
        if plan != self.plan:
            self.changed.emit(plan, words)

    def _edit_start(self) -> None:
        start = _iso(self.start)
        later = self.plan.next_look
        if later is None or later <= start:
            later = self.start.date().addDays(7 * _WEEKS).toString("yyyy-MM-dd")
        self._edit(replace(self.plan, start=start, next_look=later), "When the plan starts")

    def _edit_speed(self) -> None:
        aim = self.speed.value() or None
        if (aim is None) != (self.plan.speed_aim is None) or abs((aim or 0) - (self.plan.speed_aim or 0)) > 0.02:
            self._edit(replace(self.plan, speed_aim=aim), "Ball speed to reach")

    def _ask_own(self) -> None:
        ask, seen = "What should change, in one sentence", {one.title: one for one in self._seen}
        title, good = (
            QInputDialog.getItem(self, _OWN, f"{ask}, or one of what was seen by eye:", ["", *seen])
            if seen
            else QInputDialog.getText(self, _OWN, f"{ask}:")
        )
        if good and title.strip():
            own = seen.get(title.strip()) or Focus("", title.strip(), "", None)
            self._edit(self.plan.with_focus(len(self.plan.focus), own), "Add to the focus")


def _date(name: str) -> QDateEdit:
    made = QDateEdit()
    made.setDisplayFormat("d MMM yyyy")
    made.setCalendarPopup(True)
    made.setAccessibleName(name)
    made.setMinimumDate(QDate(2000, 1, 1))
    made.setSpecialValueText("not set")
    return made


def _iso(box: QDateEdit) -> str:
    return box.date().toString("yyyy-MM-dd")


def _set(box: QDateEdit, said: str | None) -> None:
    when = QDate.fromString(said, "yyyy-MM-dd") if said else box.minimumDate()
    box.setDate(when if when.isValid() else box.minimumDate())
