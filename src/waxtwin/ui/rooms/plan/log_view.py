"""The log: did it move, did the speed move, did the arm stay well; and everything that this rests on."""

from __future__ import annotations

from PySide6.QtCore import Qt, QUrl, Signal
from PySide6.QtGui import QDesktopServices, QShowEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.before_after import CHANGED
from waxtwin.core.measures import MEASURES
from waxtwin.core.progress import Answer, answers, day, label_of, told_note, unit_of_measure
from waxtwin.core.trend import SPEED, Shift, against_limits, said_state, shift, trend
from waxtwin.core.units import figure
from waxtwin.ui.model.plan_state import PlanState
from waxtwin.ui.rooms.plan.trend_plot import ArmLog, Trend
from waxtwin.ui.shared.theme import colour
from waxtwin.ui.shared.widgets import label

_ITEM = Qt.ItemDataRole.UserRole


class AnswerCard(QFrame):
    """One of the three questions with its answer; the sign stands for the colour."""

    def __init__(self, answer: Answer) -> None:
        super().__init__()
        self.setObjectName("card")
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 14, 8)
        column.setSpacing(2)
        column.addWidget(label(answer.question, role="soft"))
        role = {"yes": "good", "no": "thread", "open": ""}[answer.tone]
        self.says = label(answer.signed, role=role, grow=2, bold=True)
        column.addWidget(self.says)
        because = label("\n".join(answer.because), grow=-1)
        because.setWordWrap(True)
        column.addWidget(because)
        column.addStretch(1)


class LogView(QWidget):
    """`note_wanted`, `note_unwanted(note)`, `limits_wanted`, `speeds_wanted`, `arm_sensor_wanted`,
    `thrown(day, count or None)`.
    """

    note_wanted = Signal()
    note_unwanted = Signal(object)
    limits_wanted = Signal()
    speeds_wanted = Signal()
    arm_sensor_wanted = Signal()
    thrown = Signal(str, object)

    def __init__(self) -> None:
        super().__init__()
        self.state, self._imperial, self.measure = PlanState(), False, ""
        self._drawn = True
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        self._answers = QHBoxLayout()
        self._answers.setSpacing(12)
        column.addLayout(self._answers)
        self._hint = label("", role="soft")
        self._hint.setWordWrap(True)
        column.addWidget(self._hint)
        row = QHBoxLayout()
        row.setSpacing(14)
        self.measures = QListWidget()
        self.measures.setAccessibleName("measures over time")
        self.measures.currentItemChanged.connect(lambda item, _: self._choose(item))
        row.addWidget(self.measures, 5)
        self.trend = Trend()
        row.addWidget(self.trend, 11)
        row.addLayout(self._make_side(), 5)
        column.addLayout(row, 1)
        self.cards: list[AnswerCard] = []

    def _make_side(self) -> QVBoxLayout:
        side = QVBoxLayout()
        side.setSpacing(6)
        side.addWidget(label("Sessions", role="soft"))
        self.days = QListWidget()
        self.days.setAccessibleName("sessions")
        side.addWidget(self.days, 3)
        count = QPushButton("Throws thrown that day…")
        count.setToolTip("Games and practice together, also what was not filmed")
        count.clicked.connect(self._ask_thrown)
        side.addWidget(count)
        speeds = QPushButton("Speeds without footage…")
        speeds.setToolTip("Readings of a radar gun on any day, typed or from a CSV file")
        speeds.clicked.connect(self.speeds_wanted)
        side.addWidget(speeds)
        side.addWidget(label("The arm", role="soft"))
        self.notes = QListWidget()
        self.notes.setAccessibleName("arm notes")
        self.notes.setWordWrap(True)
        self.notes.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        side.addWidget(self.notes, 4)
        row = QHBoxLayout()
        for words, do in (("Note the arm…", self.note_wanted.emit), ("Take away", self._forget),
                          ("Arm sensor…", self.arm_sensor_wanted.emit)):  # fmt: skip
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, do=do: do())
            row.addWidget(button)
        side.addLayout(row)
        self.limits = label("", grow=-1)
        self.limits.setWordWrap(True)
        side.addWidget(self.limits)
        row = QHBoxLayout()
        enter = QPushButton("The league's limits…")
        enter.clicked.connect(self.limits_wanted)
        self.link = QPushButton("Read them")
        self.link.clicked.connect(self._open_link)
        row.addWidget(enter)
        row.addWidget(self.link)
        side.addLayout(row)
        return side

    def show_state(self, state: PlanState, imperial: bool) -> None:
        """Show an athlete's log."""
        self.state, self._imperial = state, imperial
        self._fill_answers()
        self._fill_measures()
        self._fill_side()
        self._drawn = False
        if self.isVisible():
            self._draw()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if not self._drawn:  # the plots take longer than all the rest, and the plan is looked at more often
            self._draw()

    def _fill_answers(self) -> None:
        for card in self.cards:
            self._answers.removeWidget(card)
            card.hide()  # it goes only when nothing else is to be done
            card.deleteLater()
        found = self.state.outcome
        said = answers(found, self._imperial) if found is not None else ()
        self.cards = [AnswerCard(answer) for answer in said]
        for card in self.cards:
            self._answers.addWidget(card, 1)
        running = self.state.running
        if running is None:
            self._hint.setText("Give a plan a start, or hand one over, and the log says whether it works.")
        else:
            assert running.start is not None
            self._hint.setText(
                f"Since {day(running.start, year=True)}, when version {running.version} of the plan began."
            )

    def _fill_measures(self) -> None:
        focus = [f.target.measure for plan in self.state.plans[-1:] for f in plan.focus if f.target is not None]
        running = self.state.running
        focus += [f.target.measure for f in running.focus if f.target is not None] if running else []
        seen = [name for name in MEASURES if any(one.values.get(name) is not None for one in self.state.figures)]
        shifts = {name: found for name in (*seen, SPEED) if (found := self._since(name)) is not None}
        moved = [name for name, found in shifts.items() if found.state == CHANGED and name != SPEED]
        speed = [SPEED] if any(one.ball_speed is not None for one in self.state.figures) else []
        names = list(dict.fromkeys([*(name for name in focus if name in seen), *speed, *moved, *seen]))
        chosen = self.measure if self.measure in names else (names[0] if names else "")
        self.measures.blockSignals(True)
        self.measures.clear()
        for name in names:
            item = QListWidgetItem(
                ("★ " if name in focus else "") + label_of(name) + self._changed(name, shifts.get(name))
            )
            item.setData(_ITEM, name)
            if name in focus:
                item.setForeground(colour("thread"))
            self.measures.addItem(item)
            if name == chosen:
                self.measures.setCurrentItem(item)
        self.measures.blockSignals(False)
        self.measure = chosen

    def _changed(self, name: str, found: Shift | None) -> str:
        """What became of a measure since the plan began, in a few words."""
        if found is None:
            return ""
        size = figure(found.difference, unit_of_measure(name), self._imperial, signed=True)
        return (
            f"\n      {size}, {said_state(found.state)}"
            if found.state == CHANGED
            else f"\n      {said_state(found.state)}"
        )

    def _since(self, name: str) -> Shift | None:
        running = self.state.running
        if running is None or running.start is None:
            return None
        return shift(trend(self.state.figures, name), name, running.start)

    def _fill_side(self) -> None:
        self.days.clear()
        for one in self.state.days:
            counted = f"{one.thrown} thrown" if one.thrown is not None else "not counted"
            item = QListWidgetItem(f"{day(one.date, year=True)}\n{one.kept} kept, {counted}")
            item.setData(_ITEM, one)
            item.setToolTip("  ".join(part for part in (one.place, one.notes) if part))
            self.days.addItem(item)
        if self.days.count():
            self.days.setCurrentRow(self.days.count() - 1)
        self.notes.clear()
        for note in reversed(self.state.notes):
            item = QListWidgetItem(f"{day(note.date, year=True)}: {told_note(note)}")
            item.setData(_ITEM, note)
            self.notes.addItem(item)
        self.limits.setText(self._limits())
        self.link.setEnabled(self.state.limits.link.startswith(("https://", "http://")))

    def _limits(self) -> str:
        limits = self.state.limits
        from waxtwin.library.log import thrown_by_day

        said = against_limits(limits, thrown_by_day(self.state.days))
        if said:
            return "▲  " + "  ".join(said)
        if limits.most is None and not limits.rest:
            return "Pitch counts and rest days follow the local league; its limits are not entered yet."
        return f"Within what was entered for {limits.league or 'the league'}, as far as throws were counted."

    def _choose(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.measure = item.data(_ITEM)
            self._draw()

    def _draw(self) -> None:
        self._drawn = True
        thrown = [(one.date, one.thrown) for one in self.state.days if one.thrown is not None]
        arm = ArmLog(self.state.notes, thrown, self.state.arm_readings)
        self.trend.setVisible(bool(self.measure or arm.days))
        plans = [plan for plan in self.state.plans if plan.start]
        self.trend.show_trend(self.measure, self.state.figures, arm, plans, self._imperial)

    def _ask_thrown(self) -> None:
        item = self.days.currentItem()
        if item is None:
            return
        one = item.data(_ITEM)
        words = f"How many throws were thrown on {day(one.date, year=True)}, games and practice together?"
        count, good = QInputDialog.getInt(self, "Throws thrown", words, one.thrown or one.kept, 0, 1000)
        if good:
            self.thrown.emit(one.date, count)

    def _forget(self) -> None:
        item = self.notes.currentItem()
        if item is not None:
            self.note_unwanted.emit(item.data(_ITEM))

    def _open_link(self) -> None:
        QDesktopServices.openUrl(QUrl(self.state.limits.link))
