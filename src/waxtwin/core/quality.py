"""What in a track may not be trusted, in plain sentences that each name what they affect."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from waxtwin.core.landmarks import INDEX, OPTIONAL
from waxtwin.core.motion import Motion
from waxtwin.core.stops import EVENTS, Event

# Bones whose length cannot change, and what is read from them.
_BONES: Mapping[str, tuple[str, str, str]] = {
    "throwing upper arm": ("throwing_shoulder", "throwing_elbow", "arm angles, layback and peak arm speeds"),
    "throwing forearm": ("throwing_elbow", "throwing_wrist", "elbow bend, layback and peak arm speeds"),
    "back thigh": ("drive_hip", "drive_knee", "the load and the back leg"),
    "back shank": ("drive_knee", "drive_ankle", "the load and the back leg"),
    "front thigh": ("lead_hip", "lead_knee", "front knee bend and bracing"),
    "front shank": ("lead_knee", "lead_ankle", "front knee bend, bracing and stride"),
    "hip line": ("drive_hip", "lead_hip", "hip turn and separation"),
    "shoulder line": ("throwing_shoulder", "glove_shoulder", "shoulder turn, separation and arm angles"),
}
_STRETCH = 0.07  # of a bone's length, robust standard deviation over the throw
_SLIDE = 0.07  # m, for a standing height of 1.80 m: a planted foot that travels further has slid
_SETTLES = 0.04  # s after touching, in which a foot comes flat
_CROSSED = 0.5  # of what the limbs travel in a frame: crossing over must be shorter by this to count
_LEAST_GAIN = 0.25  # m
_PAIRS = {
    "arms": (("throwing_elbow", "glove_elbow"), ("throwing_wrist", "glove_wrist")),
    "legs": (("drive_knee", "lead_knee"), ("drive_ankle", "lead_ankle")),
}
SLOW, MIDDLING = 100.0, 200.0  # frames a second: below, the arm is rough, coarse


def doubts(motion: Motion, events: Mapping[str, Event]) -> list[str]:
    """What speaks against this track, worst first."""
    found = [*_rate(motion), *_crossed(motion), *_missing(motion, events)]
    if motion.flat is None:
        found += _stretching(motion, events)
    if motion.flat != 0:
        found += _sliding(motion, events)
    return found


def _rate(motion: Motion) -> Iterator[str]:
    if motion.rate < SLOW:
        yield (
            f"At {motion.rate:.0f} frames a second layback, release and peak arm speeds are only rough: "
            f"a frame lasts {1000 / motion.rate:.0f} ms, and the arm passes from layback to release in about 30."
        )
    elif motion.rate < MIDDLING:
        yield (
            f"At {motion.rate:.0f} frames a second layback and release are good to "
            f"{500 / motion.rate:.0f} ms at best, which limits arm speeds and the last two durations."
        )


def _crossed(motion: Motion) -> Iterator[str]:
    """Left and right that change places between two frames: crossing over is the much shorter way."""
    for group, pairs in _PAIRS.items():
        straight = np.zeros(motion.times.size - 1)
        across = np.zeros(motion.times.size - 1)
        for a, b in pairs:
            one, other = motion.raw[:, INDEX[a]], motion.raw[:, INDEX[b]]
            straight += _way(one, one) + _way(other, other)
            across += _way(one, other) + _way(other, one)
        at = np.flatnonzero((straight - across > _LEAST_GAIN * motion.scale) & (across < _CROSSED * straight))
        if at.size:
            times = ", ".join(f"{motion.times[k + 1]:.2f} s" for k in at[:3])
            yield (
                f"Left and right {group} seem to change places at {times}: "
                f"everything read from the {group} is in doubt."
            )


def _way(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return np.asarray(np.sqrt(np.nansum((b[1:] - a[:-1]) ** 2, axis=-1)))


def _missing(motion: Motion, events: Mapping[str, Event]) -> Iterator[str]:
    """Landmarks that are seen elsewhere but not at a stop."""
    seen = ~np.isnan(motion.points[0]).all(axis=-1)
    ever = seen.any(axis=0)
    for event in events.values():
        k = int(np.clip(round((event.time - motion.times[0]) * motion.rate), 0, motion.times.size - 1))
        gone = [name for name, j in INDEX.items() if name not in OPTIONAL and ever[j] and not seen[k, j]]
        if gone:
            names = ", ".join(gone[:4]).replace("_", " ") + (" and more" if len(gone) > 4 else "")
            yield f"At “{EVENTS[event.id].short}” the {names} is not seen: what is read from it there is not available."


def _stretching(motion: Motion, events: Mapping[str, Event]) -> Iterator[str]:
    start, stop = (events[name].time if name in events else None for name in ("first_move", "finish"))
    inside = np.ones(motion.times.size, bool)
    if start is not None and stop is not None:
        inside = (motion.times >= start) & (motion.times <= stop)
    points = motion.points[0]
    for bone, (a, b, affected) in _BONES.items():
        length = np.linalg.norm(points[inside, INDEX[b]] - points[inside, INDEX[a]], axis=-1)
        length = length[~np.isnan(length)]
        if length.size < 10:
            continue
        usual = float(np.median(length))
        spread = 1.4826 * float(np.median(np.abs(length - usual)))
        if usual > 0 and spread > _STRETCH * usual:
            yield f"The {bone} changes its length by {100 * spread / usual:.0f} %: {affected} are less certain."


def _sliding(motion: Motion, events: Mapping[str, Event]) -> Iterator[str]:
    """A foot that travels while it should stand."""
    for foot, landmark, first, settled, last, affected in (
        ("back", "drive_toe", "set", 0.0, "drive_start", "distances from the rubber"),
        (
            "front",
            "lead_ankle",
            "foot_contact",
            _SETTLES,
            "release",
            "stride, knee drift and what is read from the ground",
        ),
    ):
        if first not in events or last not in events or not motion.sight.scaled:
            continue
        inside = (motion.times >= events[first].time + settled) & (motion.times <= events[last].time)
        path = motion.body.seen(motion.points[0, inside, INDEX[landmark]])[:, :2]
        path = path[~np.isnan(path).any(axis=1)]
        if path.shape[0] < 4:
            continue
        # the middle of the first and last tenth: a single stray frame is no slide
        edge = max(path.shape[0] // 10, 1)
        slide = float(np.linalg.norm(np.median(path[-edge:], axis=0) - np.median(path[:edge], axis=0)))
        if slide > _SLIDE * motion.scale:
            yield f"The {foot} foot slides by {100 * slide:.0f} cm while it should stand: {affected} are less certain."
