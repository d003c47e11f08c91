"""Curves over time: one declared entry each, from which plots, their axes and exported tables are made."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.speeds import SPEED_POINTS
from waxtwin.core.motion import Motion, unwrapped

Make = Callable[[Analysis], np.ndarray]


@dataclass(frozen=True, slots=True)
class Curve:
    """A curve: `values(analysis)` gives `(frames,)` in `unit`, NaN where it is not seen."""

    id: str
    label: str
    unit: str
    values: Make


def _read(make: Callable[[Motion], np.ndarray]) -> Make:
    return lambda analysis: np.asarray(make(analysis.motion)[0])


def _speed(point: str) -> Make:
    """Metres a second; not known where lengths are only shares of a height that nobody gave."""
    return _read(lambda motion: motion.speed(point) if motion.sight.scaled else np.full((1, motion.times.size), np.nan))


def _layback(analysis: Analysis) -> np.ndarray:
    landing = analysis.time("foot_contact")
    start = analysis.motion.times[0] if landing is None else landing
    return np.asarray(analysis.motion.layback(np.array([start]))[0])


def _declared() -> list[Curve]:
    def angle(name: str, label: str, make: Callable[[Motion], np.ndarray]) -> Curve:
        return Curve(name, label, "deg", _read(make))

    angles = [
        angle("pelvis_rotation", "Hips turn", Motion.pelvis_rotation),
        angle("trunk_rotation", "Shoulders turn", Motion.trunk_rotation),
        angle("separation", "Separation", Motion.separation),
        angle("trunk_tilt", "Trunk lean", lambda m: m.body.trunk_tilt()),
        angle("side_tilt", "Side lean", lambda m: m.body.side_tilt()),
        angle("shoulder_tilt", "Shoulder line tilt", lambda m: m.body.shoulder_tilt()),
        angle("lead_knee", "Front knee bend", lambda m: m.body.knee_flexion("lead")),
        angle("drive_knee", "Back knee bend", lambda m: m.body.knee_flexion("drive")),
        angle("drive_hip", "Back hip bend", lambda m: m.body.hip_flexion("drive")),
        angle("drive_leg", "Back leg lean", lambda m: m.body.leg_tilt("drive")),
        angle("lead_foot", "Front foot direction", lambda m: unwrapped(m.body.foot_yaw("lead"))),
        angle("elbow", "Elbow bend", lambda m: m.body.elbow_flexion()),
        angle("elbow_height", "Elbow to the shoulder line", lambda m: m.body.abduction() - 90.0),
        angle("elbow_lag", "Elbow before or behind the line", lambda m: m.body.horizontal_adduction()),
        Curve("layback", "Layback", "deg", _layback),
        angle("arm_line", "Shoulders and arm in line", lambda m: m.body.arm_line()),
    ]  # fmt: skip
    speeds = [
        Curve(f"speed_{name}", f"{point.label}, speed", "m/s", _speed(name)) for name, point in SPEED_POINTS.items()
    ]
    return angles + speeds


CURVES: Mapping[str, Curve] = {curve.id: curve for curve in _declared()}
if _unknown := [item.id for item in MEASURES.values() if item.curve and item.curve not in CURVES]:
    raise ValueError(f"read off curves that there are not: {', '.join(_unknown)}")


def curve_of(measure_id: str | None) -> Curve | None:
    """The curve that a measure is read off, or None."""
    return None if measure_id is None else CURVES.get(MEASURES[measure_id].curve)
