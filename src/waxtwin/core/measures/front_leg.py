"""The front leg in flight, as it lands, and over the planted foot."""

from __future__ import annotations

import numpy as np

from waxtwin.core.body import dot
from waxtwin.core.measures import over_frames
from waxtwin.core.measures.registry import LEAD_LEG, LEAD_LINES, Reading, measure

_TOUCH = 0.02  # m over its planted height, for a standing height of 1.80 m
_PLANTED = (0.050, 0.100)  # s after landing between which a foot has its planted height
_BEFORE_LANDING = 0.050  # s


@measure(
    "lead_leg_straight_in_flight",
    "Front leg straight in flight",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=LEAD_LEG,
    stops=("hand_break",),
    planar="side",
    segments=LEAD_LINES,
    text="The least bend of the front knee on the way out; a straight leg is a counterweight.",
    formula="smallest lead knee flexion, hand break to 50 ms before landing",
    sign="0 straight",
    gauge="lead_knee",
    curve="lead_knee",
)
def lead_leg_straight_in_flight(r: Reading) -> np.ndarray:
    bend = r.motion.body.knee_flexion("lead")
    return -r.peak(-bend, r.stop("hand_break"), r.stop("landing") - _BEFORE_LANDING)[0]


@measure(
    "heel_first",
    "Heel or toe first",
    unit="ms",
    kind="T",
    at="landing",
    view="any",
    needs=("lead_heel", "lead_toe"),
    stops=("release",),
    text="Which part of the front foot comes down first, and by how much.",
    formula="t(lead_toe within 0.02 m of its planted height for good) - t(lead_heel the same), ms",
    sign="+ heel first, - toe first",
    gauge="lead_foot",
)
def heel_first(r: Reading) -> np.ndarray:
    return np.asarray(1000.0 * (_down(r, "lead_toe") - _down(r, "lead_heel")))


def _down(r: Reading, name: str) -> np.ndarray:
    """When a part of the foot is down for good, s `(copies,)`; the planted height is its middle after landing."""
    height = r.motion.body.at(name)[..., 2]
    start, stop = (np.minimum(r.stop("landing") + after, r.stop("release")) for after in _PLANTED)
    planted = np.where(r.within(start, stop), height, np.nan)
    return r.passes(over_frames.median(planted)[:, None] + _TOUCH * r.motion.scale - height, 0.0)


@measure(
    "landing_knee_over_ankle",
    "Front knee over the ankle",
    unit="%",
    kind="P",
    at="landing",
    view="3D",
    needs=("lead_knee", "lead_ankle", "lead_heel", "lead_toe"),
    planar="front",
    usual="lead knee valgus or varus at foot contact",
    text="Whether the front knee stands inside or outside its ankle, across the foot.",
    formula="(lead_knee - lead_ankle) across the lead foot's direction (from the front: y), % height",
    sign="+ toward the open side",
    gauge="lead_knee",
)
def landing_knee_over_ankle(r: Reading) -> np.ndarray:
    body = r.pose("landing")
    shin = body.at("lead_knee") - body.at("lead_ankle")
    if r.motion.flat is not None:
        return r.percent(shin[:, 1])
    along = body.foot_along("lead")
    return r.percent(dot(shin, np.stack([-along[:, 1], along[:, 0], np.zeros(len(along))], axis=-1)))


@measure(
    "knee_past_heel",
    "Front knee past the heel",
    unit="%",
    kind="P",
    at="release",
    view="side",
    needs=("lead_knee", "lead_heel"),
    stops=("landing",),
    text="How far the front knee drifts past the heel.",
    formula="largest lead_knee.x - lead_heel.x, landing to release, % height",
    sign="+ past the heel",
    gauge="lead_knee",
)
def knee_past_heel(r: Reading) -> np.ndarray:
    body = r.motion.body
    past = (body.at("lead_knee") - body.at("lead_heel"))[..., 0]
    return r.percent(r.peak(past, r.stop("landing"), r.stop("release"))[0])
