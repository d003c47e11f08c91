"""Stretches of a clip in which something moves much more than otherwise."""

from __future__ import annotations

import numpy as np

from waxtwin.core.smoothing import runs

_SMOOTH = 0.30  # s
_JOIN = 1.0  # s of quiet that still belongs to one throw
_BEFORE, _AFTER = 1.5, 0.8  # s kept around a burst: the set position, the finish
_SHORTEST = 0.25  # s


def bursts(times: np.ndarray, activity: np.ndarray) -> list[tuple[float, float]]:
    """Proposed throws (first, last) in seconds from the activity `(looks,)` at `times` (looks,).

    Above a third of the way from the quiet level to the strongest moment, quiet of a second between two throws.
    """
    if times.size < 8:
        return []
    step = float(np.median(np.diff(times)))
    width = max(round(_SMOOTH / step), 1)
    smooth = np.convolve(activity, np.ones(width) / width, "same")
    quiet, loud = float(np.percentile(smooth, 30)), float(smooth.max())
    if loud < 2.0 * max(quiet, 1e-6):
        return []
    found: list[list[float]] = []
    for start, stop in runs(smooth > quiet + (loud - quiet) / 3):
        first, last = float(times[start]), float(times[stop - 1])
        if found and first - found[-1][1] < _JOIN:
            found[-1][1] = last
        elif last - first >= _SHORTEST:
            found.append([first, last])
    end = float(times[-1])
    return [(max(first - _BEFORE, 0.0), min(last + _AFTER, end)) for first, last in found]
