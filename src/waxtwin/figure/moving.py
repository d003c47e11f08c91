"""A throw's poses worked out once, so that a step on the seam only picks one."""

from __future__ import annotations

import numpy as np

from waxtwin.core.motion import Motion
from waxtwin.figure.depths import add_depth
from waxtwin.figure.filled import bridged
from waxtwin.figure.pose import COLUMNS, pose, seen_bones
from waxtwin.figure.skeleton import BONES

_RATE = 240.0  # poses a second: bones turn by so little between two that those may be mixed
_MOST = 1200  # poses: 4 MB


def pose_at(motion: Motion, time: float) -> np.ndarray:
    """Where the figure's bones lie at an instant (s), as `waxtwin.figure.pose` has it; NaN outside the throw."""
    time = round(time, 5)  # so that an instant reached by other sums is the same one
    first, last = float(motion.times[0]), float(motion.times[-1])
    if not first <= time <= last:
        return np.full((len(BONES), COLUMNS), np.nan, np.float32)
    table = motion.kept("figure", lambda: _table(motion))
    where = (time - first) / (last - first) * (len(table) - 1)
    before = min(int(where), len(table) - 2)
    share = np.float32(where - before)
    return np.asarray(table[before] * (1 - share) + table[before + 1] * share)


def body_at(motion: Motion, time: float) -> np.ndarray:
    """The body `(landmarks, 3)` at an instant (s), where the figure has it: an axis that was not seen has depth."""
    points = motion.body_at(time)
    if motion.flat is not None:
        add_depth(points, motion.flat, motion.height)
    return points


def _table(motion: Motion) -> np.ndarray:
    """Poses in even steps `(poses, bones, 22)`."""
    bodies = _bodies(motion)
    found = pose(bridged(bodies), motion.height)
    found[..., -1:] = seen_bones(bodies)
    anybody = np.isfinite(bodies).all(axis=-1).any(axis=1)
    return np.where(anybody[:, None, None], found, np.float32(np.nan))


def _bodies(motion: Motion) -> np.ndarray:
    """The bodies `(poses, landmarks, 3)` at even steps: the frames themselves, where these come often enough."""
    if _RATE / 1.2 < motion.rate < 1.5 * _RATE and len(motion.times) <= _MOST:
        return motion.bodies
    first, last = float(motion.times[0]), float(motion.times[-1])
    count = int(np.clip((last - first) * _RATE, 1, _MOST - 1)) + 1
    return np.stack([motion.body_at(t) for t in np.linspace(first, last, count)])
