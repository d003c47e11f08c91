"""What is known of a body in front of one camera, term by term; each adds rows to the least-squares problem.

Standard deviations are in metres, for a standing height of 1.80 m where they are not shares of a length. The recipe's
figures come from a study on simulated throws with a landmark model's wandering marks; how well it does, and what was
tried besides, is in docs/corrector.md.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from waxtwin.core.depth.rows import Rows
from waxtwin.core.depth.skeleton import (
    COUNT,
    HIP_LINE,
    JOINTS,
    KIND_NAMES,
    KINDS,
    OF_KIND,
    SEGMENTS,
    SHOULDER_LINE,
    SPINE,
    vectors,
    weights,
)
from waxtwin.core.landmarks import INDEX

_ROBUST = 2.5  # standard deviations, from which a mark counts for less (Geman-McClure)
_STIFF = 0.008  # m: how much a segment's seen length may breathe
_BREATHES = {"spine": 2.0, "neck": 2.5, "face": 2.0}
_MODEL_DEPTH = 0.30  # of a segment's length
_LEVEL = 0.03  # m, hip over hip
_SQUARE = 0.14  # of the shoulders' width along the spine
_GROUND, _ON_TOE_LINE = 0.02, 0.08
_KNEE_FORWARD, _TOE_FORWARD = 0.03, 0.08
_STRAIGHT = 0.80  # of the arm's length from shoulder to wrist, at least, at release
_TWIST_SD = 14.0  # deg, how the hips' lead over the shoulders varies at any moment
_REACH = 0.6  # shares of height: no joint is farther off the plane of motion
_DRIFT, _LEAN = 0.25, 0.14  # m: the pelvis off the plane of motion; shares of height: chest off the pelvis in depth


@dataclass(frozen=True, eq=False)
class Scene:
    """What a fit knows: `flat` (frames, joints, 2) pixels, `sd` (frames, joints) m, infinite where nothing is marked,
    `firm` (frames, joints) marks of a person, which are never played down; the camera's `matrix` (3, 4) and its unit
    axes `right`, `down`, `ahead`; metres a pixel at the body, `middle` (frames,) the depth of the plane of motion,
    `world` (frames, joints, 3) the model's own belief or None; feet that stand, moments, how far the hips usually lead
    the shoulders then (`twist`, deg), standing `height`.
    """

    flat: np.ndarray
    sd: np.ndarray
    firm: np.ndarray
    matrix: np.ndarray
    ahead: np.ndarray
    per_pixel: np.ndarray
    middle: np.ndarray
    world: np.ndarray | None
    planted: np.ndarray
    hidden: int
    height: float
    at_release: np.ndarray
    toward_release: np.ndarray
    twist: np.ndarray

    @property
    def size(self) -> float:
        """Factor on lengths that are given for 1.80 m."""
        return self.height / 1.80


def all_rows(scene: Scene, points: np.ndarray, lengths: np.ndarray) -> Rows:
    """Every term at `points` (frames, joints, 3) and segment `lengths` (kinds,)."""
    rows = Rows(points.shape[0])
    _in_the_picture(rows, scene, points)
    _segments_keep(rows, scene, points, lengths)
    if scene.world is not None:
        _model_believes(rows, scene, points, lengths)
    _near_the_plane(rows, scene, points)
    _pelvis_and_shoulders(rows, scene, points, lengths)
    _feet_stand(rows, scene, points)
    _joints_bend_forward(rows, scene, points)
    _arm_at_release(rows, scene, points, lengths)
    return rows


def _every(points: np.ndarray) -> np.ndarray:
    return np.arange(points.shape[0])


def _along(  # noqa: PLR0913 - a vector, an axis, and what is wanted of it
    rows: Rows, points: np.ndarray, parts: dict[str, float], axis: np.ndarray, wanted: np.ndarray | float,
    sd: np.ndarray | float, frames: np.ndarray | None = None, side: int = 0, kind: int | None = None,
    per_length: np.ndarray | float = 0.0,
) -> None:  # fmt: skip
    """The part of a vector of joints along an `axis` (3,) or (frames, 3); with `side` +1 or -1 only below, above."""
    every = _every(points) if frames is None else np.flatnonzero(frames)
    joints, share = weights(parts)
    way = np.broadcast_to(axis, (points.shape[0], 3))[every]
    vector = np.einsum("k,fkc->fc", share, points[every][:, joints])
    goal = np.broadcast_to(wanted, points.shape[:1])[every]
    off = np.sum(vector * way, axis=1) - goal
    doubt = np.broadcast_to(sd, points.shape[:1])[every]
    slope_length = np.broadcast_to(per_length, points.shape[:1])[every]
    keep = np.isfinite(off) & np.isfinite(doubt)
    if side:
        keep &= off * side < 0
    slope = share[None, :, None] * way[:, None, :]
    rows.add(every[keep], off[keep], joints, slope[keep], doubt[keep], kind, slope_length[keep])


def robust_rest(scene: Scene, points: np.ndarray) -> float:
    """What marks that are far off cost beyond the weight that `all_rows` leaves them."""
    squares = _squares(scene, points)[0]
    whole, weighed = squares / (1.0 + squares / _ROBUST**2), squares / (1.0 + squares / _ROBUST**2) ** 2
    return float(0.5 * np.sum((whole - weighed)[np.isfinite(scene.sd) & ~scene.firm]))


def _squares(scene: Scene, points: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """How far each joint is shown from its mark: squared standard deviations, metres; and its homogeneous place."""
    mapped = points @ scene.matrix[:, :3].T + scene.matrix[:, 3]
    off = (mapped[..., :2] / mapped[..., 2:] - scene.flat) * scene.per_pixel[:, None, None]
    return np.sum(off**2, axis=-1) / scene.sd**2, off, mapped


def _in_the_picture(rows: Rows, scene: Scene, points: np.ndarray) -> None:
    """Where the camera shows each joint, in metres at the body's distance; marks far off count for less."""
    squares, off, mapped = _squares(scene, points)
    shown = mapped[..., :2] / mapped[..., 2:]
    play = np.where(scene.firm, 1.0, 1.0 / (1.0 + squares / _ROBUST**2) ** 2)
    slope = (scene.matrix[:2, :3] - shown[..., None] * scene.matrix[2, :3]) / mapped[..., 2, None, None]
    slope = slope * scene.per_pixel[:, None, None, None]
    sd = scene.sd / np.sqrt(play)
    for j in range(COUNT):
        known = np.flatnonzero(np.isfinite(sd[:, j]))
        for axis in (0, 1):
            rows.add(known, off[known, j, axis], np.array([j]), slope[known, j, axis][:, None, :], sd[known, j])


def _segments_keep(rows: Rows, scene: Scene, points: np.ndarray, lengths: np.ndarray) -> None:
    found = vectors(points)
    far = np.linalg.norm(found, axis=-1)
    way = found / np.maximum(far, 1e-9)[..., None]
    for s, segment in enumerate(SEGMENTS):
        joints, share = weights(dict(segment.weights))
        sd = _STIFF * scene.size * _BREATHES.get(segment.kind, 1.0)
        slope = share[None, :, None] * way[:, s, None, :]
        kind = int(OF_KIND[s])
        rows.add(_every(points), far[:, s] - lengths[kind], joints, slope, sd, kind, -1.0)


def _model_believes(rows: Rows, scene: Scene, points: np.ndarray, lengths: np.ndarray) -> None:
    """The model's own depth of each segment, as a share of its length: weak, and weaker for the arms."""
    assert scene.world is not None
    believed = vectors(scene.world)
    far = np.linalg.norm(believed, axis=-1)
    share = believed[..., 2] / np.maximum(far, 1e-6)
    for s, segment in enumerate(SEGMENTS):
        if segment.kind == "foot":  # the ankle's two have said it
            continue
        kind = int(OF_KIND[s])
        length = float(lengths[kind])
        sd = _MODEL_DEPTH * KINDS[segment.kind].depth_doubt * length
        _along(
            rows, points, dict(segment.weights), scene.ahead, share[:, s] * length, sd, kind=kind,
            per_length=-share[:, s],
        )  # fmt: skip


def _near_the_plane(rows: Rows, scene: Scene, points: np.ndarray) -> None:
    hips = {"drive_hip": 0.5, "lead_hip": 0.5}
    _along(rows, points, hips, scene.ahead, scene.middle, _DRIFT * scene.size)
    for name in JOINTS:  # weak, so that what nothing else is known of does not run away
        _along(rows, points, {name: 1.0}, scene.ahead, scene.middle, _REACH * scene.height)
    level = scene.ahead * np.array([1.0, 1.0, 0.0])
    _along(rows, points, dict(SEGMENTS[SPINE].weights), level, 0.0, _LEAN * scene.height)


def _pelvis_and_shoulders(rows: Rows, scene: Scene, points: np.ndarray, lengths: np.ndarray) -> None:
    """Hips level, shoulders square to the spine, and turned against the hips as bodies can be."""
    found = vectors(points)
    spine = found[:, SPINE] / np.linalg.norm(found[:, SPINE], axis=1, keepdims=True)
    hips = found[:, HIP_LINE] / np.maximum(np.linalg.norm(found[:, HIP_LINE], axis=1, keepdims=True), 1e-9)
    width = float(lengths[KIND_NAMES.index("shoulders")])
    line = dict(SEGMENTS[SHOULDER_LINE].weights)
    _along(rows, points, dict(SEGMENTS[HIP_LINE].weights), np.array([0, 0, 1.0]), 0.0, _LEVEL * scene.size)
    _along(rows, points, line, spine, 0.0, _SQUARE * width)
    across = np.stack([-hips[:, 1], hips[:, 0], np.zeros(len(hips))], axis=1)
    _along(rows, points, line, across, -np.sin(np.radians(scene.twist)) * width, np.sin(np.radians(_TWIST_SD)) * width)
    _along(rows, points, line, hips, 0.2 * width, 0.1 * width, side=1)


def _feet_stand(rows: Rows, scene: Scene, points: np.ndarray) -> None:
    from_toe = {"drive_toe": 1.0}
    for name in ("drive_toe", "lead_toe", "lead_heel"):
        stands = scene.planted[:, INDEX[name]]
        if scene.hidden == 1:  # how high the ground is under a foot is known where X is seen
            ground = -np.clip((points[:, INDEX[name], 0] - 0.15) / 12.0, 0.0, 0.254)
            _along(rows, points, {name: 1.0}, np.array([0, 0, 1.0]), ground, _GROUND * scene.size, stands)
    aside = np.eye(3)[scene.hidden]
    at = -0.09 * scene.height if scene.hidden == 1 else 0.075
    _along(rows, points, from_toe, aside, at, _ON_TOE_LINE * scene.size, scene.planted[:, INDEX["drive_toe"]])


def _joints_bend_forward(rows: Rows, scene: Scene, points: np.ndarray) -> None:
    hips = vectors(points)[:, HIP_LINE]
    facing = np.stack([hips[:, 1], -hips[:, 0], np.zeros(len(hips))], axis=1)
    facing = facing / np.maximum(np.linalg.norm(facing, axis=1, keepdims=True), 1e-9)
    for side in ("drive", "lead"):
        knee = {f"{side}_knee": 1.0, f"{side}_hip": -0.5, f"{side}_ankle": -0.5}
        foot = {f"{side}_toe": 1.0, f"{side}_heel": -1.0}
        _along(rows, points, knee, facing, 0.0, _KNEE_FORWARD * scene.size, side=1)
        _along(rows, points, foot, facing, 0.0, _TOE_FORWARD * scene.size, side=1)


def _arm_at_release(rows: Rows, scene: Scene, points: np.ndarray, lengths: np.ndarray) -> None:
    """The arm is all but straight as the ball leaves, and the trunk leans to the glove side on the way there."""
    reach = {"throwing_wrist": 1.0, "throwing_shoulder": -1.0}
    vector = points[:, INDEX["throwing_wrist"]] - points[:, INDEX["throwing_shoulder"]]
    way = vector / np.maximum(np.linalg.norm(vector, axis=1, keepdims=True), 1e-9)
    arm = float(lengths[KIND_NAMES.index("upper arm")] + lengths[KIND_NAMES.index("forearm")])
    _along(rows, points, reach, way, _STRAIGHT * arm, 0.01 * scene.size, scene.at_release, side=1)
    spine = dict(SEGMENTS[SPINE].weights)
    _along(rows, points, spine, np.array([0, 1.0, 0]), 0.0, 0.015 * scene.size, scene.toward_release, side=1)
