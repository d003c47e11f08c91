"""Which instant of the twin stands beside an instant of the athlete."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.stops import ORDER

MODES = ("one", "all", "clock")


@dataclass(frozen=True)
class Alignment:
    """Clocks of a pair held together.

    `mode` is "one" (both clocks zero at `stop`), "all" (every shared stop meets its partner) or "clock" (both clocks
    zero at the first move). `to_twin` and `to_athlete` map seconds; both are monotone.
    """

    mode: str
    stop: str
    to_twin: Callable[[float], float]
    to_athlete: Callable[[float], float]


def align(athlete: Mapping[str, float], twin: Mapping[str, float], mode: str, stop: str = "release") -> Alignment:
    """Alignment of two deliveries from their stops {id: seconds}; moments that somebody tied count as stops.

    Without the chosen stop on both sides, "one" and "clock" fall back to the first shared stop; with no shared stop
    at all the clocks run from the start. Raises ValueError for an unknown mode.
    """
    if mode not in MODES:
        raise ValueError(f"no alignment mode named {mode}")
    shared = [name for name in (*ORDER, *(n for n in athlete if n not in ORDER)) if name in athlete and name in twin]
    if mode == "all":
        a, b = _knots(athlete, twin, shared)
        if len(a) >= 2:
            return Alignment(mode, stop, _monotone(a, b), _monotone(b, a))
    wanted = "first_move" if mode == "clock" else stop
    anchor = wanted if wanted in shared else (shared[0] if shared else None)
    offset = twin[anchor] - athlete[anchor] if anchor else 0.0
    return Alignment(mode, stop, lambda t: t + offset, lambda t: t - offset)


def _knots(athlete: Mapping[str, float], twin: Mapping[str, float], shared: list[str]) -> tuple[np.ndarray, np.ndarray]:
    """Shared moments that advance on both sides by at least a millisecond, what somebody tied before what was found."""
    kept: list[tuple[float, float]] = []
    for name in sorted(shared, key=lambda one: one in ORDER):
        a, b = athlete[name], twin[name]
        if all((a - x) * (b - y) > 0 and min(abs(a - x), abs(b - y)) > 1e-3 for x, y in kept):
            kept.append((a, b))
    kept.sort()
    return np.array([a for a, _ in kept]), np.array([b for _, b in kept])


def _monotone(a: np.ndarray, b: np.ndarray) -> Callable[[float], float]:
    """A monotone map with a continuous first derivative through the knots, real time beyond the ends.

    Piecewise cubic Hermite with the harmonic-mean slopes of Fritsch and Butland 1984 and unit slopes at the ends
    where those keep it monotone.
    """
    h, rise = np.diff(a), np.diff(b)
    d = rise / h
    slope = np.ones_like(a)
    if a.size > 2:
        w1, w2 = 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
        slope[1:-1] = (w1 + w2) / (w1 / d[:-1] + w2 / d[1:])
    slope[0] = min(1.0, 3 * d[0])
    slope[-1] = min(1.0, 3 * d[-1])

    # plain numbers: one instant at a time is asked for
    from_, to, wide, way = a.tolist(), b.tolist(), h.tolist(), slope.tolist()

    def mapped(t: float) -> float:
        if t <= from_[0]:
            return float(to[0] + (t - from_[0]) * way[0])
        if t >= from_[-1]:
            return float(to[-1] + (t - from_[-1]) * way[-1])
        i = bisect_right(from_, t) - 1
        u = (t - from_[i]) / wide[i]
        return float(
            to[i] * (1 + 2 * u) * (1 - u) ** 2
            + way[i] * wide[i] * u * (1 - u) ** 2
            + to[i + 1] * u**2 * (3 - 2 * u)
            + way[i + 1] * wide[i] * u**2 * (u - 1)
        )

    return mapped
