"""The shipped poses from which practice tasks are drawn."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np

from waxtwin import ASSETS
from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.formats.files import FormatError, read_text

POSES = ASSETS / "poses.json"


@dataclass(frozen=True, eq=False)
class Poses:
    """`height` m; `points` {name: (landmarks, 3)} m in the field, NaN where a landmark is not known."""

    height: float
    points: Mapping[str, np.ndarray]


def load_poses(path: Path = POSES) -> Poses:
    """The poses of a file. Raises FormatError."""
    try:
        document = json.loads(read_text(path))
        at = [INDEX[name] for name in document["landmarks"]]
        found = {}
        for name, points in document["poses"].items():
            body = np.full((len(LANDMARKS), 3), np.nan)
            body[at] = [[np.nan] * 3 if point is None else point for point in points]
            found[str(name)] = body / 1000.0
        return Poses(float(document["height"]), found)
    except (ValueError, KeyError, TypeError, AttributeError):
        raise FormatError(path, "it is not a file of poses that can be read") from None


shipped_poses = cache(load_poses)
