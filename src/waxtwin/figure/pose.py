"""How the figure's bones lie in a body: from landmarks to one affine map and one rotation a bone.

A bone swings from its parent by the smallest rotation; what is left of the turn about its own length is read off the
joint below it (where the elbow or the knee bends to) and spread along the segment, so that no part is wrung. Segments
stretch along themselves only, so every body keeps its own lengths.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from waxtwin.core.landmarks import INDEX
from waxtwin.figure import skeleton as rest
from waxtwin.figure.filled import filled
from waxtwin.figure.turns import (
    about,
    across,
    after,
    between,
    cross,
    dot,
    matrices,
    mixed,
    of_frame,
    smooth,
    turned,
    unit,
)

_STRETCH = (0.7, 1.4)  # of a segment's usual length: no body is further off, only a wrong mark
_SPAN = (0.8, 1.25)  # of the usual width of shoulders and hips
_BENT_ARM = (0.10, 0.38)  # sine of the elbow's bend over which it tells how the arm is twisted
_BENT_LEG = (0.15, 0.60)  # the same of the knee, below which the foot tells
_TILT = 0.28  # how much of a thigh's lift tips the pelvis
_NECK_BACK = 0.03  # how far the skull's own up leans from the line to the chest


def _pair(part: str, sides: tuple[str, str]) -> list[int]:
    return [INDEX[f"{side}_{part}"] for side in sides]


_SHOULDERS, _ELBOWS, _WRISTS, _HANDS = (
    _pair(part, ("throwing", "glove")) for part in ("shoulder", "elbow", "wrist", "hand")
)
_HIPS, _KNEES, _ANKLES, _HEELS, _TOES = (
    _pair(part, ("drive", "lead")) for part in ("hip", "knee", "ankle", "heel", "toe")
)
_HEAD, _NOSE = INDEX["head"], INDEX["nose"]
_ORIGINS = rest.origins()
_SPINE = np.array([rest.BONE[name] for name in rest.SPINE])
_SPINE_STRETCHES = _SPINE[:3]
_NECK = _ORIGINS[rest.BONE["neck"]]

COLUMNS = 22  # of a pose: an affine map, a rotation, and whether it was seen

Bend = Callable[[np.ndarray, np.ndarray, np.ndarray], tuple[np.ndarray, np.ndarray]]


@dataclass(frozen=True)
class _Limbs:
    """A pair of limbs: their bones (2, 8), their axis and where they bend to at rest (2, 3), how far along the first
    segment each of its three bones lies, and both segments' lengths.
    """

    bones: np.ndarray
    axis: np.ndarray
    bends_to: np.ndarray
    twists: tuple[float, ...]
    lengths: tuple[float, float]


_ARMS = _Limbs(rest.ARMS, rest.ARM * rest.SIDES, rest.BEND * rest.SIDES, rest.TWIST_ARM, (rest.UPPER_ARM, rest.FOREARM))
_LEGS = _Limbs(
    rest.LEGS, rest.LEG * rest.SIDES, rest.KNEE_FORWARD * rest.SIDES, rest.TWIST_LEG, (rest.THIGH, rest.SHANK)
)


def _axes() -> np.ndarray:
    """Each bone's own length at rest `(bones, 3)`; zero for those that do not stretch."""
    out = np.zeros((len(rest.BONES), 3))
    out[_SPINE_STRETCHES, 2] = 1.0
    for limbs in (_ARMS, _LEGS):
        for k in (1, 2, 3, 5):
            out[limbs.bones[:, k]] = limbs.axis
    return out


_AXES = _axes()


class _Bones:
    """What is gathered bone by bone, of one body or many: its turn, where it starts, how much it is stretched."""

    def __init__(self, many: tuple[int, ...]) -> None:
        shape = (*many, len(rest.BONES))
        self.turns, self.at, self.stretch = np.zeros((*shape, 4)), np.zeros((*shape, 3)), np.ones(shape)

    def columns(self, height: float, widths: np.ndarray) -> np.ndarray:
        turns = matrices(self.turns)
        linear = turns * height
        along = np.einsum("...bij,bj->...bi", linear, _AXES)
        more = np.clip(self.stretch, *_STRETCH) - 1
        linear = linear + (more[..., None] * along)[..., None] * _AXES[:, None, :]
        linear[..., : widths.shape[-1], :, 0] *= widths[..., None]  # pelvis to chest
        offset = self.at - np.einsum("...bij,bj->...bi", linear, _ORIGINS)
        affine = np.concatenate([linear, offset[..., None]], axis=-1)
        rows = [affine.reshape(*offset.shape[:-1], 12), turns.reshape(*offset.shape[:-1], 9)]
        return np.concatenate(rows, axis=-1).astype(np.float32)


def pose(points: np.ndarray, height: float) -> np.ndarray:
    """Where each bone lies in bodies `(..., landmarks, 3)` in metres, canonical (throwing with the right hand), of
    standing `height` in metres: `(..., bones, 22)`, an affine map (3, 4) of rest points in units of height to metres
    and a rotation (3, 3) of their normals, row by row, as skinning mixes them, and whether what each bone hangs on was
    seen.

    What is missing is made up (`filled`); without shoulders or hips there is no figure, and all is NaN.
    """
    seen = seen_bones(points)
    points = filled(points, height)
    bones = _Bones(points.shape[:-2])
    pelvis, chest = _place_trunk(bones, points, height)
    wrists, forward = points[..., _WRISTS, :], unit(points[..., _TOES, :] - points[..., _HEELS, :])
    to_hand = unit(points[..., _HANDS, :] - wrists)
    _place_limbs(
        bones, _ARMS, (points[..., _SHOULDERS, :], points[..., _ELBOWS, :], wrists), chest, height, _arm_bend,
        lambda forearm, along: after(between(along, to_hand), forearm),
    )  # fmt: skip
    up = unit(across(points[..., _ANKLES, :] - points[..., _HEELS, :], forward))
    feet = of_frame(cross(forward, up), forward, up)
    _place_limbs(
        bones, _LEGS, tuple(points[..., joints, :] for joints in (_HIPS, _KNEES, _ANKLES)), pelvis, height,
        lambda upper, lower, usual: _leg_bend(upper, lower, usual, forward), lambda *_: feet,
    )  # fmt: skip
    found = np.concatenate([bones.columns(height, _widths(points, height)), seen], axis=-1)
    trunk = np.isfinite(points[..., [*_SHOULDERS, *_HIPS], :]).all(axis=(-2, -1))
    return np.where(trunk[..., None, None], found, np.float32(np.nan))


def seen_bones(points: np.ndarray) -> np.ndarray:
    """Whether the landmarks that each bone hangs on are known `(..., bones, 1)`: 1 or 0; the trunk counts as known."""
    known = np.isfinite(points).all(axis=-1)
    out = np.ones((*points.shape[:-2], len(rest.BONES)), np.float32)
    for limbs, chain in ((_ARMS, (_ELBOWS, _WRISTS, _WRISTS)), (_LEGS, (_KNEES, _ANKLES, _ANKLES))):
        upper, lower, tip = (known[..., joints] for joints in chain)
        for columns, sure in (((2, 3), upper), ((4, 5), upper & lower), ((6, 7), upper & lower & tip)):
            out[..., limbs.bones[:, columns]] = sure[..., None]
    return out[..., None]


def _place_trunk(bones: _Bones, points: np.ndarray, height: float) -> tuple[np.ndarray, np.ndarray]:
    """Spine and skull; returns the turns of pelvis and chest."""
    hips, shoulders, head = points[..., _HIPS, :], points[..., _SHOULDERS, :], points[..., _HEAD, :]
    pelvis_at, chest_at = hips.mean(axis=-2), shoulders.mean(axis=-2)
    trunk = chest_at - pelvis_at
    length = np.sqrt(dot(trunk, trunk))[..., None]
    up = unit(trunk)
    thighs = np.nan_to_num(unit(points[..., _KNEES, :] - hips)).mean(axis=-2)
    face = unit(points[..., _NOSE, :] - head)
    both = unit(np.stack([pair[..., 0, :] - pair[..., 1, :] for pair in (hips, shoulders)]))
    ahead = unit(cross(np.stack([unit(up - _TILT * thighs), up]), both))
    ups = cross(both, ahead)
    crown = unit(across(unit(across(head - chest_at, face)) + _NECK_BACK * ups[1], face))
    pelvis, chest, skull = of_frame(
        np.stack([*both, cross(face, crown)]), np.stack([*ahead, face]), np.stack([*ups, crown])
    )

    def along(t: float) -> np.ndarray:
        """A smooth spine: Hermite between the pelvis' and the chest's own up."""
        t2, t3 = t * t, t * t * t
        ends = (2 * t3 - 3 * t2 + 1) * pelvis_at + (3 * t2 - 2 * t3) * chest_at
        return np.asarray(ends + (t3 - 2 * t2 + t) * length * ups[0] + (t3 - t2) * length * ups[1])

    from_chest = chest_at + turned(chest, (_NECK - [0, 0, rest.SHOULDER_RISE]) * height)
    from_head = head + turned(skull, (_NECK - rest.HEAD) * height)
    turns = (
        pelvis, mixed(pelvis, chest, 0.27), mixed(pelvis, chest, 0.66), chest, mixed(chest, skull, 0.5), skull
    )  # fmt: skip
    bones.turns[..., _SPINE, :] = np.stack(turns, axis=-2)
    starts = (pelvis_at, along(0.295), along(0.573), chest_at, (from_chest + from_head) / 2, head)
    bones.at[..., _SPINE, :] = np.stack(starts, axis=-2)
    bones.stretch[..., _SPINE_STRETCHES] = length / (rest.SHOULDER_RISE * height)
    return pelvis, chest


def _place_limbs(
    bones: _Bones, limbs: _Limbs, joints: tuple[np.ndarray, ...], root: np.ndarray, height: float,
    bend: Bend, end: Callable[[np.ndarray, np.ndarray], np.ndarray],
) -> None:  # fmt: skip
    """Both limbs of a kind from their `root`'s turn; `joints` (..., 2, 3) each; `end` the turn of hand or foot."""
    first, middle, last = joints
    upper, lower = middle - first, last - middle
    upper_long, lower_long = np.sqrt(dot(upper, upper)), np.sqrt(dot(lower, lower))
    upper, lower = unit(upper), unit(lower)
    root = np.broadcast_to(root[..., None, :], (*upper.shape[:-1], 4))
    swung = after(between(turned(root, limbs.axis), upper), root)
    usual = turned(swung, limbs.bends_to)
    found, sure = bend(upper, lower, usual)
    twist = np.arctan2(dot(cross(usual, found), upper), dot(usual, found)) * sure
    *uppers, whole = (after(about(upper, twist * share), swung) for share in (*limbs.twists, 1.0))
    below = after(between(upper, lower), whole)
    tip = end(below, lower)
    turns = (mixed(root, uppers[0], 0.5), *uppers, mixed(whole, below, 0.5), below, mixed(below, tip, 0.5), tip)
    bones.turns[..., limbs.bones, :] = np.stack(turns, axis=-2)
    bones.at[..., limbs.bones, :] = np.stack([first] * 4 + [middle] * 2 + [last] * 2, axis=-2)
    bones.stretch[..., limbs.bones[:, 1:4]] = (upper_long / (limbs.lengths[0] * height))[..., None]
    bones.stretch[..., limbs.bones[:, 5]] = lower_long / (limbs.lengths[1] * height)


def _widths(points: np.ndarray, height: float) -> np.ndarray:
    """How wide the pelvis, the spine and the chest are, over the sculpted width `(..., 4)`."""

    def over(pair: list[int], usual: float) -> np.ndarray:
        off = points[..., pair[0], :] - points[..., pair[1], :]
        return np.asarray(np.sqrt(dot(off, off)) / (usual * height))[..., None]

    hips, span = over(_HIPS, rest.HIP_SPAN), over(_SHOULDERS, rest.SHOULDER_SPAN)
    return np.asarray(np.clip(hips + (span - hips) * np.array([0.0, 0.3, 0.7, 1.0]), *_SPAN))


def _arm_bend(upper: np.ndarray, lower: np.ndarray, _: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where the elbow bends to, and how surely it tells how the arm is twisted: not at all where it is straight."""
    off = across(lower, upper)
    sine = np.sqrt(dot(off, off))
    return off / np.maximum(sine, 1e-6)[..., None], smooth(*_BENT_ARM, sine)


def _leg_bend(
    upper: np.ndarray, lower: np.ndarray, usual: np.ndarray, forward: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Where the knee points to: away from the shank, with the foot where it is straight."""
    off = -across(lower, upper)
    straight = 1 - smooth(*_BENT_LEG, np.sqrt(dot(off, off)))
    return unit(2.2 * off + 0.35 * straight[..., None] * across(forward, upper) + 0.12 * usual), np.ones(2)
