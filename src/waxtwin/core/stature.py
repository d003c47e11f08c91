"""How tall a figure stands in its picture: the scale that a body gives by itself, and how sure it is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import Marks

# Ears to the middle of the shoulders, on to the middle of the hips, down thigh and shank: this share of standing height
# (segment lengths after Winter's textbook; measured joint to joint on bodies of many builds: 0.892, scatter 0.002).
_CHAIN = 0.892
# Where no whole chain is seen: single segments and their shares, less sure since bodies differ in proportion.
_SEGMENTS: Mapping[tuple[str, str], float] = {
    ("chest", "pelvis"): 0.275, ("head", "chest"): 0.126, ("drive_hip", "drive_knee"): 0.243,
    ("lead_hip", "lead_knee"): 0.243, ("drive_knee", "drive_ankle"): 0.25, ("lead_knee", "lead_ankle"): 0.25,
    ("throwing_shoulder", "throwing_elbow"): 0.165, ("glove_shoulder", "glove_elbow"): 0.165,
}  # fmt: skip
_MIDDLES = {"chest": ("throwing_shoulder", "glove_shoulder"), "pelvis": ("drive_hip", "lead_hip")}
_LONGEST = 92.0  # percentile of a length over the frames that counts as seen square on, above what wavers
CHAIN_DOUBT, SEGMENT_DOUBT = 0.025, 0.06  # shares, standard deviations
_SMALLEST = 8.0  # pixels
_FEWEST = 6  # frames in which a length must be seen


@dataclass(frozen=True)
class Stature:
    """Standing height in pixels, its standard deviation as a share, and the pixel of the sole's level at the start."""

    pixels: float
    doubt: float


def stature(marks: Marks) -> Stature:
    """The figure's standing height in the picture.

    Its segments are laid end to end, frame by frame, so that a bend within the picture costs nothing; what points at
    the camera is seen short, so the longest moments count. Raises TrackError when no segment is seen often enough.
    """
    chain = [seen for side in ("drive", "lead") if (seen := _longest(_chain(marks, side))) is not None]
    if chain:
        pixels, doubt = float(np.mean(chain)) / _CHAIN, CHAIN_DOUBT
    else:
        found = [
            seen / share for (a, b), share in _SEGMENTS.items() if (seen := _longest(_length(marks, a, b))) is not None
        ]
        if not found:
            raise TrackError("too little of the body is marked to tell how large it is in the picture")
        pixels, doubt = float(np.median(found)), SEGMENT_DOUBT
    if pixels < _SMALLEST:
        raise TrackError("the figure is only a few pixels tall")
    return Stature(pixels, doubt)


def _place(marks: Marks, name: str) -> np.ndarray:
    if name in _MIDDLES:
        return np.asarray(marks.points[:, [INDEX[part] for part in _MIDDLES[name]]].mean(axis=1))
    return np.asarray(marks.points[:, INDEX[name]])


def _length(marks: Marks, first: str, last: str) -> np.ndarray:
    return np.asarray(np.linalg.norm(_place(marks, last) - _place(marks, first), axis=-1))


def _chain(marks: Marks, side: str) -> np.ndarray:
    """Ears to ankle along the body, `(frames,)` pixels, NaN where a joint is missing."""
    joints = ("head", "chest", "pelvis", f"{side}_knee", f"{side}_ankle")
    return np.asarray(sum(_length(marks, a, b) for a, b in zip(joints, joints[1:], strict=False)))


def _longest(lengths: np.ndarray) -> float | None:
    known = lengths[np.isfinite(lengths)]
    return float(np.percentile(known, _LONGEST)) if known.size >= _FEWEST else None
