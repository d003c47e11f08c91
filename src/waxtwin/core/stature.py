"""How tall a figure stands in its picture: the scale that a body gives by itself, and how sure it is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX, MIDDLES
from waxtwin.core.marks import Marks

# Ears to the middle of the shoulders, on to the middle of the hips, down thigh and shank: joint to joint this is 0.892
# of standing height on bodies of many builds (scatter 0.002). The longest that a landmark model shows of it is shorter
# by what knees stay bent and the trunk leans toward or away from the camera: shares as measured (docs/corrector.md).
_CHAIN: Mapping[str, float] = {"open side": 0.880, "closed side": 0.880, "front": 0.864, "rear": 0.838}
# Where no whole chain is seen: single segments and their shares, less sure since bodies differ in proportion.
_SEGMENTS: Mapping[tuple[str, str], float] = {
    ("chest", "pelvis"): 0.275, ("head", "chest"): 0.126, ("drive_hip", "drive_knee"): 0.243,
    ("lead_hip", "lead_knee"): 0.243, ("drive_knee", "drive_ankle"): 0.25, ("lead_knee", "lead_ankle"): 0.25,
    ("throwing_shoulder", "throwing_elbow"): 0.165, ("glove_shoulder", "glove_elbow"): 0.165,
}  # fmt: skip
_LONGEST = 92.0  # percentile of a length over the frames that counts as seen square on, above what wavers
# Shares, standard deviations. End-on the body comes nearer or goes away while it throws, which nothing tells.
_DOUBT: Mapping[str, float] = {"open side": 0.02, "closed side": 0.02, "front": 0.04, "rear": 0.05}
_SEGMENT_DOUBT = 0.07
_SMALLEST = 8.0  # pixels
_FEWEST = 6  # frames in which a length must be seen


@dataclass(frozen=True)
class Stature:
    """Standing height in pixels, and its standard deviation as a share."""

    pixels: float
    doubt: float


def stature(marks: Marks, view: str) -> Stature:
    """The figure's standing height in the picture, seen from a `view` ("open side", "front", ...).

    Its segments are laid end to end, frame by frame, so that a bend within the picture costs nothing; what points at
    the camera is seen short, so the longest moments count. Raises TrackError when no segment is seen often enough.
    """
    chain = [seen for side in ("drive", "lead") if (seen := _longest(_chain(marks, side))) is not None]
    if chain:
        pixels, doubt = float(np.mean(chain)) / _CHAIN[view], _DOUBT[view]
    else:
        found = [
            seen / share for (a, b), share in _SEGMENTS.items() if (seen := _longest(_length(marks, a, b))) is not None
        ]
        if not found:
            raise TrackError("too little of the body is marked to tell how large it is in the picture")
        pixels, doubt = float(np.median(found)), _SEGMENT_DOUBT
    if pixels < _SMALLEST:
        raise TrackError("the figure is only a few pixels tall")
    return Stature(pixels, doubt)


def _place(marks: Marks, name: str) -> np.ndarray:
    if name in MIDDLES:
        return np.asarray(marks.points[:, [INDEX[part] for part in MIDDLES[name]]].mean(axis=1))
    return np.asarray(marks.points[:, INDEX[name]])


def _length(marks: Marks, first: str, last: str) -> np.ndarray:
    return np.asarray(np.linalg.norm(_place(marks, last) - _place(marks, first), axis=-1))


def _chain(marks: Marks, side: str) -> np.ndarray:
    """Ears to ankle along the body, `(frames,)` pixels, NaN where a joint is missing."""
    joints = ("head", "chest", "pelvis", f"{side}_knee", f"{side}_ankle")
    return np.asarray(sum(_length(marks, a, b) for a, b in pairwise(joints)))


def _longest(lengths: np.ndarray) -> float | None:
    known = lengths[np.isfinite(lengths)]
    return float(np.percentile(known, _LONGEST)) if known.size >= _FEWEST else None
