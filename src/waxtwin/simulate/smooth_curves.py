"""Smooth curves over the simulator's fine time grid."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.special import expit

FINE_RATE = 2400.0  # grid rate, Hz: a tenth of a 240 Hz frame, refined further by interpolation

_REACH = 4.0  # standard deviations of the rounding


def through(t: np.ndarray, knots: Sequence[tuple[float, float]], blur: float) -> np.ndarray:
    """Curve over `t` (s) through `knots` [(s, value)] without overshoot, rounded by `blur` seconds.

    Held constant outside the knots. `blur` is the standard deviation of the rounding.
    """
    at, values = np.array(sorted(knots)).T
    curve = PchipInterpolator(at, values)(np.clip(t, at[0], at[-1]))
    reach = round(_REACH * blur * FINE_RATE)
    bell = np.exp(-0.5 * (np.arange(-reach, reach + 1) / (blur * FINE_RATE)) ** 2)
    return np.convolve(np.pad(curve, reach, mode="edge"), bell / bell.sum(), "valid")


def turn(t: np.ndarray, rise: float, peak: float, instant: float) -> np.ndarray:
    """A turn by `rise` degrees whose speed peaks at `peak` deg/s at `instant` (s): a logistic step."""
    return np.asarray(rise * expit((t - instant) * 4.0 * peak / rise))


def fade(t: np.ndarray, start: float, end: float) -> np.ndarray:
    """0 before `start`, 1 after `end`, with zero speed and acceleration at both."""
    x = np.clip((t - start) / (end - start), 0.0, 1.0)
    return x**3 * (10 - 15 * x + 6 * x**2)


def unit(v: np.ndarray) -> np.ndarray:
    """Vectors `(..., 3)` at length one."""
    return np.asarray(v / np.linalg.norm(v, axis=-1, keepdims=True))


def dot(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Dot product over the last axis, kept as an axis of one."""
    return np.asarray(np.sum(a * b, axis=-1, keepdims=True))


def slerp(a: np.ndarray, b: np.ndarray, share: np.ndarray) -> np.ndarray:
    """Unit vectors between unit vectors `a` and `b` `(frames, 3)` along the shortest arc; share `(frames,)`."""
    angle = np.arccos(np.clip(dot(a, b), -1, 1))
    s = share[:, None]
    sine = np.sin(angle)
    safe = np.where(sine < 1e-6, 1.0, sine)
    mixed = np.where(sine < 1e-6, a + s * (b - a), (np.sin((1 - s) * angle) * a + np.sin(s * angle) * b) / safe)
    return unit(mixed)


def middle_joint(root: np.ndarray, end: np.ndarray, pole: np.ndarray, upper: float, lower: float) -> np.ndarray:
    """Knee or elbow of a two-bone limb from `root` to `end` `(frames, 3)`, bent toward `pole`.

    Bone lengths in metres. `end` must be within reach.
    """
    chord = end - root
    d = np.linalg.norm(chord, axis=-1, keepdims=True)
    axis = chord / d
    along = (upper**2 - lower**2 + d**2) / (2 * d)
    out = np.sqrt(np.maximum(upper**2 - along**2, 1e-9))
    side = unit(pole - dot(pole, axis) * axis)
    return np.asarray(root + along * axis + out * side)


def within_reach(root: np.ndarray, end: np.ndarray, reach: float) -> np.ndarray:
    """`end` drawn toward `root` where it is farther than `reach` metres; smooth, and exact when well inside."""
    chord = end - root
    d = np.linalg.norm(chord, axis=-1, keepdims=True)
    soft = 0.006
    limited = reach - soft * np.logaddexp(0.0, (reach - d) / soft)
    return np.asarray(root + chord / d * np.where(d < reach - 20 * soft, d, limited))
