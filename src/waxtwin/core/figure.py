"""The wax figure: which round solids hang on the landmarks, for every renderer alike.

A solid is a ball-ended, tapering limb between two points; the torso is the hull of several balls.
Radii are fractions of standing height, so one table serves every body.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from waxtwin.core.landmarks import INDEX, LANDMARKS

FIGURE_POINTS: tuple[str, ...] = (
    *LANDMARKS, "pelvis", "chest", "belly", "neck", "crown", "brim", "glove_pocket",
    "rib_throwing", "rib_glove", "waist_drive", "waist_lead",
)  # fmt: skip
FIGURE_INDEX = {name: i for i, name in enumerate(FIGURE_POINTS)}


@dataclass(frozen=True, slots=True)
class Solid:
    """A limb from `a` to `b` with radii `ra`, `rb` (fractions of height) made of `material`."""

    a: str
    b: str
    ra: float
    rb: float
    material: str


LIMBS: tuple[Solid, ...] = (
    Solid("drive_hip", "drive_knee", 0.050, 0.033, "legs"),
    Solid("drive_knee", "drive_ankle", 0.033, 0.021, "legs"),
    Solid("lead_hip", "lead_knee", 0.050, 0.033, "legs"),
    Solid("lead_knee", "lead_ankle", 0.033, 0.021, "legs"),
    Solid("drive_heel", "drive_toe", 0.019, 0.017, "shoe"),
    Solid("drive_ankle", "drive_heel", 0.021, 0.020, "shoe"),
    Solid("lead_heel", "lead_toe", 0.019, 0.017, "shoe"),
    Solid("lead_ankle", "lead_heel", 0.021, 0.020, "shoe"),
    Solid("throwing_shoulder", "throwing_elbow", 0.033, 0.025, "shirt"),
    Solid("throwing_elbow", "throwing_wrist", 0.024, 0.016, "skin"),
    Solid("throwing_wrist", "throwing_hand", 0.016, 0.020, "skin"),
    Solid("glove_shoulder", "glove_elbow", 0.033, 0.025, "shirt"),
    Solid("glove_elbow", "glove_wrist", 0.024, 0.016, "skin"),
    Solid("glove_hand", "glove_pocket", 0.036, 0.044, "glove"),
    Solid("chest", "neck", 0.034, 0.030, "skin"),
    Solid("head", "nose", 0.048, 0.026, "skin"),
    Solid("crown", "head", 0.052, 0.044, "cap"),
    Solid("crown", "brim", 0.030, 0.014, "cap"),
)
TORSO: tuple[Solid, ...] = (
    Solid("throwing_shoulder", "glove_shoulder", 0.041, 0.041, "shirt"),
    Solid("throwing_shoulder", "drive_hip", 0.043, 0.046, "shirt"),
    Solid("glove_shoulder", "lead_hip", 0.043, 0.046, "shirt"),
    Solid("rib_throwing", "waist_drive", 0.050, 0.050, "shirt"),
    Solid("rib_glove", "waist_lead", 0.050, 0.050, "shirt"),
    Solid("drive_hip", "lead_hip", 0.055, 0.055, "legs"),
)


def figure_points(points: np.ndarray) -> np.ndarray:
    """Landmarks `(..., landmarks, 3)` in metres with the figure's extra points appended, same units.

    A missing navel, nose or hand is filled from its neighbours, so that a figure stays whole.
    """

    def at(name: str) -> np.ndarray:
        return points[..., INDEX[name], :]

    pelvis = (at("drive_hip") + at("lead_hip")) / 2
    chest = (at("throwing_shoulder") + at("glove_shoulder")) / 2
    belly = pelvis + 0.30 * (chest - pelvis)
    neck = chest + 0.62 * (at("head") - chest)
    up = _unit(at("head") - chest)
    nose = np.where(np.isnan(at("nose")), at("head"), at("nose"))
    face = nose - at("head")
    size = np.linalg.norm(chest - pelvis, axis=-1, keepdims=True)
    crown = at("head") + 0.13 * size * up - 0.10 * face
    brim = at("head") + 0.16 * size * up + 1.75 * face
    hand = np.where(np.isnan(at("glove_hand")), at("glove_wrist"), at("glove_hand"))
    pocket = hand + 0.35 * (hand - at("glove_wrist"))
    ribs = [chest + 0.40 * (at(f"{side}_shoulder") - chest) for side in ("throwing", "glove")]
    waist = [pelvis + 0.45 * (at(f"{side}_hip") - pelvis) for side in ("drive", "lead")]
    extra = np.stack([pelvis, chest, belly, neck, crown, brim, pocket, *ribs, *waist], axis=-2)
    return np.concatenate([points, extra], axis=-2)


def _unit(v: np.ndarray) -> np.ndarray:
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-12))
