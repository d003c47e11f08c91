"""Throws as files: which of a folder are some, and a folder as one set. Knows no library."""

from __future__ import annotations

import re
from pathlib import Path

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.track import hidden_axis
from waxtwin.formats.files import FormatError
from waxtwin.formats.person import is_person_file
from waxtwin.formats.place import CLIPS, SUFFIX, sidecar_path
from waxtwin.formats.sidecar import read_sidecar
from waxtwin.formats.tracks import TRACKS
from waxtwin.library.stored import StoredDelivery, clip_place, load


def sources(path: Path) -> list[Path]:
    """The throws of a folder (and the folders in it), or the file itself: tracks, and clips that no sidecar names.

    Raises FormatError when the folder cannot be read.
    """
    if not path.is_dir():
        return [path]
    try:
        files = sorted(p for p in path.rglob("*") if p.is_file() and not p.name.startswith("."))
    except OSError:
        raise FormatError(path, "this folder cannot be opened") from None
    named: set[Path] = set()
    for sidecar in (f for f in files if f.name.endswith(SUFFIX)):
        try:
            named |= {clip_place(sidecar, view) for view in read_sidecar(sidecar).views}
        except WaxTwinError:
            continue
    tracks = [f for f in files if _is_track(f)]
    beside = {f.with_suffix("") for f in tracks}
    clips = [f for f in files if f.suffix.lower() in CLIPS and f not in named and f.with_suffix("") not in beside]
    return sorted(tracks + clips, key=_by_number)


def _by_number(file: Path) -> tuple[Path, list[tuple[int, str]]]:
    """The order in which people count: throw, throw-2, throw-10."""
    parts = re.split(r"(\d+)", file.stem)
    return file.parent, [(int(part), "") if part.isdigit() else (0, part) for part in parts if part]


def _is_track(file: Path) -> bool:
    if file.suffix.lower() not in TRACKS or file.name.endswith((SUFFIX, ".truth.json")) or is_person_file(file):
        return False
    return file.suffix.lower() != ".json" or sidecar_path(file).is_file()  # some other JSON is none of ours


def tracks_in(folder: Path) -> list[Path]:
    """The throws of a folder that have a track; none of what is no folder. Raises FormatError where it is closed."""
    return [file for file in sources(folder) if file.suffix.lower() not in CLIPS] if folder.is_dir() else []


def load_set(path: Path) -> tuple[StoredDelivery, ...]:
    """The throw in a file, or every track in a folder as one set.

    Raises FormatError for a folder without tracks, of more than one athlete, or of throws seen from unlike sides.
    """
    if not path.is_dir():
        return (load(path),)
    files = tracks_in(path)
    if not files:
        raise FormatError(path, "there is no track in this folder")
    throws = tuple(load(file) for file in files)
    first = throws[0]
    for file, throw in zip(files, throws, strict=True):
        if (throw.title, throw.delivery.throws) != (first.title, first.delivery.throws) and throw.sidecar.athlete.name:
            raise FormatError(path, f"a set is of one athlete, and {file.name} is of another than {files[0].name}")
        if not seen_alike(first, throw):
            raise FormatError(path, f"{file.name} is not seen from the same side as {files[0].name}")
    return throws


def seen_alike(one: StoredDelivery, other: StoredDelivery) -> bool:
    """Whether the same axes are seen of both, and both are as far as each other from metres."""
    sides = [stored.delivery for stored in (one, other)]
    return len({(hidden_axis(d.track.points), d.sight.scaled) for d in sides}) == 1
