"""A library folder: every throw in it, with the files that could not be read and why."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from waxtwin.core.errors import WaxTwinError
from waxtwin.formats import FormatError
from waxtwin.formats.place import SUFFIX, sidecar_path
from waxtwin.library.delivery import TRACKS

if TYPE_CHECKING:
    from waxtwin.formats.sidecar import Sidecar


@dataclass(frozen=True)
class Shelf:
    """A throw seen from outside: its track and what the sidecar says; the track itself is read when it is opened."""

    path: Path
    sidecar: Sidecar


@dataclass(frozen=True)
class Folder:
    """The throws of a folder, by athlete and date, and the faults met on the way."""

    path: Path
    shelves: tuple[Shelf, ...]
    faults: tuple[str, ...]


def open_folder(path: Path) -> Folder:
    """List a folder. Raises FormatError when it is not a folder that can be read."""
    from waxtwin.formats.sidecar import Sidecar, read_sidecar

    try:
        names = sorted(p for p in path.iterdir() if p.is_file())
    except OSError:
        raise FormatError(path, "this folder cannot be opened") from None
    shelves, faults = [], []
    for file in names:
        if file.suffix.lower() not in TRACKS or file.name.endswith((SUFFIX, ".truth.json")):
            continue
        beside = sidecar_path(file)
        if file.suffix.lower() == ".json" and not beside.is_file():
            continue  # some other JSON
        try:
            shelves.append(Shelf(file, read_sidecar(beside) if beside.is_file() else Sidecar()))
        except WaxTwinError as fault:
            faults.append(str(fault))
    shelves.sort(key=lambda s: (s.sidecar.athlete.name or s.path.stem, s.sidecar.recorded or ""))
    return Folder(path, tuple(shelves), tuple(faults))
