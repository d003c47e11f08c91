"""Which file is read and written by what. Readers are total: a track, or a FormatError with one plain sentence."""

from __future__ import annotations

import csv
import stat
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from waxtwin.core.errors import TrackError, WaxTwinError, plain, shown_name
from waxtwin.core.landmarks import INDEX, LANDMARKS, anatomical_names
from waxtwin.core.markers import Axes, MarkerMap, apply, match, propose_axes, track_from, unmapped
from waxtwin.core.track import Track, check_track

MAX_BYTES = 64 * 1024**2  # of text: a throw is a hundredth of it, and reading it takes a multiple in memory
MAX_JSON = 24 * 1024**2
_MAY_MISS = 8  # landmarks that a lab set may leave out (hands, feet) and still be a delivery


class FormatError(WaxTwinError):
    """A file cannot be read or written; the sentence names the file and the fault."""

    def __init__(self, path: Path, fault: str) -> None:
        super().__init__(f"{shown_name(path)}: {fault}")
        self.path, self.fault = path, plain(fault)


@dataclass(frozen=True, slots=True)
class RawTrack:
    """Columns as a file has them: `points` {name: (frames, 3) m}, `confidence` {name: (frames,)}, true field frame."""

    times: np.ndarray
    points: Mapping[str, np.ndarray]
    confidence: Mapping[str, np.ndarray]
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Format:
    """A track format: its extension, its name, how to read and write it.

    `load` raises ValueError with a plain fault; `lab` says that its markers may be of any set, along any axes.
    """

    suffix: str
    name: str
    load: Callable[[Path], RawTrack]
    save: Callable[[Track, Path], None]
    lab: bool = False


@dataclass(frozen=True)
class LabSetup:
    """How a lab file is read: which markers make which landmark, which way its axes run, which part (s) is the throw;
    None for what is to be proposed from the file itself.
    """  # fmt: skip

    recipes: MarkerMap | None = None
    axes: Axes | None = None
    part: tuple[float, float] | None = None


class UnmappedError(FormatError):
    """The file's markers do not give the landmarks that a delivery needs; somebody has to say which is which."""

    def __init__(self, path: Path, names: Sequence[str], missing: Sequence[str]) -> None:
        wanted = ", ".join(name.replace("_", " ") for name in missing[:4])
        super().__init__(path, f"its {len(names)} markers do not say which is the {wanted}; map them on the Bench")
        self.names = tuple(names)


def formats() -> dict[str, Format]:
    """Every track format by its extension."""
    from waxtwin.formats import c3d_track, csv_track, json_track, trc_track

    def text(read: Callable[[str], RawTrack]) -> Callable[[Path], RawTrack]:
        return lambda path: read(read_text(path))

    def whole(write: Callable[[Track], str]) -> Callable[[Track, Path], None]:
        return lambda track, path: write_text(path, write(track))

    return {
        f.suffix: f
        for f in (
            Format(".csv", "CSV table", text(csv_track.read), whole(csv_track.write)),
            Format(".trc", "TRC file", text(trc_track.read), whole(trc_track.write), lab=True),
            Format(".c3d", "C3D file", c3d_track.read, c3d_track.write, lab=True),
            Format(".json", "landmark JSON", text(json_track.read), whole(json_track.write)),
        )
    }


def read_raw(path: Path) -> RawTrack:
    """A track file's columns as they are. Raises FormatError."""
    form = formats().get(path.suffix.lower())
    if form is None or path.name.endswith(".delivery.json"):
        known = ", ".join(formats())
        raise FormatError(path, f"this is not a track file that Wax Twin reads ({known})")
    try:
        return form.load(path)
    except FormatError:
        raise
    except OSError as fault:
        raise FormatError(path, f"it cannot be read ({fault.strerror or 'input error'})") from None
    except _FAULTS as fault:
        said = str(fault) if type(fault) is ValueError and str(fault) else f"it is not a valid {form.name}"
        raise FormatError(path, said) from None


def read_track(path: Path, throws: str = "R", setup: LabSetup | None = None) -> tuple[Track, list[str]]:
    """Read a track and notes about it. `throws` resolves plain anatomical names. Raises FormatError."""
    raw = read_raw(path)
    notes = list(raw.notes)
    try:
        if formats()[path.suffix.lower()].lab:
            track = _from_lab(path, raw, throws, setup or LabSetup(), notes)
        else:
            track = _assembled(raw, throws)
        check_track(track)
    except FormatError:
        raise
    except _FAULTS as fault:
        said = str(fault) if isinstance(fault, TrackError) or type(fault) is ValueError else "it is not a valid track"
        raise FormatError(path, said or "it is not a valid track") from None
    return track, notes


_FAULTS = (ValueError, KeyError, IndexError, TypeError, OverflowError, AttributeError, RecursionError, csv.Error)


def _from_lab(path: Path, raw: RawTrack, throws: str, setup: LabSetup, notes: list[str]) -> Track:
    """Markers of any set: mapped, turned into the field frame and cut to the throw."""
    own = {name for name in raw.points if name in INDEX or name in anatomical_names(throws)}
    recipes = match(list(raw.points), setup.recipes)
    missing = unmapped(recipes, throws)
    if len(missing) > _MAY_MISS:
        raise UnmappedError(path, list(raw.points), missing)
    points = apply(recipes, raw.points, throws)
    axes = setup.axes or propose_axes(points)
    times = raw.times
    if setup.part is not None:
        keep = (times >= setup.part[0]) & (times <= setup.part[1])
        times, points = times[keep], {name: values[keep] for name, values in points.items()}
    ours = len(own) >= len(recipes)
    if ours and setup.axes is None and axes.up == "+z":
        axes = Axes()  # names and upright are ours: so is the frame
    elif setup.axes is None:
        notes.append(f"Taken from the motion: {axes.up} is up and {axes.forward} runs toward the plate.")
    if not ours:
        notes.append(f"{len(recipes)} landmarks are made from {len(raw.points)} markers.")
    return track_from(times, points, axes, place=not ours)


def write_track(track: Track, path: Path) -> None:
    """Write a track by the path's extension, whole or not at all. Raises FormatError."""
    form = formats().get(path.suffix.lower())
    if form is None:
        raise FormatError(path, f"tracks are written as {', '.join(formats())}")
    try:
        form.save(track, path)
    except FormatError:
        raise
    except (ValueError, OSError, RuntimeError) as fault:
        raise FormatError(path, f"it cannot be written ({fault})") from None


def read_text(path: Path) -> str:
    """A file's text. Raises FormatError for a missing, unreadable, huge or wrongly encoded file."""
    most = MAX_JSON if path.suffix.lower() == ".json" else MAX_BYTES
    try:
        if path.is_dir():
            raise FormatError(path, "this is a folder, not a file")
        check_plain_file(path, most)
        data = path.read_bytes()
    except FileNotFoundError:
        raise FormatError(path, "there is no such file") from None
    except (OSError, ValueError) as fault:
        if isinstance(fault, FormatError):
            raise
        if not isinstance(fault, OSError):  # a name with a zero in it
            raise FormatError(path, "this is not the name of a file") from None
        raise FormatError(path, f"it cannot be read ({fault.strerror or 'input error'})") from None
    if not data.strip():
        raise FormatError(path, "the file is empty")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise FormatError(path, "it is not plain UTF-8 text") from None


def check_plain_file(path: Path, most: int) -> None:
    """Raise FormatError for what is no plain file (a pipe would be waited for without end) or too large; OSError."""
    facts = path.stat()
    if not stat.S_ISREG(facts.st_mode):
        raise FormatError(path, "this is not a plain file")
    if facts.st_size > most:
        raise FormatError(path, "the file is too large to be one throw")


def write_text(path: Path, text: str) -> None:
    """Replace a file's contents in one step, so that a failure leaves the old file. Raises FormatError."""
    write_bytes(path, text.encode("utf-8", "replace"))


def write_bytes(path: Path, data: bytes) -> None:
    """The same for bytes. Raises FormatError."""
    part = path.with_name(f".{path.name[:200]}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        part.write_bytes(data)
        part.replace(path)
    except OSError as fault:
        with suppress(OSError):
            part.unlink(missing_ok=True)
        raise FormatError(path, f"it cannot be written ({fault.strerror or 'output error'})") from None


def _assembled(raw: RawTrack, throws: str) -> Track:
    names = anatomical_names(throws)
    frames = raw.times.size
    points = np.full((frames, len(LANDMARKS), 3), np.nan)
    confidence = np.zeros((frames, len(LANDMARKS)))
    for name, path in raw.points.items():
        landmark = names.get(name, name)
        if landmark not in INDEX:
            raise ValueError(f"there is no landmark named “{name[:40]}”")
        i = INDEX[landmark]
        points[:, i] = path
        given = raw.confidence.get(name)
        confidence[:, i] = ~np.isnan(path).all(axis=1) if given is None else np.nan_to_num(given)
    return Track(raw.times, points, np.clip(confidence, 0.0, 1.0))
