"""How quiet the head is, which side of the trunk stays back, and whether the trunk turns or folds."""

from __future__ import annotations

import numpy as np

from waxtwin.core.body import Body, degrees, dot, unit
from waxtwin.core.measures import over_frames
from waxtwin.core.measures.registry import SHOULDERS, TRUNK, Reading, measure

_LEAST_TURN = 10.0  # deg between trunk and pelvis: of less, no share is told


@measure(
    "head_steadiness",
    "Head off its line",
    unit="%",
    kind="P",
    at="landing",
    view="any",
    needs=("head",),
    stops=("peak_knee",),
    text="How far the head strays from a straight path between the lift and landing.",
    formula="rms distance of the head's path from the line between its two ends, lift to landing, % height",
    sign="0 on a straight line",
    gauge="trail:head",
)
def head_steadiness(r: Reading) -> np.ndarray:
    path = r.motion.body.seen(r.motion.body.at("head"))
    first, last = (r.pose(stop).seen(r.pose(stop).at("head")) for stop in ("peak_knee", "landing"))
    along = unit(last - first)[:, None]
    off = path - first[:, None]
    away = off - dot(off, along)[..., None] * along
    squares = np.where(r.within(r.stop("peak_knee"), r.stop("landing")), np.sum(away**2, axis=-1), np.nan)
    return r.percent(np.sqrt(over_frames.mean(squares)))


@measure(
    "landing_hip_shoulder_offset",
    "Shoulder stays back of the hip",
    unit="%",
    kind="S",
    at="landing",
    view="front",
    needs=("throwing_shoulder", "drive_hip"),
    stops=("set",),
    text="How far the throwing shoulder stayed back while the hip came round, seen from the front.",
    formula="(throwing_shoulder.y - drive_hip.y) at landing - at set, % height",
    sign="+ shoulder toward the open side of the hip",
    gauge="separation",
)
def landing_hip_shoulder_offset(r: Reading) -> np.ndarray:
    apart = [body.at("throwing_shoulder") - body.at("drive_hip") for body in (r.pose("landing"), r.pose("set"))]
    return r.percent((apart[0] - apart[1])[:, 1])


@measure(
    "trunk_fold_share",
    "Folds instead of turning",
    unit="%",
    kind="P",
    at="release",
    view="3D",
    needs=TRUNK,
    stops=("landing",),
    relative=True,
    text="How much of the trunk's turn against the pelvis is a fold forward.",
    formula="trunk's forward bend in pelvis axes over the whole angle between trunk and pelvis, landing to release, %",
    sign="0 turns about the spine, 100 folds forward",
    gauge="trunk",
)
def trunk_fold_share(r: Reading) -> np.ndarray:
    (bent, held), (bends, turned) = (_against_pelvis(r.pose(stop)) for stop in ("landing", "release"))
    change = np.einsum("cij,ckj->cik", turned, held)
    whole = np.degrees(np.arccos(np.clip((np.trace(change, axis1=1, axis2=2) - 1) / 2, -1, 1)))
    share = 100.0 * np.clip((bends - bent) / np.where(whole > 0, whole, np.nan), 0.0, 1.0)
    return np.where(whole >= _LEAST_TURN, share, np.nan)


def _against_pelvis(body: Body) -> tuple[np.ndarray, np.ndarray]:
    """The trunk's forward bend in pelvis axes (deg, `(copies,)`), and its axes in them `(copies, 3, 3)`."""
    across = unit(body.at("lead_hip") - body.at("drive_hip"))
    ahead = unit(np.stack([across[:, 1], -across[:, 0], np.zeros(len(across))], axis=-1))
    pelvis = np.stack([across, ahead, np.cross(across, ahead)], axis=1)
    pelvis[:, 2] *= np.sign(pelvis[:, 2, 2])[:, None]
    trunk = np.stack(body.trunk_axes, axis=1)
    lean = unit(body.trunk)
    return degrees(dot(lean, pelvis[:, 1]), dot(lean, pelvis[:, 2])), np.einsum("cij,ckj->cik", trunk, pelvis)


@measure(
    "finish_trunk_turn",
    "Shoulders turned through",
    unit="deg",
    kind="P",
    at="finish",
    view="3D",
    needs=SHOULDERS,
    text="How far the shoulders have turned when the arm has slowed down.",
    formula="trunk rotation",
    sign="90 facing the plate, more turned through",
    gauge="shoulder_line",
    curve="trunk_rotation",
)
def finish_trunk_turn(r: Reading) -> np.ndarray:
    return r.value(r.motion.trunk_rotation(), "finish")
