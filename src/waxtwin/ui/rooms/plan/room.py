"""The Plan room: what the athlete works on, and the log of whether it works."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QComboBox, QStackedWidget

from waxtwin.core.contrast import Contrast
from waxtwin.core.schools import School
from waxtwin.ui.model.plan_state import PlanState
from waxtwin.ui.rooms.plan.due_view import DueView
from waxtwin.ui.rooms.plan.flow import PlanFlow
from waxtwin.ui.rooms.plan.log_view import LogView
from waxtwin.ui.rooms.plan.plan_sheet import PlanSheet
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.room import Room
from waxtwin.ui.shared.widgets import Cautions, Choice, label, offer_people


class PlanRoom(Room):
    """`athlete_chosen(id)`; `entered` when it comes on show, `turned(view)` when another view does. What is edited goes
    on from its views.
    """

    athlete_chosen = Signal(int)
    entered = Signal()
    turned = Signal(str)

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.desk = desk = context.desk
        column, top = self.begin_layout("Plan")
        self.athlete = QComboBox()
        self.athlete.setAccessibleName("whose plan")
        self.athlete.setMinimumWidth(220)
        self.athlete.activated.connect(lambda i: self.athlete_chosen.emit(self.athlete.itemData(i)))
        top.addWidget(self.athlete)
        top.addStretch(1)
        self.pages = Choice(
            "", (("plan", "What to work on"), ("log", "Log over time"), ("due", "Who is due")), self.turn_to
        )
        top.addWidget(self.pages, 0, Qt.AlignmentFlag.AlignRight)
        self.hint = label("", role="soft", grow=1)
        self.hint.setWordWrap(True)
        column.addWidget(self.hint)
        self.sheet, self.log, self.due = PlanSheet(desk), LogView(), DueView()
        self._stack = QStackedWidget()
        self._views = {"plan": self.sheet, "log": self.log, "due": self.due}
        for view in self._views.values():
            self._stack.addWidget(view)
        column.addWidget(self._stack, 1)
        self.cautions = Cautions()
        column.addWidget(self.cautions)
        self.turn_to("plan")
        self.flow = PlanFlow(context, self)

    def turn_to(self, view: str) -> None:
        """Show the plan, the log, or everybody."""
        self.pages.set(view)
        self._stack.setCurrentWidget(self._views[view])
        self.athlete.setEnabled(view != "due")
        self.turned.emit(view)

    @property
    def view(self) -> str:
        """What is shown: "plan", "log" or "due"."""
        return next(name for name, view in self._views.items() if view is self._stack.currentWidget())

    def show_state(self, state: PlanState, pair: Contrast | None, school: Callable[[], School]) -> None:
        """Show an athlete's plan and log; `pair` is theirs on the desk, from which targets are offered."""
        self._fill_people(state)
        known = state.athlete is not None
        self.hint.setText("" if known else "No athlete yet: open a library on the Bench; the demo has one with a plan.")
        self.hint.setVisible(not known)
        self._stack.setVisible(known)
        self.pages.setVisible(known)
        if known:
            self.sheet.show_state(state, pair, school)
            self.log.show_state(state, self.desk.view.imperial)

    def _fill_people(self, state: PlanState) -> None:
        offer_people(self.athlete, state.people, state.athlete)
        self.athlete.setVisible(bool(state.people))

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.entered.emit()
