"""One throw as a whole: its track, what is known about it, and its clips - from files, or from the library."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from waxtwin.core.analysis import Delivery
from waxtwin.core.camera import FIELD_SIGHT, Camera, Sight
from waxtwin.core.landmarks import OPTIONAL
from waxtwin.core.placing import ClipClock
from waxtwin.core.stops import StopsByHand
from waxtwin.core.track import Track
from waxtwin.formats.files import FormatError
from waxtwin.formats.place import CLIPS, SUFFIX, sidecar_path
from waxtwin.formats.tracks import TRACKS, read_track

if TYPE_CHECKING:  # the sidecar's model takes a tenth of a second to load: not before the first paint
    from waxtwin.formats.sidecar import Sidecar, View


@dataclass(frozen=True)
class Clip:
    """A clip of the throw, from which `view`, through which camera where that is known, on which clock."""

    path: Path
    view: str
    camera: Camera | None
    clock: ClipClock = field(default_factory=ClipClock)


@dataclass(frozen=True)
class StoredDelivery:
    """A throw as it was kept: `key` in the library, or None for loose files; `origin` is the file it came from; `named`
    whether somebody said who throws, and with which hand.
    """

    key: int | None
    origin: str
    sidecar: Sidecar
    delivery: Delivery
    clips: tuple[Clip, ...]
    named: bool = True

    @property
    def title(self) -> str:
        """The athlete's name, or the file's."""
        return self.delivery.name

    def is_of(self, delivery: Delivery) -> bool:
        """Whether a delivery is this throw, and not another one of its session."""
        return np.array_equal(self.delivery.track.points, delivery.track.points, equal_nan=True)


def load(path: Path) -> StoredDelivery:
    """Read a throw from its track (or its sidecar). Raises FormatError, one plain sentence naming the file."""
    from waxtwin.formats.sidecar import Sidecar, read_sidecar

    path = Path(path)
    if path.name.endswith(SUFFIX):
        path = track_beside(path)
    if path.suffix.lower() in CLIPS:
        path = _track_of_clip(path)
    beside = sidecar_path(path)
    sidecar = read_sidecar(beside) if beside.is_file() else Sidecar()
    track, notes = read_track(path, sidecar.athlete.throws, sidecar.lab_setup())
    clips = tuple(clip_of(view, clip_place(path, view)) for view in sidecar.views)
    return assembled(None, path.name, sidecar, track, tuple(c for c in clips if c.path.is_file()), notes)


def assembled(
    key: int | None, origin: str, sidecar: Sidecar, track: Track, clips: tuple[Clip, ...], notes: list[str]
) -> StoredDelivery:
    """A throw from its parts."""
    who = sidecar.athlete
    missing = [name for name in track.missing() if name not in OPTIONAL]
    if missing and not track.is_bare:
        notes = [*notes, f"Not in the track: {', '.join(missing).replace('_', ' ')}."]
    delivery = Delivery(
        name=who.name or Path(origin).stem, track=track, throws=who.throws, height=who.height_m, span=who.span_m,
        mass=who.mass_kg,
        ball_speed=sidecar.ball_speed_mps, by_hand=sidecar.stops_by_hand(), sight=_sight(sidecar),
        notes=tuple(notes),
    )  # fmt: skip
    return StoredDelivery(key, origin, sidecar, delivery, clips)


def _sight(sidecar: Sidecar) -> Sight:
    seen = sidecar.sight
    return FIELD_SIGHT if seen is None else seen.sight()


def with_events(stored: StoredDelivery, said: StopsByHand) -> StoredDelivery:
    """The throw with what somebody says about its stops, not yet written."""
    stops = {"rejected": said.rejected, "estimated": said.estimated}
    known = {"events": dict(said.times), **{f"events_{name}": sorted(those) for name, those in stops.items()}}
    changed = replace(stored.delivery, by_hand=said)
    return replace(stored, sidecar=stored.sidecar.model_copy(update=known), delivery=changed)


def is_delivery_file(path: Path) -> bool:
    """Whether a file could be a throw, by its name."""
    return path.name.endswith(SUFFIX) or path.suffix.lower() in (*TRACKS, *CLIPS)


def clip_of(view: View, path: Path) -> Clip:
    """A sidecar's view as a clip that lies at `path`."""
    camera = None if view.calibration is None else view.calibration.camera()
    return Clip(path, view.camera, camera, ClipClock(view.start_s, view.slow))


def clip_place(track: Path, view: View) -> Path:
    """Where a view's clip lies: a plain file name beside the track, so that a sidecar cannot point elsewhere."""
    return track.parent / Path(view.file).name


def track_beside(sidecar: Path) -> Path:
    """The track that a sidecar belongs to. Raises FormatError."""
    stem = sidecar.name.removesuffix(SUFFIX)
    for suffix in TRACKS:
        candidate = sidecar.with_name(stem + suffix)
        if candidate.is_file():
            return candidate
    raise FormatError(sidecar, f"there is no track ({', '.join(TRACKS)}) beside it")


def is_untracked(path: Path) -> bool:
    """Whether a file is a clip to which no track belongs."""
    if path.suffix.lower() not in CLIPS or not path.is_file():
        return False
    try:
        _track_of_clip(path)
    except FormatError:
        return True
    return False


def _track_of_clip(clip: Path) -> Path:
    """The track whose sidecar names this clip, or that carries the clip's name."""
    from waxtwin.formats.sidecar import read_sidecar

    for suffix in TRACKS:
        candidate = clip.with_suffix(suffix)
        if candidate.is_file() and not candidate.name.endswith(SUFFIX):
            return candidate
    for sidecar in sorted(clip.parent.glob(f"*{SUFFIX}")):
        try:
            named = {Path(view.file).name for view in read_sidecar(sidecar).views}
        except FormatError:
            continue
        if clip.name in named:
            return track_beside(sidecar)
    if not clip.is_file():
        raise FormatError(clip, "there is no such file")
    raise FormatError(
        clip, "there is no track beside this clip; make one with “waxtwin track”, or bring it to the Bench"
    )
