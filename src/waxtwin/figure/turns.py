"""Vectors, and unit quaternions (x, y, z, w), in arrays: a general class of rotations takes several times as long for
so few of them.
"""

from __future__ import annotations

import numpy as np


def smooth(low: float, high: float, x: np.ndarray) -> np.ndarray:
    """0 to 1 between two values, level at both ends; falls where `high` is below `low`."""
    t = np.clip((x - low) / (high - low), 0, 1)
    return np.asarray(t * t * (3 - 2 * t))


def dot(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Row by row `(...)`."""
    return np.asarray(np.vecdot(a, b))


def cross(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Row by row `(..., 3)`; NumPy's own is made for more cases."""
    ax, ay, az = a[..., 0], a[..., 1], a[..., 2]
    bx, by, bz = b[..., 0], b[..., 1], b[..., 2]
    return np.stack([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx], axis=-1)


def unit(v: np.ndarray) -> np.ndarray:
    """Rows of length one; a row of zeros stays."""
    return np.asarray(v / np.maximum(np.sqrt(dot(v, v)), 1e-9)[..., None])


def across(v: np.ndarray, axis: np.ndarray) -> np.ndarray:
    """What of a vector lies across a unit axis."""
    return np.asarray(v - dot(v, axis)[..., None] * axis)


def between(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """The smallest turn from one direction to another."""
    return unit(np.concatenate([cross(a, b), (1 + dot(a, b))[..., None] + 1e-6], axis=-1))


def about(axis: np.ndarray, angle: np.ndarray) -> np.ndarray:
    """A turn about a unit axis by an angle in radians."""
    return np.concatenate([np.sin(angle / 2)[..., None] * axis, np.cos(angle / 2)[..., None]], axis=-1)


def after(second: np.ndarray, first: np.ndarray) -> np.ndarray:
    """One turn after another."""
    v, w, u, s = second[..., :3], second[..., 3:], first[..., :3], first[..., 3:]
    return np.concatenate([w * u + s * v + cross(v, u), w * s - dot(v, u)[..., None]], axis=-1)


def turned(turn: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Vectors, turned."""
    t = 2 * cross(turn[..., :3], v)
    return np.asarray(v + turn[..., 3:] * t + cross(turn[..., :3], t))


def mixed(a: np.ndarray, b: np.ndarray, share: float) -> np.ndarray:
    """Part of the way from one turn to another, the short way round."""
    sign = np.where(dot(a, b) < 0, -1.0, 1.0)[..., None]
    return unit(a * (1 - share) + sign * b * share)


def matrices(turn: np.ndarray) -> np.ndarray:
    """The same as matrices `(..., 3, 3)`."""
    x, y, z, w = np.moveaxis(turn, -1, 0)
    rows = [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y),
            2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x),
            2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)]  # fmt: skip
    return np.stack(rows, axis=-1).reshape(*turn.shape[:-1], 3, 3)


def of_frame(x: np.ndarray, y: np.ndarray, z: np.ndarray) -> np.ndarray:
    """The turn that brings the axes to these (Shepperd's method)."""
    trace = np.stack([x[..., 0] - y[..., 1] - z[..., 2], y[..., 1] - x[..., 0] - z[..., 2],
                      z[..., 2] - x[..., 0] - y[..., 1], x[..., 0] + y[..., 1] + z[..., 2]], axis=-1)  # fmt: skip
    a, b, c = y[..., 2] - z[..., 1], z[..., 0] - x[..., 2], x[..., 1] - y[..., 0]
    d, e, f = y[..., 0] + x[..., 1], z[..., 0] + x[..., 2], z[..., 1] + y[..., 2]
    p, q, r, s = np.moveaxis(1 + trace, -1, 0)
    rows = np.stack([np.stack(row, axis=-1) for row in ((p, d, e, a), (d, q, f, b), (e, f, r, c), (a, b, c, s))], -2)
    best = np.argmax(trace, axis=-1)[..., None, None]
    return unit(np.take_along_axis(rows, best, axis=-2)[..., 0, :])
