"""The hitch: where the hand loses speed on its way up, and how long it takes to regain it."""

from __future__ import annotations

import numpy as np

from waxtwin.core.body import dot
from waxtwin.core.measures.registry import SHOULDERS, TRUNK, Reading, measure
from waxtwin.core.smoothing import derivative, filtered

_SLOW_HZ = 10.0
_LEAST_FALL = 0.5  # m/s, for a standing height of 1.80 m


def stall(r: Reading) -> np.ndarray:
    """The largest fall of the hand's speed against the chest between the hands' parting and foot contact.

    `(copies, 3)`: fall in % of the peak before it, instant (s) of its lowest point, its length (s) from that peak to
    where half of it is regained; 0, NaN, NaN where there is none. Speed in trunk axes (in the seen axes from one
    camera), on a 10 Hz copy. A fall counts beyond 0.5 m/s, and only if half of it is regained before foot contact,
    whichever stop counts as landing: past it the reversal of layback would swamp it.
    """
    # three measures and their reasons are read off it
    key = ("stall", r.stop("hand_break").tobytes(), r.stop("foot_contact").tobytes())
    return r.motion.kept(key, lambda: _largest_falls(r))


def _largest_falls(r: Reading) -> np.ndarray:
    speed = _hand_speed(r)
    out = np.full((speed.shape[0], 3), np.nan)
    least, times = _LEAST_FALL * r.motion.scale, r.motion.times
    for copy, (start, stop) in enumerate(zip(r.stop("hand_break"), r.stop("foot_contact"), strict=True)):
        frames = np.flatnonzero((times >= start) & (times <= stop))
        curve = speed[copy, frames]
        if frames.size > 3 and not np.isnan(curve).any():
            out[copy] = _largest_fall(curve, times[frames], least)
    return out


def _hand_speed(r: Reading) -> np.ndarray:
    body = r.motion.body
    way = body.at("throwing_hand") - body.at("chest")
    if r.motion.flat is None:
        way = np.stack([dot(way, axis) for axis in body.trunk_axes], axis=-1)
    else:
        way = body.seen(way)
    return np.asarray(np.linalg.norm(derivative(filtered(way, r.motion.rate, _SLOW_HZ), r.motion.rate), axis=-1))


def _largest_fall(curve: np.ndarray, times: np.ndarray, least: float) -> tuple[float, float, float]:
    best = (0.0, np.nan, np.nan)
    peak = 0
    for low in range(1, curve.size - 1):
        if curve[low] > curve[peak]:
            peak = low
        fall = curve[peak] - curve[low]
        share = 100.0 * fall / curve[peak]
        if fall <= least or share <= best[0] or curve[low + 1] < curve[low]:
            continue
        regained = np.flatnonzero(curve[low:] >= curve[low] + fall / 2)
        if regained.size:
            best = (float(share), float(times[low]), float(times[low + regained[0]] - times[peak]))
    return best


_DECLARED = (
    ("hand_stall", "Hitch in the hand's path", "%", "How much of its speed the hand loses on its way up.",
     "100 (1 - lowest / peak before it) of |d(throwing_hand - C)/dt| in trunk axes, 10 Hz copy"),
    ("hand_stall_time", "Hitch, when", "ms", "When the hand is slowest in its hitch, from landing.",
     "t(lowest point) - t(landing), ms"),
    ("hand_stall_length", "Hitch, how long", "ms", "How long it takes until half of the lost speed is regained.",
     "t(half of the fall regained) - t(peak before it), ms"),
)  # fmt: skip
_SIGNS = ("0 is none", "- before landing", "+ longer")


def _no_hitch(r: Reading) -> str | None:
    return "there is no hitch in the hand's path" if stall(r)[0, 0] == 0 else None


def _figures(number: int, r: Reading) -> np.ndarray:
    found = stall(r)[:, number]
    return (found, r.after_landing(found), 1000.0 * found)[number]


def _declare(number: int) -> None:
    name, label, unit, text, formula = _DECLARED[number]
    measure(
        name, label, unit=unit, kind="V", at="landing", view="any", needs=(*SHOULDERS, "throwing_hand", *TRUNK[:2]),
        stops=("hand_break", "foot_contact"), text=text, formula=formula, sign=_SIGNS[number],
        gauge="trail:throwing_hand", relative=True, why=_no_hitch,
    )(lambda r: _figures(number, r))  # fmt: skip


for _number in range(len(_DECLARED)):
    _declare(_number)
