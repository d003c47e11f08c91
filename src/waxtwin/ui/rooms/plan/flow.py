"""The Plan room's work: whose plan, its versions, targets, the practice catalogue, and the log behind it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from waxtwin.core.due import Standing
from waxtwin.core.findings import Task
from waxtwin.core.plan import Aim, Focus, Plan, proposed, seen_by_eye
from waxtwin.core.steps import Steps
from waxtwin.core.trend import ArmNote, Figures, Limits
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.plan_state import PlanState, read_state
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.file_dialogs import ask_one

if TYPE_CHECKING:
    from waxtwin.library.store import Library
    from waxtwin.ui.rooms.plan.arm_dialogs import ArmDialog, LimitsDialog
    from waxtwin.ui.rooms.plan.day_dialog import DayDialog
    from waxtwin.ui.rooms.plan.room import PlanRoom
    from waxtwin.ui.rooms.plan.tasks_dialog import CatalogueDialog


_PICTURES = "Pictures and clips (*.png *.jpg *.jpeg *.mp4 *.mov *.m4v *.avi *.mkv *.webm);;Every file (*)"


def _task_picture(path: Path) -> Steps[bytes]:
    from waxtwin.capture.task_picture import task_picture

    return (yield from task_picture(path))


class PlanFlow(QObject):
    """Follows the athlete on the desk, or another one chosen in the room."""

    def __init__(self, context: Context, room: PlanRoom) -> None:
        super().__init__(room)
        self.desk, self.room, self.library, self.jobs = context.desk, room, context.library, context.jobs
        self._schools, self._tell, self._board = context.schools, context.say, context.plan
        self.athlete: int | None = None
        self.dialog: CatalogueDialog | ArmDialog | LimitsDialog | DayDialog | None = None
        room.athlete_chosen.connect(self.choose)
        room.sheet.proposed.connect(self.propose)
        room.sheet.changed.connect(self.keep)
        room.sheet.misread.connect(lambda said: self._tell(Fault(said)))
        room.sheet.sent.connect(self.hand_over)
        room.sheet.catalogue_wanted.connect(self.show_catalogue)
        room.log.note_wanted.connect(self.ask_note)
        room.log.limits_wanted.connect(self.ask_limits)
        room.log.thrown.connect(self.set_thrown)
        room.log.speeds_wanted.connect(self.ask_speeds)
        room.log.arm_sensor_wanted.connect(self.ask_arm_sensor)
        room.log.note_unwanted.connect(self.forget_note)
        room.entered.connect(self._enter)
        room.turned.connect(lambda _: self.see_who_is_due())
        room.due.chosen.connect(self._open_log)
        desk = context.desk
        desk.listen(lambda _: self._lie(), Topic.PAIR)
        desk.listen(lambda _: self.see_who_is_due(), Topic.LANDING)
        desk.listen(lambda _: self.show(), Topic.EXPLANATION, Topic.UNITS, Topic.LANDING, Topic.FIGURES, Topic.THROWS)
        context.library.listed.connect(self.read)
        self._lie()

    @property
    def state(self) -> PlanState:
        """What is shown, as the Report room reads it too."""
        return self._board.state

    @state.setter
    def state(self, state: PlanState) -> None:
        self._board.state = state

    # following -----------------------------------------------------------------------------------------------------
    def _lie(self) -> None:
        """Another pair: its athlete's plan."""
        self.athlete = self._on_desk() or self.athlete
        self.read()

    def _on_desk(self) -> int | None:
        stored = self.desk.pair.stored.get("athlete")
        return None if stored is None else self.library.athlete_of(stored.key)

    def _enter(self) -> None:
        self.show()
        self.work_out()
        self.see_who_is_due()

    def _open_log(self, athlete: int) -> None:
        self.choose(athlete)
        self.room.turn_to("log")

    def see_who_is_due(self) -> None:
        """Work out where everybody stands, while that is on show."""
        library, landing = self.library.store, self.desk.pair.landing
        if library is None or self.room.view != "due" or not self.room.isVisible():
            return

        def work() -> Steps[list[Standing]]:
            from waxtwin.library.due import standings_of

            return (yield from standings_of(library, landing, date.today()))

        def done(found: list[Standing]) -> None:
            self.room.due.show_all(found, len(self.library.people))

        self.jobs.start("due", work, done, self._tell)

    def choose(self, athlete: int) -> None:
        """Show another athlete's plan and log."""
        self.athlete = athlete
        self.read()

    def read(self) -> None:
        """Read plans, notes and sessions again; the figures of the log follow when the room is on show."""
        library = self.library.store
        people = self.library.people
        if self.athlete not in people:
            self.athlete = self._on_desk() or next(iter(people), None)
        known = self.state.figures if self.state.athlete == self.athlete else ()
        self.state = PlanState() if library is None or self.athlete is None else read_state(library, self.athlete)
        self.state = replace(self.state, people=people, figures=known)
        self.show()
        if self.room.isVisible():
            self.work_out()
            self.see_who_is_due()

    def work_out(self) -> None:
        """Work out the figures of every throw of the athlete that are not known yet."""
        library, athlete, landing = self.library.store, self.athlete, self.desk.pair.landing
        if library is None or athlete is None:
            return

        def work() -> Steps[tuple[Figures, ...]]:
            from waxtwin.library.log import figures_of

            return (yield from figures_of(library, athlete, landing))

        def done(found: tuple[Figures, ...]) -> None:
            self.state = replace(self.state, figures=found)
            self.show()

        self.jobs.start("log", work, done, self._tell)

    def show(self) -> None:
        """Show everything as it is now, or once the room comes on show."""
        if not self.room.isVisible():
            return
        mine = self.athlete is not None and self.athlete == self._on_desk()
        self.state = replace(self.state, aim=self._aim() if mine else None, seen=self._seen() if mine else ())
        self.room.show_state(self.state, self.desk.pair.figures if mine else None, lambda: self._schools.speaking)

    def _aim(self) -> Aim | None:
        from waxtwin.library.plans import aim_of

        stored = self.desk.pair.stored.get("athlete")
        return None if stored is None else aim_of(stored)

    def _seen(self) -> tuple[Focus, ...]:
        found = self.desk.pair.explanation
        return () if found is None else seen_by_eye(found.judgement, self._schools.speaking, found.perspective.playbook)

    # the plan ------------------------------------------------------------------------------------------------------
    def keep(self, plan: Plan, label: str) -> None:
        """Keep the plan as it is now, as one change."""
        from waxtwin.library.plans import keep_plan

        athlete = self.athlete
        if athlete is not None:
            self.library.change(lambda library: keep_plan(library, athlete, plan, label), 0)

    def propose(self) -> None:
        """Take over what the Gap room has in focus, with targets and tasks."""
        found, pair = self.desk.pair.explanation, self.desk.pair.figures
        if found is None or pair is None or self.athlete != self._on_desk():
            self._tell("The Gap room has nothing for this athlete yet: put a throw of theirs and a twin on the desk.")
            return
        aim = self._aim()
        focus = proposed(found.judgement, pair, self._schools.speaking, self.state.tasks, aim)
        if not focus:
            self._tell("The Gap room proposes nothing for this pair: put in something of your own.")
            return
        plan = self.state.plan or Plan(1, ())
        if plan.sent is not None:  # another thing to work on starts when it is handed over, not when the last one did
            plan = replace(plan, start=None, next_look=None)
        self.keep(replace(plan, focus=focus, speed_aim=aim.speed if aim else plan.speed_aim), "Take over the focus")

    def hand_over(self) -> None:
        """Say that the plan was handed over today; from here on changes make a new version."""
        from waxtwin.library.plans import hand_over

        athlete = self.athlete
        if athlete is not None and self.library.change(lambda library: hand_over(library, athlete, date.today()), 0):
            self._tell(
                Success("Noted as handed over today. The next change makes a new version; this one stays as it is.")
            )

    def show_catalogue(self, at: int | None = None) -> None:
        """The practice catalogue: change tasks, or choose one for a focus."""
        from waxtwin.library.plans import forget_task, keep_task
        from waxtwin.ui.rooms.plan.tasks_dialog import CatalogueDialog

        library = self.library.store
        if library is None:
            return
        dialog = CatalogueDialog(self.state.tasks, self.state.own_tasks, choosing=at is not None, parent=self.room)

        def change(work: Callable[[Library], None]) -> None:
            self.library.change(work, 0)
            dialog.fill(self.state.tasks, self.state.own_tasks)

        def keep(key: str, task: Task) -> None:
            change(lambda library: keep_task(library, key, task))

        def take(key: str) -> None:
            plan = self.state.plan
            if plan is not None and at is not None and key not in plan.focus[at].tasks:
                focus = plan.focus[at]
                self.keep(plan.with_focus(at, replace(focus, tasks=(*focus.tasks, key))), "Add a practice task")

        def picture() -> None:
            path = ask_one(dialog, "A picture or a clip", _PICTURES)
            if path is not None:
                self.jobs.start("picture", lambda: _task_picture(path), dialog.set_picture, dialog.said.setText)

        dialog.kept.connect(keep)
        dialog.picture_wanted.connect(picture)
        dialog.removed.connect(lambda key: change(lambda library: forget_task(library, key)))
        dialog.taken.connect(take)
        dialog.open()
        self.dialog = dialog

    # the log -------------------------------------------------------------------------------------------------------
    def ask_note(self) -> None:
        """Note how the arm is."""
        from waxtwin.ui.rooms.plan.arm_dialogs import ArmDialog

        dialog = ArmDialog(date.today(), self.room)
        dialog.kept.connect(self.note_arm)
        dialog.open()
        self.dialog = dialog

    def note_arm(self, note: ArmNote) -> None:
        """Keep an arm note."""
        from waxtwin.library.log import note_arm

        athlete = self.athlete
        if athlete is not None:
            self.library.change(lambda library: note_arm(library, athlete, note), 0)

    def forget_note(self, note: ArmNote) -> None:
        """Take an arm note away."""
        from waxtwin.library.log import forget_arm_note

        athlete = self.athlete
        if athlete is not None:
            self.library.change(lambda library: forget_arm_note(library, athlete, note), 0)

    def set_thrown(self, day: str, thrown: int | None) -> None:
        """Say how many throws were thrown on a day."""
        from waxtwin.library.log import set_day

        athlete = self.athlete
        if athlete is not None:
            self.library.change(lambda library: set_day(library, athlete, day, thrown=thrown), 0)

    def ask_speeds(self) -> None:
        """Type the speeds of a day without footage, or bring them from a CSV file."""
        from waxtwin.library.speeds import set_speeds, typed_speeds
        from waxtwin.ui.rooms.plan.speeds_dialog import SpeedsDialog

        library, athlete = self.library.store, self.athlete
        if library is None or athlete is None:
            return
        dialog = SpeedsDialog(
            date.today(), lambda day: typed_speeds(library, athlete, day), self.desk.view.imperial, self.room
        )
        dialog.kept.connect(lambda days: self.library.change(lambda library: set_speeds(library, athlete, days), 0))
        dialog.open()
        self.dialog = dialog

    def ask_arm_sensor(self) -> None:
        """Type what a sensor on the arm said on a day, or bring it from a CSV file."""
        from waxtwin.library.arm_sensor import set_arm_readings
        from waxtwin.ui.rooms.plan.arm_sensor_dialog import ArmSensorDialog

        athlete = self.athlete
        if athlete is None:
            return
        dialog = ArmSensorDialog(date.today(), self.state.arm_readings, self.room)
        dialog.kept.connect(
            lambda days: self.library.change(lambda library: set_arm_readings(library, athlete, days), 0)
        )
        dialog.open()
        self.dialog = dialog

    def ask_limits(self) -> None:
        """Enter the league's own limits."""
        from waxtwin.library.log import set_limits
        from waxtwin.ui.rooms.plan.arm_dialogs import LimitsDialog

        athlete = self.athlete
        if athlete is None:
            return
        dialog = LimitsDialog(self.state.limits, self.room)

        def keep(limits: Limits) -> None:
            self.library.change(lambda library: set_limits(library, athlete, limits), 0)

        dialog.kept.connect(keep)
        dialog.open()
        self.dialog = dialog
