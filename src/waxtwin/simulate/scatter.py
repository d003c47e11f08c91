"""Throw-to-throw scatter: the same pitcher's next throw, a little other than the last."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from waxtwin.simulate.params import RANGES, DeliveryParams

# Standard deviations from throw to throw; what is not named stays as it is.
_USUAL: Mapping[str, float] = {
    "first_move_to_lift": 0.025, "lift_to_landing": 0.012, "landing_to_release": 0.0025, "stride": 0.007,
    "stride_offset": 0.012, "foot_yaw": 1.5, "load_knee": 1.2, "shift_at_break": 0.004, "pelvis_travel": 0.003,
    "knee_landing": 1.5, "knee_release": 1.6, "lift_turn": 1.5, "pelvis_landing": 1.6, "peak_pelvis_turn": 11.0,
    "trunk_landing": 1.6, "peak_trunk_turn": 16.0, "tilt_landing": 1.0, "tilt_release": 1.1, "side_tilt_release": 1.0,
    "abduction_landing": 1.3, "arm_up_landing": 3.0, "elbow_landing": 2.0, "layback": 1.3, "elbow_height_release": 0.9,
    "peak_elbow_extension": 40.0, "peak_internal_rotation": 120.0, "ball_hand_ratio": 0.006,
}  # fmt: skip


def session_of(params: DeliveryParams, count: int, seed: int = 0) -> list[DeliveryParams]:
    """Throws of one session: the first as given, the others scattered around it within what a body can do."""
    rng = np.random.default_rng([seed, 7919])
    return [params, *(_another(params, rng) for _ in range(count - 1))]


def _another(params: DeliveryParams, rng: np.random.Generator) -> DeliveryParams:
    changed: dict[str, Any] = {}
    for name, sd in _USUAL.items():
        low, high = RANGES[name]
        changed[name] = float(np.clip(getattr(params, name) + sd * rng.normal(), low, high))
    return replace(params, **changed)
