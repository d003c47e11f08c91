"""What happens in the Prepare room: every gesture is one change of the library, long work is a job."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from waxtwin.core.analysis import Analysis, analyse
from waxtwin.core.camera import Camera
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.events import EVENTS
from waxtwin.core.field import LEAST_POINTS, SIZES, field_points
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import FLOW, MODEL, Marks
from waxtwin.core.placing import nominal_camera, planar_camera, suggest_view
from waxtwin.core.repair import Swap, cleaned, find_outliers
from waxtwin.library.preparing import (
    Preparation,
    ViewState,
    keep_athlete,
    keep_camera,
    keep_clip,
    keep_in_space,
    keep_marks,
    keep_steadying,
    preparation_of,
    use_clip,
)
from waxtwin.ui.model.messages import Success
from waxtwin.ui.rooms.pair.computing import keep_events, moved
from waxtwin.ui.rooms.prepare.state import PrepareState
from waxtwin.ui.shared.open_library import OpenLibrary
from waxtwin.ui.shell.jobs import Jobs

if TYPE_CHECKING:
    from waxtwin.capture.people import Person
    from waxtwin.library.store import Library

_STILL_PX = 3.0  # movement that following corners makes up by itself


class PrepareFlow(QObject):
    """Carries out what the room's pages ask for."""

    told = Signal(object)

    def __init__(self, piece: PrepareState, librarian: OpenLibrary, jobs: Jobs) -> None:
        super().__init__()
        self.piece, self._librarian, self._jobs = piece, librarian, jobs
        self.people: list[Person] = []
        self.person: int | None = None
        self.model = "heavy"  # surest by far, and a throw takes it half a minute
        librarian.altered.connect(self._altered)
        librarian.opened.connect(lambda: piece.take(None))

    # the throw -----------------------------------------------------------------------------------------------------
    def take(self, key: int) -> None:
        """Bring a throw into the room."""
        self.people, self.person = [], None
        self._read(key)

    def _altered(self, key: int) -> None:
        work = self.piece.work
        if work is not None and key in (-1, work.key):
            self._read(work.key)

    def _read(self, key: int) -> None:
        library = self._librarian.library
        if library is None:
            return
        try:
            self.piece.take(preparation_of(library, key))
        except WaxTwinError:
            self.piece.take(None)
            return
        self._analyse(library, key)

    def _analyse(self, library: Library, key: int) -> None:
        work = self.piece.work
        if work is None or work.track is None:
            self.piece.set_analysis(None)
            return

        def steps() -> Iterator[object]:
            from waxtwin.library.throws import fetch

            yield 0.2
            yield analyse(fetch(library, key).delivery)

        def done(found: object) -> None:
            assert isinstance(found, Analysis)
            if self.piece.work is not None and self.piece.work.key == key:
                self.piece.set_analysis(found)

        self._jobs.start("stops", steps, done, lambda fault: self.piece.set_analysis(None, fault))

    def _now(self) -> tuple[Preparation, ViewState] | None:
        work, view = self.piece.work, self.piece.view
        return None if work is None or view is None else (work, view)

    def _keep(self, change: Callable[[Library], str | None]) -> None:
        """Do a change of this throw; what it has to say is told."""
        work = self.piece.work
        notes: list[str] = []

        def run(library: Library) -> None:
            note = change(library)
            if note:
                notes.append(note)

        if work is not None and self._librarian.change(run, work.key) and notes:
            self.told.emit(notes[0])

    # clip ----------------------------------------------------------------------------------------------------------
    def say_who(self, name: str, throws: str, height: float | None) -> None:
        """Who throws, with which arm, how tall."""
        work = self.piece.work
        if work is None or not name.strip():
            return
        who = work.athlete.model_copy(update={"name": name.strip(), "throws": throws, "height_m": height})
        if who != work.athlete or not work.named:
            self._keep(lambda library: keep_athlete(library, work, who))

    def set_throw(self, label: str, /, **values: Any) -> None:
        """What is known about the throw: ball speed, pitch, date, notes."""
        from waxtwin.library.throws import set_fields

        work = self.piece.work
        if work is not None:
            self._keep(lambda library: set_fields(library, work.key, label, **values))

    def set_clip(self, label: str, /, **values: Any) -> None:
        """What is said about the clip: its view, trim or capture rate."""
        now = self._now()
        if now is not None:
            self._keep(lambda library: keep_clip(library, *now, label, **values))

    def trim(self, first: float, last: float) -> None:
        """The throw's part of the clip; the file itself is never touched."""
        self.set_clip("Trim the clip", first_s=round(first, 4), last_s=round(last, 4))

    def suggested_view(self) -> str | None:
        """From where the clip seems to be filmed, or None."""
        now = self._now()
        if now is None or now[1].marked is None:
            return None
        return suggest_view(now[1].marked, now[0].athlete.throws)

    def add_clip(self, file: Path) -> None:
        """Another clip of the same throw."""
        work, library = self.piece.work, self._librarian.library
        if work is None or library is None:
            return

        def steps() -> Iterator[object]:
            from waxtwin.library.importing import add_view

            yield 0.1
            add_view(library, work.key, file)
            yield file

        def done(_: object) -> None:
            self._librarian.refresh()
            self._librarian.altered.emit(work.key)

        self._jobs.start("import", steps, done, self.told.emit)

    def propose_throws(self) -> None:
        """Look for bursts of motion in a long clip; they are put into the workpiece as proposals."""
        now = self._now()
        if now is None:
            return
        path = now[1].path

        def steps() -> Iterator[object]:
            from waxtwin.capture.activity import find_bursts

            yield from find_bursts(path)

        def done(found: object) -> None:
            assert isinstance(found, list)
            self.piece.bursts = found
            self.piece.tell("work")
            if not found:
                self.told.emit(f"{path.name}: no burst of motion stands out; trim the clip by hand.")

        self._jobs.start("bursts", steps, done, self.told.emit)

    def cut(self) -> None:
        """One throw per proposed burst: the first stays this one, the others become throws of their own."""
        now, bursts = self._now(), list(self.piece.bursts)
        if now is None or not bursts:
            return
        work, view = now

        def change(library: Library) -> None:
            from waxtwin.library.importing import cut_into

            cut_into(library, work.key, view.id, bursts)

        self.piece.bursts = []
        self._keep(change)
        if len(bursts) > 1:
            self.told.emit(f"{len(bursts)} throws were cut from {view.name}; the others are on the Bench.")

    # camera --------------------------------------------------------------------------------------------------------
    def clicked(self, x: float, y: float) -> None:
        """A click in the picture, for whatever is aimed at."""
        aim = self.piece.aim
        if aim.kind == "mark":
            self.put_mark(aim.target, x, y)
            self.piece.next_landmark()
        elif aim.kind == "person":
            self._point_at_person(x, y)
        elif aim.kind in ("origin", "length", "field"):
            self._click_camera("origin" if aim.kind == "origin" else aim.target, x, y)
            self.piece.aim_at(*self._next_aim(aim.kind, aim.target))

    def _next_aim(self, kind: str, target: str) -> tuple[str, str]:
        if kind == "length" and target == "length_from":
            return "length", "length_to"
        return "look", ""

    def _click_camera(self, name: str, x: float, y: float) -> None:
        now = self._now()
        if now is None:
            return
        view = now[1]
        if view.steadying is not None and self.piece.frame < len(view.steadying):
            x, y = view.steadying[self.piece.frame] @ [x, y, 1.0]  # where the first frame's camera would show it
        clicks = {**view.clicks, "points": {**view.clicks.get("points", {}), name: [round(x, 2), round(y, 2)]}}
        self._set_camera(clicks, f"Click {name.replace('_', ' ')}")

    def set_camera_fact(self, label: str, /, **facts: object) -> None:
        """Another fact for the camera: kind of scale, known length, roll, the field's size, other points."""
        now = self._now()
        if now is not None:
            self._set_camera({**now[1].clicks, **facts}, label)

    def _set_camera(self, clicks: dict, label: str) -> None:
        now = self._now()
        if now is None:
            return
        work, view = now
        try:
            camera = self._camera_from(work, view, clicks)
            self.piece.said["camera"] = ""
        except WaxTwinError as fault:
            camera = None
            self.piece.said["camera"] = str(fault)
        self._keep(lambda library: keep_camera(library, work, view, camera, clicks, label))

    def _camera_from(self, work: Preparation, view: ViewState, clicks: dict) -> Camera | None:
        """The camera that the clicks give; None where it is not asked for or not enough is clicked yet."""
        kind, points = clicks.get("scale", "none"), clicks.get("points", {})
        if kind == "planar":
            ends = [points.get("length_from"), points.get("length_to")]
            if None in ends or not clicks.get("metres"):
                return None
            origin = points.get("origin") or self._origin_of(work, view)
            throws, roll = work.athlete.throws, clicks.get("roll", 0.0)
            return planar_camera(origin, (ends[0], ends[1]), clicks["metres"], view.view, throws, view.size, roll)
        if kind == "solved":
            from waxtwin.capture.solve import solve_camera

            size = SIZES.get(clicks.get("field", "adult"), SIZES["adult"])
            places = {name: point.place for name, point in field_points(size).items()}
            places |= {name: tuple(place) for name, place in clicks.get("others", {}).items()}
            clicked = {name: tuple(points[name]) for name in places if name in points}
            return solve_camera(clicked, places, view.size) if len(clicked) >= LEAST_POINTS else None
        return None

    def _origin_of(self, work: Preparation, view: ViewState) -> tuple[float, float]:
        """Where the rubber's front edge seems to be, from the back foot."""
        marks = view.marked
        if marks is None:
            return view.size[0] / 2, view.size[1] * 0.8
        camera = nominal_camera(marks, view.view, work.athlete.throws, work.athlete.height_m, view.size)
        return float(camera.matrix[0, 3]), float(camera.matrix[1, 3])

    def forget_camera(self) -> None:
        """No camera and no clicks."""
        self._set_camera({}, "Forget the camera")

    def steady(self) -> None:
        """Take out the movement of a panning or shaking camera; told when there is none, or where it fails."""
        now, marks = self._now(), self.piece.marks
        if now is None:
            return
        work, view = now
        boxes = None if marks is None else marks.boxes()

        def steps() -> Iterator[object]:
            from waxtwin.capture.steady import steady

            yield from steady(view.path, boxes)

        def done(found: object) -> None:
            from waxtwin.capture.steady import Steadying

            assert isinstance(found, Steadying)
            said = f"{view.name}: the camera moves by up to {found.travel:.0f} pixels"
            if found.travel < _STILL_PX:
                self.told.emit(f"{said}; it stands still.")
                return
            self._keep(lambda library: keep_steadying(library, work, view, found.motion))
            if found.lost > 0:
                said += f"; the background was lost in {found.lost:.0%} of the frames, so trust lengths less there"
            self.told.emit(Success(f"{said}. Marks are steadied against the first frame."))

        self._jobs.start("steady", steps, done, self.told.emit)

    # landmarks -----------------------------------------------------------------------------------------------------
    def look_for_people(self) -> None:
        """See who is in the clip; the likeliest pitcher is proposed."""
        now = self._now()
        if now is None:
            return
        view = now[1]

        def steps() -> Iterator[object]:
            from waxtwin.capture.people import find_people

            yield 0.1
            yield find_people(view.path, int(view.facts["frames"]), view.size, thorough=True)

        def done(found: object) -> None:
            assert isinstance(found, list)
            self.people, self.person = found, 0 if found else None
            self.piece.tell("people")
            if not found:
                self.told.emit(f"{view.name}: nobody can be seen in this clip; landmarks can still be clicked by hand.")

        self._jobs.start("people", steps, done, self.told.emit)

    def choose_person(self, number: int) -> None:
        """Say which of the people is the pitcher."""
        self.person = number
        self.piece.tell("people")

    def _point_at_person(self, x: float, y: float) -> None:
        for number, person in enumerate(self.people):
            x0, y0, x1, y1 = person.box_at(self.piece.frame)
            if x0 <= x <= x1 and y0 <= y <= y1:
                self.choose_person(number)
                self.piece.aim_at("look")
                return
        self.told.emit("Nobody was found at that place.")

    def find_landmarks(self) -> None:
        """Let the model find the pitcher's landmarks in the trimmed clip; resumes what was begun."""
        now = self._now()
        if now is None:
            return
        work, view = now
        chosen = self.people[self.person] if self.person is not None and self.people else None
        times, model = self.piece.times, self.model

        def steps() -> Iterator[object]:
            from platformdirs import user_cache_path

            from waxtwin.capture.people import find_people
            from waxtwin.capture.pose import find_landmarks

            yield 0.0
            pitcher = chosen
            if pitcher is None:
                found = find_people(view.path, times.size, view.size)
                if not found:
                    raise WaxTwinError(f"{view.name}: nobody can be seen in this clip; click the landmarks by hand.")
                pitcher = found[0]
            inside = (times >= view.trim[0] - 1e-9) & (times <= view.trim[1] + 1e-9)
            first, last = int(inside.argmax()), int(times.size - inside[::-1].argmax())
            cache = user_cache_path("waxtwin") / "landmarks"
            yield from find_landmarks(
                view.path, times, work.athlete.throws, size=model, frames=(first, last),
                crop=pitcher.reach(view.size), cache=cache,
            )  # fmt: skip

        def done(found: object) -> None:
            assert isinstance(found, Marks)
            current = self.piece.marks or Marks.empty(found.times)
            self._keep_marks(current.merged(cleaned(found, view.clock.slow), MODEL), "Find landmarks")

        self._jobs.start("landmarks", steps, done, self.told.emit)

    def _keep_marks(self, marks: Marks, label: str) -> None:
        now = self._now()
        if now is not None:
            self._keep(lambda library: keep_marks(library, *now, marks, label))

    def _edit(self, label: str, edit: Callable[[Marks], Marks]) -> None:
        marks = self.piece.marks
        if marks is not None:
            self._keep_marks(edit(marks), label)

    def _slow(self) -> float:
        """How much too slowly the clip plays."""
        view = self.piece.view
        return 1.0 if view is None else view.clock.slow

    def put_mark(self, name: str, x: float, y: float) -> None:
        """A landmark set by hand on this frame."""
        frame = self.piece.frame
        self._edit(f"Mark {name.replace('_', ' ')}", lambda marks: marks.put(frame, INDEX[name], x, y))

    def exchange(self, swap: Swap) -> None:
        """Change left and right over in a stretch."""
        self._edit(f"Exchange {swap.group}", lambda marks: marks.exchange(swap.group, swap.start, swap.stop))

    def drop_strays(self) -> None:
        """Drop every mark that lies off its path."""
        self._edit("Drop stray marks", lambda marks: marks.drop(find_outliers(marks, self._slow())))

    def fill_gaps(self) -> None:
        """Close short gaps."""
        self._edit("Fill gaps", lambda marks: marks.filled(0.1, self._slow()))

    def lock(self) -> None:
        """Lock the chosen landmark's marks: automatic steps leave them alone."""
        name = self.piece.landmark
        if name is not None:
            self._edit(f"Lock {name.replace('_', ' ')}", lambda marks: marks.accept(slice(None), INDEX[name]))

    def clear_here(self) -> None:
        """Take the chosen landmark off this frame."""
        name, frame = self.piece.landmark, self.piece.frame
        if name is None:
            return

        def edit(marks: Marks) -> Marks:
            chosen = marks.source * 0 > 1
            chosen[frame, INDEX[name]] = True
            return marks.drop(chosen)

        self._edit(f"Clear {name.replace('_', ' ')}", edit)

    def follow(self) -> None:
        """Fill in the chosen landmark between the frames where it was set by hand, by optical flow and spline."""
        now, name, marks = self._now(), self.piece.landmark, self.piece.marks
        if now is None or name is None or marks is None:
            return
        path = now[1].path

        def steps() -> Iterator[object]:
            from waxtwin.capture.ball import follow_ball
            from waxtwin.capture.optical_flow import follow

            yield from follow_ball(path, marks) if name == "ball" else follow(path, marks, INDEX[name])

        def done(found: object) -> None:
            assert isinstance(found, Marks)
            self._edit(f"Follow {name.replace('_', ' ')}", lambda now: now.merged(found, FLOW))

        self._jobs.start("follow", steps, done, self.told.emit)

    # stops and the end ---------------------------------------------------------------------------------------------
    def set_stop(self, stop: str, time: float | None) -> None:
        """A stop set by hand at an instant of the throw, or given back to detection."""
        work = self.piece.work
        if work is None:
            return
        events = moved(work.sidecar.events, stop, time)
        verb = "Set" if time is not None else "Give back"
        label = f"{verb} “{EVENTS[stop].short}”"

        def change(library: Library) -> None:
            keep_events(library, work.key, events, label, set(work.sidecar.events_rejected) - {stop})

        self._keep(change)

    def use_clip(self) -> None:
        """Take the track from this clip's landmarks instead of the file that the throw came from."""
        now = self._now()
        if now is not None:
            self._keep(lambda library: use_clip(library, *now))

    def combine(self) -> None:
        """Put the first two clips with solved cameras on one clock and make a track in space of them."""
        work, library = self.piece.work, self._librarian.library
        if work is None or library is None:
            return

        def steps() -> Iterator[object]:
            yield 0.1
            yield keep_in_space(library, work)

        def done(said: object) -> None:
            self.piece.said["space"] = str(said)
            self._librarian.refresh()
            self._librarian.altered.emit(work.key)

        self._jobs.start("space", steps, done, self.told.emit)
