"""Where a landmark model puts the body's points, on average, against where the joints are: by view and moment.

A model is off by several hundredths of the body's height at some joints, alike from person to person: a shoulder on top
of its joint, the lead hip under the bent thigh far toward the plate. The table was measured on filmed, made-up people
(docs/corrector.md); what varies between them is left as doubt.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.core.model_offsets_table import OFF, VARIES

# The moments of the table: stops, and places between two of them as (first, last, share of the way).
MOMENTS: tuple[tuple[str, str, float], ...] = (
    ("set", "set", 0.0), ("peak_knee", "peak_knee", 0.0), ("peak_knee", "foot_contact", 0.35),
    ("peak_knee", "foot_contact", 0.7), ("foot_contact", "foot_contact", 0.0), ("foot_contact", "release", 0.4),
    ("foot_contact", "release", 0.78), ("release", "release", 0.0), ("release", "finish", 0.5),
    ("finish", "finish", 0.0),
)  # fmt: skip
_NEEDED = ("foot_contact", "release")
# Where a stop is not known: how long (s) before landing or after release it usually is.
_USUAL = {"set": ("foot_contact", -1.6), "peak_knee": ("foot_contact", -0.72), "finish": ("release", 0.13)}
_OBLIQUE = 15.0  # deg of yaw from which the table of a turned camera is used


@dataclass(frozen=True, eq=False)
class Offsets:
    """`times` (moments,) s; `off` and `varies` (moments, landmarks, 3), shares of standing height, canonical side; the
    axis that is not seen is 0.
    """

    times: np.ndarray
    off: np.ndarray
    varies: np.ndarray

    def at(self, times: np.ndarray) -> np.ndarray:
        """What the model is off `(times, landmarks, 3)`, without a jump of speed between the moments."""
        from scipy.interpolate import PchipInterpolator

        inside = np.clip(times, self.times[0], self.times[-1])
        return np.asarray(PchipInterpolator(self.times, self.off, axis=0)(inside))

    def left(self, time: float) -> np.ndarray:
        """How far that varies between people at an instant (s): `(landmarks,)`, rms over the axes that are seen."""
        wide = np.sqrt((self.varies**2).sum(axis=-1) / 2)
        return np.array([np.interp(time, self.times, column) for column in wide.T])

    def drawn(self, times: np.ndarray, count: int, rng: np.random.Generator) -> np.ndarray:
        """What it might be off beyond that `(count, times, landmarks, 3)`: on its own at each moment."""
        draws = rng.standard_normal((count, *self.varies.shape), dtype=np.float32) * self.varies.astype(np.float32)
        inside = np.clip(times, self.times[0], self.times[-1])
        after = np.clip(np.searchsorted(self.times, inside), 1, self.times.size - 1)
        share = (inside - self.times[after - 1]) / (self.times[after] - self.times[after - 1])
        share = share.astype(np.float32)[:, None, None]
        return np.asarray(draws[:, after - 1] * (1 - share) + draws[:, after] * share)


def table_of(view: str, yaw: float) -> str:
    """Name of the table for a camera: its view, or that of a camera turned to the plate or away from it."""
    turned = f"{view} {'+' if yaw > 0 else '-'}30"
    return turned if abs(yaw) >= _OBLIQUE and turned in OFF else view


def moments_of(stops: Mapping[str, float]) -> np.ndarray | None:
    """Seconds of the table's moments, None where landing or release is not known."""
    if any(name not in stops for name in _NEEDED):
        return None
    known = dict(stops)
    for name, (near, away) in _USUAL.items():
        known.setdefault(name, known[near] + away)
    times = np.array([known[a] + share * (known[b] - known[a]) for a, b, share in MOMENTS])
    return np.asarray(np.maximum.accumulate(times) + 1e-3 * np.arange(times.size))


def offsets_of(view: str, yaw: float, hidden: int, stops: Mapping[str, float]) -> Offsets | None:
    """What a model is off in this view at these stops {id: s}; None where that was not measured."""
    name, times = table_of(view, yaw), moments_of(stops)
    if name not in OFF or times is None:
        return None
    seen = [1 - hidden, 2]
    off, varies = np.zeros((2, len(MOMENTS), len(LANDMARKS), 3))
    for landmark, values in OFF[name].items():
        off[:, INDEX[landmark]][:, seen] = np.array(values) / 100.0
        varies[:, INDEX[landmark]][:, seen] = np.array(VARIES[name][landmark]) / 100.0
    return Offsets(times, off, varies)
