"""One throw from its files: the track, its sidecar, and the clips that the sidecar names."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from waxtwin.core.analysis import Delivery
from waxtwin.core.landmarks import OPTIONAL
from waxtwin.formats import FormatError, read_track
from waxtwin.formats.place import SUFFIX, sidecar_path

if TYPE_CHECKING:  # the sidecar's model takes a tenth of a second to load: not before the first paint
    from waxtwin.formats.sidecar import Sidecar, View

CLIPS = (".mp4", ".mov", ".mkv", ".avi", ".webm", ".m4v")
TRACKS = (".csv", ".trc", ".json")


@dataclass(frozen=True)
class Clip:
    """A clip of the throw; `projection` (3, 4) and picture `size` when its camera is solved."""

    path: Path
    camera: str
    projection: np.ndarray | None
    size: tuple[int, int] | None


@dataclass(frozen=True)
class StoredDelivery:
    """A throw as it lies on disk."""

    path: Path
    sidecar: Sidecar
    delivery: Delivery
    clips: tuple[Clip, ...]

    @property
    def title(self) -> str:
        """The athlete's name, or the file's."""
        return self.sidecar.athlete.name or self.path.stem


def load(path: Path) -> StoredDelivery:
    """Read a throw from its track (or its sidecar). Raises FormatError, one plain sentence naming the file."""
    from waxtwin.formats.sidecar import Sidecar, read_sidecar

    path = Path(path)
    if path.name.endswith(SUFFIX):
        path = _track_beside(path)
    if path.suffix.lower() in CLIPS:
        path = _track_of_clip(path)
    beside = sidecar_path(path)
    sidecar = read_sidecar(beside) if beside.is_file() else Sidecar()
    who = sidecar.athlete
    track, notes = read_track(path, who.throws)
    missing = [name for name in track.missing() if name not in OPTIONAL]
    if missing:
        notes.append(f"Not in the track: {', '.join(missing).replace('_', ' ')}.")
    delivery = Delivery(
        name=who.name or path.stem, track=track, throws=who.throws, height=who.height_m, span=who.span_m,
        ball_speed=sidecar.ball_speed_mps, events_by_hand=dict(sidecar.events), notes=tuple(notes),
    )  # fmt: skip
    clips = tuple(_clip(path, view) for view in sidecar.views)
    return StoredDelivery(path, sidecar, delivery, tuple(c for c in clips if c.path.is_file()))


def with_events(stored: StoredDelivery, events: dict[str, float]) -> StoredDelivery:
    """The throw with these stops set by hand, not yet written."""
    sidecar = stored.sidecar.model_copy(update={"events": dict(events)})
    return replace(stored, sidecar=sidecar, delivery=replace(stored.delivery, events_by_hand=dict(events)))


def save_sidecar(stored: StoredDelivery) -> None:
    """Write the sidecar beside the track. Raises FormatError."""
    from waxtwin.formats.sidecar import write_sidecar

    write_sidecar(stored.sidecar, sidecar_path(stored.path))


def is_delivery_file(path: Path) -> bool:
    """Whether a file could be a throw, by its name."""
    return path.name.endswith(SUFFIX) or path.suffix.lower() in (*TRACKS, *CLIPS)


def _clip(track: Path, view: View) -> Clip:
    calibration = view.calibration
    matrix = None if calibration is None else np.array(calibration.projection, float)
    size = None if calibration is None else (calibration.width, calibration.height)
    # only a plain file name beside the track: a sidecar cannot point elsewhere
    return Clip(track.parent / Path(view.file).name, view.camera, matrix, size)


def _track_beside(sidecar: Path) -> Path:
    stem = sidecar.name.removesuffix(SUFFIX)
    for suffix in TRACKS:
        candidate = sidecar.with_name(stem + suffix)
        if candidate.is_file():
            return candidate
    raise FormatError(sidecar, "there is no track (.csv, .trc or .json) beside it")


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
            return _track_beside(sidecar)
    if not clip.is_file():
        raise FormatError(clip, "there is no such file")
    from waxtwin.capture.person import no_person_in

    if no_person_in(clip):
        raise FormatError(clip, "no person can be seen in this clip")
    raise FormatError(clip, "there is no track beside this clip, and this version does not find landmarks by itself")
