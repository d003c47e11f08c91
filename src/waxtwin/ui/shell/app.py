"""What happens in the window: opening, computing, correcting. The rooms show it, the frame holds them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QInputDialog

from waxtwin.core.contrast import Contrast
from waxtwin.core.measures import MEASURES
from waxtwin.library.stored import StoredDelivery
from waxtwin.ui.model.desk import SIDES, Desk
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.settings import SMOOTHING, Settings, save_settings
from waxtwin.ui.model.wording import progress_words, stop_of
from waxtwin.ui.rooms.bench.room import BenchRoom
from waxtwin.ui.rooms.contrast.references import References
from waxtwin.ui.rooms.contrast.room import ContrastRoom
from waxtwin.ui.rooms.gap.flow import GapFlow
from waxtwin.ui.rooms.gap.room import GapRoom
from waxtwin.ui.rooms.pair.computing import (
    Found,
    Sessions,
    compute,
    compute_others,
    compute_sets,
    read_again,
    read_delivery,
    read_pair,
)
from waxtwin.ui.rooms.pair.kept_pair import KeptPair
from waxtwin.ui.rooms.pair.room import PairRoom
from waxtwin.ui.rooms.pair.stop_edits import StopEditor
from waxtwin.ui.rooms.plan.flow import PlanFlow
from waxtwin.ui.rooms.plan.room import PlanRoom
from waxtwin.ui.rooms.prepare.flow import PrepareFlow
from waxtwin.ui.rooms.prepare.room import PrepareRoom
from waxtwin.ui.rooms.prepare.state import PrepareState
from waxtwin.ui.rooms.report.flow import ReportFlow
from waxtwin.ui.rooms.report.room import ReportRoom
from waxtwin.ui.rooms.session.flow import SessionFlow
from waxtwin.ui.rooms.session.room import SessionRoom
from waxtwin.ui.shared.file_dialogs import use as use_places
from waxtwin.ui.shared.open_library import OpenLibrary, data_folder, demo_folder, summary
from waxtwin.ui.shared.quantity import use_units
from waxtwin.ui.shared.widgets import Room
from waxtwin.ui.shell.commands import install
from waxtwin.ui.shell.faults import Faults
from waxtwin.ui.shell.guide import Guide
from waxtwin.ui.shell.intake import Intake
from waxtwin.ui.shell.jobs import Jobs
from waxtwin.ui.shell.menu import commands
from waxtwin.ui.shell.window import MainWindow

if TYPE_CHECKING:
    from waxtwin.library.journal import Change
    from waxtwin.library.pairs import Pair

DEMO_PAIR = ("wren-tollander", "ines-corvane")


class App(QObject):
    """The desk, the jobs behind it, undo, and the rooms, in one frame."""

    _fault_anywhere = Signal(str, str)
    bench: BenchRoom
    pair: PairRoom
    contrast: ContrastRoom
    gap: GapRoom
    plan: PlanRoom
    report: ReportRoom
    desk: Desk
    librarian: OpenLibrary

    def __init__(self, frame: MainWindow, settings: Settings) -> None:
        super().__init__(frame)
        self.frame, self.settings, self.notice = frame, settings, frame.notice
        self.desk = Desk()
        self.desk.imperial = settings.imperial
        self.desk.landing = settings.landing or self.desk.landing
        self.faults = Faults(self._fault_anywhere.emit)
        self.faults.install()
        self.jobs = Jobs(self, self.faults.take)
        self.librarian = OpenLibrary(self.jobs)
        self.intake, self.guide = Intake(self), Guide(self)
        self.bench, self.pair = BenchRoom(self.desk, self.librarian), PairRoom(self.desk)
        self.piece = PrepareState()
        self.preparer = PrepareFlow(self.piece, self.librarian, self.jobs)
        self.prepare = PrepareRoom(self.piece, self.preparer)
        self.contrast = ContrastRoom(self.desk)
        self.gap = GapRoom(self.desk)
        self.references = References(self.desk, frame, settings, self.notice.say)
        self.corrector = StopEditor(self.desk, self.librarian, frame, self.notice.say)
        self.keeper = KeptPair(self.desk, self.librarian, frame, self.notice.say)
        self.explainer = GapFlow(self.desk, self.gap, self.librarian, self.jobs, settings, self.notice.say)
        self.plan = PlanRoom(self.desk)
        self.planner = PlanFlow(
            self.desk, self.plan, self.librarian, self.jobs, lambda: self.explainer.school, self.notice.say
        )
        self.report = ReportRoom()
        self.reporter = ReportFlow(
            self.desk, self.report, self.librarian, self.jobs, lambda: self.planner.state, self.notice.say
        )
        self.session = SessionRoom()
        self.live = SessionFlow(self.desk, self.session, self.librarian, self.jobs, self.notice.say)
        self.rooms: list[Room] = [
            self.bench, self.prepare, self.pair, self.contrast, self.gap, self.plan, self.report, self.session,
        ]  # fmt: skip
        frame.furnish(self.rooms)
        frame.menuBar().clear()
        self.actions = install(frame, commands(self))
        self._contrasted: StoredDelivery | None = None
        self._asked_about: int | None = None
        use_places(settings)
        use_units(frame, imperial=settings.imperial)
        self._connect()
        self.go_to("Bench")

    def _tell_fault(self, sentence: str, details: str) -> None:
        """A fault of the program itself, with what can be copied for whoever mends it."""
        self.notice.say(Fault(sentence), "Copy details", lambda: QGuiApplication.clipboard().setText(details))

    def _connect(self) -> None:
        self._fault_anywhere.connect(self._tell_fault)
        self.bench.chosen.connect(self.take)
        self.bench.library_wanted.connect(self.intake.ask_library)
        self.bench.folder_wanted.connect(self.intake.ask_folder)
        self.bench.file_wanted.connect(lambda: self.intake.ask_file(None))
        self.bench.demo_wanted.connect(self.open_demo)
        self.bench.tour_wanted.connect(self.guide.start_tour)
        self.bench.prepare_wanted.connect(self.prepare_throw)
        self.prepare.taken.connect(self._take_prepared)
        self.preparer.told.connect(self.notice.say)
        self.contrast.told.connect(self.notice.say)
        self.contrast.table.doubleClicked.connect(lambda _: self.references.explain_measure())
        self.pair.panel.explained.connect(self.references.explain_measure)
        self.bench.athlete_wanted.connect(self.edit_athlete)
        self.bench.done.connect(lambda: self.go_to("Pair"))
        self.bench.twin_wanted.connect(self.find_twin)
        self.bench.pair_wanted.connect(self.open_kept)
        self.bench.blend_wanted.connect(self.ask_blend)
        self.bench.pair_unwanted.connect(self.keeper.forget)
        self.keeper.listed.connect(self._list_pairs)
        self.bench.another_wanted.connect(self.keeper.add_twin)
        self.pair.panel.unpinned.connect(self.keeper.unpin)
        self.pair.seam.corrected.connect(self.corrector.correct)
        self.corrector.altered.connect(self._recompute)
        self.references.altered.connect(self._recompute_pair)
        self.gap.findings.seen.connect(self._see)
        self.pair.header.taken.connect(self.take)
        self.live.taken.connect(self._take_live)
        self.librarian.opened.connect(self._library_opened)
        self.librarian.altered.connect(self._reload)
        self.librarian.told.connect(self.notice.say)
        self.librarian.brought.connect(self._tell_brought)
        self.librarian.overdue.connect(self._tell_overdue)
        self.librarian.lost.connect(self.intake.offer_backup)
        self.jobs.progressed.connect(self._show_progress)
        self.jobs.ended.connect(lambda _: self._hide_progress())
        self.frame.asked.connect(self.go_to)
        self.frame.dropped.connect(self.intake.receive)
        self.frame.busy.cancelled.connect(self.jobs.cancel_all)
        self.frame.closing.connect(self.close)
        self.desk.listen(self._told)

    def close(self) -> None:
        """Let go of clips and threads."""
        self.keeper.save()
        self.live.close()
        self.pair.close_clips()
        self.prepare.close_clips()
        self.jobs.close()
        self.librarian.close()
        self.faults.remove()

    def go_to(self, name: str) -> None:
        """Show a room by its name."""
        if name != "Pair":
            self.desk.play(0)
        self.frame.show_room(next(room for room in self.rooms if room.title == name))
        if name == "Pair":
            self.pair.seam.setFocus()

    # opening -------------------------------------------------------------------------------------------------------
    def open_demo(self) -> None:
        """The demo library, with its first pair on the desk."""

        def lay_out() -> None:
            athlete, twin = (self.librarian.find(title) for title in DEMO_PAIR)
            if athlete is not None and twin is not None:
                self.take_pair(athlete, twin)
            self.go_to("Pair")

        self.librarian.open(demo_folder(), lay_out)

    def own_library(self) -> Path:
        """Where the user's own library lies, or would be made."""
        return Path(self.settings.folder) if self.settings.folder else data_folder() / "library"

    def _tell_brought(self, found: object) -> None:
        assert isinstance(found, list)
        plain = len(found) == 1 and not found[0].fault
        if found and plain and self.frame.room is self.prepare:
            return  # the room that it leads to says enough
        self.notice.say(summary(found), "" if len(found) < 2 else "Full list", lambda: self.intake.show_list(found))

    def _tell_overdue(self, late: object) -> None:
        assert isinstance(late, list)
        names = ", ".join(name for _, name, _ in late[:3]) + (" and others" if len(late) > 3 else "")
        words = f"The date until which data was to be kept has passed for {names}."
        self.notice.say(words, "Erase or keep longer…", lambda: self.intake.show_overdue(late))

    def undo(self) -> None:
        """Take the latest change back; what is not in sight only when asked twice."""
        library = self.librarian.library
        self._turn(None if library is None else library.next_undo(), "Undo would take back", self.librarian.undo)

    def redo(self) -> None:
        """Do again what was taken back; what is not in sight only when asked twice."""
        library = self.librarian.library
        self._turn(None if library is None else library.next_redo(), "Redo would do again", self.librarian.redo)

    def _turn(self, change: Change | None, words: str, do: Callable[[], None]) -> None:
        if change is None:
            return
        seen = self._in_sight()
        if seen and change.throws and not change.throws & seen and self._asked_about != change.id:
            self._asked_about = change.id
            self.notice.say(f"{words} “{change.label}”, which is not in sight here. Again to do it.", "Do it", do)
            return
        self._asked_about = None
        if words and self.notice.text.startswith(words):
            self.notice.hide()
        do()

    def _in_sight(self) -> frozenset[int]:
        """Keys of the throws that the room on show is about; none where it is about all of them."""
        if self.frame.room is self.prepare:
            return frozenset() if self.piece.work is None else frozenset({self.piece.work.key})
        if self.frame.room in (self.pair, self.contrast, self.gap, self.report):
            return frozenset(stored.key for stored in self.desk.stored.values() if stored.key is not None)
        return frozenset()

    def open_library(self, folder: Path) -> None:
        """Open a library, or make one."""
        self.librarian.open(folder)

    def _library_opened(self) -> None:
        self.desk.clear()
        self._list_pairs()
        library = self.librarian.library
        assert library is not None
        library.smoothing = SMOOTHING[self.settings.smoothing]
        if library.folder != demo_folder():
            self.settings.folder = str(library.folder)
            save_settings(self.settings)

    def take(self, side: str, key: int) -> None:
        """Read a throw and lay it on a side of the desk; a fault leaves the desk as it is."""
        library = self.librarian.library
        if library is not None:
            self.jobs.start(
                f"read {side}", lambda: read_delivery(library, key), lambda stored: self._taken(side, stored),
                self.notice.say,
            )  # fmt: skip

    def take_pair(self, athlete: int, twin: int) -> None:
        """Read two throws and lay both on the desk at once; a fault leaves the desk as it is."""
        library = self.librarian.library
        if library is not None:
            keys = dict(zip(SIDES, (athlete, twin), strict=True))
            self.jobs.start("read pair", lambda: read_pair(library, keys), self._pair_taken, self.notice.say)

    def _pair_taken(self, found: object) -> None:
        assert isinstance(found, dict)
        self.keeper.save()
        self.desk.set_pair(found["athlete"], found["twin"])
        self._recompute()

    def _taken(self, side: str, stored: object) -> None:
        assert isinstance(stored, StoredDelivery)
        pair = dict(self.desk.stored)
        pair[side] = stored
        if len(pair) == 2:
            self.keeper.save()
            self.desk.set_pair(pair["athlete"], pair["twin"])
            self._recompute()
        else:
            self.desk.stored = pair
            self.desk.tell("pair")

    def _list_pairs(self) -> None:
        from waxtwin.library.pairs import recent

        library = self.librarian.library
        self.bench.show_recent([] if library is None else recent(library))

    def open_kept(self, pair: Pair) -> None:
        """Open a kept pair as it was left."""
        self.take_pair(pair.athlete, pair.twin)
        self.go_to("Pair")

    def ask_blend(self, keys: list[int]) -> None:
        """Average the selected throws into one that can be a twin, by a name that says what it is."""
        names = sorted({entry.name for entry in self.librarian.entries if entry.id in keys})
        words = f"An average of {len(keys)} throws; nobody threw it. What it is called:"
        usual = f"Blend of {', '.join(names[:3])}"
        name, good = QInputDialog.getText(self.frame, "Blend throws", words, text=usual)
        if good and name.strip():
            self.librarian.blend(keys, name.strip(), self.bench.select)

    def find_twin(self, athlete: int) -> None:
        """Rank the library for an athlete's throw; profiles that are missing are worked out first."""
        from waxtwin.ui.rooms.bench.twins_dialog import TwinDialog

        library = self.librarian.library
        if library is None:
            return
        name = next((entry.name for entry in self.librarian.entries if entry.id == athlete), "")
        dialog = TwinDialog(athlete, name, self.frame)

        def work() -> Iterator[object]:
            from waxtwin.library.profiles import fill, profiles

            yield from fill(library)
            yield Found(profiles(library))

        def done(found: object) -> None:
            assert isinstance(found, Found)
            dialog.show_shelf(found.shelf)

        def take(athlete: int, twin: int, why: str) -> None:
            self.keeper.why = why
            self.take_pair(athlete, twin)
            self.go_to("Pair")

        dialog.chosen.connect(take)
        dialog.finished.connect(lambda _: self.jobs.cancel("profiles"))
        self.jobs.start("profiles", work, done, self.notice.say)
        dialog.open()
        self.twin_dialog = dialog

    def prepare_throw(self, key: int) -> None:
        """Bring a throw into the Prepare room."""
        self.preparer.take(key)
        self.go_to("Prepare")

    def _take_prepared(self, side: str) -> None:
        if self.piece.work is not None:
            self.take(side, self.piece.work.key)
            self.go_to("Pair" if any(other != side for other in self.desk.stored) else "Bench")

    def _take_live(self, key: int) -> None:
        self.take("athlete", key)
        self.go_to("Contrast" if "twin" in self.desk.stored else "Bench")

    def edit_athlete(self, athlete_id: int) -> None:
        """Who an athlete is, consent, handing out and erasing."""
        from waxtwin.ui.shared.custody import open_athlete

        open_athlete(self.frame, self.librarian, self.jobs, athlete_id)

    def _reload(self, key: int) -> None:
        """Read again what is on the desk after a change of the library."""
        library = self.librarian.library
        on_desk = {
            side: stored.key for side, stored in self.desk.stored.items()
            if stored.key is not None and key in (-1, stored.key)
        }  # fmt: skip
        if library is not None and on_desk:
            self.jobs.start("reload", lambda: read_again(library, on_desk), self._reloaded, self.notice.say)

    def _reloaded(self, found: object) -> None:
        assert isinstance(found, dict)
        for side, stored in found.items():
            if stored is None:
                self.desk.take_off(side)
            else:
                self.desk.renew({side: stored})
        if len(self.desk.stored) == 2:
            self._recompute()

    # results -------------------------------------------------------------------------------------------------------
    def _recompute_pair(self) -> None:
        if len(self.desk.stored) == 2:
            self._recompute()

    def _recompute(self) -> None:
        athlete, twin, landing = self.desk.stored["athlete"], self.desk.stored["twin"], self.desk.landing
        standards = self.references.standards
        self.jobs.cancel("throws")
        self.jobs.start(
            "figures", lambda: compute(athlete, twin, landing, standards), self._take_contrast, self.notice.say
        )

    def _take_contrast(self, contrast: object) -> None:
        assert isinstance(contrast, Contrast)
        first = self.desk.contrast is None
        self.desk.set_contrast(contrast)
        self.keeper.restore()
        self.desk.hold(self.corrector.hold_again)
        self.corrector.hold_again = None
        library = self.librarian.library
        if contrast.athlete.resolved and library is not None:
            pair, landing, standards = dict(self.desk.stored), self.desk.landing, self.references.standards
            self.jobs.start(
                "throws", lambda: compute_sets(library, pair, landing, standards), self._take_sessions, self.notice.say
            )
        warnings = [
            f"{self.desk.stored[side].title}: {text}"
            for side, analysis in (("athlete", contrast.athlete), ("twin", contrast.twin))
            for text in analysis.warnings
        ]
        if first and warnings:
            self.notice.say("  ".join(warnings[:3]))

    def _see(self, measure: str) -> None:
        """Show a measure on the pair, at its stop."""
        self.desk.hold(stop_of(MEASURES[measure], self.desk.landing))
        self.desk.select(measure)
        self.go_to("Pair")

    def _take_sessions(self, found: object) -> None:
        assert isinstance(found, Sessions)
        self.desk.set_throws(found.throws, found.contrast)

    def _contrast_others(self) -> None:
        """Hold the athlete against further twins too, once the pair itself is resolved."""
        pair, others = self.desk.contrast, dict(self.desk.others)
        known = {side: found.athlete.landing for side, found in self.desk.other_contrasts.items()}
        if not others or pair is None or not pair.athlete.resolved:
            return
        if known == dict.fromkeys(others, self.desk.landing) and self._contrasted is self.desk.stored["athlete"]:
            return
        athlete, landing, standards = self.desk.stored["athlete"], self.desk.landing, self.references.standards

        def done(found: object) -> None:
            assert isinstance(found, dict)
            self._contrasted = athlete
            self.desk.set_others(others, found)

        self.jobs.start("others", lambda: compute_others(athlete, others, landing, standards), done, self.notice.say)

    def _told(self, topic: str) -> None:
        if topic == "landing" and len(self.desk.stored) == 2:
            self._recompute()
        elif topic in ("others", "figures"):
            self._contrast_others()
        elif topic == "units":
            use_units(self.frame, imperial=self.desk.imperial)
            self.settings.imperial = self.desk.imperial
            save_settings(self.settings)

    def leave_out(self) -> None:
        """Only the stages and the seam, over the whole screen; the same again brings everything back."""
        alone = not self.desk.display.alone
        self.go_to("Pair")
        self.desk.show(alone=alone)
        self.frame.fill_screen(alone)

    def play(self) -> None:
        """Play or stand still, in the clip that is prepared or on the seam."""
        if self.frame.room is self.prepare:
            self.prepare.play()
        else:
            self.desk.play(0 if self.desk.playing else 1)

    def step(self, frames: int) -> None:
        """Step by frames, in the clip that is prepared or on the seam."""
        if self.frame.room is self.prepare:
            self.piece.go(self.piece.frame + frames)
        else:
            self.desk.play(0)
            self.desk.step(frames)

    # progress ------------------------------------------------------------------------------------------------------
    def _show_progress(self, name: str, share: float) -> None:
        self.frame.busy.tell(progress_words(name, share, self.jobs.remaining(name, share)), share)

    def _hide_progress(self) -> None:
        if not self.jobs.busy:
            self.frame.busy.done()
