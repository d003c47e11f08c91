"""Which files make up a throw, by their names."""

from __future__ import annotations

import re
from pathlib import Path

SUFFIX = ".delivery.json"
CLIPS = (".mp4", ".mov", ".mkv", ".avi", ".webm", ".m4v", ".ts", ".mts")


def sidecar_path(track: Path) -> Path:
    """The sidecar that belongs to a track or clip."""
    if track.name.endswith(SUFFIX):
        return track
    return track.with_name(track.stem + SUFFIX)


def file_name(said: str) -> str:
    """A name as a harmless file name: no separators, no leading dot, not too long, in letters and in bytes."""
    harmless = re.sub(r"[^\w\- ]+", "", said).strip().replace(" ", "-")
    return harmless.encode("utf-8", "ignore")[:120].decode("utf-8", "ignore")[:60] or "unnamed"
