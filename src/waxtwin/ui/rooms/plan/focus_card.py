"""One thing to work on: what it is, its target, what to practise."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from waxtwin.core.contrast import Contrast
from waxtwin.core.findings import Rule, Task
from waxtwin.core.measures import MEASURES, Measure
from waxtwin.core.plan import Aim, Focus, Target, measures_of, rule_of, targets_for, unit_of
from waxtwin.core.progress import told_target
from waxtwin.core.schools import School
from waxtwin.core.units import converted, figure
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.shared.posed_figure import PosedFigure
from waxtwin.ui.shared.sequence_strip import SequenceStrip
from waxtwin.ui.shared.widgets import label, number

_WIDE = 1e5


class FocusCard(QFrame):
    """`changed(focus or None, label)` for an edit, None to take it off; `task_wanted` for another practice task."""

    changed = Signal(object, str)
    task_wanted = Signal()

    def __init__(
        self, focus: Focus, tasks: Mapping[str, Task], *, desk: Desk, pair: Contrast | None, school: School,
        aim: Aim | None,
    ) -> None:  # fmt: skip
        super().__init__()
        self.setObjectName("card")
        self.focus, self._tasks, self._imperial = focus, tasks, desk.view.imperial
        self._pair, self._school, self._aim = pair, school, aim
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.setSpacing(7)
        top = QHBoxLayout()
        title = label(focus.title, grow=2, bold=True)
        title.setWordWrap(True)
        top.addWidget(title, 1)
        off = QPushButton("Take off")
        off.setToolTip("Work on something else")
        off.clicked.connect(lambda: self.changed.emit(None, "Take off the focus"))
        top.addWidget(off)
        column.addLayout(top)
        if focus.plain:
            column.addWidget(label(focus.plain, wrap=True))
        column.addLayout(self._make_target())
        self.said = label(
            "" if focus.target is None else f"Target: {told_target(focus.target, desk.view.imperial)}.",
            role="soft",
            wrap=True,
        )
        column.addWidget(self.said)
        if pair is not None and focus.target is not None:
            column.addLayout(_figures(desk, MEASURES[focus.target.measure]))
        column.addWidget(label("What to practise", role="soft"))
        for key in focus.tasks:
            if key in tasks:
                column.addWidget(self._make_task(key, tasks[key]))
        more = QPushButton("Another practice task…")
        more.clicked.connect(self.task_wanted)
        row = QHBoxLayout()
        row.addWidget(more)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(1)

    # the target ----------------------------------------------------------------------------------------------------
    def _make_target(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(label("Measure", role="soft"))
        self.measure = QComboBox()
        self.measure.setAccessibleName("target measure")
        self.measure.addItem("no target", "")
        for name in self._names():
            self.measure.addItem(MEASURES[name].label, name)
        chosen = self.focus.target.measure if self.focus.target else ""
        self.measure.setCurrentIndex(max(self.measure.findData(chosen), 0))
        self.measure.activated.connect(lambda i: self._choose_measure(self.measure.itemData(i)))
        row.addWidget(self.measure, 1)
        self.source = QComboBox()
        self.source.setAccessibleName("where the target comes from")
        for box in (self.measure, self.source):  # two cards stand side by side: long names are cut, not the card
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(12)
        row.addWidget(self.source)
        self.aim = self._make_aim()
        row.addWidget(self.aim)
        self._fill_sources()
        return row

    def _make_aim(self) -> QDoubleSpinBox:
        target = self.focus.target
        unit, digits, factor = "", 1, 1.0
        if target is not None:
            factor, unit, digits = converted(1.0, unit_of(target), self._imperial)
        made = number(-_WIDE, _WIDE, decimals=max(digits, 0), suffix="" if not unit else f" {unit}")
        made.setAccessibleName("target")
        made.setEnabled(target is not None)
        if target is not None:
            made.setValue(target.aim * factor)
            made.editingFinished.connect(lambda: self._type(made.value() / factor))
        return made

    def _names(self) -> list[str]:
        """The measures to choose from: the finding's own first, then every other that the pair shows."""
        rule = self._rule()
        own = list(measures_of(rule)) if rule is not None else []
        rest = [row.measure.id for row in self._pair.rows if row.athlete is not None] if self._pair else []
        kept = [self.focus.target.measure] if self.focus.target else []
        return list(dict.fromkeys([*own, *kept, *rest]))

    def _rule(self) -> Rule | None:
        from waxtwin.library.playbook import shipped_playbook

        return rule_of(shipped_playbook(), self.focus.finding)

    def _offered(self, measure: str) -> tuple[Target, ...]:
        if self._pair is None or not measure:
            return ()
        return targets_for(self._pair.row(measure), self._rule(), self._school, self._aim)

    def _fill_sources(self) -> None:
        target = self.focus.target
        self.source.setEnabled(target is not None)
        if target is None:
            return
        for one in self._offered(target.measure):
            words = f"{one.source} {figure(one.aim, unit_of(one), self._imperial)}"
            self.source.addItem(words, one)
        self.source.addItem("own figure", None)
        at = next((i for i in range(self.source.count() - 1) if self.source.itemData(i).source == target.source), None)
        self.source.setCurrentIndex(self.source.count() - 1 if at is None else at)
        self.source.activated.connect(self._choose_source)

    def _choose_measure(self, measure: str) -> None:
        if not measure:
            self._keep(replace(self.focus, target=None), "No target")
            return
        offered = self._offered(measure)
        target = offered[0] if offered else Target(measure, None, 0.0, "own")
        self._keep(replace(self.focus, target=target), f"Target: {MEASURES[measure].label}")

    def _choose_source(self, at: int) -> None:
        chosen, target = self.source.itemData(at), self.focus.target
        if target is not None:
            self._keep(replace(self.focus, target=chosen or replace(target, source="own")), "Set the target")

    def _type(self, aim: float) -> None:
        target = self.focus.target
        if target is not None and abs(aim - target.aim) > 0.5 * 10.0 ** -self.aim.decimals():
            self._keep(replace(self.focus, target=replace(target, aim=aim, source="own")), "Set the target")

    # practice ------------------------------------------------------------------------------------------------------
    def _make_task(self, key: str, task: Task) -> QWidget:
        box = QWidget()
        row = QHBoxLayout(box)
        row.setContentsMargins(0, 0, 0, 0)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(label(f"{task.title}  ·  {task.dose}", bold=True, grow=-0.5))
        words.addWidget(label(f"{task.how} {task.purpose}", grow=-0.5, wrap=True))
        if task.shows or task.picture:
            words.addWidget(SequenceStrip(task))
        if task.caution:
            caution = label(f"▲  {task.caution}", grow=-1, wrap=True)
            caution.setProperty("role", "caution")
            words.addWidget(caution)
        row.addLayout(words, 1)
        off = QPushButton("Leave out")
        off.setAccessibleName(f"leave out {task.title}")
        off.clicked.connect(lambda: self._leave_out(key))
        row.addWidget(off)
        return box

    def _leave_out(self, key: str) -> None:
        tasks = tuple(one for one in self.focus.tasks if one != key)
        self._keep(replace(self.focus, tasks=tasks), "Leave a practice task out")

    def _keep(self, focus: Focus, words: str) -> None:
        self.changed.emit(focus, words)


def _figures(desk: Desk, item: Measure) -> QHBoxLayout:
    """Both figures at the target's stop, its gauge lit."""
    row = QHBoxLayout()
    row.setSpacing(6)
    for side in SIDES:
        posed = PosedFigure(desk, side)
        posed.item = item
        posed.setMinimumSize(150, 152)
        posed.setMaximumHeight(152)
        row.addWidget(posed, 1)
    return row
