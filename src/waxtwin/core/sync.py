"""Two clips of one throw on one clock, and put together to a track in space."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from waxtwin.core.camera import Camera
from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.core.marks import Marks
from waxtwin.core.placing import ClipClock, triangulate
from waxtwin.core.repair import cleaned
from waxtwin.core.track import Track

# What moves up and down fast enough to tell the time, and is seen from everywhere.
_TELLING = (
    "throwing_wrist",
    "throwing_elbow",
    "throwing_hand",
    "lead_knee",
    "lead_ankle",
    "lead_heel",
    "head",
    "glove_wrist",
)
_COARSE = 0.02  # s
_REACH_PX = 40.0  # a landmark whose two rays pass each other by more is taken as not seen


@dataclass(frozen=True)
class Synchrony:
    """The second clip's clock on the first's: add `offset` (s of the throw) to its time; `error` is what the rays
    through both cameras are apart (pixels, median), `spread` (s) how sharp the best offset is.
    """  # fmt: skip

    offset: float
    error: float
    spread: float


def synchronise(
    one: Marks, two: Marks, clocks: tuple[ClipClock, ClipClock], cameras: tuple[Camera, Camera]
) -> Synchrony:
    """Find the offset at which both clips show the same body: their rays meet best there.

    Searched on a coarse grid over every overlap of at least half a second, then below the frame by a parabola through
    the error. Raises TrackError when the clips never overlap or nothing telling is seen in both.
    """
    times = [np.asarray(clock.to_throw(marks.times)) for marks, clock in zip((one, two), clocks, strict=True)]
    columns = [INDEX[name] for name in _TELLING]
    low = times[0][0] - times[1][-1] + 0.5
    high = times[0][-1] - times[1][0] - 0.5
    if high <= low:
        raise TrackError("the two clips are too short to be put on one clock")
    straight = [cleaned(m, clock.slow).points[:, columns] for m, clock in zip((one, two), clocks, strict=True)]
    straight = [camera.straightened(points) for camera, points in zip(cameras, straight, strict=True)]

    def error(offset: float) -> float:
        at = times[0][(times[0] >= times[1][0] + offset) & (times[0] <= times[1][-1] + offset)][::2]
        if at.size < 20:
            return np.inf
        a = _at(straight[0], times[0], at)
        b = _at(straight[1], times[1], at - offset)
        weight = np.ones(a.shape[:-1])
        _, off = triangulate(cameras, (a, b), (weight, weight))
        known = off[np.isfinite(off)]
        # a short overlap must not win by having little to be wrong about
        return np.inf if known.size < 0.2 * off.size else float(np.minimum(known, 150).mean() * (1 + 2 / at.size))

    grid = np.arange(low, high + _COARSE, _COARSE)
    errors = np.array([error(float(offset)) for offset in grid])
    if not np.isfinite(errors).any():
        raise TrackError("the two clips do not show the same landmarks at any offset")
    best, step = float(grid[int(np.argmin(errors))]), _COARSE
    for _ in range(4):
        near = best + step * np.arange(-3, 4) / 3
        best = float(near[int(np.argmin([error(float(x)) for x in near]))])
        step /= 3
    around = best + step * np.array([-2.0, -1.0, 0.0, 1.0, 2.0])
    fit = np.polynomial.Polynomial.fit(around - best, [error(float(x)) for x in around], 2)
    bend = float(fit.deriv(2)(0.0))
    if bend > 0:
        best += float(np.clip(-fit.deriv()(0.0) / bend, -2 * step, 2 * step))
    least = error(best)
    # the offset is as sharp as a tenth more error is far away
    spread = float(np.sqrt(0.2 * least / bend)) if bend > 0 else _COARSE
    return Synchrony(best, least, min(spread, _COARSE))


def in_space(
    one: Marks, two: Marks, clocks: tuple[ClipClock, ClipClock], cameras: tuple[Camera, Camera], offset: float
) -> tuple[Track, float]:
    """The track of both clips on the first one's clock, and the median reprojection error in pixels.

    A landmark is where its rays meet; where they miss each other widely, it counts as not seen.
    """
    times = [np.asarray(clock.to_throw(marks.times)) for marks, clock in zip((one, two), clocks, strict=True)]
    keep = (times[0] >= times[1][0] + offset) & (times[0] <= times[1][-1] + offset)
    if keep.sum() < 2:
        raise TrackError("the two clips do not overlap")
    at = times[0][keep]
    second = _at(two.points, times[1], at - offset)
    trust = _at(np.where(two.seen, two.confidence, np.nan)[..., None], times[1], at - offset)[..., 0]
    flat = (one.points[keep], second)
    weights = (np.clip(one.confidence[keep], 0.05, 1.0), np.clip(np.nan_to_num(trust, nan=0.05), 0.05, 1.0))
    points, off = triangulate(cameras, flat, weights)
    lost = np.nan_to_num(off, nan=np.inf) > _REACH_PX
    points[lost] = np.nan
    confidence = np.where(lost, 0.0, np.minimum(*weights))
    seen = off[np.isfinite(off)]
    if not seen.size:
        raise TrackError("no landmark is seen in both clips")
    assert points.shape[1] == len(LANDMARKS)
    return Track(at, points, confidence), float(np.median(seen))


def _at(points: np.ndarray, times: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    """Points `(frames, marks, axes)` at other instants, straight between frames; NaN where either frame is missing."""
    i = np.clip(np.searchsorted(times, wanted) - 1, 0, times.size - 2)
    share = (wanted - times[i]) / (times[i + 1] - times[i])
    share = share.reshape(-1, *[1] * (points.ndim - 1))
    return np.asarray(points[i] * (1 - share) + points[i + 1] * share)
