"""A track: landmarks over time in the field frame, as read from a file, before any smoothing."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX, LANDMARKS

MIN_FRAMES = 24
FEWEST_FRAMES = 4  # of a clip that is only looked at
MIN_SECONDS = 0.4
_FAR = 60.0  # metres: rubber to plate is 18.4
_LONG = 3.0  # metres: longer than any body
_SMALL = 0.5  # metres: shorter than any pitcher
PIVOT_AHEAD = 0.07  # m: the pivot foot's ankle lies so far in front of the rubber's front edge
EAR_HEIGHT = 0.936  # of standing height (Winter, anthropometric table)


@dataclass(frozen=True, slots=True)
class Track:
    """Landmarks in the field frame.

    `times` (frames,) seconds, strictly increasing; `points` (frames, landmarks, 3) metres, NaN where missing,
    whole axes NaN where a single camera cannot know them; `confidence` (frames, landmarks) 0 to 1.
    """

    times: np.ndarray
    points: np.ndarray
    confidence: np.ndarray

    @property
    def rate(self) -> float:
        """Frames per second: steps of the median length, fitted to the whole span so that rounding does not add up."""
        span = self.times[-1] - self.times[0]
        steps = max(round(span / float(np.median(np.diff(self.times)))), 1)
        return float(steps / span)

    @property
    def is_bare(self) -> bool:
        """Whether there is not one landmark: the frames of a clip in which none were found yet."""
        return bool(np.isnan(self.points).all())

    def canonical(self, throws: str) -> Track:
        """The track as a right-hander's: a left-hander's Y is negated (labels already say what a limb does)."""
        if throws == "R":
            return self
        return replace(self, points=self.points * np.array([1.0, -1.0, 1.0]))

    def missing(self) -> list[str]:
        """Ids of landmarks without a single value."""
        gone = np.isnan(self.points).all(axis=(0, 2))
        return [name for name, flag in zip(LANDMARKS, gone, strict=True) if flag]


def bare_track(first: float, last: float, rate: float) -> Track:
    """The frames of a clip before any landmark, at `rate` from `first` to `last` seconds. Raises TrackError."""
    frames = round((last - first) * rate) + 1
    if not np.isfinite((first, last, rate)).all() or frames < FEWEST_FRAMES:
        raise TrackError(f"there are only {max(frames, 0)} frames, and at least {FEWEST_FRAMES} are needed")
    shape = (frames, len(LANDMARKS))
    return Track(first + np.arange(frames) / rate, np.full((*shape, 3), np.nan), np.zeros(shape))


def hidden_axis(points: np.ndarray) -> int | None:
    """The horizontal axis (0 or 1) that no camera saw in points `(..., 3)`, or None when all three are known."""
    return next((axis for axis in (0, 1) if np.isnan(points[..., axis]).all()), None)


def check_track(track: Track) -> None:
    """Raise TrackError, in one plain sentence, when the track cannot be a delivery."""
    times, points = track.times, track.points
    if track.is_bare:
        raise TrackError("every landmark is missing")
    if times.size < MIN_FRAMES:
        raise TrackError(f"there are only {times.size} frames, and a delivery needs at least {MIN_FRAMES}")
    if not np.isfinite(times).all():
        raise TrackError("a time is missing or not a number")
    steps = np.diff(times)
    if (steps <= 0).any():
        raise TrackError(f"times do not increase at row {int(np.argmax(steps <= 0)) + 2}")
    if times[-1] - times[0] < MIN_SECONDS:
        raise TrackError(f"it lasts {times[-1] - times[0]:.2f} s, and a delivery needs at least {MIN_SECONDS} s")
    largest = np.nanmax(np.abs(points))
    if np.isinf(points).any() or largest > _FAR:
        raise TrackError(
            f"a coordinate of {largest:.4g} m is farther than a pitcher can be; are these millimetres or pixels?"
        )
    spread = np.fmax.reduce(points, axis=1) - np.fmin.reduce(points, axis=1)
    tall = max(float(np.median(column[~np.isnan(column)])) for column in spread.T if not np.isnan(column).all())
    if tall > _LONG or tall < _SMALL:
        raise TrackError(f"the body spans {tall:.3g} m, which no pitcher does; is the unit metres?")


def estimate_height(track: Track) -> float | None:
    """Standing height (m) guessed from the first third of the clip, or None when it cannot be seen.

    The ears sit at EAR_HEIGHT of it.
    """
    third = slice(0, max(track.times.size // 3, 1))
    z = track.points[third, :, 2]
    head = z[:, INDEX["head"]]
    feet = z[:, [INDEX["drive_heel"], INDEX["drive_toe"], INDEX["drive_ankle"]]]
    if np.isnan(head).all() or np.isnan(feet).all():
        return None
    floor = np.nanmin(feet)
    return float((np.nanmax(head) - floor) / EAR_HEIGHT)
