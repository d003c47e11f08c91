"""Landmark JSON: `{"version":1,"fps":..,"landmarks":[ids],"frames":[{"t":..,"points":[[x,y,z,c],..]}]}`."""

from __future__ import annotations

import json
from contextlib import suppress
from typing import Any

import numpy as np

from waxtwin.core.landmarks import LANDMARKS
from waxtwin.core.track import Track
from waxtwin.formats.track_format import FaultyFileError, RawTrack, text_format

_MOST_LANDMARKS = 500


def read(text: str) -> RawTrack:
    """Parse the document. Raises FaultyFileError with the fault."""
    names, frames = _checked(_parsed(text))
    times = np.array([_figure(frame.get("t"), k) for k, frame in enumerate(frames)])
    points = np.full((len(frames), len(names), 3), np.nan)
    confidence = np.ones((len(frames), len(names)))
    for k, frame in enumerate(frames):
        for j, point in enumerate(frame["points"]):
            if point is None:
                continue
            if not isinstance(point, list) or len(point) < 3:
                raise FaultyFileError(f"frame {k + 1} has a point that is not [x, y, z, confidence]")
            points[k, j] = [np.nan if v is None else _figure(v, k) for v in point[:3]]
            if len(point) > 3 and point[3] is not None:
                confidence[k, j] = _figure(point[3], k)
    return RawTrack(
        times,
        {str(name): points[:, j] for j, name in enumerate(names)},
        {str(name): confidence[:, j] for j, name in enumerate(names)},
    )


def _parsed(text: str) -> dict[str, Any]:
    """The document. Raises FaultyFileError."""
    try:
        document = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as fault:
        where = f" at line {fault.lineno}" if isinstance(fault, json.JSONDecodeError) else ""
        raise FaultyFileError(f"it is not valid JSON{where}; is the file cut short?") from None
    if not isinstance(document, dict) or "frames" not in document or "landmarks" not in document:
        raise FaultyFileError("it is JSON, but has no “landmarks” and “frames”")
    if document.get("version", 1) != 1:
        raise FaultyFileError(f"its version is {str(document['version'])[:20]}; this program reads version 1")
    return document


def _checked(document: dict[str, Any]) -> tuple[list[Any], list[dict[str, Any]]]:
    """Names and frames, before anything is laid out for them. Raises FaultyFileError."""
    names, frames = document["landmarks"], document["frames"]
    if not isinstance(names, list) or not isinstance(frames, list) or not frames:
        raise FaultyFileError("it has no frames")
    if len(names) > _MOST_LANDMARKS:
        raise FaultyFileError(f"it names {len(names)} landmarks, more than any body has")
    for k, frame in enumerate(frames):
        if not isinstance(frame, dict) or not isinstance(frame.get("points"), list):
            raise FaultyFileError(f"frame {k + 1} has no points")
        if len(frame["points"]) != len(names):
            raise FaultyFileError(f"frame {k + 1} has {len(frame['points'])} points for {len(names)} landmarks")
    return names, frames


def _figure(said: object, frame: int) -> float:
    """A number of the document; JSON allows whole numbers of any length."""
    if isinstance(said, (int, float)) and not isinstance(said, bool):
        with suppress(OverflowError):
            return float(said)
    raise FaultyFileError(f"frame {frame + 1} has “{str(said)[:20]}” where a number belongs")


def write(track: Track) -> str:
    """The document; missing coordinates are null."""
    present = [(i, n) for i, n in enumerate(LANDMARKS) if not np.isnan(track.points[:, i]).all()]
    frames = [
        {
            "t": round(float(time), 6),
            "points": [
                [*(None if np.isnan(v) else round(float(v), 5) for v in track.points[k, i]),
                 round(float(track.confidence[k, i]), 3)]
                for i, _ in present
            ],
        }
        for k, time in enumerate(track.times)
    ]  # fmt: skip
    document = {"version": 1, "fps": round(track.rate, 4), "landmarks": [n for _, n in present], "frames": frames}
    return json.dumps(document, separators=(",", ":"))


FORMAT = text_format(".json", "landmark JSON", read, write)
