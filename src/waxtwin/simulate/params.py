"""What can be chosen about a simulated delivery."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from typing import Any


class ParameterError(ValueError):
    """A parameter is unknown or outside what a body can do; the text is one plain sentence."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DeliveryParams:
    """A pitcher's body, tempo and movement. Lengths in metres or fractions of height, angles in degrees."""

    throws: str = "R"
    height: float = 1.83
    mass: float = 86.0
    arm_scale: float = 1.0  # throwing and glove arm length against the usual proportion
    leg_scale: float = 1.0
    # tempo, seconds
    lead_in: float = 0.40
    rock: float = 0.0  # step back and forth again before the first move, x height
    pause: float = 0.0  # s at rest between that and the first move
    first_move_to_lift: float = 0.80
    lift_to_break: float = 0.13
    lift_to_landing: float = 0.72
    landing_to_release: float = 0.145
    follow_through: float = 0.62
    # legs and pelvis path
    lift_height: float = 0.06  # lead knee above the pelvis at the top of the lift, x height
    stride: float = 0.85  # lead ankle from the rubber at landing, x height
    stride_offset: float = -0.04  # m, - closed side
    foot_yaw: float = -12.0
    foot_pitch: float = -6.0  # of the front foot as it touches; + toe first
    swing: float = 0.0  # front foot wide of its usual way, to the open side, x height
    foot_out: float = 0.0  # front foot ahead of its usual way as the hands part, x height
    knee_out: float = 0.0  # front knee pushed to the open side, as a share of its bend
    load_knee: float = 52.0
    shift_at_load: float = 0.36  # share of the way from parting hands to landing
    shift_at_break: float = 0.085  # pelvis travel before the hands part, x height
    pelvis_at_landing: float = 0.615  # share of the stride
    pelvis_travel: float = 0.13  # landing to release, x height
    knee_landing: float = 46.0
    knee_release: float = 36.0
    # back foot
    foot_wobble: float = 0.0  # x height, to and fro while the leg is lifted
    drag: float = 0.0  # m that the back toe is drawn forward before landing, further than usual
    heel_up: float = 50.0  # pitch at landing
    knee_after: float = 0.0  # m that the back toe is drawn forward after landing, further than usual
    # rotations
    lift_turn: float = -28.0
    load_turn: float = 0.0  # shoulders turned back against the hips in the load
    pelvis_landing: float = 34.0
    peak_pelvis_turn: float = 620.0
    pelvis_peak: float = 0.26  # instant of the peak, share of landing to release
    trunk_landing: float = -14.0
    peak_trunk_turn: float = 1090.0
    trunk_peak: float = 0.50
    trunk_final: float = 106.0
    # trunk lean
    tilt_load: float = -4.0
    tilt_landing: float = -3.0
    tilt_release: float = 33.0
    side_tilt_landing: float = 4.0
    side_tilt_release: float = 24.0
    # head
    head_ahead: float = 0.0  # from lift to landing, x height; - stays behind
    head_dip: float = 0.0  # down and up again on the way, x height
    # both arms
    hands_rise: float = 0.0  # of the upper arms with the lift
    hands_lag: float = 0.0  # s behind it
    glove_early: float = 0.0  # s
    # throwing arm
    abduction_landing: float = 88.0
    adduction_landing: float = -22.0
    elbow_lag: float = -14.0  # horizontal adduction half way from landing to release
    arm_up_landing: float = 58.0
    elbow_landing: float = 92.0
    layback: float = 176.0
    hitch: float = 0.0  # s that the arm waits on its way up
    forearm_drop: float = 0.0  # deg that the forearm rises too soon and falls again
    elbow_release: float = 27.0
    elbow_height_release: float = 0.0
    peak_elbow_extension: float = 2050.0
    peak_internal_rotation: float = 5600.0
    ball_hand_ratio: float = 1.55
    # ledger facts
    pitch: str = "fastball"


RANGES: Mapping[str, tuple[float, float]] = {
    "height": (1.2, 2.3), "mass": (30, 160), "arm_scale": (0.8, 1.25), "leg_scale": (0.85, 1.15),
    "lead_in": (0.2, 3), "rock": (0, 0.12), "pause": (0, 2), "first_move_to_lift": (0.4, 2),
    "lift_to_break": (0.02, 0.4),
    "lift_to_landing": (0.45, 1.4), "landing_to_release": (0.1, 0.25), "follow_through": (0.4, 1.5),
    "lift_height": (-0.1, 0.16), "stride": (0.55, 1.0), "stride_offset": (-0.4, 0.4),
    "foot_yaw": (-50, 40), "swing": (0, 0.3), "foot_pitch": (-20, 25),
    "foot_out": (-0.1, 0.15), "knee_out": (-2, 2),
    "load_knee": (30, 75), "shift_at_load": (0.1, 0.6), "shift_at_break": (0, 0.16),
    "pelvis_at_landing": (0.45, 0.68), "pelvis_travel": (0.02, 0.25),
    "knee_landing": (20, 75), "knee_release": (8, 75),
    "foot_wobble": (0, 0.05), "drag": (-0.1, 0.3), "heel_up": (10, 85), "knee_after": (-0.4, 0.4),
    "lift_turn": (-60, 10), "load_turn": (-30, 30), "pelvis_landing": (-10, 70), "peak_pelvis_turn": (300, 900),
    "pelvis_peak": (0.05, 0.7), "trunk_landing": (-40, 40), "peak_trunk_turn": (600, 1500),
    "trunk_peak": (0.2, 0.8), "trunk_final": (60, 130),
    "tilt_load": (-25, 20), "tilt_landing": (-25, 30), "tilt_release": (5, 55),
    "side_tilt_landing": (-20, 30), "side_tilt_release": (-10, 50),
    "head_ahead": (-0.08, 0.08), "head_dip": (0, 0.06), "hands_rise": (0, 60), "hands_lag": (-0.25, 0.25),
    "glove_early": (0, 0.15), "forearm_drop": (0, 90),
    "abduction_landing": (50, 120), "adduction_landing": (-50, 20), "elbow_lag": (-45, 10),
    "arm_up_landing": (-40, 110),
    "hitch": (0, 0.06), "elbow_landing": (40, 125), "layback": (140, 200), "elbow_release": (12, 50),
    "elbow_height_release": (-25, 25),
    "peak_elbow_extension": (1200, 3200), "peak_internal_rotation": (3500, 9500),
    "ball_hand_ratio": (1.2, 1.9),
}  # fmt: skip


def params_from(values: Mapping[str, Any], base: DeliveryParams | None = None) -> DeliveryParams:
    """Parameters from plain values laid over `base`.

    Raises ParameterError naming the first unknown, non-numeric or impossible one.
    """
    known = {f.name for f in fields(DeliveryParams)}
    for name, value in values.items():
        if name not in known:
            raise ParameterError(f"there is no parameter named {name!r}")
        if name == "throws":
            if value not in ("R", "L"):
                raise ParameterError(f"throws must be R or L, not {value!r}")
        elif name in RANGES:
            low, high = RANGES[name]
            number = isinstance(value, (int, float)) and not isinstance(value, bool)
            if not number or not math.isfinite(value) or not low <= value <= high:
                raise ParameterError(f"{name} must be a number from {low} to {high}, not {value!r}")
        elif not isinstance(value, str):
            raise ParameterError(f"{name} must be text, not {value!r}")
    return replace(base or DeliveryParams(), **values)
