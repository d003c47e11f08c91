"""The made-up people of the demo: two athletes and their twins, all of the Saltmarrow Lanterns' winter hall."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from waxtwin.simulate.params import DeliveryParams


@dataclass(frozen=True)
class Preset:
    """An invented person: the facts of the sidecar, the movement, and the kit worn in clips."""

    name: str
    born: str
    span: float
    kit: str
    params: DeliveryParams
    notes: str = ""

    def athlete(self) -> dict[str, Any]:
        """The sidecar's `athlete` record."""
        return {
            "name": self.name,
            "height_m": self.params.height,
            "mass_kg": self.params.mass,
            "span_m": self.span,
            "born": self.born,
            "throws": self.params.throws,
        }


PRESETS: Mapping[str, Preset] = {
    "wren": Preset(
        "Wren Tollander", "2009-04-18", 1.79, "amber",
        DeliveryParams(
            throws="R", height=1.76, mass=70.0, stride=0.79, stride_offset=0.02, foot_yaw=-4,
            first_move_to_lift=0.86, lift_to_break=0.10, lift_to_landing=0.76, landing_to_release=0.147,
            shift_at_break=0.055, pelvis_at_landing=0.66, pelvis_travel=0.138, load_knee=55, lift_height=0.03,
            lift_turn=-20, pelvis_landing=30, peak_pelvis_turn=560, pelvis_peak=0.33,
            trunk_landing=1, peak_trunk_turn=980, trunk_peak=0.46, tilt_load=-1, tilt_landing=8, tilt_release=33,
            side_tilt_release=19, knee_landing=36, knee_release=41, arm_up_landing=36, elbow_landing=98,
            arm_scale=0.95, abduction_landing=97, elbow_height_release=4, layback=168, elbow_release=26,
            peak_elbow_extension=1800, peak_internal_rotation=5100, ball_hand_ratio=1.47,
        ),
        "Winter programme, first look. Feels quick with the front side.",
    ),
    "ines": Preset(
        "Ines Corvane", "1999-08-02", 1.88, "teal",
        DeliveryParams(
            throws="R", height=1.83, mass=86.0, stride=0.87, pelvis_at_landing=0.63,
            peak_elbow_extension=1960, peak_internal_rotation=5300, ball_hand_ratio=1.43,
        ),
        "Reference throw, game effort in the hall.",
    ),
    "pell": Preset(
        "Pell Ardmoor", "2007-01-29", 1.86, "amber",
        DeliveryParams(
            throws="L", height=1.84, mass=79.0, stride=0.80, stride_offset=-0.10, foot_yaw=-16,
            first_move_to_lift=0.74, lift_to_landing=0.68, landing_to_release=0.150,
            pelvis_at_landing=0.67, pelvis_travel=0.10, load_knee=57,
            pelvis_landing=22, peak_pelvis_turn=520, pelvis_peak=0.40, trunk_landing=-16, peak_trunk_turn=990,
            trunk_peak=0.54, tilt_landing=-5, tilt_release=26, side_tilt_release=28, knee_landing=42, knee_release=46,
            arm_up_landing=66, layback=171, arm_scale=0.95, peak_elbow_extension=1800, peak_internal_rotation=5050,
            ball_hand_ratio=1.43,
        ),
        "Second winter. Long limbs, slow hips.",
    ),
    "juno": Preset(
        "Juno Wexcombe", "1997-11-11", 1.95, "teal",
        DeliveryParams(
            throws="L", height=1.89, mass=91.0, stride=0.84, stride_offset=-0.06, first_move_to_lift=0.90,
            lift_to_landing=0.74, landing_to_release=0.146, pelvis_landing=38, peak_pelvis_turn=640,
            trunk_landing=-15, tilt_landing=-4, side_tilt_release=27, knee_landing=43, knee_release=30,
            arm_up_landing=62, layback=178, arm_scale=0.96,
            peak_elbow_extension=1950, peak_internal_rotation=5300, ball_hand_ratio=1.44,
        ),
        "Reference throw, left-handed.",
    ),
}  # fmt: skip
