"""A blend: the average of several throws, stop by stop and scaled to one height. Nobody threw it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from waxtwin.core.alignment import align
from waxtwin.core.analysis import Analysis
from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX
from waxtwin.core.stops import ORDER
from waxtwin.core.track import Track

RATE = 240.0
_NEEDED = ("peak_knee", "foot_contact", "release")
# Averaged points lie inside the arc that each arm swings on; these bones get their average length back, inward first.
_ARMS = tuple(
    (f"{side}_{a}", f"{side}_{b}") for side in ("throwing", "glove")
    for a, b in (("shoulder", "elbow"), ("elbow", "wrist"), ("wrist", "hand"))
)  # fmt: skip


def blend(throws: Sequence[Analysis]) -> tuple[Track, float, float | None]:
    """The average track (canonical, right-handed), its standing height (m) and ball speed (m/s).

    The ball speed is None when one is missing. Clocks are mapped through every stop that all throws share, bodies
    scaled to the average height about the rubber. Raises TrackError for fewer than two throws, throws seen in the
    picture only, or without shared stops.
    """
    if len(throws) < 2:
        raise TrackError("a blend needs at least two throws")
    if any(throw.motion.flat is not None for throw in throws):
        raise TrackError("a blend needs throws in space; one camera does not see depth")
    shared = [name for name in ORDER if all(name in throw.events for throw in throws)]
    if missing := [name for name in _NEEDED if name not in shared]:
        raise TrackError(f"the throws do not share the stops {', '.join(missing)}")
    height = float(np.mean([throw.motion.height for throw in throws]))
    clock = {name: float(np.mean([throw.events[name].time - throw.events["release"].time for throw in throws]))
             for name in shared}  # fmt: skip
    times = np.arange(clock[shared[0]] - 0.2, clock[shared[-1]] + 0.1, 1 / RATE)
    bodies = np.stack([_on_clock(throw, clock, times) * (height / throw.motion.height) for throw in throws])
    known = ~np.isnan(bodies).any(axis=(0, 2, 3))
    if known.sum() < 2:
        raise TrackError("the throws have nothing in common to average")
    times, bodies = times[known], bodies[:, known]
    balls = [throw.delivery.ball_speed for throw in throws]
    speed = float(np.mean([ball for ball in balls if ball])) if all(balls) else None
    points = _with_arms(bodies)
    return Track(times - times[0], points, np.ones(points.shape[:2])), height, speed


def _on_clock(throw: Analysis, clock: Mapping[str, float], times: np.ndarray) -> np.ndarray:
    """A throw's landmarks `(frames, landmarks, 3)` at the blend's instants; optional landmarks left out."""
    mapped = align(clock, throw.event_times, "all").to_twin
    at = np.array([mapped(float(t)) for t in times])
    inside = (at >= throw.motion.times[0]) & (at <= throw.motion.times[-1])
    points = np.stack([throw.motion.sample(throw.motion.points, np.array([t]))[0] for t in at])
    points[~inside] = np.nan
    for name in ("ball", "navel"):
        points[:, INDEX[name]] = 0.0  # put back as missing below: they must not count as unseen
    return points


def _with_arms(bodies: np.ndarray) -> np.ndarray:
    """The average body `(frames, landmarks, 3)` of `(throws, frames, landmarks, 3)`, its arms at their own length."""
    points = bodies.mean(axis=0)
    for a, b in _ARMS:
        bone = bodies[:, :, INDEX[b]] - bodies[:, :, INDEX[a]]
        length = np.median(np.linalg.norm(bone, axis=-1), axis=1).mean()
        way = bone.mean(axis=0)
        points[:, INDEX[b]] = points[:, INDEX[a]] + way / np.linalg.norm(way, axis=-1, keepdims=True) * length
    for name in ("ball", "navel"):
        points[:, INDEX[name]] = np.nan
    return np.asarray(points)
