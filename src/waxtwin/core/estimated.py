"""Measures that one camera does not show, from an estimate of the throw in space: with its doubt, marked as such."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from waxtwin.core.camera import Sight
from waxtwin.core.estimate_gate_table import OPEN
from waxtwin.core.landmarks import LANDMARKS
from waxtwin.core.motion import Motion

_MOST_TURNED = 15.0  # deg
_TURN_SD = 4.0  # deg: how well a clip's upright and its turn about it are known, beyond what the draws say


@dataclass(frozen=True, eq=False)
class InSpace:
    """A throw in space as one camera leaves it open: `points` (frames, joints, 3) metres at `times` (frames,) seconds
    of the throw, canonical side, and `draws` (draws, frames, joints, 3) of what it might as well be; `why` says what it
    rests on, and `clicked` whether hips and shoulders were clicked where it counts. `gated` is False only where the
    gate itself is being measured.
    """

    times: np.ndarray
    points: np.ndarray
    draws: np.ndarray
    why: str = ""
    clicked: bool = False
    gated: bool = True
    _made: dict[int, tuple[Motion, Motion]] = field(default_factory=dict, repr=False)

    def known_off(self, measure: str) -> tuple[float, float] | None:
        """What estimates like this are off in a measure on average, and the doubt that is left when that is taken out,
        as measured on filmed people; None where that is too much to show it.
        """
        if not self.gated:
            return 0.0, 0.0
        found = OPEN["clicked" if self.clicked else "bare"].get(measure)
        return None if found is None else found[:2]

    def motion_on(self, seen: Motion) -> Motion:
        """As a motion on the clock of what was seen; made once."""
        made = self._made.get(id(seen))
        if made is None or made[0] is not seen:
            made = self._made[id(seen)] = (seen, _as_motion(seen, _on(seen.times, self.times, self.points[None])))
        return made[1]

    def drawn(self, seen: Motion, count: int, rng: np.random.Generator) -> Motion:
        """`count` of the draws, each about the vertical by a little as well."""
        draws = _on(seen.times, self.times, self.draws.astype(float))
        turn = np.radians(rng.normal(0.0, _TURN_SD, count))
        taken = draws[rng.integers(0, len(draws), count)]
        c, s = np.cos(turn)[:, None, None], np.sin(turn)[:, None, None]
        x, y = taken[..., 0].copy(), taken[..., 1].copy()
        taken[..., 0], taken[..., 1] = c * x - s * y, s * x + c * y
        return _as_motion(seen, taken)


def was_measured(seen: Motion) -> bool:
    """Whether it was measured what estimates from clips like this are off: from the open side, hardly turned."""
    return seen.flat == 1 and seen.sight.view == "open side" and abs(seen.sight.yaw) <= _MOST_TURNED


def _on(times: np.ndarray, own: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Points `(copies, frames, joints, 3)` at other times, as landmarks: what was not fitted is missing."""
    from scipy.interpolate import CubicSpline

    inside = np.clip(times, own[0], own[-1])
    fitted = CubicSpline(own, points, axis=1)(inside)
    out = np.full((points.shape[0], times.size, len(LANDMARKS), 3), np.nan)
    out[:, :, : points.shape[2]] = fitted
    out[:, (times < own[0] - 1e-6) | (times > own[-1] + 1e-6)] = np.nan
    return out


def _as_motion(seen: Motion, points: np.ndarray) -> Motion:
    sight = Sight(scaled=seen.sight.scaled, by_body=seen.sight.by_body, scale_sd=seen.sight.scale_sd)
    return replace(seen, points=points, raw=points[0], sight=sight, trust=None, offsets=None, _cache={})
