"""Everything that is open, put together: desk, library, long work, rooms and commands in one window."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QAction, QGuiApplication

from waxtwin.ui import rooms
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.finder import Finder
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.pair_flow import PairFlow
from waxtwin.ui.model.settings import SMOOTHING, Settings, save_settings
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import progress_words
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.file_dialogs import use as use_places
from waxtwin.ui.shared.house import House
from waxtwin.ui.shared.kept_pair import KeptPair
from waxtwin.ui.shared.open_library import OpenLibrary, data_folder, demo_folder, summary
from waxtwin.ui.shared.quantity import use_units
from waxtwin.ui.shared.references import References
from waxtwin.ui.shared.room import Room
from waxtwin.ui.shared.school_choice import Schools
from waxtwin.ui.shared.talk_recording import TalkRecording
from waxtwin.ui.shared.talks import Talks
from waxtwin.ui.shared.work_queue import WorkQueue
from waxtwin.ui.shell.commands import install
from waxtwin.ui.shell.faults import Faults
from waxtwin.ui.shell.guide import Guide
from waxtwin.ui.shell.intake import Intake
from waxtwin.ui.shell.jobs import Jobs
from waxtwin.ui.shell.menu import commands
from waxtwin.ui.shell.rooms_on_demand import RoomsOnDemand
from waxtwin.ui.shell.undo import Undo
from waxtwin.ui.shell.window import MainWindow

if TYPE_CHECKING:
    from waxtwin.library.importing import Brought
    from waxtwin.ui.rooms import RoomRecord
    from waxtwin.ui.rooms.bench.room import BenchRoom
    from waxtwin.ui.rooms.contrast.room import ContrastRoom
    from waxtwin.ui.rooms.gap.room import GapRoom
    from waxtwin.ui.rooms.pair.room import PairRoom
    from waxtwin.ui.rooms.plan.room import PlanRoom
    from waxtwin.ui.rooms.prepare.room import PrepareRoom
    from waxtwin.ui.rooms.report.room import ReportRoom
    from waxtwin.ui.rooms.session.room import SessionRoom
    from waxtwin.ui.rooms.talk.room import TalkRoom

DEMO_PAIR = ("wren-tollander", "ines-corvane")


class App(QObject):
    """The parts, each by its name; the rooms too, by the ids of their records."""

    _fault_anywhere, _away_anywhere = Signal(str, str), Signal(object)
    desk: Desk
    library: OpenLibrary
    bench: BenchRoom
    prepare: PrepareRoom
    pair: PairRoom
    contrast: ContrastRoom
    gap: GapRoom
    plan: PlanRoom
    report: ReportRoom
    talk: TalkRoom
    session: SessionRoom

    def __init__(self, window: MainWindow, settings: Settings) -> None:
        super().__init__(window)
        self.window, self.settings, self.notice = window, settings, window.notice
        self.faults = Faults(self._fault_anywhere.emit, self._away_anywhere.emit)
        self._fault_anywhere.connect(self._tell_fault)
        self._away_anywhere.connect(self._tell)
        self.faults.install()
        self.jobs = Jobs(self, self.faults.take)
        self.library = OpenLibrary(self.jobs)
        self.desk = Desk()
        self.desk.view.set_imperial(settings.imperial)
        if settings.landing:
            self.desk.pair.set_landing(settings.landing)
        say = self._tell
        schools = Schools(self.desk, settings, say)
        references = References(self.desk, window, settings, say)
        self.pairs = PairFlow(
            self.desk, self.jobs, lambda: self.library.store, standards=lambda: references.standards,
            perspective=schools.perspective, say=say,
        )  # fmt: skip
        references.altered.connect(self.pairs.recompute)
        self.work = WorkQueue(self.library, self.jobs)
        self.work.said.connect(say)
        self.finder = Finder(
            self.desk, self.jobs, lambda: self.library.store, wanted=lambda: self.settings.finding,
            hand_over=self.work.hand_over, announce=self.library.announce, say=say,
        )  # fmt: skip
        self.kept = KeptPair(self.desk, self.library, self.pairs, window, say)
        self.talks: Talks = Talks(self.desk, self.library, window)
        self.recording = TalkRecording(self.talks, self.jobs, say)
        self.context = Context(
            self.desk, self.library, self.jobs, settings, self.pairs, schools, references, self.kept,
            House(self.pairs, say), self.talks, self.recording, self.work, window,
            say=say, go_to=self.go_to, prepare=self.prepare_throw, do=self.do,
        )  # fmt: skip
        use_places(settings)
        use_units(window, imperial=settings.imperial)
        self.rooms = RoomsOnDemand(self._build)
        self.rooms.build_first()
        self.intake, self.guide, self.undo = Intake(self), Guide(self), Undo(window, self.library)
        window.menuBar().clear()
        self.actions: dict[str, QAction] = install(window, commands(self))
        self._connect()
        self.go_to(rooms.ROOMS[0].title)

    def _build(self, record: RoomRecord) -> Room:
        room = record.make(self.context)
        self.window.put(record.title, room)
        setattr(self, record.id, room)
        return room

    def __getattr__(self, name: str) -> Room:
        """A room by the id of its record, before it is built."""
        for record in rooms.ROOMS:
            if record.id == name:
                return self.rooms[record.title]
        raise AttributeError(name)

    def _connect(self) -> None:
        self.library.opened.connect(self._library_opened)
        self.library.altered.connect(self.pairs.reread)
        self.library.told.connect(self._tell)
        self.library.brought.connect(self._tell_brought)
        self.library.overdue.connect(self._tell_overdue)
        self.library.lost.connect(self.intake.offer_backup)
        self.library.team.stood.connect(self._tell_server)
        self.jobs.progressed.connect(self._show_progress)
        self.jobs.ended.connect(lambda _: self._hide_progress())
        self.window.asked.connect(self.go_to)
        self.window.dropped.connect(self.intake.receive)
        self.window.busy.cancelled.connect(self.jobs.cancel_all)
        self.window.closing.connect(self.close)
        self.desk.listen(self._remember_units, Topic.UNITS)
        self.recording.recorded.connect(self._tell_recorded)

    def close(self) -> None:
        """Let go of clips, devices and threads."""
        self.kept.save()
        for room in self.rooms.built.values():
            room.let_go()
        self.jobs.close()
        self.work.close()
        self.library.close()
        self.faults.remove()

    # going about ---------------------------------------------------------------------------------------------------
    def go_to(self, title: str) -> None:
        """Show a room by its title."""
        room = self.rooms[title]
        if room is not self.pair:
            self.desk.clock.play(0)
        self.window.show_room(title)
        if room is self.pair:
            self.pair.seam.setFocus()

    def do(self, command: str) -> None:
        """Carry out a command of the menu by its id. Raises KeyError."""
        self.actions[command].trigger()

    def prepare_throw(self, key: int) -> None:
        """Bring a throw into the Prepare room."""
        self.prepare.bring(key)
        self.go_to("Prepare")

    def open_demo(self) -> None:
        """The demo library, with its first pair on the desk."""

        def lay_out() -> None:
            athlete, twin = (self.library.find(title) for title in DEMO_PAIR)
            if athlete is not None and twin is not None:
                self.pairs.take_pair(athlete, twin)
            self.go_to("Pair")

        self.library.open(demo_folder(), lay_out)

    def own_library(self) -> Path:
        """Where the user's own library lies, or would be made."""
        return Path(self.settings.folder) if self.settings.folder else data_folder() / "library"

    def leave_out(self) -> None:
        """Only the stages and the seam, over the whole screen; the same again brings everything back."""
        alone = not self.desk.view.display.alone
        self.go_to("Pair")
        self.desk.view.show(alone=alone)
        self.window.fill_screen(alone)

    def talk_through(self) -> None:
        """Into the Pair room, to be recorded while somebody goes through it."""
        if self.talks.throws is None:
            self.notice.say("A talk-through is about two throws of the library; choose a pair on the Bench first.")
            return
        self.go_to("Pair")
        self.pair.talk_bar.offer()

    def play(self) -> None:
        """Play or stand still, what the room shows or on the seam."""
        if self.window.room is None or not self.window.room.play():
            self.desk.clock.play(0 if self.desk.clock.playing else 1)

    def step(self, frames: int) -> None:
        """Step by frames, through what the room shows or on the seam."""
        if self.window.room is None or not self.window.room.step(frames):
            self.desk.clock.play(0)
            self.desk.clock.step(frames)

    # what is told --------------------------------------------------------------------------------------------------
    def _tell(self, said: object, offer: str = "", do: Callable[[], object] = lambda: None) -> None:
        if self.library.team.is_of(getattr(said, "cause", None)):
            self.library.team.lost(" What was just under way is not done: ask for it again then.")
        else:
            self.notice.say(said, offer, do)

    def _tell_fault(self, sentence: str, details: str) -> None:
        """A fault of the program itself, with what can be copied for whoever mends it."""
        self.notice.say(Fault(sentence), "Copy details", lambda: QGuiApplication.clipboard().setText(details))

    def _tell_brought(self, found: Sequence[Brought]) -> None:
        plain = len(found) == 1 and not found[0].fault
        if found and plain and self.window.title == "Prepare":
            return  # the room that it leads to says enough
        self.notice.say(summary(found), "" if len(found) < 2 else "Full list", lambda: self.intake.show_list(found))

    def _tell_server(self, said: object) -> None:
        link = self.library.team
        self.notice.say(said, "Drop what waits" if link.waits else "", link.drop)

    def _tell_recorded(self, count: int) -> None:
        words = f"Recorded as {count} {'scene' if count == 1 else 'scenes'}."
        self.notice.say(Success(words), "To the Talk room", lambda: self.go_to("Talk"))

    def _tell_overdue(self, late: Sequence[tuple[int, str, str]]) -> None:
        names = ", ".join(name for _, name, _ in late[:3]) + (" and others" if len(late) > 3 else "")
        words = f"The date until which data was to be kept has passed for {names}."
        self.notice.say(words, "Erase or keep longer…", lambda: self.intake.show_overdue(late))

    def _show_progress(self, name: str, share: float) -> None:
        self.window.busy.tell(progress_words(name, self.jobs.remaining(name, share)), share)

    def _hide_progress(self) -> None:
        if not self.jobs.busy:
            self.window.busy.done()

    # what follows --------------------------------------------------------------------------------------------------
    def _library_opened(self) -> None:
        self.desk.pair.clear()
        store = self.library.store
        if store is None:
            return
        store.smoothing = SMOOTHING[self.settings.smoothing]
        if self.library.is_demo:
            return
        self.settings.team = self.library.team.address
        if self.library.team.address:
            self.settings.team_clips = str(store.folder)
        else:
            self.settings.folder = str(store.folder)
        save_settings(self.settings)

    def _remember_units(self, topic: Topic) -> None:
        imperial = self.desk.view.imperial
        use_units(self.window, imperial=imperial)
        if imperial != self.settings.imperial:
            self.settings.imperial = imperial
            save_settings(self.settings)
