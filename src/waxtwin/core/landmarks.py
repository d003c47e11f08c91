"""Landmark ids, their fixed order in every array, and the two ways of naming sides.

Arrays of points are `(..., landmarks, 3)` in this order everywhere. A limb is named for what it does:
`throwing_`/`glove_` for the arms, `drive_`/`lead_` for the back and the stride leg.
"""

from __future__ import annotations

from collections.abc import Mapping

LANDMARKS: tuple[str, ...] = (
    "head", "nose",
    "throwing_shoulder", "glove_shoulder",
    "throwing_elbow", "glove_elbow",
    "throwing_wrist", "glove_wrist",
    "throwing_hand", "glove_hand",
    "drive_hip", "lead_hip",
    "drive_knee", "lead_knee",
    "drive_ankle", "lead_ankle",
    "drive_heel", "lead_heel",
    "drive_toe", "lead_toe",
    "ball", "navel",
)  # fmt: skip
OPTIONAL = frozenset({"ball", "navel", "nose"})
INDEX: Mapping[str, int] = {name: i for i, name in enumerate(LANDMARKS)}
MIDDLES: Mapping[str, tuple[str, str]] = {  # points midway between two landmarks
    "pelvis": ("drive_hip", "lead_hip"),
    "chest": ("throwing_shoulder", "glove_shoulder"),
}

_ARM_PARTS = ("shoulder", "elbow", "wrist", "hand")
_LEG_PARTS = ("hip", "knee", "ankle", "heel", "toe")


def anatomical_names(throws: str) -> dict[str, str]:
    """Map plain anatomical names (`right_shoulder`, `left_ankle`) to landmark ids.

    `throws` is "R" or "L"; the drive leg is on the throwing side.
    """
    throwing, other = ("right", "left") if throws == "R" else ("left", "right")
    names = {f"{throwing}_{part}": f"throwing_{part}" for part in _ARM_PARTS}
    names |= {f"{other}_{part}": f"glove_{part}" for part in _ARM_PARTS}
    names |= {f"{throwing}_{part}": f"drive_{part}" for part in _LEG_PARTS}
    names |= {f"{other}_{part}": f"lead_{part}" for part in _LEG_PARTS}
    return names
