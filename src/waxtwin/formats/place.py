"""Which files make up a throw, by their names."""

from __future__ import annotations

from pathlib import Path

SUFFIX = ".delivery.json"
CLIPS = (".mp4", ".mov", ".mkv", ".avi", ".webm", ".m4v", ".ts", ".mts")
TRACKS = (".csv", ".trc", ".c3d", ".json")


def sidecar_path(track: Path) -> Path:
    """The sidecar that belongs to a track or clip."""
    if track.name.endswith(SUFFIX):
        return track
    return track.with_name(track.stem + SUFFIX)
