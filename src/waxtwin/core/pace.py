"""Slow motion that nobody stated: how many times too slowly a clip seems to play, judged by how people throw.

Two witnesses: how long the throwing hand takes for a quarter of the body's size where it is quickest, and how long from
the highest knee to there. Usual figures are those of 33 simulated deliveries seen from the side, front and rear; over
them and the three views the two together vary by a fifth (0.7 to 1.5): what plays three times too slowly is told from
what plays true, and twice too slowly in half the clips.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from scipy.ndimage import median_filter

from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import Marks
from waxtwin.core.repair import body_size

_REACH, _REACH_TAKES = 0.25, 0.029  # body sizes in the picture, and s for it
_GLITCH = 5  # frames, twice as long as a mark slips and more
_GOES_ON = 1.5  # times the way of its quickest stretch that a hand makes in three times as long around it
_LIFTED, _LIFT_BEFORE = 0.08, 0.75  # body sizes by which one knee is over the other, s from there to the quickest hand
_SLOWED = 1.7  # times too slow from which it is said
_RATES = (60.0, 120.0, 240.0, 480.0, 960.0)  # frames a second that cameras offer


@lru_cache(maxsize=8)
def seems_slowed(marks: Marks) -> float | None:
    """How many times too slowly a clip plays, by its own times; None where no hand is seen to throw."""
    size, times = body_size(marks), marks.times
    if not size > 0 or times.size < 8:
        return None
    quickest = _quickest(marks.points[:, [INDEX["throwing_wrist"], INDEX["glove_wrist"]]] / size, times)
    if quickest is None:
        return None
    at, takes = quickest
    found = [takes / _REACH_TAKES]
    knees = marks.points[:, [INDEX["lead_knee"], INDEX["drive_knee"]], 1] / size
    over = np.where(times < at, np.nan_to_num(np.abs(knees[:, 0] - knees[:, 1])), 0.0)
    if over.max() > _LIFTED:
        found.append(float(at - times[np.argmax(over)]) / _LIFT_BEFORE)
    return float(np.exp(np.mean(np.log(found))))


def _quickest(wrists: np.ndarray, times: np.ndarray) -> tuple[float, float] | None:
    """When a wrist of `(frames, wrists, 2)` body sizes is quickest, and how long it then takes for its way, s.

    A mark that jumps is no quick hand: what throws is on its way before and after.
    """
    wrists = median_filter(wrists, size=(_GLITCH, 1, 1), mode="nearest")
    way = np.cumsum(np.nan_to_num(np.linalg.norm(np.diff(wrists, axis=0, prepend=wrists[:1]), axis=-1)), axis=0)
    for frames in range(1, times.size // 2):
        far = np.nan_to_num(np.linalg.norm(wrists[frames:] - wrists[:-frames], axis=-1))
        around = np.pad(way, ((frames, frames), (0, 0)), mode="edge")
        wide = around[3 * frames :] - around[: -3 * frames]
        far = np.where(wide > _GOES_ON * (way[frames:] - way[:-frames]), far, 0.0).max(axis=1)
        if far.max() >= _REACH:
            at = int(np.argmax(far))
            return float(times[at]), float(times[at + frames] - times[at]) * _REACH / float(far[at])
    return None


def likely_rate(marks: Marks, played: float) -> float | None:
    """The frames a second at which a clip that plays at `played` was likely taken; None where it seems to play true."""
    slowed = seems_slowed(marks.once())
    if slowed is None or slowed < _SLOWED or played <= 0:
        return None
    return min(_RATES, key=lambda rate: abs(np.log(rate / played / slowed)))
