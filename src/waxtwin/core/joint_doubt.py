"""How surely it is known where each joint of a body lies at an instant."""

from __future__ import annotations

import numpy as np

from waxtwin.core.estimated import InSpace
from waxtwin.core.landmarks import LANDMARKS
from waxtwin.core.motion import Motion


def joint_doubt(motion: Motion, time: float, estimate: InSpace | None = None) -> np.ndarray:
    """One standard deviation `(landmarks,)` in metres, along any one direction that is seen, of where each landmark
    lies at `time` (s); NaN where that is not known.

    Of what was seen: the noise that smoothing leaves, as much larger as the marks were unsure, and what a landmark
    model is off beyond what was taken out. Of an `estimate` in space: how far its draws lie apart.
    """
    if estimate is not None:
        return _of_draws(estimate, time)
    frame = int(np.clip(round((time - motion.times[0]) * motion.rate), 0, motion.times.size - 1))
    doubt = motion.kept("joint doubt", lambda: np.array([motion.smoothed_noise(name) for name in LANDMARKS]))
    if motion.trust is not None:
        doubt = doubt * (2.0 - motion.trust[frame])
    if motion.offsets is not None:
        doubt = np.hypot(doubt, motion.offsets.left(time) * motion.height)
    return np.asarray(np.where(np.isfinite(motion.raw[frame, :, 2]), doubt, np.nan))


def _of_draws(estimate: InSpace, time: float) -> np.ndarray:
    frame = int(np.argmin(np.abs(estimate.times - time)))
    spread = np.sqrt(np.var(estimate.draws[:, frame].astype(float), axis=0).mean(axis=-1))
    out = np.full(len(LANDMARKS), np.nan)
    out[: spread.size] = spread
    return out
