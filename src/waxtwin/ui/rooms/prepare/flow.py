"""What happens in the Prepare room: every gesture is one change of the library, long work is a job."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from waxtwin.core.analysis import Analysis, analyse
from waxtwin.core.asks import ARM, CLICKS, LENGTH, STOP, Ask
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.measures.registry import FASTEST
from waxtwin.core.placing import suggest_view
from waxtwin.core.steps import Steps
from waxtwin.core.stops import EVENTS
from waxtwin.library.preparing import (
    Preparation,
    ViewState,
    keep_athlete,
    keep_clip,
    keep_in_space,
    preparation_of,
    use_clip,
)
from waxtwin.ui.model.computing import keep_events
from waxtwin.ui.model.messages import Success
from waxtwin.ui.model.work import Runner
from waxtwin.ui.rooms.prepare.camera_edits import CameraEdits
from waxtwin.ui.rooms.prepare.click_guide import ClickGuide
from waxtwin.ui.rooms.prepare.landmark_edits import LandmarkEdits
from waxtwin.ui.rooms.prepare.state import PrepareState, PrepareTopic
from waxtwin.ui.shared.open_library import OpenLibrary

if TYPE_CHECKING:
    from waxtwin.library.store import Library


class PrepareFlow(QObject):
    """Carries out what the room's pages ask for."""

    told = Signal(object)

    def __init__(self, state: PrepareState, library: OpenLibrary, jobs: Runner) -> None:
        super().__init__()
        self.state, self._library, self.jobs = state, library, jobs
        self.camera, self.landmarks, self.clicks = CameraEdits(self), LandmarkEdits(self), ClickGuide(self)
        library.altered.connect(self._altered)
        library.opened.connect(lambda: state.take(None))

    def take(self, key: int) -> None:
        """Bring a throw into the room."""
        self.landmarks.people, self.landmarks.person = [], None
        self._read(key)

    def _altered(self, key: int) -> None:
        work = self.state.work
        if work is not None and key in (-1, work.key):
            self._read(work.key)

    def _read(self, key: int) -> None:
        library = self._library.store
        if library is None:
            return
        try:
            self.state.take(preparation_of(library, key))
        except WaxTwinError:
            self.state.take(None)
            return
        self._analyse(library, key)

    def _analyse(self, library: Library, key: int) -> None:
        work = self.state.work
        if work is None or (work.track is None and not work.views):
            self.state.set_analysis(None)
            return

        def steps() -> Steps[Analysis]:
            from waxtwin.library.throws import fetch

            yield 0.2
            return analyse(fetch(library, key).delivery)

        def done(found: Analysis) -> None:
            if self.state.work is not None and self.state.work.key == key:
                self.state.set_analysis(found)

        self.jobs.start("stops", steps, done, lambda fault: self.state.set_analysis(None, fault))

    def now(self) -> tuple[Preparation, ViewState] | None:
        work, view = self.state.work, self.state.view
        return None if work is None or view is None else (work, view)

    def keep(self, change: Callable[[Library], str | None]) -> None:
        """Do a change of this throw; what it has to say is told."""
        work = self.state.work
        notes: list[str] = []

        def run(library: Library) -> None:
            note = change(library)
            if note:
                notes.append(note)

        if work is not None and self._library.change(run, work.key) and notes:
            self.told.emit(notes[0])

    def say_who(self, name: str, throws: str, height: float | None) -> None:
        """Who throws, with which arm, how tall."""
        work = self.state.work
        if work is None or not name.strip():
            return
        who = work.athlete.model_copy(update={"name": name.strip(), "throws": throws, "height_m": height})
        if who != work.athlete or not work.named:
            self.keep(lambda library: keep_athlete(library, work, who))

    def set_throw(self, label: str, /, **values: Any) -> None:
        """What is known about the throw: ball speed, pitch, date, notes."""
        from waxtwin.library.throws import set_fields

        work = self.state.work
        if work is not None:
            self.keep(lambda library: set_fields(library, work.key, label, **values))

    def set_clip(self, label: str, /, **values: Any) -> None:
        """What is said about the clip: its view, trim or capture rate."""
        now = self.now()
        if now is not None:
            self.keep(lambda library: keep_clip(library, *now, label, **values))

    def trim(self, first: float, last: float) -> None:
        """The throw's part of the clip; the file itself is never touched."""
        self.set_clip("Trim the clip", first_s=round(first, 4), last_s=round(last, 4))

    def suggested_view(self) -> str | None:
        """From where the clip seems to be filmed, or None."""
        now = self.now()
        if now is None or now[1].marked is None:
            return None
        return suggest_view(now[1].marked, now[0].athlete.throws)

    def add_clip(self, file: Path) -> None:
        """Another clip of the same throw."""
        work, library = self.state.work, self._library.store
        if work is None or library is None:
            return

        def steps() -> Steps[None]:
            from waxtwin.library.importing import add_view

            yield 0.1
            add_view(library, work.key, file)

        def done(_: None) -> None:
            self._library.announce(work.key)

        self.jobs.start("import", steps, done, self.told.emit)

    def take_fields_apart(self) -> None:
        """A clip in the place of an interlaced one, in which each field is a picture of its own."""
        now, library = self.now(), self._library.store
        if now is None or library is None:
            return
        work, view = now

        def steps() -> Steps[None]:
            from waxtwin.library.unweaving import unweave_clip

            return (yield from unweave_clip(library, view.id))

        def done(_: None) -> None:
            self._library.announce(work.key)
            self.told.emit(Success(f"{view.name}: every field is a picture of its own now, at twice the rate."))

        self.jobs.start("fields", steps, done, self.told.emit)

    def propose_throws(self) -> None:
        """Look for bursts of motion in a long clip; they are put into the workpiece as proposals."""
        now = self.now()
        if now is None:
            return
        path = now[1].path

        def steps() -> Steps[list[tuple[float, float]]]:
            from waxtwin.capture.activity import find_bursts

            return (yield from find_bursts(path))

        def done(found: list[tuple[float, float]]) -> None:
            self.state.bursts = found
            self.state.tell(PrepareTopic.WORK)
            if not found:
                self.told.emit(f"{path.name}: no burst of motion stands out; trim the clip by hand.")

        self.jobs.start("bursts", steps, done, self.told.emit)

    def cut(self) -> None:
        """One throw per proposed burst: the first stays this one, the others become throws of their own."""
        now, bursts = self.now(), list(self.state.bursts)
        if now is None or not bursts:
            return
        work, view = now

        def change(library: Library) -> None:
            from waxtwin.library.importing import cut_into

            cut_into(library, work.key, view.id, bursts)

        self.state.bursts = []
        self.keep(change)
        if len(bursts) > 1:
            self.told.emit(f"{len(bursts)} throws were cut from {view.name}; the others are on the Bench.")

    def clicked(self, x: float, y: float) -> None:
        """A click in the picture, for whatever is aimed at."""
        aim = self.state.aim
        if aim.kind == "mark":
            self.landmarks.put_mark(aim.target, x, y)
            if self.clicks.leading:
                self.clicks.onward()
            else:
                self.state.next_landmark()
        elif aim.kind == "person":
            self.landmarks.point_at_person(x, y)
        elif aim.kind in ("origin", "length", "field"):
            self.camera.click("origin" if aim.kind == "origin" else aim.target, x, y)
            self.state.aim_at(*self._next_aim(aim.kind, aim.target))

    def _next_aim(self, kind: str, target: str) -> tuple[str, str]:
        if kind == "length" and target == "length_from":
            return "length", "length_to"
        return "look", ""

    def prepare_it(self) -> None:
        """One press: whatever can be found in the clip is found, then what it could not know is shown."""
        view = self.state.view
        if view is None:
            return
        self.state.go_to_step("ready")
        if view.marks is None or not view.marks.seen.any():
            self.landmarks.find_landmarks()

    def do(self, ask: Ask) -> None:
        """Go to where something that was asked for is done."""
        if ask.kind == STOP:
            self.state.chosen_stop = ask.stop
            self._show_stop(ask.stop)
            self.state.go_to_step("stops")
        elif ask.kind == CLICKS:
            self.state.go_to_step("landmarks")
            self.clicks.begin()
        elif ask.kind == ARM:
            self._show_stop("release", -FASTEST)
            self.state.go_to_step("landmarks")
            self.state.aim_at("mark", "throwing_hand")
        else:
            self.state.go_to_step("camera" if ask.kind == LENGTH else "clip")

    def _show_stop(self, stop: str, later: float = 0.0) -> None:
        """Show the frame at which a stop is proposed, or where it must about be, or `later` seconds than that."""
        view, analysis = self.state.view, self.state.analysis
        proposed = None if analysis is None else analysis.proposal(stop)
        if view is not None and proposed is not None:
            self.state.go_to_time(view.clock.to_clip(proposed.time + later))

    def set_stop(self, stop: str, time: float | None) -> None:
        """A stop set by hand at an instant of the throw, or given back to detection."""
        work = self.state.work
        if work is None:
            return
        known = work.sidecar.stops_by_hand()
        said = known.give_back(stop) if time is None else known.put(stop, time)
        verb = "Set" if time is not None else "Give back"
        label = f"{verb} “{EVENTS[stop].short}”"

        def change(library: Library) -> None:
            keep_events(library, {work.key: said}, label)

        self.keep(change)

    def use_clip(self) -> None:
        """Take the track from this clip's landmarks instead of the file that the throw came from."""
        now = self.now()
        if now is not None:
            self.keep(lambda library: use_clip(library, *now))

    def combine(self) -> None:
        """Put the first two clips with solved cameras on one clock and make a track in space of them."""
        work, library = self.state.work, self._library.store
        if work is None or library is None:
            return

        def steps() -> Steps[str]:
            yield 0.1
            return keep_in_space(library, work)

        def done(said: str) -> None:
            self.state.said["space"] = said
            self._library.announce(work.key)

        self.jobs.start("space", steps, done, self.told.emit)
