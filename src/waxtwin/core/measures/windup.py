"""Before the load: whether the windup keeps going, and how lift, hands and back foot go with it."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from waxtwin.core.body import degrees
from waxtwin.core.measures import over_frames
from waxtwin.core.measures.registry import HIPS, MISSED, TRUNK, Reading, measure
from waxtwin.core.smoothing import filtered, runs

_BODY = ("pelvis", "lead_ankle", "drive_ankle")
_BODY_HZ, _MOVES, _RESTS = 6.0, 0.25, 0.10  # Hz; m/s for a standing height of 1.80 m, as for the first move
_MOVES_FOR = 0.1  # s
_LOOKS_BACK = 3.0  # s
_TOGETHER_HZ, _LAG = 8.0, 0.250  # Hz; s either way
_FEWEST = 3  # frames of which a correlation is told
_TOGETHER = 0.5  # correlation below which two paths have nothing to do with each other


@measure(
    "pause_before_lift",
    "Pause before the lift",
    unit="ms",
    kind="T",
    at="first_move",
    view="any",
    needs=(*HIPS, "lead_ankle", "drive_ankle"),
    usual="pause or stop in the windup",
    text="How long the body rests between an earlier motion of the windup and the first move.",
    formula="longest rest of P and both ankles in the 3 s before the first move, after a motion, ms",
    sign="0 no pause, or no motion before",
    gauge="plumb",
    why=lambda r: "the marks waver too much to tell a rest" if _restless(r) else MISSED,
)
def pause_before_lift(r: Reading) -> np.ndarray:
    motion = r.motion
    if _restless(r):
        return np.full(r.stop("first_move").size, np.nan)
    fastest = np.max([motion.slow_speed(name, _BODY_HZ)[0] for name in _BODY], axis=0)
    has_moved = np.zeros(fastest.size, dtype=bool)
    for start, stop in runs(np.nan_to_num(fastest) > _MOVES * motion.scale):
        if stop - start >= _MOVES_FOR * motion.rate:
            has_moved[stop:] = True
    rests = has_moved & (fastest < _RESTS * motion.scale)
    return np.array([_longest(rests & inside, motion.rate) for inside in
                     r.within(r.stop("first_move") - _LOOKS_BACK, r.stop("first_move"))])  # fmt: skip


def _restless(r: Reading) -> bool:
    """Whether marks waver as fast as a body that still counts as resting."""
    stirs = r.motion.stirs(("drive_hip", "lead_ankle", "drive_ankle"), _BODY_HZ)
    return 2 * float(np.hypot(*stirs)) > _RESTS * r.motion.scale


def _longest(held: np.ndarray, rate: float) -> float:
    return 1000.0 / rate * max((stop - start for start, stop in runs(held)), default=0)


@measure(
    "hands_lift_lag",
    "Hands behind the lift",
    unit="ms",
    kind="T",
    at="peak_knee",
    view="any",
    needs=("throwing_wrist", "glove_wrist", "lead_knee"),
    stops=("first_move",),
    usual="rhythm of hands and leg lift",
    text="How much later than the knee the hands rise.",
    formula="lag at which the height of the wrists' middle best follows the height of lead_knee, within 250 ms",
    sign="+ hands later",
    gauge="trail:lead_knee",
    why=lambda r: "the hands do not move with the lift" if np.isfinite(_heights(r)).all() else MISSED,
)
def hands_lift_lag(r: Reading) -> np.ndarray:
    knee, hands = _heights(r)
    reach, rate = round(_LAG * r.motion.rate), r.motion.rate
    out = np.full(knee.shape[0], np.nan)
    for k, inside in enumerate(r.within(r.stop("first_move"), r.stop("peak_knee"))):
        frames = np.flatnonzero(inside)
        if not frames.size:
            continue
        lags = np.arange(max(-reach, -frames[0]), min(reach, knee.shape[1] - 1 - frames[-1]) + 1)
        moved = sliding_window_view(hands[k], frames.size)[frames[0] + lags]
        alike = _correlations(knee[k, frames], moved)
        best = int(np.argmax(np.nan_to_num(alike, nan=-1.0)))
        if alike[best] >= _TOGETHER:
            out[k] = 1000.0 * (lags[best] + _bend(alike, best)) / rate
    return out


def _heights(r: Reading) -> np.ndarray:
    """Heights of the front knee and of the middle of the wrists, `(2, copies, frames)`."""
    body = r.motion.body
    paths = (body.at("lead_knee"), (body.at("throwing_wrist") + body.at("glove_wrist")) / 2)
    return np.array([filtered(path, r.motion.rate, _TOGETHER_HZ)[..., 2] for path in paths])


def _correlations(a: np.ndarray, others: np.ndarray) -> np.ndarray:
    """Pearson's correlation of a curve `(frames,)` with each of others `(lags, frames)`; NaN where there is none."""
    a, others = a - a.mean(), others - others.mean(axis=1, keepdims=True)
    spread = np.sqrt(np.sum(a**2) * np.sum(others**2, axis=1))
    known = np.isfinite(spread) & (spread > 0) & (a.size >= _FEWEST)
    return np.where(known, others @ a / np.where(known, spread, 1.0), np.nan)


def _bend(curve: np.ndarray, k: int) -> float:
    """How far beside its largest sample a curve is largest, in samples."""
    if not 0 < k < curve.size - 1:
        return 0.0
    a, b, c = curve[k - 1 : k + 2]
    return float(np.clip(0.5 * (a - c) / (a - 2 * b + c), -0.5, 0.5)) if a - 2 * b + c < 0 else 0.0


@measure(
    "drive_foot_wobble",
    "Back foot wobble",
    unit="%",
    kind="P",
    at="drive_start",
    view="any",
    needs=("drive_ankle",),
    stops=("first_move",),
    text="How far the back ankle strays from its place while the leg is lifted.",
    formula="rms horizontal distance of drive_ankle from its median place, first move to load, % height",
    sign="0 is still",
    gauge="drive_foot",
)
def drive_foot_wobble(r: Reading) -> np.ndarray:
    at = r.motion.body.seen(r.motion.body.at("drive_ankle"))[..., :2]
    inside = r.within(r.stop("first_move"), r.stop("drive_start"))
    held = np.where(inside[..., None], at, np.nan)
    off = held - over_frames.median(held)[:, None]
    return r.percent(np.sqrt(over_frames.mean(np.sum(off**2, axis=-1))))


@measure(
    "lift_trunk_tilt",
    "Trunk lean at the lift",
    unit="deg",
    kind="P",
    at="peak_knee",
    view="side",
    needs=TRUNK,
    text="How far the trunk leans at the top of the lift.",
    formula="trunk tilt",
    sign="+ to the plate, - back",
    gauge="trunk",
    curve="trunk_tilt",
)
def lift_trunk_tilt(r: Reading) -> np.ndarray:
    return r.pose("peak_knee").trunk_tilt()


@measure(
    "lift_toe_droop",
    "Front toe at the lift",
    unit="deg",
    kind="P",
    at="peak_knee",
    view="side",
    needs=("lead_heel", "lead_toe"),
    segments=(("lead_heel", "lead_toe"),),
    text="How far the front foot hangs toe down at the top of the lift.",
    formula="angle of heel to toe below the horizontal",
    sign="+ toe hangs, 0 foot level",
    gauge="lead_foot",
)
def lift_toe_droop(r: Reading) -> np.ndarray:
    return r.pose("peak_knee").foot_pitch("lead")


@measure(
    "lift_pelvis_turn",
    "Hips turned at the lift",
    unit="deg",
    kind="P",
    at="peak_knee",
    view="3D",
    needs=HIPS,
    usual="pelvis rotation at peak knee height",
    text="How far the hips are turned away at the top of the lift.",
    formula="pelvis rotation",
    sign="- turned away from the plate",
    gauge="hip_line",
    curve="pelvis_rotation",
)
def lift_pelvis_turn(r: Reading) -> np.ndarray:
    return r.value(r.motion.pelvis_rotation(), "peak_knee")


@measure(
    "hip_ahead_of_foot",
    "Hip ahead of the foot",
    unit="%",
    kind="P",
    at="hand_break",
    view="side",
    needs=("lead_hip", "lead_ankle"),
    text="Whether the front hip leads on the way out, or the front foot swings ahead of it.",
    formula="lead_hip.x - lead_ankle.x, % height",
    sign="+ the hip leads",
    gauge="lead_knee",
)
def hip_ahead_of_foot(r: Reading) -> np.ndarray:
    body = r.pose("hand_break")
    return r.percent((body.at("lead_hip") - body.at("lead_ankle"))[:, 0])


@measure(
    "fall_slope",
    "Drop against travel",
    unit="deg",
    kind="P",
    at="drive_start",
    view="side",
    needs=HIPS,
    stops=("peak_knee",),
    text="How steeply the pelvis sinks while it begins to travel.",
    formula="atan2(P.z(lift) - P.z(load), P.x(load) - P.x(lift))",
    sign="+ steeper, 90 straight down",
    gauge="trail:pelvis",
)
def fall_slope(r: Reading) -> np.ndarray:
    way = r.pose("drive_start").at("pelvis") - r.pose("peak_knee").at("pelvis")
    return degrees(-way[:, 2], way[:, 0])
