"""From marks and a camera to what the fit's terms look at."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from waxtwin.core.camera import Camera, focal_length, onto_plane
from waxtwin.core.depth.skeleton import COUNT, WANDER
from waxtwin.core.depth.terms import Scene
from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import ACCEPTED, Marks
from waxtwin.core.model_offsets import Offsets
from waxtwin.core.smoothing import filtered

_MARK_SD, _CLICK_SD = 0.003, 0.010  # m
_STANDS = 0.45  # m/s, for 1.80 m: a foot that is slower in the picture stands
_LOW = 0.10  # m over the lowest that it is seen: and is on the ground
_SLOW_HZ = 12.0
_FEET = ("drive_toe", "lead_toe", "lead_heel")
# How far before the rubber (shares of height) the body is, seen end-on, at lift, landing and release.
_PATH = (0.04, 0.48, 0.62)
_AT_RELEASE, _TOWARD = 0.012, (0.6, 0.03)  # s about release; share of landing to release, s past it
# At the start, the lift, before landing, at it, half way to release, at release and after (deg; Fleisig et al. 1999).
_TWISTS = (0.0, 2.0, 28.0, 45.0, 32.0, -6.0, -10.0)
_FEWEST_SEEN = 0.5  # of the frames in which hips and shoulders must be marked


@dataclass(frozen=True, slots=True)
class Moments:
    """Seconds of the throw around which it is quick."""

    lift: float
    landing: float
    release: float


@dataclass(frozen=True, eq=False)
class Sighting:
    """A camera on the canonical side: `matrix` (3, 4) and the unit axes `right`, `down`, `ahead` in the field."""

    matrix: np.ndarray
    right: np.ndarray
    down: np.ndarray
    ahead: np.ndarray

    @classmethod
    def of(cls, camera: Camera, throws: str) -> Sighting:
        """A camera as a right-hander's: for a left-hander the field is mirrored, the picture is not."""
        matrix = camera.matrix
        right = matrix[0, :3] - _part(matrix[0, :3], matrix[2, :3])
        down = matrix[1, :3] - _part(matrix[1, :3], matrix[2, :3])
        right, down = right / np.linalg.norm(right), down / np.linalg.norm(down)
        mirror = np.array([1.0, -1.0, 1.0]) if throws == "L" else np.ones(3)
        return cls(matrix * np.append(mirror, 1.0), right * mirror, down * mirror, np.cross(right, down) * mirror)

    @property
    def has_depth(self) -> bool:
        """Whether what is farther looks smaller."""
        return bool(np.abs(self.matrix[2, :3]).max() > 0)

    def per_pixel(self, points: np.ndarray) -> np.ndarray:
        """Metres that a pixel spans at points `(..., 3)`."""
        if not self.has_depth:
            return np.full(points.shape[:-1], 1.0 / np.linalg.norm(self.matrix[0, :3]))
        return np.asarray((points @ self.matrix[2, :3] + self.matrix[2, 3]) / focal_length(self.matrix)) / float(
            np.linalg.norm(self.matrix[2, :3])
        )


def _part(vector: np.ndarray, along: np.ndarray) -> np.ndarray:
    size = along @ along
    return np.asarray(along * (vector @ along) / size) if size > 0 else np.zeros(3)


def make_scene(
    marks: Marks, camera: Camera, sighting: Sighting, hidden: int, height: float, moments: Moments, chosen: np.ndarray
) -> Scene:
    """What the terms look at, on the frames `chosen`. Raises TrackError when hips or shoulders are hardly seen."""
    flat = camera.straightened(marks.points[:, :COUNT])
    seen = np.isfinite(flat[..., 0])
    body = [INDEX[name] for name in ("drive_hip", "lead_hip", "throwing_shoulder", "glove_shoulder")]
    if seen[:, body].mean() < _FEWEST_SEEN:
        raise TrackError("hips and shoulders are marked in too few frames for an estimate in space")
    flat = bridged(flat)
    hips = hips_path(flat, sighting, hidden, height, moments, marks.times)
    per_pixel = sighting.per_pixel(hips)
    firm = marks.fixed[:, :COUNT] & seen
    trust = 2.0 - np.clip(marks.confidence[:, :COUNT], 0, 1)
    sd = np.hypot(_MARK_SD * height / 1.8, WANDER * height) * trust
    sd = np.where(firm, _CLICK_SD * height / 1.8, sd)
    sd = np.where(seen, sd, np.inf)
    rate = (marks.times.size - 1) / (marks.times[-1] - marks.times[0])
    planted = _standing(flat, per_pixel, rate, height)
    t = marks.times
    span = moments.release - moments.landing
    near = np.abs(t - moments.release) < _AT_RELEASE
    toward = (t > moments.landing + _TOWARD[0] * span) & (t < moments.release + _TOWARD[1])
    world = None if marks.world is None else marks.world[chosen][:, :COUNT]
    return Scene(
        flat=flat[chosen], sd=sd[chosen], firm=firm[chosen], matrix=sighting.matrix, ahead=sighting.ahead,
        per_pixel=per_pixel[chosen], middle=(hips @ sighting.ahead)[chosen], world=world, planted=planted[chosen],
        hidden=hidden, height=height, at_release=near[chosen], toward_release=toward[chosen],
        twist=_usual_twist(t, moments)[chosen],
    )  # fmt: skip


def _usual_twist(times: np.ndarray, moments: Moments) -> np.ndarray:
    """How far (deg) the hips usually lead the shoulders at each instant."""
    span = moments.release - moments.landing
    when = (moments.lift - 0.8, moments.lift, moments.landing - 0.2, moments.landing, moments.landing + 0.5 * span,
            moments.release, moments.release + 0.15)  # fmt: skip
    return np.asarray(np.interp(times, when, _TWISTS))


def bridged(flat: np.ndarray) -> np.ndarray:
    """Marks `(frames, joints, 2)` with every gap bridged by a straight line; what is never seen stays NaN."""
    out, frames = flat.copy(), np.arange(flat.shape[0])
    for j in range(flat.shape[1]):
        known = np.isfinite(flat[:, j, 0])
        if known.any() and not known.all():
            for axis in (0, 1):
                out[:, j, axis] = np.interp(frames, frames[known], flat[known, j, axis])
    return out


def hips_path(
    flat: np.ndarray, sighting: Sighting, hidden: int, height: float, moments: Moments, times: np.ndarray
) -> np.ndarray:
    """Where the middle of the hips seems to be `(frames, 3)` if it keeps to the plane of motion."""
    middle = flat[:, [INDEX["drive_hip"], INDEX["lead_hip"]]].mean(axis=1)
    deep = np.zeros(times.size)
    if hidden == 0:
        when = (moments.lift, moments.landing, moments.release)
        deep = np.interp(times, when, np.array(_PATH) * height)
    out = np.stack([onto_plane(sighting.matrix, middle[i], hidden, float(deep[i])) for i in range(times.size)])
    out[:, hidden] = deep
    return out


def _standing(flat: np.ndarray, per_pixel: np.ndarray, rate: float, height: float) -> np.ndarray:
    """(frames, joints) of the feet's points that stand on the ground."""
    out = np.zeros(flat.shape[:2], bool)
    for name in _FEET:
        j = INDEX[name]
        if not np.isfinite(flat[:, j]).all():
            continue
        path = filtered(flat[None, :, j], rate, _SLOW_HZ)[0]
        speed = np.linalg.norm(np.gradient(path, 1.0 / rate, axis=0), axis=1) * per_pixel
        low = flat[:, j, 1] > np.percentile(flat[:, j, 1], 98) - _LOW * height / 1.8 / per_pixel
        out[:, j] = (speed < _STANDS * height / 1.8) & low
    return out


def put_right(
    marks: Marks, offsets: Offsets, sighting: Sighting, hidden: int, height: float, moments: Moments
) -> Marks:
    """The marks without what their model is usually off; what a person fixed stays."""
    hips = hips_path(bridged(marks.points), sighting, hidden, height, moments, marks.times)
    off = offsets.at(marks.times) * height
    pixels = np.stack([off @ sighting.right, off @ sighting.down], axis=-1) / sighting.per_pixel(hips)[:, None, None]
    return replace(marks, points=np.where(marks.fixed[..., None], marks.points, marks.points - pixels))


def clicks_carried(marks: Marks) -> Marks:
    """The marks with what a person's clicks put right carried along: between clicks of a landmark, and for a moment
    beyond, the model's own marks move over by what the clicks were off it.

    A model is wrong alike for a while; without this its neighbours would pull a click back.
    """
    points = marks.points.copy()
    for j in range(COUNT):
        clicked = np.flatnonzero((marks.source[:, j] > ACCEPTED) & marks.seen[:, j])
        free = marks.seen[:, j] & ~marks.fixed[:, j]
        if not clicked.size or free.sum() < 8:
            continue
        off = np.stack([points[k, j] - _without(marks, j, free, int(k)) for k in clicked])
        times = marks.times
        for axis in (0, 1):
            carried = np.interp(times, times[clicked], off[:, axis])
            away = np.maximum(np.maximum(times[clicked[0]] - times, times - times[clicked[-1]]), 0.0)
            points[free, j, axis] += (carried * np.exp(-away / 0.15))[free]
    return replace(marks, points=points)


def _without(marks: Marks, joint: int, free: np.ndarray, frame: int) -> np.ndarray:
    """Where the model would have put a joint on a frame, from its marks around it."""
    near = np.flatnonzero(free & (np.abs(marks.times - marks.times[frame]) < 0.05))
    if near.size < 4:
        near = np.flatnonzero(free)[np.argsort(np.abs(np.flatnonzero(free) - frame))[:4]]
    at = marks.times[near] - marks.times[frame]
    fit = np.polyfit(at, marks.points[near, joint], min(2, near.size - 2))
    return np.asarray(fit[-1])
