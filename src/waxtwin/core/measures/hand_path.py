"""The throwing arm on its way back and up."""

from __future__ import annotations

import numpy as np

from waxtwin.core.body import Body, dot, unit
from waxtwin.core.measures.registry import MISSED, TRUNK, Reading, measure
from waxtwin.core.measures.rotations import pelvis_open_time


@measure(
    "hand_behind_body",
    "Hand reaches back",
    unit="%",
    kind="P",
    at="landing",
    view="side",
    needs=("throwing_hand", "drive_ankle"),
    stops=("hand_break", "set"),
    text="How far the throwing hand reaches back beyond the back foot on its path.",
    formula="largest drive_ankle.x(set) - throwing_hand.x, hand break to landing, % height",
    sign="+ beyond the back ankle",
    gauge="trail:throwing_hand",
)
def hand_behind_body(r: Reading) -> np.ndarray:
    back = r.pose("set").at("drive_ankle")[:, :1] - r.motion.body.at("throwing_hand")[..., 0]
    return r.percent(r.peak(back, r.stop("hand_break"), r.stop("landing"))[0])


@measure(
    "elbow_back_time",
    "Elbow furthest back, when",
    unit="ms",
    kind="T",
    at="landing",
    view="3D",
    needs=(*TRUNK, "throwing_elbow"),
    stops=("hand_break",),
    usual="time of peak horizontal abduction",
    text="When the elbow is drawn back furthest, from landing.",
    formula="t(smallest horizontal adduction) - t(landing), hand break to landing, ms",
    sign="- before landing",
    gauge="elbow_line",
    curve="elbow_lag",
)
def elbow_back_time(r: Reading) -> np.ndarray:
    behind = -r.motion.body.horizontal_adduction()
    return r.after_landing(r.peak(behind, r.stop("hand_break"), r.stop("landing"))[1])


@measure(
    "elbow_back_to_pelvis_open",
    "Elbow back against hips open",
    unit="ms",
    kind="T",
    at="landing",
    view="3D",
    needs=(*TRUNK, "throwing_elbow"),
    stops=("hand_break", "release"),
    text="Whether the elbow is furthest back before or after the hips have opened.",
    formula="t(smallest horizontal adduction) - t(pelvis rotation passes 30 for good), ms",
    sign="- elbow first",
    gauge="elbow_line",
)
def elbow_back_to_pelvis_open(r: Reading) -> np.ndarray:
    return elbow_back_time(r) - pelvis_open_time(r)


def _over_elbow(r: Reading) -> np.ndarray:
    body = r.motion.body
    return np.asarray((body.at("throwing_wrist") - body.at("throwing_elbow"))[..., 2])


@measure(
    "wrist_under_elbow",
    "Forearm drops again",
    unit="%",
    kind="P",
    at="landing",
    view="any",
    needs=("throwing_wrist", "throwing_elbow"),
    stops=("hand_break",),
    text="How far the wrist falls below the elbow again after it was up, before it is laid back.",
    formula="largest throwing_elbow.z - throwing_wrist.z after the wrist rose over it, hand break to landing, % height",
    sign="0 never falls back",
    gauge="forearm",
    why=lambda r: "the wrist does not rise over the elbow" if np.isfinite(_over_elbow(r)).any() else MISSED,
)
def wrist_under_elbow(r: Reading) -> np.ndarray:
    over = _over_elbow(r)
    inside = r.within(r.stop("hand_break"), r.stop("landing"))
    up = over > 0
    rises = inside & up & ~np.pad(up, ((0, 0), (1, 0)), constant_values=True)[:, :-1]
    rises |= inside & ~(inside & ~up).any(axis=1, keepdims=True)  # up all the way
    rose = np.maximum.accumulate(rises, axis=1) & inside
    under = np.where(rose & np.isfinite(over), -over, -np.inf).max(axis=1)
    return np.where(np.isfinite(under), r.percent(np.maximum(under, 0.0)), np.nan)


@measure(
    "layback_place",
    "Hand outside the body in layback",
    unit="%",
    kind="P",
    at="max_layback",
    view="3D",
    needs=("throwing_hand", *TRUNK),
    planar="front",
    text="How far outside the middle of the body the hand lies back.",
    formula="throwing_hand's distance from the plane that cuts the trunk front to back (from the front: from P to C)",
    sign="+ outside, on the throwing side",
    gauge="forearm",
)
def layback_place(r: Reading) -> np.ndarray:
    body = r.pose("max_layback")
    return r.percent(dot(body.seen(body.at("throwing_hand") - body.at("chest")), _outward(body)))


def _outward(body: Body) -> np.ndarray:
    """Square to the trunk toward the throwing side, unit vectors `(copies, 3)`; in the picture plane from the front."""
    if body.flat is None:
        return body.trunk_axes[0]
    up = unit(body.seen(body.trunk))
    return np.stack([np.zeros(len(up)), -up[:, 2], up[:, 1]], axis=-1)
