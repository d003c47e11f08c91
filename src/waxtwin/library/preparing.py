"""Preparing a throw: what is known of its clips, what is left to do at each step, and the track that follows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np

from waxtwin.core.analysis import Delivery, analyse
from waxtwin.core.camera import Camera, Sight
from waxtwin.core.depth.corrected import corrected
from waxtwin.core.errors import TrackError, WaxTwinError
from waxtwin.core.landmarks import INDEX, OPTIONAL
from waxtwin.core.marks import Marks
from waxtwin.core.pace import likely_rate
from waxtwin.core.placing import (
    ARMS,
    UNSEEN,
    ClipClock,
    found_by_model,
    place,
    runs_forward,
    sight_of,
    suggest_view,
    throwing_arm,
)
from waxtwin.core.repair import find_outliers, find_swaps
from waxtwin.core.sync import in_space, synchronise
from waxtwin.core.track import Track, check_track
from waxtwin.formats.sidecar import Athlete as SidecarAthlete
from waxtwin.formats.sidecar import Calibration, Sidecar
from waxtwin.library.arrays import (
    pack_array,
    pack_marks,
    pack_track,
    unpack_array,
    unpack_marks,
    unpack_track,
)
from waxtwin.library.faults import LibraryError
from waxtwin.library.records import DeliveryRow, ViewRow
from waxtwin.library.store import Library
from waxtwin.library.throws import (
    assign,
    clip_place,
    clock_of,
    delivery_row,
    guessed_camera,
    keep_track,
    sidecar_of,
    size_of,
    trim_of,
)

STEPS: Mapping[str, str] = {
    "clip": "Clip", "camera": "Camera", "landmarks": "Landmarks", "stops": "Stops", "ready": "Ready",
}  # fmt: skip


@dataclass(frozen=True)
class ViewState:
    """One clip of the throw as it stands. `trim` in seconds of the clip; `clicks` what was clicked for its camera."""

    id: int
    path: Path
    name: str
    facts: Mapping[str, Any]
    view: str
    trim: tuple[float, float]
    clock: ClipClock
    capture_fps: float | None
    likely_fps: float | None
    camera: Camera | None
    clicks: Mapping[str, Any]
    marks: Marks | None
    steadying: np.ndarray | None

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the picture."""
        return size_of(self.facts)

    def guessed_camera(self, marks: Marks, who: SidecarAthlete) -> Camera:
        """The camera that the figure itself gives, with what somebody said of it. Raises TrackError."""
        return guessed_camera(marks, self.view, who, self.size, self.clicks)

    @property
    def paced(self) -> bool:
        """Whether its clock is true, as far as anybody knows."""
        return self.capture_fps is not None or self.likely_fps is None

    @cached_property
    def marked(self) -> Marks | None:
        """The marks within the trim, as a camera that stands still would have seen them."""
        return None if self.marks is None else self.still(self.marks)

    def still(self, marks: Marks) -> Marks:
        """Marks within the trim, with the camera's own movement taken out where that is known."""
        if self.steadying is not None and len(self.steadying) == marks.times.size:
            marks = marks.moved(self.steadying)
        return marks.window(*self.trim)


@dataclass(frozen=True)
class Preparation:
    """A throw on its way to being measured."""

    key: int
    title: str
    athlete: SidecarAthlete
    sidecar: Sidecar
    views: tuple[ViewState, ...]
    track: Track | None
    track_from: str
    sight: Sight
    named: bool

    def view(self, view_id: int | None) -> ViewState | None:
        """A clip by its id, or the first one."""
        return next((v for v in self.views if v.id == view_id), self.views[0] if self.views else None)


def preparation_of(library: Library, key: int) -> Preparation:
    """Read a throw as it stands. Raises LibraryError when it is gone."""
    with library.reading() as session:
        row = delivery_row(session, key)
        sidecar = sidecar_of(row)
        seen = sidecar.sight
        views = tuple(_view_state(library, session, view) for view in row.views)
        track = None if row.track is None else unpack_track(library.get(session, row.track))
        sight = Sight() if seen is None else seen.sight()
        return Preparation(
            key, row.title or row.origin, sidecar.athlete, sidecar, views, track, row.track_from, sight,
            row.athlete.is_named,
        )  # fmt: skip


def _view_state(library: Library, session: Any, row: ViewRow) -> ViewState:
    camera = Calibration.model_validate(row.camera).camera() if row.camera else None
    marks = None if row.marks is None else unpack_marks(library.get(session, row.marks))
    return ViewState(
        row.id, clip_place(library, row.clip), row.name, row.clip.facts, row.view, trim_of(row), clock_of(row),
        row.capture_fps, row.likely_fps, camera, row.clicks, marks,
        None if row.steadying is None else unpack_array(library.get(session, row.steadying)),
    )  # fmt: skip


def todo(work: Preparation, view: ViewState | None) -> dict[str, list[str]]:
    """What is left to do at each step, in plain words; an empty list is a step that is done."""
    left: dict[str, list[str]] = {step: [] for step in STEPS}
    if not work.named:
        left["clip"].append("Say who throws.")
    if view is not None:
        _clip_left(view, left)
        _marks_left(work, view, left)
    elif work.track is None:
        left["clip"].append("This throw has no clip.")
    if work.athlete.height_m is None:
        left["clip"].append("Give the standing height; lengths are compared in shares of it.")
    if work.track is None:
        left["stops"].append("Stops are found once there are landmarks.")
        left["ready"].append("There is no track yet.")
    return left


def _clip_left(view: ViewState, left: dict[str, list[str]]) -> None:
    if not view.path.is_file():
        left["clip"].append(f"{view.name} is missing from where it was.")
    if view.view not in UNSEEN:
        left["clip"].append("Say from where it was filmed.")
    played = float(view.facts.get("rate", 0))
    rate = view.capture_fps or played
    if not view.paced and view.likely_fps and played:
        left["clip"].append(
            f"It seems slowed about {view.likely_fps / played:.0f} times: state the rate at which it was taken."
        )
    elif rate < 100:
        left["clip"].append(
            f"It counts as {rate:.0f} frames a second. If it is slow motion, state the rate at which it was taken."
        )


def _marks_left(work: Preparation, view: ViewState, left: dict[str, list[str]]) -> None:
    marks = view.marked
    if marks is None or not marks.seen.any():
        left["landmarks"].append("No landmarks yet: let them be found, or click them.")
        return
    arm = None if work.named else throwing_arm(marks, work.athlete.throws, view.clock.slow)
    if arm not in (None, work.athlete.throws):
        left["landmarks"].append(f"It looks thrown with the {ARMS[str(arm)]} arm: say so under Clip.")
    for swap in find_swaps(marks, view.clock.slow) if arm in (None, work.athlete.throws) else ():
        left["landmarks"].append(
            f"Left and right {swap.group} may have changed places from {marks.times[swap.start]:.2f} s "
            f"to {marks.times[swap.stop - 1]:.2f} s."
        )
    stray = int(find_outliers(marks, view.clock.slow).sum())
    if stray:
        left["landmarks"].append(f"{stray} marks lie off their path.")
    missing = [name for name, j in INDEX.items() if name not in OPTIONAL and not marks.seen[:, j].any()]
    if missing:
        left["landmarks"].append(f"Never seen: {', '.join(missing).replace('_', ' ')}.")


def _track_of(work: Preparation, view: ViewState, marks: Marks) -> tuple[Track, Sight]:
    """The track that a clip's marks give and how it is seen. Raises WaxTwinError."""
    found = view.still(marks)
    used = view.camera or view.guessed_camera(found, work.athlete)
    track = place(found, used, view.view, view.clock)
    try:
        check_track(track)
    except TrackError as fault:
        raise TrackError(f"{view.name}: {fault}") from None
    return track, replace(sight_of(used, view.view, found, work.athlete.height_m), paced=view.paced)


def keep_marks(library: Library, work: Preparation, view: ViewState, marks: Marks, label: str) -> str | None:
    """Keep a clip's marks and, where that is possible, the track that follows; says why not where it is not."""
    with library.change(label) as session:
        row = session.get_one(ViewRow, view.id)
        row.marks = library.put(session, pack_marks(marks))
        note = None
        if view.view not in UNSEEN and (suggested := suggest_view(view.still(marks), work.athlete.throws)):
            row.view = suggested
            view = replace(view, view=suggested)
            note = f"{view.name} is taken as filmed from the {suggested}; say otherwise under Clip if that is wrong."
        if view.capture_fps is None and view.marks is None:
            row.likely_fps = likely_rate(view.still(marks), float(view.facts.get("rate", 0)))
            view = replace(view, likely_fps=row.likely_fps, clock=_new_clock(session, work, view, row))
        return _follow(library, session, work, view, marks) or note


def keep_athlete(library: Library, work: Preparation, who: SidecarAthlete) -> str | None:
    """Keep who throws. With the other arm every landmark's name changes sides, with another height a nominal scale."""
    turned = who.throws != work.athlete.throws
    now = replace(work, athlete=who, named=True)
    note = None
    with library.change(f"Athlete: {who.name}") as session:
        assign(session, session.get_one(DeliveryRow, work.key), who)
        for view in work.views:
            marks = view.marks
            if marks is not None and turned:
                marks = marks.other_arm()
                session.get_one(ViewRow, view.id).marks = library.put(session, pack_marks(marks))
            if marks is not None and work.track_from == f"view:{view.id}":
                note = _follow(library, session, now, view, marks)
    return note


def keep_camera(
    library: Library, work: Preparation, view: ViewState, camera: Camera | None, clicks: Mapping[str, Any], label: str
) -> str | None:
    """Keep a clip's camera with what was clicked for it, and the track that follows."""
    with library.change(label) as session:
        row = session.get_one(ViewRow, view.id)
        row.camera = {} if camera is None else Calibration.of(camera).model_dump()
        row.clicks = dict(clicks)
        after = replace(view, camera=camera, clicks=row.clicks)
        return _follow(library, session, work, after, after.marks)


def keep_steadying(library: Library, work: Preparation, view: ViewState, motion: np.ndarray | None) -> str | None:
    """Keep how the clip's camera moved `(frames, 2, 3)`, or that it stands still, and the track that follows."""
    with library.change("Steady the camera" if motion is not None else "Leave the camera as it is") as session:
        row = session.get_one(ViewRow, view.id)
        row.steadying = None if motion is None else library.put(session, pack_array(motion.astype(np.float32)))
        after = replace(view, steadying=motion)
        return _follow(library, session, work, after, view.marks)


def use_clip(library: Library, work: Preparation, view: ViewState) -> str | None:
    """Put the track that a clip gives in the place of the one that came from a file."""
    with library.change(f"Track from {view.name}") as session:
        session.get_one(DeliveryRow, work.key).track_from = f"view:{view.id}"
        return _follow(library, session, replace(work, track_from=""), view, view.marks)


def keep_clip(library: Library, work: Preparation, view: ViewState, label: str, /, **values: Any) -> str | None:
    """Keep what was said about a clip (its view, trim, capture rate), and the track that follows."""
    with library.change(label) as session:
        row = session.get_one(ViewRow, view.id)
        for name, value in values.items():
            setattr(row, name, value)
        _new_clock(session, work, view, row)
        session.flush()
        after = _view_state(library, session, row)
        return _follow(library, session, work, after, after.marks)


def _new_clock(session: Any, work: Preparation, view: ViewState, row: ViewRow) -> ClipClock:
    """A clip's clock after a change; stops that were set by hand stay on their frames."""
    clock = clock_of(row)
    if clock != view.clock and (len(work.views) == 1 or work.track_from == f"view:{view.id}"):
        for event in session.get_one(DeliveryRow, work.key).events:
            event.time = float(clock.to_throw(view.clock.to_clip(event.time)))
    return clock


def _follow(library: Library, session: Any, work: Preparation, view: ViewState, marks: Marks | None) -> str | None:
    """Remake the throw's track from a clip, unless it came from a file or there is nothing to make it from."""
    if work.track_from == "file" or marks is None or not view.still(marks).seen.any():
        return None
    row = session.get_one(DeliveryRow, work.key)
    try:
        track, sight = _track_of(work, view, marks)
    except WaxTwinError as fault:
        return str(fault)
    keep_track(library, session, row, pack_track(track), sight, f"view:{view.id}")
    if view.view in ("open side", "closed side") and not runs_forward(track):
        return f"{view.name}: the pitcher moves away from the plate, so the view may be named wrongly."
    return None


def doubtful(marks: Marks) -> np.ndarray:
    """How far each frame's marks can be trusted `(frames,)`, 0 to 1: their mean confidence, missing ones as none."""
    needed = [j for name, j in INDEX.items() if name not in OPTIONAL]
    return np.asarray(np.where(marks.seen[:, needed], marks.confidence[:, needed], 0.0).mean(axis=1))


def _put_right(work: Preparation, clips: Sequence[tuple[ViewState, Marks, ClipClock]]) -> tuple[Marks, Marks]:
    """Both clips' marks without what their model is off, by the stops that the first one with known stops gives."""
    who = work.athlete
    stops: dict[str, float] = {}
    for view, marks, clock in clips:
        if view.view in UNSEEN and view.camera is not None and not {"foot_contact", "release"} <= set(stops):
            track, sight = place(marks, view.camera, view.view, clock), sight_of(view.camera, view.view, marks)
            with suppress(TrackError):
                stops = analyse(Delivery(who.name, track, who.throws, who.height_m, sight=sight)).event_times
    out = []
    for view, marks, clock in clips:
        assert view.camera is not None
        known = {name: clock.to_clip(time) for name, time in stops.items()}
        seen = view.view in UNSEEN and who.height_m is not None
        out.append(corrected(marks, view.camera, view.view, who.throws, who.height_m or 0.0, known) if seen else marks)
    return out[0], out[1]


def keep_in_space(library: Library, work: Preparation) -> str:
    """Make the throw's track from its first two clips with solved cameras; returns what came of it in one sentence.

    Raises WaxTwinError when there are no two such clips, or they cannot be put on one clock.
    """
    solved = [v for v in work.views if v.camera is not None and v.camera.scale == "solved" and v.marked is not None]
    if len(solved) < 2:
        raise LibraryError("Two clips with landmarks and solved cameras are needed to see the throw in space.")
    one, two = solved[:2]
    assert one.marked is not None and two.marked is not None and one.camera is not None and two.camera is not None
    marks, clocks, cameras = (one.marked, two.marked), (one.clock, two.clock), (one.camera, two.camera)
    found = synchronise(*marks, clocks, cameras)
    # what a model is off differs from view to view: the clocks are found from plain marks, then both put right
    later = replace(two.clock, start=two.clock.start - found.offset * two.clock.slow)
    mended = _put_right(work, ((one, marks[0], one.clock), (two, marks[1], later)))
    track, error = in_space(*mended, clocks, cameras, found.offset)
    check_track(track)
    sight = Sight(by_model=any(map(found_by_model, marks)), paced=one.paced and two.paced)
    with library.change("Join two clips") as session:
        row = session.get_one(DeliveryRow, work.key)
        # the second clip's time 0 of the throw moves by the offset
        session.get_one(ViewRow, two.id).start_s = two.clock.start - found.offset * two.clock.slow
        keep_track(library, session, row, pack_track(track), sight, "space")
    return (
        f"{two.name} runs {found.offset * 1000:+.1f} ms (± {found.spread * 1000:.1f}) against {one.name}; "
        f"their rays pass each other by {error:.1f} pixels at the median."
    )
