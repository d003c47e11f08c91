"""Curves over time: one declared entry each, from which plots, their axes and exported tables are made."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.measures.speeds import SPEED_POINTS
from waxtwin.core.motion import Motion, unwrapped

Make = Callable[[Analysis], np.ndarray]


@dataclass(frozen=True, slots=True)
class Curve:
    """A curve: `values(analysis)` gives `(frames,)` in `unit`, NaN where it is not seen; `of` are the measures that
    are read off it.
    """  # fmt: skip

    id: str
    label: str
    unit: str
    values: Make
    of: tuple[str, ...]


def _read(make: Callable[[Motion], np.ndarray]) -> Make:
    return lambda analysis: np.asarray(make(analysis.motion)[0])


def _speed(point: str) -> Make:
    return _read(lambda motion: motion.speed(point))


def _layback(analysis: Analysis) -> np.ndarray:
    landing = analysis.time("foot_contact")
    start = analysis.motion.times[0] if landing is None else landing
    return np.asarray(analysis.motion.layback(np.array([start]))[0])


def _declared() -> list[Curve]:
    def angle(name: str, label: str, make: Callable[[Motion], np.ndarray], *of: str) -> Curve:
        return Curve(name, label, "deg", _read(make), of)

    found = [
        angle("pelvis_rotation", "Hips turn", Motion.pelvis_rotation, "landing_pelvis_rotation", "pelvis_open_time",
              "peak_pelvis_turn", "peak_pelvis_turn_time"),
        angle("trunk_rotation", "Shoulders turn", Motion.trunk_rotation, "landing_trunk_rotation", "trunk_open_time",
              "lift_turn", "load_trunk_turn", "peak_trunk_turn", "peak_trunk_turn_time"),
        angle("separation", "Separation", Motion.separation, "landing_separation", "peak_separation",
              "peak_separation_time"),
        angle("trunk_tilt", "Trunk lean", lambda m: m.body.trunk_tilt(), "load_trunk_tilt", "landing_trunk_tilt",
              "release_trunk_tilt", "trunk_travel"),
        angle("side_tilt", "Side lean", lambda m: m.body.side_tilt(), "landing_side_tilt", "release_side_tilt"),
        angle("shoulder_tilt", "Shoulder line tilt", lambda m: m.body.shoulder_tilt(), "landing_shoulder_tilt"),
        angle("lead_knee", "Front knee bend", lambda m: m.body.knee_flexion("lead"), "landing_knee_flexion",
              "release_knee_flexion", "knee_bracing", "brace_time"),
        angle("drive_knee", "Back knee bend", lambda m: m.body.knee_flexion("drive"), "load_knee_flexion",
              "drive_extension_at_landing"),
        angle("drive_hip", "Back hip bend", lambda m: m.body.hip_flexion("drive"), "load_hip_flexion"),
        angle("drive_leg", "Back leg lean", lambda m: m.body.leg_tilt("drive"), "drive_leg_tilt_at_break"),
        angle("lead_foot", "Front foot direction", lambda m: unwrapped(m.body.foot_yaw("lead")), "lead_foot_yaw",
              "lead_foot_open_lead"),
        angle("elbow", "Elbow bend", lambda m: m.body.elbow_flexion(), "landing_elbow_flexion",
              "release_elbow_flexion", "peak_elbow_extension", "peak_elbow_extension_time"),
        angle("elbow_height", "Elbow to the shoulder line", lambda m: m.body.abduction() - 90.0, "landing_abduction",
              "landing_elbow_height", "release_elbow_height"),
        angle("elbow_lag", "Elbow before or behind the line", lambda m: m.body.horizontal_adduction(),
              "landing_horizontal_adduction", "layback_elbow_lag"),
        Curve("layback", "Layback", "deg", _layback,
              ("landing_arm_up", "max_layback_angle", "peak_internal_rotation", "peak_internal_rotation_time",
               "landing_to_layback", "layback_to_release")),
        angle("arm_line", "Shoulders and arm in line", lambda m: m.body.arm_line(), "release_arm_line"),
    ]  # fmt: skip
    for point, label in SPEED_POINTS.items():
        of: tuple[str, ...] = (f"peak_speed_{point}", f"peak_time_{point}")
        if point == "pelvis":
            of += ("pelvis_speed_at_landing",)
        if point == "throwing_hand":
            of += ("acceleration_path", "acceleration_mean")
        found.append(Curve(f"speed_{point}", f"{label}, speed", "m/s", _speed(point), of))
    return found


CURVES: Mapping[str, Curve] = {curve.id: curve for curve in _declared()}
_OF_MEASURE = {name: curve for curve in CURVES.values() for name in curve.of}


def curve_of(measure_id: str | None) -> Curve | None:
    """The curve that a measure is read off, or None."""
    return None if measure_id is None else _OF_MEASURE.get(measure_id)
