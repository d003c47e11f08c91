"""The seam's axis: time along its width, the throw itself widened. Knows no Qt."""

from __future__ import annotations

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.stops import DETECTED, ORDER
from waxtwin.ui.model.desk import Desk

_LENS = 0.46  # share of the width that the throw itself gets: it is a tenth of the time and half of the work
MARGIN = 26  # px at either end


def _between(value: float, source: list[float], target: list[float]) -> float:
    """Piecewise linear from `source` to `target`, held at the ends; plain Python, for it is asked very often."""
    for i in range(len(source) - 1):
        if value < source[i + 1]:
            share = max((value - source[i]) / (source[i + 1] - source[i]), 0.0)
            return target[i] + share * (target[i + 1] - target[i])
    return target[-1]


def between_neighbours(analysis: Analysis, stop: str, time: float) -> float:
    """An instant (s of the side's own clock) for a stop that is moved, kept between the stops before and after it."""
    i = ORDER.index(stop)
    before = [analysis.events[s].time for s in ORDER[:i] if s in analysis.events]
    after = [analysis.events[s].time for s in ORDER[i + 1 :] if s in analysis.events]
    first, last = (float(t) for t in analysis.motion.times[[0, -1]])
    low = max(before, default=first)
    return float(np.clip(time, low, max(min(after, default=last), low)))


def set_by_hand(analysis: Analysis | None, stop: str) -> bool:
    """Whether somebody set, accepted or estimated a stop."""
    event = None if analysis is None else analysis.proposal(stop)
    return event is not None and event.source != DETECTED


class SeamAxis:
    """Instants of the athlete's clock to pixels of a width, and back; laid anew when that is another."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self._laid: tuple[int, list[float], list[float]] | None = None

    def x_of(self, time: float, width: int) -> float:
        """Where an instant lies, in pixels."""
        _, times, at = self._knots(width)
        return _between(time, times, at)

    def time_at(self, x: float, width: int) -> float:
        """The instant at a pixel."""
        _, times, at = self._knots(width)
        return _between(x, at, times)

    def _knots(self, width: int) -> tuple[int, list[float], list[float]]:
        if self._laid is None or self._laid[0] != width:
            self._laid = (width, *self._lay(width))
        return self._laid

    def _lay(self, width: int) -> tuple[list[float], list[float]]:
        """Times and their x: the stretch around the throw is widened."""
        low, high = self._desk.clock.span()
        analysis = self._desk.pair.analysis("athlete")
        left, right = MARGIN, width - MARGIN
        if analysis is None or not {"foot_contact", "release"} <= set(analysis.events):
            return [low, high], [float(left), float(right)]
        start = max(analysis.events["foot_contact"].time - 0.06, low + 0.01)
        stop = min(analysis.events["release"].time + 0.09, high - 0.01)
        room = right - left
        before = (1 - _LENS) * (start - low) / max((start - low) + (high - stop), 1e-6)
        return [low, start, stop, high], [left + room * share for share in (0.0, before, before + _LENS, 1.0)]
