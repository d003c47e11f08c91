"""The Gap room's work: which school speaks, rulings on findings, screening, a kept target."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.schools import School
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.school_choice import COMMON, finding_titles

if TYPE_CHECKING:
    from waxtwin.core.capacity import Reading
    from waxtwin.library.store import Library
    from waxtwin.ui.rooms.gap.schools_dialog import SchoolsDialog


class GapFlow(QObject):
    """What is decided in the room, kept and judged again at once. `offered` when the schools are others."""

    offered = Signal()

    def __init__(self, context: Context, room: QWidget) -> None:
        super().__init__(room)
        self.context, self.room = context, room
        self.dialog: SchoolsDialog | None = None

    # schools -------------------------------------------------------------------------------------------------------
    def choose_school(self, name: str) -> None:
        """Let another school speak; what counts as landing goes with it."""
        schools = self.context.schools
        schools.choose(name)
        self.offered.emit()
        self.context.pairs.judge_again()
        self.context.desk.pair.set_landing(schools.landing)

    def show_schools(self) -> None:
        """What each school holds; copy one into a house school and change it."""
        from waxtwin.ui.rooms.gap.schools_dialog import SchoolsDialog

        schools = self.context.schools
        explanation = self.context.desk.pair.explanation
        pair = {} if explanation is None else explanation.told_by(schools.all())
        dialog = SchoolsDialog(schools.all(), finding_titles(), schools.speaking.id, pair, self.room)

        def keep(school: School) -> None:
            try:
                schools.keep(school)
            except WaxTwinError as fault:
                self.context.say(Fault(fault))
                return
            self.choose_school(school.id)

        def remove(name: str) -> None:
            schools.remove(name)
            self.choose_school(COMMON)

        dialog.kept.connect(keep)
        dialog.removed.connect(remove)
        dialog.open()
        self.dialog = dialog

    # what is kept with the athlete's throw -------------------------------------------------------------------------
    def rule(self, finding: str, ruling: str, reason: str) -> None:
        """Accept a finding, set it aside, or leave it to its rank again."""
        from waxtwin.library.rulings import rule_finding

        verb = {"accept": "Take into the focus", "set aside": "Set aside"}.get(ruling, "Leave to its rank")
        label = f"{verb}: {finding_titles().get(finding, finding)}"
        self._change(lambda library, key: rule_finding(library, key, finding, ruling, label, reason))

    def screen(self, readings: Mapping[str, Reading], pain: str) -> None:
        """Keep the athlete's screening."""
        from waxtwin.library.judging import screening_document
        from waxtwin.library.rulings import keep_screening

        document = screening_document(readings, pain)
        name = self.context.desk.pair.stored["athlete"].title if "athlete" in self.context.desk.pair.stored else ""
        self._change(lambda library, key: keep_screening(library, key, document, f"Screening, {name}"))

    def aim(self, shares: Mapping[str, float], speed: float) -> None:
        """Keep a what-if as the target for the plan."""
        from waxtwin.library.rulings import keep_target

        if self._change(lambda library, key: keep_target(library, key, shares, speed)):
            self.context.say(Success("The target is kept with the athlete's throw."))

    def _change(self, work: Callable[[Library, int], None]) -> bool:
        """One change of the athlete's throw that leaves its figures as they are; judged again at once."""
        stored, library = self.context.desk.pair.stored.get("athlete"), self.context.library.store
        if stored is None or stored.key is None or library is None:
            self.context.say("This throw is not in a library, so nothing can be kept with it; import it first.")
            return False
        key = stored.key
        if not self.context.library.change(lambda library: work(library, key), 0):
            return False
        from waxtwin.library.throws import fetch

        self.context.desk.pair.renew({"athlete": fetch(library, key)})
        self.context.pairs.judge_again()
        return True
