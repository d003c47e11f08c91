"""Middles over the frames of a window; NaN, without a warning, for a copy of which no frame is known in it."""

from __future__ import annotations

import numpy as np


def mean(values: np.ndarray) -> np.ndarray:
    """Mean over the known frames of `(copies, frames)`: `(copies,)`."""
    return np.asarray(np.where(_known(values), np.nanmean(_filled(values), axis=1), np.nan))


def median(values: np.ndarray) -> np.ndarray:
    """Median over the known frames of `(copies, frames, ...)`: `(copies, ...)`."""
    return np.asarray(np.where(_known(values), np.nanmedian(_filled(values), axis=1), np.nan))


def _known(values: np.ndarray) -> np.ndarray:
    return np.asarray(np.isfinite(values).any(axis=1))


def _filled(values: np.ndarray) -> np.ndarray:
    return np.where(_known(values)[:, None], values, 0.0)
