"""The folder with a team's clips, as it is mounted on this machine; a note in it says whose it is."""

from __future__ import annotations

import json
from pathlib import Path

from waxtwin.library.faults import LibraryError
from waxtwin.library.layout import CLIPS, SMALL, VOICES
from waxtwin.library.private import share

_NOTE = "waxtwin-team.json"


def claim(folder: Path, uid: str) -> None:
    """Make a folder the clips' folder of a team. Raises LibraryError where it is another's, or cannot be written."""
    try:
        if not folder.is_dir():
            folder.mkdir(parents=True)
            share(folder)
        known = _owner(folder)
        if known not in (None, uid):
            raise LibraryError(f"{folder}: this folder holds the clips of another team's library")
        for name in (CLIPS, VOICES, SMALL):
            (folder / name).mkdir(exist_ok=True)
            share(folder / name)
        if known is None:
            part = folder / f"{_NOTE}.part"
            part.write_text(json.dumps({"library": uid}) + "\n", encoding="utf-8")
            share(part)
            part.replace(folder / _NOTE)
    except OSError as fault:
        raise LibraryError(f"{folder}: the folder for clips cannot be used ({fault.strerror})") from None


def trusted(folder: Path, uid: str) -> None:
    """Raises LibraryError unless a folder is the one with this team's clips."""
    if not folder.is_dir():
        raise LibraryError(f"{folder}: the folder with the team's clips is not there; is the share mounted?")
    owner = _owner(folder)
    if owner is None:
        raise LibraryError(
            f"{folder}: this is not the folder with the team's clips; the share is not mounted, or mounted elsewhere"
        )
    if owner != uid:
        raise LibraryError(f"{folder}: this folder holds the clips of another team's library")


def _owner(folder: Path) -> str | None:
    try:
        said = json.loads((folder / _NOTE).read_text(encoding="utf-8"))
    except FileNotFoundError:
        return None
    except (OSError, ValueError):
        raise LibraryError(f"{folder}: {_NOTE} in it cannot be read") from None
    return str(said.get("library")) if isinstance(said, dict) else None
