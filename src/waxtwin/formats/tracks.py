"""Which file is read and written by what. Readers are total: a track, or a FormatError with one plain sentence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX, LANDMARKS, anatomical_names
from waxtwin.core.markers import Axes, MarkerMap, apply, match, propose_axes, track_from, unmapped
from waxtwin.core.track import Track, check_track
from waxtwin.formats import c3d_track, csv_track, json_track, trc_track
from waxtwin.formats.files import FormatError
from waxtwin.formats.track_format import FaultyFileError, Format, RawTrack

_MAY_MISS = 8  # landmarks that a lab set may leave out (hands, feet) and still be a delivery


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
    return {one.FORMAT.suffix: one.FORMAT for one in (csv_track, trc_track, c3d_track, json_track)}


TRACKS = tuple(formats())


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
    except FaultyFileError as fault:
        raise FormatError(path, str(fault)) from None


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
    except (FaultyFileError, TrackError) as fault:
        raise FormatError(path, str(fault)) from None
    return track, notes


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
    except (FaultyFileError, OSError, RuntimeError) as fault:
        raise FormatError(path, f"it cannot be written ({fault})") from None


def _assembled(raw: RawTrack, throws: str) -> Track:
    names = anatomical_names(throws)
    frames = raw.times.size
    points = np.full((frames, len(LANDMARKS), 3), np.nan)
    confidence = np.zeros((frames, len(LANDMARKS)))
    for name, path in raw.points.items():
        landmark = names.get(name, name)
        if landmark not in INDEX:
            raise FaultyFileError(f"there is no landmark named “{name[:40]}”")
        i = INDEX[landmark]
        points[:, i] = path
        given = raw.confidence.get(name)
        confidence[:, i] = ~np.isnan(path).all(axis=1) if given is None else np.nan_to_num(given)
    return Track(raw.times, points, np.clip(confidence, 0.0, 1.0))
