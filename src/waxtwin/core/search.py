"""Looking for a stop in a motion: instants, crossings, tops and how sharp they are."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from waxtwin.core.motion import Motion
from waxtwin.core.stops import DETECTED, Event


@dataclass
class Search:
    """A search in progress: the motion (first copy only) and the events found so far."""

    motion: Motion
    found: dict[str, Event] = field(default_factory=dict)

    @property
    def times(self) -> np.ndarray:
        return self.motion.times

    def time(self, event_id: str) -> float | None:
        event = self.found.get(event_id)
        return None if event is None else event.time

    def at(self, name: str) -> np.ndarray:
        """A landmark's path `(frames, 3)`."""
        return np.asarray(self.motion.body.at(name)[0])

    def speed(self, name: str) -> np.ndarray:
        return np.asarray(self.motion.speed(name)[0])

    def frames(self, start: float, stop: float) -> np.ndarray:
        """Indices of frames within [start, stop] seconds."""
        return np.flatnonzero((self.times >= start - 1e-9) & (self.times <= stop + 1e-9))

    def event(self, event_id: str, time: float, spread: float = 0.0, trust: float = 1.0) -> Event:
        """An event with `spread` seconds of noise; `trust` below 1 for a fallback."""
        interval = float(max(spread, 0.5 / self.motion.rate)) * 1000.0
        return Event(event_id, float(time), DETECTED, round(trust * float(np.exp(-interval / 60.0)), 3), interval)

    def crossing(self, curve: np.ndarray, level: float, i: int) -> float:
        """Instant between frames i-1 and i at which `curve` meets `level`."""
        if i <= 0 or i >= curve.size:
            return float(self.times[np.clip(i, 0, curve.size - 1)])
        a, b = curve[i - 1], curve[i]
        share = (level - a) / (b - a) if np.isfinite(a) and np.isfinite(b) and a != b else 1.0
        return float(self.times[i - 1] + np.clip(share, 0, 1) / self.motion.rate)

    def top(self, curve: np.ndarray, frames: np.ndarray, reach: float) -> tuple[float, float] | None:
        """Refined instant of the largest value among `frames`, and the curvature there (per s2, positive).

        A quartic is fitted by least squares over `reach` seconds on either side, so that noise left after
        smoothing averages out and a lopsided peak does not pull the instant.
        """
        if frames.size == 0 or np.isnan(curve[frames]).all():
            return None
        rate, centre = self.motion.rate, int(frames[np.nanargmax(curve[frames])])
        half = max(round(reach * rate), 2)
        for _ in range(2):
            near = np.arange(max(centre - half, 0), min(centre + half + 1, curve.size))
            near = near[np.isfinite(curve[near])]
            if near.size < 5:
                return float(self.times[centre]), 0.0
            fit = np.polynomial.Polynomial.fit(near - centre, curve[near], min(4, near.size - 2))
            fine = np.linspace(near[0] - centre, near[-1] - centre, 40 * half + 1)
            best = float(fine[np.argmax(fit(fine))])
            time = self.times[0] + (centre + best) / rate  # of this fit: the centre may move on below
            moved = int(np.clip(centre + round(best), frames[0], frames[-1]))
            if moved == centre:
                break
            centre = moved
        time = np.clip(time, self.times[frames[0]], self.times[frames[-1]])
        return float(time), max(float(-fit.deriv(2)(best)) * rate**2, 0.0)

    def arch(self, curve: np.ndarray, time: float, reach: float) -> float:
        """Curvature (per s2, positive) of the parabola through a top, over `reach` seconds either way; 0 for none."""
        near = self.frames(time - reach, time + reach)
        near = near[np.isfinite(curve[near])]
        if near.size < 5:
            return 0.0
        return max(float(-2.0 * np.polyfit(self.times[near] - time, curve[near], 2)[0]), 0.0)

    def settles(self, curve: np.ndarray, level: float, after: float, hold: float) -> float | None:
        """The instant after which a curve stays below a level for `hold` seconds; None where it never does."""
        count = max(round(hold * self.motion.rate), 1)
        for i in self.frames(after, self.times[-1]):
            if i + count <= curve.size and (curve[i : i + count] < level).all():
                return max(self.crossing(curve, level, int(i)), after)
        return None

    def slope(self, curve: np.ndarray, time: float) -> float:
        """Size of the slope (per s) of a curve around an instant."""
        i = int(np.clip(round((time - self.times[0]) * self.motion.rate), 1, curve.size - 2))
        return float(abs(curve[i + 1] - curve[i - 1]) * self.motion.rate / 2)
