"""Which bones move a point of the figure, and by how much."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from tools.sculpt.parts import Part

from waxtwin.figure.skeleton import (
    ANKLE,
    ARM,
    ARMS,
    BONE,
    BONES,
    FOREARM,
    HIP,
    LEG,
    LEGS,
    SHANK,
    SHOULDER,
    SIDES,
    SPINE,
    SPINE_KNOTS,
    THIGH,
    UPPER_ARM,
)
from waxtwin.figure.turns import smooth

_WRIST, _ANKLE = UPPER_ARM + FOREARM, THIGH + SHANK  # along the arm and the leg
# along a limb, where its trunk, its half-way bone at the root, and so on to its end lead
_ARM_KNOTS = (-0.072, -0.006, 0.052, 0.100, 0.150, UPPER_ARM, UPPER_ARM + 0.035, _WRIST - 0.008, _WRIST + 0.014)
_LEG_KNOTS = (-0.045, 0.010, 0.060, 0.130, 0.200, THIGH, THIGH + 0.040, _ANKLE - 0.012, _ANKLE + 0.016)
_HEAD_ONLY = ("cap", "hair", "eyes")
_SHIRT_FOLLOWS = 0.6  # how much of a leg's pull reaches the shirt's seam


def bone_weights(points: np.ndarray, part: Part) -> np.ndarray:
    """Weights `(points, bones)`, each row adding up to one."""
    if part.name in _HEAD_ONLY:
        return _only(points, "head")
    if part.name == "ball":
        return _only(points, "throwing_hand")
    if part.name == "glove":
        return _glove(points)
    out = np.zeros((len(points), len(BONES)))
    spine = _along(points[:, 2], SPINE_KNOTS)
    out[:, [BONE[name] for name in SPINE]] = spine
    if part.name in ("shirt", "arm"):
        _add_arms(out, points, part)
    if part.name in ("shirt", "trousers"):
        _add_legs(out, points, _SHIRT_FOLLOWS if part.name == "shirt" else 1.0)
    if part.name in ("sock", "shoe"):
        out = _below_knee(points, part)
    return np.asarray(out / out.sum(axis=1, keepdims=True))


def _along(x: np.ndarray, knots: Sequence[float]) -> np.ndarray:
    """A smooth partition of one over a chain: each knot leads at its place."""
    out = np.zeros((len(x), len(knots)))
    out[:, 0] = 1
    for i in range(1, len(knots)):
        t = smooth(knots[i - 1], knots[i], x)
        out[:, i] = t
        out[:, :i] *= (1 - t)[:, None]
    return out


def _only(points: np.ndarray, bone: str) -> np.ndarray:
    out = np.zeros((len(points), len(BONES)))
    out[:, BONE[bone]] = 1.0
    return out


def _glove(points: np.ndarray) -> np.ndarray:
    along = (points * SIDES[1] - SHOULDER) @ ARM - _WRIST
    hand = smooth(-0.01, 0.02, along)
    return _only(points, "glove_hand") * hand[:, None] + _only(points, "glove_wrist") * (1 - hand)[:, None]


def _add_arms(out: np.ndarray, points: np.ndarray, part: Part) -> None:
    for side, name, bones in zip(SIDES, ("throwing", "glove"), ARMS, strict=True):
        if part.side not in ("", name):
            continue
        own = points * side
        from_root = own - SHOULDER
        along = from_root @ ARM
        share = _along(along, _ARM_KNOTS)[:, 1:]
        if part.name == "shirt":  # only what lies round the arm
            off = np.linalg.norm(from_root - along[:, None] * ARM, axis=1)
            share *= (smooth(0.120, 0.056, off) * smooth(0.020, 0.056, own[:, 0]))[:, None]
        out *= (1 - share.sum(axis=1))[:, None]
        out[:, bones] += share


def _add_legs(out: np.ndarray, points: np.ndarray, pull: float) -> None:
    shares = []
    for side in SIDES:
        own = points * side
        share = _along((own - HIP) @ LEG, _LEG_KNOTS)[:, 1:]
        shares.append(share * (pull * smooth(-0.016, 0.016, own[:, 0]))[:, None])
    out *= 1 - np.clip(sum(shares).sum(axis=1), 0, 1)[:, None]  # type: ignore[union-attr]
    for bones, share in zip(LEGS, shares, strict=True):
        out[:, bones] += share


def _below_knee(points: np.ndarray, part: Part) -> np.ndarray:
    side, bones = (SIDES[0], LEGS[0]) if part.side == "drive" else (SIDES[1], LEGS[1])
    own = points * side
    out = np.zeros((len(points), len(BONES)))
    if part.name == "sock":
        share = _along((own - HIP) @ LEG, _LEG_KNOTS)[:, 1:]
        share /= np.maximum(share.sum(axis=1, keepdims=True), 1e-6)
        out[:, bones] = share
        return out
    foot = np.maximum(smooth(0.012, -0.006, own[:, 2] - ANKLE[2]), smooth(0.02, 0.03, own[:, 1] - ANKLE[1]))
    out[:, bones[7]] = 0.35 + 0.65 * foot
    out[:, bones[6]] = 1 - out[:, bones[7]]
    return out
