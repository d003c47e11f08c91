"""Middles over the frames of a window; NaN, without a warning, for a copy of which no frame is known in it."""

from __future__ import annotations

import numpy as np


def mean(values: np.ndarray) -> np.ndarray:
    """Mean over the known frames of `(copies, frames)`: `(copies,)`."""
    known = np.isfinite(values).any(axis=1)
    return np.asarray(np.where(known, np.nanmean(np.where(known[:, None], values, 0.0), axis=1), np.nan))


def median(values: np.ndarray) -> np.ndarray:
    """Median over the known frames of `(copies, frames, ...)`: `(copies, ...)`."""
    # all copies at once: NumPy's own goes row by row where something is missing
    ordered = np.sort(values, axis=1)  # what is missing comes last
    count = (~np.isnan(values)).sum(axis=1, keepdims=True)
    low, high = (np.take_along_axis(ordered, at, axis=1) for at in (np.maximum(count - 1, 0) // 2, count // 2))
    return np.asarray((0.5 * (low + high))[:, 0])
