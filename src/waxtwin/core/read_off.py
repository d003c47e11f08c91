"""What is read off a landmark at an instant: how far from rubber and foot, how high, how fast now and at its peak."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.landmarks import LANDMARKS
from waxtwin.core.measures.registry import (
    HIDDEN,
    LEAST_RATE,
    MISSED,
    NO_LANDMARKS,
    NO_PACE,
    TOO_QUICK,
    VIEW_REASON,
    WHIPPED,
    is_hidden,
)
from waxtwin.core.measures.speeds import SPEED_POINTS
from waxtwin.core.motion import Motion

POINTS: Mapping[str, str] = {
    **{name: name.replace("_", " ").replace("drive", "back").replace("lead", "front") for name in LANDMARKS},
    "pelvis": "middle of the hips", "chest": "middle of the shoulders",
}  # fmt: skip
LINES: Mapping[str, str] = {
    "rubber": "from the rubber", "foot": "from the other foot", "height": "above the rubber",
    "speed": "speed now", "peak": "its peak speed", "peak_time": "its peak, from landing",
}  # fmt: skip
_BACK_LEG = ("drive_hip", "drive_knee", "drive_ankle", "drive_heel", "drive_toe")
_QUICK = (*WHIPPED, "ball")  # too quick for few frames a second


@dataclass(frozen=True, slots=True)
class Reading:
    """One figure: `value` in `unit` ("%" of standing height, "%/s" of it a second, "ms"), None with its `reason`.

    `sd` is what the footage's noise makes of it; `metres` the same length in metres, or speed in m/s, where the footage
    has a scale.
    """

    value: float | None
    unit: str
    sd: float | None = None
    metres: float | None = None
    reason: str = ""


def other_foot(name: str) -> str:
    """The ankle that a landmark's distance is taken from: the back foot's, or the front one's for the back leg."""
    return "lead_ankle" if name in _BACK_LEG else "drive_ankle"


def read_off(analysis: Analysis, name: str, time: float) -> dict[str, Reading]:
    """The LINES of a landmark (or `pelvis`, `chest`) at an instant, s. Raises ValueError for no such point.

    Distances are along the line to the plate; speeds in the axes that are seen; the peak is the largest between first
    move and finish, as far as these are known.
    """
    if name not in POINTS:
        raise ValueError(f"no such point: {name}")
    motion = analysis.motion
    if motion.is_bare:
        return {line: Reading(None, _unit(line), reason=NO_LANDMARKS) for line in LINES}
    body = motion.pose(np.array([time]))
    point, foot = body.at(name)[0], body.at(other_foot(name))[0]
    noise = motion.smoothed_noise(name)
    apart = np.hypot(noise, motion.smoothed_noise(other_foot(name)))
    return {
        "rubber": _length(motion, 0, point[0], noise),
        "foot": _length(motion, 0, point[0] - foot[0], apart),
        "height": _length(motion, 2, point[2], noise),
        **_speeds(analysis, name, time),
    }


def _unit(line: str) -> str:
    return {"speed": "%/s", "peak": "%/s", "peak_time": "ms"}.get(line, "%")


def _length(motion: Motion, axis: int, value: float, sd: float) -> Reading:
    """A length (m) along an axis, in shares of standing height."""
    if axis == motion.flat:
        return Reading(None, "%", reason=VIEW_REASON["side"])
    return _of_height(motion, value, sd, "%")


def _speeds(analysis: Analysis, name: str, time: float) -> dict[str, Reading]:
    motion = analysis.motion
    hinders = NO_PACE if not motion.sight.paced else TOO_QUICK if name in _QUICK and motion.rate < LEAST_RATE else None
    if hinders is None and is_hidden(motion, (name,), analysis.time("release")):
        hinders = HIDDEN
    if hinders is not None:
        return {line: Reading(None, _unit(line), reason=hinders) for line in ("speed", "peak", "peak_time")}
    speeds = motion.speed(name)
    now = float(motion.sample(speeds, np.array([time]))[0])
    top, at, bend = _peak(analysis, name, speeds[0])
    noise, landing = motion.smoothed_noise(name, 1), analysis.time("landing")
    peak_time = Reading(None, "ms", reason="the landing is not known")
    if at is None:
        peak_time = Reading(None, "ms", reason=MISSED)
    elif landing is not None:
        # s: noise moves a flat peak further than a sharp one
        flat = motion.smoothed_noise(name, 2) / bend if bend else 0.0
        peak_time = Reading((at - landing) * 1000.0, "ms", 1000.0 * float(np.hypot(0.5 / motion.rate, flat)))
    speed, peak = (_of_height(motion, value, noise, "%/s") for value in (now, top))
    return {"speed": speed, "peak": peak, "peak_time": peak_time}


def _of_height(motion: Motion, value: float, sd: float, unit: str) -> Reading:
    """A length (m) or speed (m/s) in shares of standing height, in doubt by its noise and by the scale."""
    if np.isnan(value):
        return Reading(None, unit, reason=MISSED)
    share = 100.0 / motion.height
    doubt = float(np.hypot(sd, value * motion.sight.scale_sd))
    return Reading(float(value) * share, unit, doubt * share, float(value) if motion.sight.scaled else None)


def _peak(analysis: Analysis, name: str, speeds: np.ndarray) -> tuple[float, float | None, float]:
    """The largest speed `(frames,)` of a landmark, its instant (s) and how sharp it is (m/s3): a parabola through three
    frames. The throwing arm's is looked for where the measure looks for it.
    """
    times, release = analysis.motion.times, analysis.time("release")
    ends = [analysis.time(stop) for stop in ("first_move", "finish")]
    first, last = (known if known is not None else end for known, end in zip(ends, times[[0, -1]], strict=True))
    if name in SPEED_POINTS and release is not None:
        first = float(SPEED_POINTS[name].since(first, release))
    within = (times >= first) & (times <= last) & np.isfinite(speeds)
    if not within.any():
        return float("nan"), None, 0.0
    i = int(np.argmax(np.where(within, speeds, -1.0)))
    if not 0 < i < times.size - 1 or np.isnan(speeds[i - 1 : i + 2]).any():
        return float(speeds[i]), float(times[i]), 0.0
    a, b, c = (float(v) for v in speeds[i - 1 : i + 2])
    bend = a - 2 * b + c
    shift = 0.5 * (a - c) / bend if bend else 0.0
    rate = analysis.motion.rate
    return b - 0.25 * (a - c) * shift, float(times[i] + shift / rate), abs(bend) * rate**2


def margin(athlete: Reading, twin: Reading) -> float | None:
    """What the difference of two readings must exceed to count: 2 sqrt(sdA^2 + sdB^2), as for measures."""
    if athlete.sd is None or twin.sd is None:
        return None
    return 2.0 * float(np.hypot(athlete.sd, twin.sd))
