"""A delivery as a linked body: how the throwing hand hangs on the pelvis through trunk, upper arm, forearm and hand.

Each joint is a rotation of the child in its parent's axes, so that one pitcher's joint can ride on another's body. The
throwing shoulder is a point in the trunk's axes; forearm and hand are unit directions; arm lengths are constant.
Joint conventions after Wu et al. 2005 (J Biomech 38); rotations are never taken through Euler angles.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.body import Body, dot, unit
from waxtwin.core.motion import Motion

_SURE_FLEXION = np.radians(25.0)  # below this bend the elbow's axis is carried along rather than measured
_UP = np.array([0.0, 0.0, 1.0])
_MARGIN = 8  # frames kept on either side of a window, so that splines are not bent by its ends


@dataclass(frozen=True)
class Linked:
    """Bodies over time: every array `(copies, samples, ...)`, positions in metres, per standing height where said.

    `pelvis` (.., 3) pelvis centre over height; `turn` (.., 4) pelvis axes in the field; `trunk` (.., 4) trunk axes in
    the pelvis'; `shoulder` (.., 3) throwing shoulder from the pelvis centre in trunk axes, over height; `upper` (.., 4)
    upper-arm axes in the trunk's; `forearm` (.., 3) unit, in upper-arm axes; `hand` (.., 3) unit, in forearm axes.
    Rotations are unit quaternions, scalar first, of one sign over time. `lengths` (copies, 3) upper arm, forearm, hand
    in metres; `height` in metres.
    """

    times: np.ndarray
    pelvis: np.ndarray
    turn: np.ndarray
    trunk: np.ndarray
    shoulder: np.ndarray
    upper: np.ndarray
    forearm: np.ndarray
    hand: np.ndarray
    lengths: np.ndarray
    height: float

    def at(self, times: np.ndarray) -> Linked:
        """The bodies at other instants `(copies, samples)` seconds, by cubic splines through the frames."""
        from scipy.interpolate import CubicSpline, PPoly

        parts = {name: getattr(self, name) for name in _CURVES}
        joined = np.concatenate(list(parts.values()), axis=-1)
        through = CubicSpline(self.times, joined, axis=1)  # of all copies at once
        sampled = np.stack([PPoly(through.c[:, :, i], through.x)(t) for i, t in enumerate(times)])
        ends = np.cumsum([part.shape[-1] for part in parts.values()])[:-1]
        split = dict(zip(parts, np.split(sampled, ends, axis=-1), strict=True))
        for name in _UNIT:
            split[name] = unit(split[name])
        return Linked(times, **split, lengths=self.lengths, height=self.height)


_CURVES = ("pelvis", "turn", "trunk", "shoulder", "upper", "forearm", "hand")
_UNIT = ("turn", "trunk", "upper", "forearm", "hand")
_NEEDED = ("drive_hip", "lead_hip", "throwing_shoulder", "glove_shoulder", "throwing_elbow", "throwing_wrist",
           "throwing_hand")  # fmt: skip


def linked(motion: Motion, start: float, stop: float) -> Linked | None:
    """The linked bodies of every copy between two instants (s), or None when a landmark is not seen throughout."""
    first, last = (int(np.searchsorted(motion.times, t)) for t in (start, stop))
    window = slice(max(first - _MARGIN, 0), min(last + _MARGIN, motion.times.size))
    body = Body(np.asarray(motion.points[:, window], float))
    where = {name: body.at(name) for name in _NEEDED}
    if motion.flat is not None or any(np.isnan(one).any() for one in where.values()):
        return None
    pelvis_axes = _axes(where["lead_hip"] - where["drive_hip"], _UP)
    trunk_axes = _axes_about(body.trunk, where["glove_shoulder"] - where["throwing_shoulder"])
    a = unit(where["throwing_elbow"] - where["throwing_shoulder"])
    w = unit(where["throwing_wrist"] - where["throwing_elbow"])
    d = unit(where["throwing_hand"] - where["throwing_wrist"])
    hinge = _elbow_axis(a, w)
    upper_axes, forearm_axes = _axes(a, hinge), _axes(w, hinge)
    ends = (("throwing_shoulder", "throwing_elbow"), ("throwing_elbow", "throwing_wrist"),
            ("throwing_wrist", "throwing_hand"))  # fmt: skip
    lengths = [np.median(np.linalg.norm(where[b] - where[a], axis=-1), axis=1) for a, b in ends]
    shoulder = _into(trunk_axes, where["throwing_shoulder"] - body.at("pelvis"))
    return Linked(
        motion.times[window], body.at("pelvis") / motion.height, quaternions(pelvis_axes),
        quaternions(_relative(pelvis_axes, trunk_axes)), shoulder / motion.height,
        quaternions(_relative(trunk_axes, upper_axes)), _into(upper_axes, w), _into(forearm_axes, d),
        np.stack(lengths, axis=-1), motion.height,
    )  # fmt: skip


def hand_of(parts: Mapping[str, np.ndarray], height: np.ndarray | float, lengths: np.ndarray) -> np.ndarray:
    """The throwing hand `(.., 3)` in metres by forward kinematics.

    `parts` as the fields of Linked of those names, broadcast against each other; `height` metres, `lengths` (.., 3).
    """
    return np.asarray(joints_of(parts, height, lengths)["throwing_hand"])


def joints_of(
    parts: Mapping[str, np.ndarray], height: np.ndarray | float, lengths: np.ndarray
) -> dict[str, np.ndarray]:
    """Pelvis, throwing shoulder, elbow, wrist and hand, each `(.., 3)` in metres, by forward kinematics."""
    turn, trunk, upper = (matrices(parts[name]) for name in ("turn", "trunk", "upper"))
    trunk_axes = turn @ trunk
    upper_axes = trunk_axes @ upper
    w = _out(upper_axes, parts["forearm"])
    forearm_axes = _axes(w, upper_axes[..., 2])
    at = {"pelvis": parts["pelvis"] * height}
    at["throwing_shoulder"] = at["pelvis"] + _out(trunk_axes, parts["shoulder"]) * height
    at["throwing_elbow"] = at["throwing_shoulder"] + upper_axes[..., 0] * lengths[..., :1]
    at["throwing_wrist"] = at["throwing_elbow"] + w * lengths[..., 1:2]
    at["throwing_hand"] = at["throwing_wrist"] + _out(forearm_axes, parts["hand"]) * lengths[..., 2:3]
    return at


# axes: matrices whose columns are the axes, (.., 3, 3) ----------------------------------------------------------------
def _axes(first: np.ndarray, toward: np.ndarray) -> np.ndarray:
    """First axis along `first`, third as near to `toward` as it can be."""
    e1 = unit(first)
    e3 = unit(toward - dot(np.broadcast_to(toward, e1.shape), e1)[..., None] * e1)
    return np.stack([e1, np.cross(e3, e1), e3], axis=-1)


def _axes_about(third: np.ndarray, toward: np.ndarray) -> np.ndarray:
    """Third axis along `third`, first as near to `toward` as it can be."""
    e3 = unit(third)
    e1 = unit(toward - dot(toward, e3)[..., None] * e3)
    return np.stack([e1, np.cross(e3, e1), e3], axis=-1)


def _relative(parent: np.ndarray, child: np.ndarray) -> np.ndarray:
    return np.asarray(np.swapaxes(parent, -1, -2) @ child)


def _into(axes: np.ndarray, vector: np.ndarray) -> np.ndarray:
    """A field vector in axes."""
    return np.asarray(np.einsum("...ji,...j->...i", axes, vector))


def _out(axes: np.ndarray, vector: np.ndarray) -> np.ndarray:
    """A vector in axes, in the field."""
    return np.asarray(np.einsum("...ij,...j->...i", axes, vector))


def _elbow_axis(a: np.ndarray, w: np.ndarray) -> np.ndarray:
    """The elbow's hinge `(copies, frames, 3)`, square to upper arm and forearm.

    A nearly straight elbow shows no hinge, so its axis is carried by parallel transport along the upper arm and
    measured again, weighted by the sine of the bend, as the arm bends.
    """
    raw = np.cross(a, w)
    sine = np.sqrt(dot(raw, raw))
    weight = np.clip(sine / np.sin(_SURE_FLEXION), 0.0, 1.0) ** 2
    axis = np.empty_like(a)
    # start where the bend is surest, and carry on from there both ways
    start = int(np.argmax(np.min(sine, axis=0)))
    axis[:, start] = unit(raw[:, start])
    onward = _shortest_turns(a[:, :-1], a[:, 1:])
    measured, rest = weight[..., None] * raw / np.maximum(sine, 1e-9)[..., None], 1 - weight[..., None]
    for i in [*range(start + 1, a.shape[1]), *range(start - 1, -1, -1)]:
        turned = (
            np.einsum("cij,cj->ci", onward[:, i - 1], axis[:, i - 1])
            if i > start
            else np.einsum("cji,cj->ci", onward[:, i], axis[:, i + 1])
        )
        carried = unit(turned - dot(turned, a[:, i])[:, None] * a[:, i])
        axis[:, i] = unit(measured[:, i] + rest[:, i] * carried)
    return axis


def _shortest_turns(old: np.ndarray, new: np.ndarray) -> np.ndarray:
    """The rotations `(.., 3, 3)` by the shortest way that take unit vectors `old` onto `new` (Rodrigues' formula)."""
    x, y, z = np.moveaxis(np.cross(old, new), -1, 0)
    none = np.zeros_like(x)
    cross = np.stack([np.stack(row, axis=-1) for row in ((none, -z, y), (z, none, -x), (-y, x, none))], axis=-2)
    cosine = dot(old, new)[..., None, None]
    return np.asarray(np.eye(3) + cross + cross @ cross / np.maximum(1 + cosine, 1e-6))


# rotations ------------------------------------------------------------------------------------------------------------
def quaternions(matrices_: np.ndarray) -> np.ndarray:
    """Rotation matrices `(copies, samples, 3, 3)` as unit quaternions `(copies, samples, 4)` of one sign over time."""
    from scipy.spatial.transform import Rotation

    flat = Rotation.from_matrix(matrices_.reshape(-1, 3, 3)).as_quat(scalar_first=True)
    q = flat.reshape(*matrices_.shape[:-2], 4)
    flips = np.where(np.sum(q[:, 1:] * q[:, :-1], axis=-1) < 0, -1.0, 1.0)
    signs = np.concatenate([np.ones((q.shape[0], 1)), np.cumprod(flips, axis=1)], axis=1)
    return np.asarray(q * signs[..., None])


def matrices(q: np.ndarray) -> np.ndarray:
    """Unit quaternions `(.., 4)`, scalar first, as rotation matrices `(.., 3, 3)`."""
    w, x, y, z = np.moveaxis(q, -1, 0)
    rows = [
        [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
        [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
        [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
    ]
    return np.stack([np.stack(row, axis=-1) for row in rows], axis=-2)


def angle_apart(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Angle in degrees between rotations given as unit quaternions `(.., 4)`."""
    return np.asarray(np.degrees(2 * np.arccos(np.clip(np.abs(dot(a, b)), 0.0, 1.0))))


def mixed(a: np.ndarray, b: np.ndarray, share: np.ndarray | float) -> np.ndarray:
    """R_a exp(share log(R_a^T R_b)) as unit quaternions `(.., 4)`; `share` 0 is a, 1 is b, more goes beyond."""
    cosine = dot(a, b)
    b = np.where(cosine[..., None] < 0, -b, b)
    half = np.arccos(np.clip(np.abs(cosine), 0.0, 1.0))[..., None]
    sine = np.sin(half)
    small = sine < 1e-6
    safe = np.where(small, 1.0, sine)
    first = np.where(small, 1 - share, np.sin((1 - share) * half) / safe)
    second = np.where(small, share, np.sin(share * half) / safe)
    return unit(first * a + second * b)
