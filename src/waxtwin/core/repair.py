"""Finding what is wrong in marks: left and right taken for each other, and single marks that jump away."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise, product

import numpy as np

from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.core.marks import PARTNERS, Marks
from waxtwin.core.smoothing import runs

LOW = 0.5  # confidence below which a mark is shown as doubtful
_HOPELESS = 0.3  # and below which it is dropped: above, the models' marks are hardly worse than surer ones
# What an outlier is off its own path: seconds on either side that the path is judged over, and shares of the body's
# size in the picture. The body has slower paths than the arms, on which longer mistakes stand out too.
_QUICK, _STEADY = (0.025, 0.035), (0.08, 0.05)
_ISLAND = 0.012  # s: marks between two longer gaps that last no longer are dropped with what was around them
_ARMS = ("elbow", "wrist", "hand", "ball")
_REWEIGHTS = 8
_DWELL, _HALF = 2.0, 5.5  # of the body's size: what a second costs with both groups exchanged, with only one
# What a second costs in which the wrong knee is lifted; from how far over the other, in body sizes; how long (s) a hand
# is followed to find the throw, and how long before it the lift surely is.
_LIFTED, _CLEARLY_OVER, _THROW_SPAN, _BEFORE_THROW = 12.0, 0.08, 0.05, 0.25
_NO_LIMB = 18.0  # body sizes a second: no two hands pass each other so fast
_SWITCH = 0.1  # of the body's size: what it costs to claim that the sides changed over


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
def find_swaps(marks: Marks, slow: float = 1.0) -> tuple[Swap, ...]:
    """Stretches in which the sides of arms or legs seem exchanged. `slow` is how much too slowly the clip plays.

    Of the four readings of a frame - as it is, arms exchanged, legs exchanged, both - the one is followed through the
    clip for which the way of all marks is shortest (Viterbi). A change of reading costs something by itself, and so
    does every moment in exchanged reading, since a model is mostly right; with one group exchanged more than with
    both, since a model that mistakes the sides mostly mistakes the whole body. Where a person fixed a mark the sides
    are right.
    """
    size = body_size(marks)
    if not size > 0:
        return ()
    readings = _shortest_way(marks, size, marks.rate(slow))
    found = [Swap(group, *run) for g, group in enumerate(PARTNERS) for run in runs(readings[:, g])]
    return tuple(sorted(found, key=lambda s: s.start))


def _shortest_way(marks: Marks, size: float, rate: float) -> np.ndarray:
    """(frames, groups) of what is exchanged, by group in the order of PARTNERS."""
    frames = marks.times.size
    states = np.array(list(product((False, True), repeat=len(PARTNERS))))
    dwell = np.array([0.0, _HALF / rate, _DWELL / rate])
    cost = np.tile(dwell[states.sum(axis=1)], (frames, 1))
    way = np.tile(_SWITCH * (1 - np.eye(len(states))), (max(frames - 1, 0), 1, 1))
    cost += wrong_knee_up(marks, size, rate)[:, None] * np.where(states[:, 1], -1.0, 1.0) * _LIFTED / rate
    for g, pairs in enumerate(PARTNERS.values()):
        one, other = ([INDEX[pair[side]] for pair in pairs] for side in (0, 1))
        a, b = _jumps_whole(marks.points[:, one] / size, marks.points[:, other] / size, rate)
        kept, crossed = _step(a, a) + _step(b, b), _step(a, b) + _step(b, a)
        turns = states[:, None, g] != states[:, g]
        way += np.where(turns, crossed[:, None, None], kept[:, None, None])
        cost[np.ix_(marks.fixed[:, one + other].any(axis=1), states[:, g])] = np.inf
    came = np.zeros((frames, len(states)), int)
    total = cost[0]
    for k in range(1, frames):
        through = total[:, None] + way[k - 1]
        came[k] = through.argmin(axis=0)
        total = through.min(axis=0) + cost[k]
    state = int(total.argmin())
    reading = np.zeros(frames, int)
    for k in range(frames - 1, -1, -1):
        reading[k], state = state, came[k, state]
    return np.asarray(states[reading])


def _jumps_whole(a: np.ndarray, b: np.ndarray, rate: float) -> tuple[np.ndarray, np.ndarray]:
    """Paths `(frames, parts, 2)` of both sides in which a change of sides that a model spreads over a few frames is one
    jump: while limbs pass each other faster than limbs do, they are held where they were.

    Limbs that pass through one another look the same exchanged as not, so nothing else could tell.
    """
    apart = b - a
    quick = np.nan_to_num(np.linalg.norm(np.diff(apart, axis=0), axis=-1)).max(axis=1) * rate > _NO_LIMB
    held = np.flatnonzero(quick[:-1] & quick[1:]) + 1
    a, b = a.copy(), b.copy()
    for k in held:
        a[k], b[k] = a[k - 1], b[k - 1]
    return a, b


def wrong_knee_up(marks: Marks, size: float, rate: float) -> np.ndarray:
    """Per frame +1 where the back knee stands well over the front one before the throw, -1 the other way round, else 0.

    The knee that is lifted is the front leg's: end-on that tells the sides apart where nothing else does.
    """
    lead, drive = (marks.points[:, INDEX[f"{leg}_knee"], 1] for leg in ("lead", "drive"))
    hands = np.stack([marks.points[:, INDEX[f"{arm}_wrist"]] for arm in ("throwing", "glove")])
    reach = max(round(_THROW_SPAN * rate), 1)
    far = np.zeros(marks.times.size)
    if far.size > reach:
        moved = np.linalg.norm(hands[:, reach:] - hands[:, :-reach], axis=-1)
        far[reach:] = np.nan_to_num(np.fmax.reduce(moved, axis=0))
    before = np.arange(far.size) < int(np.argmax(far)) - round(_BEFORE_THROW * rate)
    with np.errstate(invalid="ignore"):
        over = np.nan_to_num(lead - drive) / size  # pixels run downward
    return np.asarray(np.where(before & (np.abs(over) > _CLEARLY_OVER), np.sign(over), 0.0))


def _step(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Way from `a` (frames, parts, 2) at one frame to `b` at the next, summed over the parts seen: (frames - 1,)."""
    return np.asarray(np.nansum(np.linalg.norm(b[1:] - a[:-1], axis=-1), axis=1))


@lru_cache(maxsize=8)
def find_outliers(marks: Marks, slow: float = 1.0) -> np.ndarray:
    """(frames, landmarks) of marks that lie off their own path by more than a hand's breadth.

    `slow` is how much too slowly the clip plays: what counts are true seconds.

    Do not write into what is returned: marks never change, so it is kept for the next time they are asked about.
    The path is a cubic through the marks of 25 ms on either side, by least absolute deviations, so that it follows
    the fastest hand and is not pulled by what is wrong; off the arms, also one of 80 ms.
    """
    size = body_size(marks)
    if not size > 0 or marks.times.size < 5:
        return np.zeros(marks.source.shape, bool)
    wrong = np.zeros(marks.source.shape, bool)
    for j in np.flatnonzero(marks.seen.any(axis=0)):
        for window, jump in (_QUICK,) if LANDMARKS[j].endswith(_ARMS) else (_QUICK, _STEADY):
            frames = window * marks.rate(slow)
            half = max(round(frames), 3)
            # a window that has to be longer, for want of frames, lets a cubic follow less of a quick hand
            far = jump * size * max(half / max(frames, 1e-6), 1.0) ** 2
            wrong[:, j] |= _off_path(np.asarray(marks.points[:, j], float).tobytes(), half, far) > far
    return np.asarray(wrong & ~marks.fixed & marks.seen)


@lru_cache(maxsize=4 * len(LANDMARKS))
def _off_path(path: bytes, half: int, jump: float) -> np.ndarray:
    """How far each of a path's points lies off a cubic through `half` frames either way, `(frames,)`. The `path` is the
    bytes of `(frames, 2)`: after a click all paths but one are as they were.

    Least absolute deviations by reweighted least squares, worked out only where plain least squares leave more than a
    quarter of `jump`: they are pulled toward what is wrong, but never all the way. 0 where fewer than five neighbours
    are seen.
    """
    points = np.frombuffer(path).reshape(-1, 2)
    offsets = np.arange(-half, half + 1)
    design = np.vander(offsets / half, 4, increasing=True)
    squares = (design[:, :, None] * design[:, None, :]).reshape(offsets.size, 16)
    padded = np.pad(points, ((half, half), (0, 0)), constant_values=np.nan)
    near = np.lib.stride_tricks.sliding_window_view(padded, offsets.size, axis=0).swapaxes(1, 2)
    known = ~np.isnan(near[..., 0])
    off = np.zeros(points.shape[0])
    frames = np.flatnonzero((known.sum(axis=1) >= 5) & known[:, half])
    weight = known[frames].astype(float)
    for turn in range(_REWEIGHTS):
        values = np.where(known[frames, :, None], near[frames], 0.0)
        normal = (weight @ squares).reshape(-1, 4, 4) + 1e-9 * np.eye(4)
        right = np.swapaxes(weight[..., None] * values, 1, 2) @ design
        fit = np.linalg.solve(normal, np.swapaxes(right, 1, 2))
        away = np.linalg.norm(values - design @ fit, axis=-1)
        off[frames] = away[:, half]
        if turn == 0:
            suspect = away[:, half] > jump / 4
            frames, away = frames[suspect], away[suspect]
        if not frames.size:
            break
        weight = known[frames] / np.maximum(away, 0.5)
    return off


def cleaned(marks: Marks, slow: float = 1.0) -> Marks:
    """What the automatic path makes of a model's marks: exchanged sides put right, stray and hopeless marks dropped,
    short gaps closed. `slow` is how much too slowly the clip plays.

    Sides first: between gaps nothing tells them apart any more.
    """
    for swap in find_swaps(marks, slow):
        marks = marks.exchange(swap.group, swap.start, swap.stop)
    hopeless = (marks.confidence < _HOPELESS) & ~marks.fixed & marks.seen
    marks = marks.drop(find_outliers(marks, slow) | hopeless)
    return marks.drop(_islands(marks, slow)).filled(slow=slow)


def _islands(marks: Marks, slow: float) -> np.ndarray:
    """(frames, landmarks) of marks that stand alone for a moment where all around them was dropped."""
    shortest = _ISLAND * marks.rate(slow)
    alone = np.zeros(marks.source.shape, bool)
    for j in range(len(LANDMARKS)):
        gaps = [(start, stop) for start, stop in runs(~marks.seen[:, j]) if stop - start > shortest]
        for before, after in pairwise(gaps):
            alone[before[1] : after[0], j] = after[0] - before[1] <= shortest
    return np.asarray(alone & ~marks.fixed)
