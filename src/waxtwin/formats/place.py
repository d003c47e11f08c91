"""Where the sidecar of a track or clip lies."""

from __future__ import annotations

from pathlib import Path

SUFFIX = ".delivery.json"


def sidecar_path(track: Path) -> Path:
    """The sidecar that belongs to a track or clip."""
    if track.name.endswith(SUFFIX):
        return track
    return track.with_name(track.stem + SUFFIX)
