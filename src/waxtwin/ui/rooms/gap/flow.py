"""The Gap room's work: the explanation behind the desk, schools, rulings on findings, screening, a kept target."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from waxtwin.core.contrast import Contrast
from waxtwin.core.explain import Explanation, Perspective, explain_steps
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.settings import Settings, save_settings
from waxtwin.ui.rooms.gap.room import GapRoom
from waxtwin.ui.shared.open_library import OpenLibrary
from waxtwin.ui.shell.jobs import Jobs

if TYPE_CHECKING:
    from waxtwin.core.capacity import Reading
    from waxtwin.core.schools import School
    from waxtwin.library.store import Library
    from waxtwin.ui.rooms.gap.schools_dialog import SchoolsDialog

COMMON = "common"


class GapFlow(QObject):
    """Works the explanation out again whenever the figures are others, and judges it as the chosen school does."""

    def __init__(
        self, desk: Desk, room: GapRoom, librarian: OpenLibrary, jobs: Jobs, settings: Settings,
        tell: Callable[[object], None],
    ) -> None:  # fmt: skip
        super().__init__(room)
        self.desk, self.room, self.librarian, self.jobs, self.settings = desk, room, librarian, jobs, settings
        self._tell = tell
        self.schools: list[School] = []
        self._asked: Contrast | None = None
        self.dialog: SchoolsDialog | None = None
        room.school_chosen.connect(self.choose_school)
        room.school_wanted.connect(self.show_schools)
        room.findings.ruled.connect(self.rule)
        room.body.kept.connect(self.screen)
        room.whatif.aimed.connect(self.aim)
        desk.listen(self._told)

    def _told(self, topic: str) -> None:
        if topic == "pair":
            self._asked = None
            self.jobs.cancel("explain")
        elif topic in ("figures", "throws"):
            self.explain()

    # explaining ----------------------------------------------------------------------------------------------------
    def explain(self) -> None:
        """Work it out for the figures on the desk, once they are resolved."""
        pair = self.desk.figures
        if pair is None or not pair.athlete.resolved or "athlete" not in self.desk.stored:
            return
        if pair is self._asked:  # told again of the same figures: a session is announced before it is contrasted
            return
        self._asked = pair
        view = self._perspective()
        self.jobs.start("explain", lambda: explain_steps(pair, view), self._take, self._tell)

    def _take(self, found: object) -> None:
        assert isinstance(found, Explanation)
        self.desk.set_explanation(found)

    def _perspective(self) -> Perspective:
        from waxtwin.library.judging import perspective_of

        # the common ground is what all schools hold; the others are asked for their stance
        others = [one for one in self.all_schools() if one.id != COMMON]
        return perspective_of(self.desk.stored["athlete"], self.school, others)

    def _judge_again(self) -> None:
        if self.desk.explanation is not None:
            self.desk.set_explanation(self.desk.explanation.seen_from(self._perspective()))

    # schools -------------------------------------------------------------------------------------------------------
    def all_schools(self) -> list[School]:
        """Shipped and house schools; what is wrong with a file is told once."""
        if not self.schools:
            from waxtwin.library.playbook import load_schools

            self.schools, faults = load_schools()
            for fault in faults:
                self._tell(Fault(fault))
            self.room.offer(self.schools, self.settings.school)
        return self.schools

    @property
    def school(self) -> School:
        """The school that is speaking."""
        schools = self.all_schools()
        return next((one for one in schools if one.id == self.settings.school), schools[0])

    def choose_school(self, name: str) -> None:
        """Let another school speak; what counts as landing goes with it."""
        self.settings.school = name
        save_settings(self.settings)
        self.room.offer(self.all_schools(), name)
        self._judge_again()
        self.desk.set_landing(self.settings.landing or self.school.landing)

    def show_schools(self) -> None:
        """What each school holds; copy one into a house school and change it."""
        from waxtwin.library.playbook import own_schools, save_school
        from waxtwin.ui.rooms.gap.schools_dialog import SchoolsDialog

        dialog = SchoolsDialog(self.all_schools(), self._titles(), self.settings.school, self.room)

        def keep(school: School) -> None:
            if self._keeping(lambda: save_school(school, own_schools())):
                self.schools = []
                self.choose_school(school.id)

        def remove(name: str) -> None:
            (own_schools() / f"{name}.json").unlink(missing_ok=True)
            self.schools = []
            self.choose_school(COMMON)

        dialog.kept.connect(keep)
        dialog.removed.connect(remove)
        dialog.open()
        self.dialog = dialog

    def _titles(self) -> Mapping[str, str]:
        """Titles of all findings by id."""
        from waxtwin.library.judging import shipped_playbook

        return {rule.id: rule.title for rule in shipped_playbook().rules}

    def _keeping(self, work: Callable[[], object]) -> bool:
        from waxtwin.core.errors import WaxTwinError

        try:
            work()
        except WaxTwinError as fault:
            self._tell(Fault(fault))
            return False
        return True

    # what is kept with the athlete's throw -------------------------------------------------------------------------
    def rule(self, finding: str, ruling: str, reason: str) -> None:
        """Accept a finding, set it aside, or leave it to its rank again."""
        from waxtwin.library.judging import rule_finding

        verb = {"accept": "Take into the focus", "set aside": "Set aside"}.get(ruling, "Leave to its rank")
        label = f"{verb}: {self._titles().get(finding, finding)}"
        self._change(lambda library, key: rule_finding(library, key, finding, ruling, label, reason))

    def screen(self, readings: Mapping[str, Reading], pain: str) -> None:
        """Keep the athlete's screening."""
        from waxtwin.library.judging import keep_screening, screening_document

        document = screening_document(readings, pain)
        name = self.desk.stored["athlete"].title if "athlete" in self.desk.stored else ""
        self._change(lambda library, key: keep_screening(library, key, document, f"Screening, {name}"))

    def aim(self, shares: Mapping[str, float], speed: float) -> None:
        """Keep a what-if as the target for the plan."""
        from waxtwin.library.judging import keep_target

        if self._change(lambda library, key: keep_target(library, key, shares, speed)):
            self._tell(Success("The target is kept with the athlete's throw."))

    def _change(self, work: Callable[[Library, int], None]) -> bool:
        """One change of the athlete's throw that leaves its figures as they are; judged again at once."""
        stored, library = self.desk.stored.get("athlete"), self.librarian.library
        if stored is None or stored.key is None or library is None:
            self._tell("This throw is not in a library, so nothing can be kept with it; import it first.")
            return False
        key = stored.key
        if not self.librarian.change(lambda library: work(library, key), 0):
            return False
        from waxtwin.library.throws import fetch

        self.desk.stored["athlete"] = fetch(library, key)
        self._judge_again()
        return True
