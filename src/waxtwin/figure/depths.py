"""The axis that one camera does not see, made up for a figure: widths as bodies have them, limbs as long as they are.

Only what is drawn rests on it. A limb that is seen shorter than it is points at the camera or away from it: knees bend
forwards, feet stay behind knees, arms are carried outside and before the trunk.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from waxtwin.core.landmarks import INDEX
from waxtwin.figure.skeleton import FACE, FOREARM, HIP_SPAN, SHANK, SHOULDER_SPAN, THIGH, TO_HEEL, TO_TOE, UPPER_ARM
from waxtwin.figure.turns import cross, smooth, unit


class _Segment(NamedTuple):
    """A limb's segment: the joint at its end, what else goes with that, its usual length over standing height, and
    where it mostly points to while it is seen short: so far outside and so far before the trunk.
    """

    end: str
    along: tuple[str, ...]
    length: float
    outward: float
    ahead: float


_ROOTS = (("shoulder", ("throwing", "glove"), SHOULDER_SPAN), ("hip", ("drive", "lead"), HIP_SPAN))
# where segments point to fits simulated deliveries of four bodies, seen from the side and from the front
_LIMBS = {
    "throwing": (_Segment("elbow", (), UPPER_ARM, 1.0, -0.3), _Segment("wrist", ("hand",), FOREARM, 0.0, 1.0)),
    "glove": (_Segment("elbow", (), UPPER_ARM, 0.6, 1.0), _Segment("wrist", ("hand",), FOREARM, 0.0, 1.0)),
    "drive": (_Segment("knee", (), THIGH, 1.0, 0.6), _Segment("ankle", ("heel", "toe"), SHANK, 1.0, -1.0)),
    "lead": (_Segment("knee", (), THIGH, 0.0, 1.0), _Segment("ankle", ("heel", "toe"), SHANK, 0.6, -1.0)),
}
_SHORT = 0.15  # of its length: a limb that is seen so much shorter surely points out of the picture
_SURE = 0.5  # of a unit: how far it must point along the unseen axis for that to count whole


def add_depth(points: np.ndarray, axis: int, height: float) -> None:
    """Give bodies `(..., landmarks, 3)` in metres, of standing `height` (m), the `axis` that is the same all over; what
    hangs on a missing landmark keeps it.
    """
    for root, sides, span in _ROOTS:
        first, second = _ends(points, root, sides)
        reach = first[..., 1 - axis] - second[..., 1 - axis]
        wide = np.nan_to_num(np.sqrt(np.maximum((span * height) ** 2 - reach**2, 0.0)) / 2)
        first[..., axis] -= wide  # the throwing side is where an open trunk has it
        second[..., axis] += wide
    chest, pelvis = (np.mean(_ends(points, root, sides), axis=0) for root, sides, _ in _ROOTS)
    for root, sides, _ in _ROOTS:
        outward = unit(np.subtract(*_ends(points, root, sides)))
        ahead = unit(cross(chest - pelvis, outward))[..., axis]
        for side, away in zip(sides, (outward, -outward), strict=True):
            _bend(points, axis, height, (f"{side}_{root}", side), (away[..., axis], ahead))
        if root == "hip":
            for side in sides:
                _point(points, axis, (f"{side}_heel", f"{side}_toe"), (TO_HEEL * height, TO_TOE * height), ahead)
        else:  # the face looks where the throw goes, or as the chest does
            _point(points, axis, ("head", "nose"), (0.0, FACE * height), ahead if axis else np.ones_like(ahead))


def _ends(points: np.ndarray, root: str, sides: tuple[str, str]) -> tuple[np.ndarray, np.ndarray]:
    return points[..., INDEX[f"{sides[0]}_{root}"], :], points[..., INDEX[f"{sides[1]}_{root}"], :]


def _bend(
    points: np.ndarray, axis: int, height: float, limb: tuple[str, str], trunk: tuple[np.ndarray, np.ndarray]
) -> None:
    """Let a limb (its root and its side) reach along the axis; `trunk` has how far outside and before it lie there."""
    above, side = limb
    depth = np.nan_to_num(points[..., INDEX[above], axis])
    for one in _LIMBS[side]:
        below, length = f"{side}_{one.end}", one.length * height
        to = one.outward * trunk[0] + one.ahead * trunk[1]
        depth = depth + length * _unseen(points, axis, (above, below), length, to)
        for name in (below, *(f"{side}_{part}" for part in one.along)):
            points[..., INDEX[name], axis] = depth
        above = below


def _point(points: np.ndarray, axis: int, ends: tuple[str, str], at: tuple[float, float], to: np.ndarray) -> None:
    """Let a foot or the face point along the axis; its `ends` lie so far (m) before what it turns about."""
    share = _unseen(points, axis, ends, at[1] - at[0], to)
    for name, ahead in zip(ends, at, strict=True):
        points[..., INDEX[name], axis] += ahead * share


def _unseen(points: np.ndarray, axis: int, ends: tuple[str, str], length: float, to: np.ndarray) -> np.ndarray:
    """How much of a segment of a `length` (m) lies along the axis, -1 to 1: what is not seen of it, where it surely
    points `to`; 0 where it is not seen at all.
    """
    reach = points[..., INDEX[ends[1]], :] - points[..., INDEX[ends[0]], :]
    reach[..., axis] = 0.0
    seen = np.clip(np.linalg.norm(reach, axis=-1) / length, 0.0, 1.0)
    share = np.sqrt(1 - seen**2) * smooth(0.0, _SHORT, 1 - seen) * np.clip(to / _SURE, -1.0, 1.0)
    return np.asarray(np.nan_to_num(share))
