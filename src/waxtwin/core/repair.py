"""Finding what is wrong in marks: left and right taken for each other, and single marks that jump away."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import PARTNERS, Marks
from waxtwin.core.smoothing import runs

LOW = 0.5  # confidence below which a mark is shown as doubtful
_JUMP = 0.035  # of the body's size in the picture: a mark off its own path by more is an outlier
_SHORT_SWAP = 0.12  # s: exchanges up to this long are put right without asking
_REWEIGHTS = 8
_WINDOW = 0.025  # s on either side that a mark's path is judged over
_DWELL = 0.008  # of the body's size: what each frame in exchanged reading costs
_SWITCH = 0.15  # of the body's size: what it costs to claim that the sides changed over


@dataclass(frozen=True)
class Swap:
    """A stretch [start, stop) of frames in which left and right of a group seem to have changed places."""

    group: str
    start: int
    stop: int


def body_size(marks: Marks) -> float:
    """Size of the figure in the picture: the median over frames of the larger extent of its marks, in pixels."""
    seen = marks.points[marks.seen.any(axis=1)]
    if not seen.size:
        return float("nan")
    extent = np.nanmax(seen, axis=1) - np.nanmin(seen, axis=1)
    return float(np.nanmedian(extent.max(axis=1)))


@lru_cache(maxsize=8)
def find_swaps(marks: Marks) -> tuple[Swap, ...]:
    """Stretches in which the sides of arms or legs seem exchanged.

    The cheaper of two readings per frame - as it is, or exchanged - is followed through the clip so that the way of
    all marks is shortest; a change of reading costs something by itself, and so does every exchanged frame, since a
    model is mostly right (Viterbi over two states).
    """
    size = body_size(marks)
    if not np.isfinite(size):
        return ()
    found = []
    for group, pairs in PARTNERS.items():
        exchanged = _cheapest_reading(marks, pairs, size)
        # a stretch that a person has fixed is right as it is
        columns = [INDEX[name] for pair in pairs for name in pair]
        for start, stop in runs(exchanged):
            if not marks.fixed[start:stop, columns].any():
                found.append(Swap(group, start, stop))
    return tuple(sorted(found, key=lambda s: s.start))


def _cheapest_reading(marks: Marks, pairs: tuple[tuple[str, str], ...], size: float) -> np.ndarray:
    left = marks.points[:, [INDEX[a] for a, _ in pairs]]
    right = marks.points[:, [INDEX[b] for _, b in pairs]]

    same = _step(left, left) + _step(right, right)
    other = _step(left, right) + _step(right, left)
    frames = marks.times.size
    cost = np.zeros((frames, 2))
    came = np.zeros((frames, 2), int)
    for k in range(1, frames):
        for state in (0, 1):
            stay, change = cost[k - 1, state] + same[k - 1], cost[k - 1, 1 - state] + other[k - 1] + _SWITCH * size
            came[k, state] = state if stay <= change else 1 - state
            cost[k, state] = min(stay, change) + state * _DWELL * size
    state = int(np.argmin(cost[-1]))
    reading = np.zeros(frames, bool)
    for k in range(frames - 1, -1, -1):
        reading[k] = bool(state)
        state = came[k, state]
    return reading


def _step(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Way from `a` (frames, parts, 2) at one frame to `b` at the next, summed over the parts seen: (frames - 1,)."""
    return np.nansum(np.linalg.norm(b[1:] - a[:-1], axis=-1), axis=1)


@lru_cache(maxsize=8)
def find_outliers(marks: Marks, slow: float = 1.0) -> np.ndarray:
    """(frames, landmarks) of marks that lie off their own path by more than a hand's breadth.

    `slow` is how much too slowly the clip plays: what counts are true seconds.

    Do not write into what is returned: marks never change, so it is kept for the next time they are asked about.
    The path is a cubic through the marks of 25 ms on either side, by least absolute deviations, so that it follows
    the fastest hand and is not pulled by what is wrong.
    """
    size = body_size(marks)
    if not np.isfinite(size) or marks.times.size < 5:
        return np.zeros(marks.source.shape, bool)
    half = max(round(_WINDOW * marks.rate(slow)), 3)
    wrong = np.zeros(marks.source.shape, bool)
    for j in np.flatnonzero(marks.seen.any(axis=0)):
        off = np.linalg.norm(marks.points[:, j] - _path(marks.points[:, j], half), axis=-1)
        wrong[:, j] = np.nan_to_num(off) > _JUMP * size
    return wrong & ~marks.fixed & marks.seen


def _path(points: np.ndarray, half: int) -> np.ndarray:
    """Cubic through the neighbourhood of every frame of `(frames, 2)`, its value at the frame itself.

    Least absolute deviations by reweighted least squares; NaN where fewer than five neighbours are seen.
    """
    offsets = np.arange(-half, half + 1)
    design = np.vander(offsets / half, 4, increasing=True)
    padded = np.pad(points, ((half, half), (0, 0)), constant_values=np.nan)
    near = np.lib.stride_tricks.sliding_window_view(padded, offsets.size, axis=0).swapaxes(1, 2)
    known = ~np.isnan(near[..., 0])
    values = np.where(known[..., None], near, 0.0)
    weight = known.astype(float)
    enough = known.sum(axis=1) >= 5
    out = np.full(points.shape, np.nan)
    for _ in range(_REWEIGHTS):
        normal = np.einsum("fo,oi,oj->fij", weight, design, design) + 1e-9 * np.eye(4)
        right = np.einsum("fo,oi,fod->fid", weight, design, values)
        fit = np.linalg.solve(normal, right)
        off = np.linalg.norm(values - design @ fit, axis=-1)
        weight = known / np.maximum(off, 0.5)
    out[enough] = fit[enough, 0]
    return out


def cleaned(marks: Marks, slow: float = 1.0) -> Marks:
    """What the automatic path makes of a model's marks: short exchanges of the sides put right, stray and doubtful
    marks dropped, short gaps closed. `slow` is how much too slowly the clip plays.

    Sides first: between gaps nothing tells them apart any more. Long exchanges are left to a person, since limbs that
    hang side by side look much like limbs that changed places.
    """
    rate = marks.rate(slow)
    for swap in find_swaps(marks):
        if swap.stop - swap.start <= _SHORT_SWAP * rate:
            marks = marks.exchange(swap.group, swap.start, swap.stop)
    return _without_strays(marks, slow).filled(slow=slow)


def _without_strays(marks: Marks, slow: float) -> Marks:
    doubtful = (marks.confidence < LOW) & ~marks.fixed & marks.seen
    return marks.drop(find_outliers(marks, slow) | doubtful)
