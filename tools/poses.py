"""Writes src/waxtwin/assets/poses.json, the poses from which practice tasks are drawn, with the simulator.

`--check` only compares. A pose is an instant of a simulated delivery; points are millimetres of a pitcher of 1.80 m.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Mapping

import numpy as np

from waxtwin import ASSETS
from waxtwin.core.landmarks import LANDMARKS
from waxtwin.simulate.delivery import simulate
from waxtwin.simulate.params import DeliveryParams, params_from
from waxtwin.simulate.truth import true_events

PAGE = ASSETS / "poses.json"
_HEIGHT = 1.80
# name: what the pitcher does otherwise, the stop, seconds after it
POSES: Mapping[str, tuple[Mapping[str, float], str, float]] = {
    "set": ({}, "set", 0.0),
    "rising": ({}, "peak_knee", -0.35),
    "lift": ({}, "peak_knee", 0.0),
    "lift_straight": ({"lift_turn": -4.0}, "peak_knee", 0.0),
    "lift_turned": ({"lift_turn": -46.0}, "peak_knee", 0.0),
    "hip_leads": ({"shift_at_break": 0.13}, "hand_break", 0.06),
    "apart": ({}, "hand_break", 0.18),
    "load": ({}, "drive_start", 0.0),
    "load_hinged": ({"load_knee": 44.0}, "drive_start", 0.0),
    "load_low": ({"load_knee": 62.0}, "drive_start", 0.0),
    "push": ({}, "foot_contact", -0.10),
    "land": ({}, "foot_contact", 0.0),
    "land_closed": ({"foot_yaw": -24.0, "pelvis_landing": 12.0}, "foot_contact", 0.0),
    "land_heel": ({"foot_pitch": -17.0}, "foot_contact", 0.0),
    "land_tall": ({"tilt_landing": -8.0}, "foot_contact", 0.0),
    "hips_first": ({"trunk_landing": -26.0}, "foot_contact", 0.04),
    "layback": ({}, "max_layback", 0.0),
    "release": ({}, "release", 0.0),
    "braced": ({"knee_release": 12.0}, "release", 0.0),
    "through": ({}, "release", 0.09),
    "finish": ({}, "finish", 0.0),
    "leg_over": ({}, "finish", 0.22),
}


def poses() -> str:
    """The file as text."""
    made = {}
    for name, (changes, stop, after) in POSES.items():
        motion = simulate(params_from(changes, DeliveryParams(height=_HEIGHT)))
        points = motion.sample(np.array([true_events(motion)[stop] + after]))[0]
        made[name] = [None if np.isnan(point).any() else np.rint(1000 * point).astype(int).tolist() for point in points]
    rows = ",\n".join(f"  {json.dumps(name)}: {json.dumps(points)}" for name, points in made.items())
    landmarks = json.dumps(list(LANDMARKS))
    return f'{{\n "version": 1, "height": {_HEIGHT}, "landmarks": {landmarks},\n "poses": {{\n{rows}\n }}\n}}\n'


if __name__ == "__main__":
    if "--check" in sys.argv:
        sys.exit(0 if PAGE.is_file() and PAGE.read_text() == poses() else "poses.json is out of date: make docs")
    PAGE.write_text(poses())
