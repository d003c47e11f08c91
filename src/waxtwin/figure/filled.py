"""Bodies made whole enough to be sculpted: an unseen axis as bodies are built, what is missing from what it hangs on.

What is made up in place of a joint that nobody saw is known to be so, and shown darkly.
"""

from __future__ import annotations

import numpy as np

from waxtwin.core.landmarks import INDEX
from waxtwin.figure.depths import add_depth
from waxtwin.figure.skeleton import FACE, FOREARM, HAND, SHANK, SOLE, THIGH, TO_HEEL, TO_TOE, UPPER_ARM
from waxtwin.figure.turns import across, cross, unit

_CROWN = 0.118  # of height: the middle of the head over the shoulders
# what each landmark hangs on, those first that others hang on
_HANGS_ON = (
    ("drive_hip", "lead_hip"), ("lead_hip", "drive_hip"),
    ("throwing_shoulder", "glove_shoulder"), ("glove_shoulder", "throwing_shoulder"),
    *((f"{side}_{part}", f"{side}_{on}") for side in ("throwing", "glove")
      for part, on in (("elbow", "shoulder"), ("wrist", "elbow"), ("hand", "wrist"))),
    *((f"{side}_{part}", f"{side}_{on}") for side in ("drive", "lead")
      for part, on in (("knee", "hip"), ("ankle", "knee"), ("heel", "ankle"), ("toe", "ankle"))),
    ("head", "throwing_shoulder"), ("nose", "head"),
)  # fmt: skip


def bridged(points: np.ndarray) -> np.ndarray:
    """A copy of one throw's bodies `(frames, landmarks, 3)` in which a landmark that is missing for a while keeps to
    what it hangs on, as before and after.
    """
    out = np.array(points, float)
    frames = np.arange(len(out))
    for name, on in _HANGS_ON:
        at, base = out[:, INDEX[name]], out[:, INDEX[on]]
        reach = at - base
        known = np.isfinite(reach).all(axis=1)
        gone = ~np.isfinite(at).all(axis=1)
        if known.any() and gone.any():
            between = np.stack([np.interp(frames, frames[known], reach[known, axis]) for axis in range(3)], axis=1)
            at[gone] = (base + between)[gone]
    return out


def filled(points: np.ndarray, height: float) -> np.ndarray:
    """A copy of canonical bodies `(..., landmarks, 3)` in metres with what is missing made up; `height` in metres.

    An axis in which all points are the same was not seen, and gets depth (`depths`).
    """
    out = np.array(points, float)
    for axis in (0, 1):
        known = out[..., axis][np.isfinite(out[..., axis])]
        if known.size and np.ptp(known) < 1e-9:
            add_depth(out, axis, height)
    _ends(out, height)
    return out


def _ends(out: np.ndarray, height: float) -> None:
    def at(name: str) -> np.ndarray:
        return out[..., INDEX[name], :]

    def fill(name: str, guess: np.ndarray) -> None:
        out[..., INDEX[name], :] = np.where(np.isfinite(at(name)).all(axis=-1, keepdims=True), at(name), guess)

    chest = (at("throwing_shoulder") + at("glove_shoulder")) / 2
    up = unit(chest - (at("drive_hip") + at("lead_hip")) / 2)
    aside = unit(at("throwing_shoulder") - at("glove_shoulder"))
    ahead = unit(cross(up, aside))
    for side, sign in (("throwing", 1.0), ("glove", -1.0)):
        fill(f"{side}_elbow", at(f"{side}_shoulder") + UPPER_ARM * height * unit(0.3 * sign * aside - up))
        fill(f"{side}_wrist", at(f"{side}_elbow") + FOREARM * height * unit(ahead - 0.3 * sign * aside + 0.2 * up))
    for side in ("drive", "lead"):
        fill(f"{side}_knee", at(f"{side}_hip") + THIGH * height * unit(0.2 * ahead - up))
        fill(f"{side}_ankle", at(f"{side}_knee") - SHANK * height * up)
    fill("head", chest + _CROWN * height * up)
    fill("nose", at("head") + FACE * height * ahead)
    for side in ("throwing", "glove"):
        wrist = at(f"{side}_wrist")
        fill(f"{side}_hand", wrist + HAND * height * unit(wrist - at(f"{side}_elbow")))
    for side in ("drive", "lead"):
        ankle = at(f"{side}_ankle")
        down = unit(ankle - at(f"{side}_knee"))
        front = unit(across(ahead, down))
        fill(f"{side}_heel", ankle + height * (TO_HEEL * front + SOLE * down))
        fill(f"{side}_toe", ankle + height * (TO_TOE * front + SOLE * down))
