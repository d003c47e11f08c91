"""Which file is read and written by what. Readers are total: a track, or a FormatError with one plain sentence."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

import numpy as np

from waxtwin.core.errors import TrackError, WaxTwinError
from waxtwin.core.landmarks import INDEX, LANDMARKS, anatomical_names
from waxtwin.core.track import Track, check_track

MAX_BYTES = 400 * 1024 * 1024


class FormatError(WaxTwinError):
    """A file cannot be read or written; the sentence names the file and the fault."""

    def __init__(self, path: Path, fault: str) -> None:
        super().__init__(f"{path.name}: {fault}")
        self.path, self.fault = path, fault


class Reader(Protocol):
    """Text of a file to raw columns; raises ValueError with a plain fault."""

    def __call__(self, text: str) -> RawTrack: ...


class Writer(Protocol):
    """A track to the text of a file."""

    def __call__(self, track: Track) -> str: ...


@dataclass(frozen=True, slots=True)
class RawTrack:
    """Columns as a file has them: `points` {name: (frames, 3) m}, `confidence` {name: (frames,)}, true field frame."""

    times: np.ndarray
    points: Mapping[str, np.ndarray]
    confidence: Mapping[str, np.ndarray]
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Format:
    """A track format: its extension, its name, how to read and write it."""

    suffix: str
    name: str
    read: Reader
    write: Writer


def formats() -> dict[str, Format]:
    """Every track format by its extension."""
    from waxtwin.formats import csv_track, json_track, trc_track

    return {
        f.suffix: f
        for f in (
            Format(".csv", "CSV table", csv_track.read, csv_track.write),
            Format(".trc", "TRC markers", trc_track.read, trc_track.write),
            Format(".json", "landmark JSON", json_track.read, json_track.write),
        )
    }


def read_track(path: Path, throws: str = "R") -> tuple[Track, list[str]]:
    """Read a track and notes about it. `throws` resolves plain anatomical names. Raises FormatError."""
    form = formats().get(path.suffix.lower())
    if form is None or path.name.endswith(".delivery.json"):
        known = ", ".join(formats())
        raise FormatError(path, f"this is not a track file that Wax Twin reads ({known})")
    text = read_text(path)
    try:
        raw = form.read(text)
        track = _assembled(raw, throws)
        check_track(track)
    except TrackError as fault:
        raise FormatError(path, str(fault)) from None
    except (ValueError, KeyError, IndexError, TypeError, OverflowError, AttributeError) as fault:
        said = str(fault) if type(fault) is ValueError and str(fault) else f"it is not a valid {form.name}"
        raise FormatError(path, said) from None
    return track, list(raw.notes)


def write_track(track: Track, path: Path) -> None:
    """Write a track by the path's extension, whole or not at all. Raises FormatError."""
    form = formats().get(path.suffix.lower())
    if form is None:
        raise FormatError(path, f"tracks are written as {', '.join(formats())}")
    write_text(path, form.write(track))


def read_text(path: Path) -> str:
    """A file's text. Raises FormatError for a missing, unreadable, huge or wrongly encoded file."""
    try:
        if path.is_dir():
            raise FormatError(path, "this is a folder, not a file")
        if path.stat().st_size > MAX_BYTES:
            raise FormatError(path, "the file is too large to be one throw")
        data = path.read_bytes()
    except FileNotFoundError:
        raise FormatError(path, "there is no such file") from None
    except OSError as fault:
        raise FormatError(path, f"it cannot be read ({fault.strerror or 'input error'})") from None
    if not data.strip():
        raise FormatError(path, "the file is empty")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise FormatError(path, "it is not plain UTF-8 text") from None


def write_text(path: Path, text: str) -> None:
    """Replace a file's contents in one step, so that a failure leaves the old file. Raises FormatError."""
    part = path.with_name(f".{path.name}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        part.write_text(text, encoding="utf-8")
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
