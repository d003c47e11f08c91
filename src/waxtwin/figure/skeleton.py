"""The pose in which the figure was sculpted, and the bones that move it.

Units of standing height. x is the throwing side, y forward, z up, the middle of the pelvis 0; the glove side mirrors
the throwing side, the lead leg the drive leg. The tool that sculpts and the program that poses read the same numbers.
"""

from __future__ import annotations

import numpy as np


def _unit(v: object) -> np.ndarray:
    a = np.asarray(v, float)
    return np.asarray(a / np.linalg.norm(a))


UPPER_ARM, FOREARM, HAND, THIGH, SHANK = 0.178, 0.140, 0.053, 0.245, 0.246
TO_HEEL, TO_TOE, SOLE = -0.035, 0.105, 0.039  # how far ahead of the ankle, and how far below it
FACE = 0.055  # from the middle of the head to the nose
SHOULDER_RISE, NECK_RISE = 0.288, 0.335  # of the middle of the shoulders and of the neck's bend, over the pelvis
SHOULDER_SPAN, HIP_SPAN = 0.21, 0.104

HIP = np.array([HIP_SPAN / 2, 0.0, 0.0])
SHOULDER = np.array([SHOULDER_SPAN / 2, 0.0, SHOULDER_RISE])
HEAD = np.array([0.0, 0.012, 0.406])
ARM = _unit([0.88, 0.06, -0.47])  # the arm at rest: halfway between hanging and overhead
BEND = _unit(np.cross(np.cross(ARM, [0.0, 0.75, 0.66]), ARM))  # where the forearm bends to
PALM = -np.cross(ARM, BEND)
ACROSS_HAND = np.cross(ARM, PALM)
LEG = _unit([0.17, 0.02, -1.0])
KNEE_FORWARD = _unit(np.array([0.0, 1.0, 0.0]) - LEG[1] * LEG)

ELBOW = SHOULDER + UPPER_ARM * ARM
WRIST = ELBOW + FOREARM * ARM
KNEE = HIP + THIGH * LEG
ANKLE = KNEE + SHANK * LEG
HEEL = ANKLE + np.array([0.0, TO_HEEL, -SOLE])
TOE = ANKLE + np.array([0.0, TO_TOE, -SOLE])

SIDES = np.array([[1.0, 1.0, 1.0], [-1.0, 1.0, 1.0]])  # throwing and glove side, drive and lead leg

SPINE = ("pelvis", "spine1", "spine2", "chest", "neck", "head")
SPINE_KNOTS = (0.0, 0.085, 0.165, 0.245, 0.325, 0.375)  # height at which each leads
SPINE_AT = (0.0, 0.085, 0.165, SHOULDER_RISE, NECK_RISE, HEAD[2])  # height of each one's origin
# a limb's bones from its root: half-way ones at the joints keep their volume, three along the first segment share twist
ARM_BONES = ("shoulder", "upper0", "upper1", "upper2", "elbow", "forearm", "wrist", "hand")
LEG_BONES = ("hip", "thigh0", "thigh1", "thigh2", "knee", "shank", "ankle", "foot")
TWIST_ARM, TWIST_LEG = (0.08, 0.50, 0.95), (0.15, 0.55, 0.95)  # of the twist, along the first segment

BONES: tuple[str, ...] = (
    *SPINE,
    *(f"{side}_{bone}" for side in ("throwing", "glove") for bone in ARM_BONES),
    *(f"{side}_{bone}" for side in ("drive", "lead") for bone in LEG_BONES),
)
BONE = {name: i for i, name in enumerate(BONES)}
ARMS = np.array([[BONE[f"{side}_{bone}"] for bone in ARM_BONES] for side in ("throwing", "glove")])
LEGS = np.array([[BONE[f"{side}_{bone}"] for bone in LEG_BONES] for side in ("drive", "lead")])


def origins() -> np.ndarray:
    """Where each bone turns, at rest `(bones, 3)`."""
    out = np.zeros((len(BONES), 3))
    for name, rise in zip(SPINE, SPINE_AT, strict=True):
        out[BONE[name], 2] = rise
    out[BONE["neck"], 1], out[BONE["head"]] = -0.012, HEAD
    for limb, joints in ((ARMS, (SHOULDER, ELBOW, WRIST)), (LEGS, (HIP, KNEE, ANKLE))):
        for side, bones in zip(SIDES, limb, strict=True):
            for bone, joint in zip(bones, (0, 0, 0, 0, 1, 1, 2, 2), strict=True):
                out[bone] = joints[joint] * side
    return out
