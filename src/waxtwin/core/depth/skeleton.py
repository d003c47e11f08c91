"""The body that is fitted: its joints, its segments, their lengths, and how quickly joints can change their speed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.landmarks import INDEX, LANDMARKS, OPTIONAL

JOINTS = tuple(name for name in LANDMARKS if name == "nose" or name not in OPTIONAL)
COUNT = len(JOINTS)
assert LANDMARKS[:COUNT] == JOINTS  # so that arrays of joints are the first columns of arrays of landmarks


@dataclass(frozen=True, slots=True)
class Kind:
    """A segment's usual length in shares of standing height, how much bodies (and where a joint is seen) vary, as a
    share, and how little a model's depth of it is worth, against that of the hips.
    """

    share: float
    varies: float
    depth_doubt: float = 1.0


# Shares after Winter's textbook, between his joints and those of a landmark model where the two differ.
KINDS: Mapping[str, Kind] = {
    "hips": Kind(0.118, 0.10, 2.0), "shoulders": Kind(0.217, 0.06, 6.0), "spine": Kind(0.272, 0.05, 3.0),
    "neck": Kind(0.124, 0.12, 20.0), "face": Kind(0.062, 0.20, 3.0), "upper arm": Kind(0.165, 0.11, 1.5),
    "forearm": Kind(0.149, 0.06, 2.0), "hand": Kind(0.059, 0.15, 3.0), "thigh": Kind(0.243, 0.05),
    "shank": Kind(0.250, 0.05), "ankle to heel": Kind(0.052, 0.20, 9.0), "ankle to toe": Kind(0.112, 0.20, 2.0),
    "foot": Kind(0.140, 0.12, 2.0),
}  # fmt: skip
KIND_NAMES = tuple(KINDS)
SHARES = np.array([kind.share for kind in KINDS.values()])
VARIES = np.array([kind.varies for kind in KINDS.values()])


@dataclass(frozen=True, slots=True)
class Segment:
    """A vector between joints, or middles of joints: `weights` {joint: share of its place}; `kind` a key of KINDS."""

    kind: str
    weights: Mapping[str, float]


def _bone(kind: str, first: str, last: str) -> Segment:
    return Segment(kind, {first: -1.0, last: 1.0})


_SHOULDERS, _HIPS = ("throwing_shoulder", "glove_shoulder"), ("drive_hip", "lead_hip")
SEGMENTS: tuple[Segment, ...] = (
    _bone("hips", *_HIPS),
    _bone("shoulders", *_SHOULDERS),
    Segment("spine", dict.fromkeys(_SHOULDERS, 0.5) | dict.fromkeys(_HIPS, -0.5)),
    Segment("neck", {"head": 1.0} | dict.fromkeys(_SHOULDERS, -0.5)),
    _bone("face", "head", "nose"),
    *(
        _bone(kind, f"{side}_{first}", f"{side}_{last}")
        for side in ("throwing", "glove")
        for kind, first, last in (
            ("upper arm", "shoulder", "elbow"), ("forearm", "elbow", "wrist"), ("hand", "wrist", "hand"),
        )
    ),
    *(
        _bone(kind, f"{side}_{first}", f"{side}_{last}")
        for side in ("drive", "lead")
        for kind, first, last in (
            ("thigh", "hip", "knee"), ("shank", "knee", "ankle"), ("ankle to heel", "ankle", "heel"),
            ("ankle to toe", "ankle", "toe"), ("foot", "heel", "toe"),
        )
    ),
)  # fmt: skip
HIP_LINE, SHOULDER_LINE, SPINE = 0, 1, 2  # places in SEGMENTS
OF_KIND = np.array([KIND_NAMES.index(segment.kind) for segment in SEGMENTS])

# The largest usual change of speed (m/s2, for 1.80 m), and how far a model's marks wander, in shares of height.
_MOVES: Mapping[str, tuple[float, float]] = {
    "head": (60, 0.004), "nose": (80, 0.004), "shoulder": (90, 0.006), "hip": (50, 0.009), "elbow": (250, 0.015),
    "wrist": (500, 0.015), "hand": (700, 0.015), "knee": (120, 0.007), "ankle": (150, 0.007), "heel": (170, 0.010),
    "toe": (200, 0.010),
}  # fmt: skip
ACCELERATION = np.array([_MOVES[name.rsplit("_", 1)[-1]][0] for name in JOINTS])
WANDER = np.array([_MOVES[name.rsplit("_", 1)[-1]][1] for name in JOINTS])


def weights(parts: Mapping[str, float]) -> tuple[np.ndarray, np.ndarray]:
    """Joints' columns and their shares, of a vector that is made of joints."""
    return np.array([INDEX[name] for name in parts]), np.array(list(parts.values()))


def vectors(points: np.ndarray) -> np.ndarray:
    """The segments of points `(..., joints, 3)`: `(..., segments, 3)`."""
    return np.asarray(np.einsum("sj,...jc->...sc", _MATRIX, points))


_MATRIX = np.zeros((len(SEGMENTS), COUNT))
for _row, _segment in enumerate(SEGMENTS):
    for _name, _share in _segment.weights.items():
        _MATRIX[_row, INDEX[_name]] = _share
