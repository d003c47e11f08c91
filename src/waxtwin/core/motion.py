"""A delivery's motion, ready to be measured: smoothed, on an even clock, with a leading axis of copies."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from waxtwin.core.body import Body
from waxtwin.core.butterworth import forgetting
from waxtwin.core.camera import FIELD_SIGHT, Sight
from waxtwin.core.landmarks import INDEX, LANDMARKS, MIDDLES
from waxtwin.core.model_offsets import Offsets, offsets_of
from waxtwin.core.smoothing import choose_cutoffs, derivative, fill_gaps, filtered, low_pass, noise_level
from waxtwin.core.track import Track, hidden_axis

_LEAST_NOISE = 0.0005  # m: no landmark is trusted to better than half a millimetre
_BANK = 12.5  # s of noise to draw copies from
# How a landmark model's marks waver about the body's points: standard deviation in shares of standing height by the
# part of the body, and how long (s) it takes to forget; measured on simulated clips (docs/method.md).
_WANDER: Mapping[str, float] = {
    "head": 0.004, "nose": 0.004, "navel": 0.008, "shoulder": 0.006, "hip": 0.009, "elbow": 0.015, "wrist": 0.015,
    "hand": 0.015, "ball": 0.015, "knee": 0.007, "ankle": 0.007, "heel": 0.010, "toe": 0.010,
}  # fmt: skip
_FORGETS = 0.11
_CUTOFF_CHOICES = (0.9, 1.0, 1.1)  # of the chosen cut-offs: another analyst's choice
# of standing height: how far a landmark lies off the plane of motion, standard deviation, and an arm out of it
_BODY_DEPTH = 0.08
_ARM_DEPTH: Mapping[str, float] = {"elbow": 0.16, "wrist": 0.25, "hand": 0.29}
_ARMS = np.array([[_ARM_DEPTH.get(name.removeprefix(side), 0.0) for name in LANDMARKS]
                  for side in ("throwing_", "glove_")])  # fmt: skip
_SHARES: Mapping[frozenset[str], float] = {
    frozenset({"hip", "knee"}): 0.245, frozenset({"knee", "ankle"}): 0.246, frozenset({"elbow", "wrist"}): 0.146,
    frozenset({"shoulder"}): 0.22,
}  # fmt: skip
_GAP_STEPS = 1.8  # a step longer than this many frames is a gap, not unevenness


@dataclass(frozen=True)
class Motion:
    """Smoothed landmarks `(copies, frames, landmarks, 3)` on even `times` (frames,), canonical side.

    `raw` (frames, landmarks, 3) is the gap-filled track before smoothing, `cutoffs` and `noise` (landmarks,) the
    effective cut-off in Hz and the white-noise level in metres that was found in it. `height` in metres. `trust`
    (frames, landmarks) is the confidence that came with the track, None for full trust. `offsets` is what a landmark
    model is usually off in this view, where that was taken out.
    """

    times: np.ndarray
    rate: float
    points: np.ndarray
    raw: np.ndarray
    cutoffs: np.ndarray
    noise: np.ndarray
    height: float
    sight: Sight = FIELD_SIGHT
    trust: np.ndarray | None = None
    offsets: Offsets | None = None
    _cache: dict[object, Any] = field(default_factory=dict, repr=False, compare=False)

    @property
    def scale(self) -> float:
        """Factor on the lengths and speeds that definitions give for a standing height of 1.80 m."""
        return self.height / 1.80

    @cached_property
    def is_bare(self) -> bool:
        """Whether there are no landmarks yet, only the frames of a clip."""
        return bool(np.isnan(self.raw).all())

    @cached_property
    def flat(self) -> int | None:
        """The axis that no camera saw, or None when all three are known, or nothing."""
        return None if self.is_bare else hidden_axis(self.raw)

    @cached_property
    def missing(self) -> frozenset[str]:
        """Landmarks that are nowhere in the clip."""
        return frozenset(name for name in LANDMARKS if np.isnan(self.raw[:, INDEX[name]]).all())

    @cached_property
    def body(self) -> Body:
        """The body over all copies and frames."""
        return Body(self.points, self.flat)

    @cached_property
    def as_seen(self) -> Body:
        """The body before smoothing, gaps filled, one copy: what few frames a second leave is in it."""
        return Body(self.raw[None], self.flat)

    def put_right(self, stops: Mapping[str, float]) -> Motion:
        """This motion without what its landmark model is usually off from one camera, at these stops {id: s}."""
        if not self.sight.by_model or self.flat is None or self.offsets is not None:
            return self
        found = offsets_of(self.sight.view, self.sight.yaw, self.flat, stops)
        if found is None:
            return self
        off = found.at(self.times) * self.height
        return replace(self, points=self.points - off, raw=self.raw - off, offsets=found, _cache={})

    def pose(self, times: np.ndarray) -> Body:
        """The body of each copy at its own instant: `times` (copies,) gives `(copies, landmarks, 3)`."""
        key = ("pose", times.tobytes())
        if key not in self._cache:
            self._cache[key] = Body(self.sample(self.points, times), self.flat)
        found: Body = self._cache[key]
        return found

    def sample(self, values: np.ndarray, times: np.ndarray) -> np.ndarray:
        """`(copies, frames, ...)` at one instant per copy, `times` (copies,): `(copies, ...)`, cubic in four frames.

        NaN outside the clip and where a frame in use is missing.
        """
        where = (np.asarray(times, float) - self.times[0]) * self.rate
        n = self.times.size
        valid = (where >= -1e-6) & (where <= n - 1 + 1e-6)
        where = np.where(valid, where, 0.0)
        base = np.clip(np.floor(where).astype(int) - 1, 0, n - 4)
        u = where - base
        weights = np.stack(
            [-(u - 1) * (u - 2) * (u - 3) / 6, u * (u - 2) * (u - 3) / 2, -u * (u - 1) * (u - 3) / 2,
             u * (u - 1) * (u - 2) / 6],
            axis=1,
        )  # fmt: skip
        rows = np.arange(values.shape[0])[:, None]
        taken = values[rows, base[:, None] + np.arange(4)]
        out = np.einsum("ck,ck...->c...", weights, taken)
        return np.where(valid.reshape(-1, *[1] * (out.ndim - 1)), out, np.nan)

    def body_at(self, time: float) -> np.ndarray:
        """The body `(landmarks, 3)` at one instant to be drawn: the axis that is not seen counts as 0."""
        return self._drawn(self.sample(self.points, np.array([time]))[0])

    @property
    def bodies(self) -> np.ndarray:
        """The bodies `(frames, landmarks, 3)` of all frames, to be drawn like `body_at`."""
        return self._drawn(self.points[0].copy())

    def _drawn(self, points: np.ndarray) -> np.ndarray:
        if self.flat is not None:
            points[..., self.flat] = 0.0
        return np.asarray(points)

    def own_length(self, first: str, last: str) -> float:
        """How long a segment is, in metres: the longest that the picture shows of it, and no less than bodies have it
        where lengths are known (shares of standing height after Winter's textbook).
        """
        parts = frozenset(name.split("_", 1)[-1] for name in (first, last))
        usual = _SHARES.get(parts, 0.0) * self.height * 0.85 if self.sight.scaled else 0.0

        def longest() -> np.ndarray:
            length = np.linalg.norm(self.body.seen(self.body.at(last)[0] - self.body.at(first)[0]), axis=-1)
            return np.nanpercentile(length, 95) if np.isfinite(length).any() else np.array(0.0)

        return max(usual, float(self.kept(("length", first, last), longest)))

    def velocity(self, name: str) -> np.ndarray:
        """Velocity of a landmark in the seen axes: `(copies, frames, 3)` m/s."""
        return self.kept(("velocity", name), lambda: derivative(self.body.seen(self.body.at(name)), self.rate))

    def speed(self, name: str) -> np.ndarray:
        """Speed of a landmark in the seen axes: `(copies, frames)` m/s."""
        return self.kept(("speed", name), lambda: np.linalg.norm(self.velocity(name), axis=-1))

    def slow_speed(self, name: str, cutoff: float) -> np.ndarray:
        """Speed `(copies, frames)` on a copy of the raw path low-passed at `cutoff` Hz."""

        def make() -> np.ndarray:
            path = filtered(self.as_seen.at(name), self.rate, cutoff)
            return np.asarray(np.linalg.norm(self.body.seen(derivative(path, self.rate)), axis=-1))

        return self.kept(("slow", name, cutoff), make)

    def pelvis_rotation(self) -> np.ndarray:
        """Unwrapped pelvis rotation `(copies, frames)` degrees, on the branch (-180, 180] at the start."""
        return self.kept("pelvis", lambda: unwrapped(self.body.pelvis_rotation()))

    def trunk_rotation(self) -> np.ndarray:
        """Unwrapped trunk rotation `(copies, frames)` degrees, on the branch (-180, 180] at the start."""
        return self.kept("trunk", lambda: unwrapped(self.body.trunk_rotation()))

    def separation(self) -> np.ndarray:
        """Pelvis rotation less trunk rotation, `(copies, frames)` degrees."""
        return np.asarray(self.pelvis_rotation() - self.trunk_rotation())

    def layback(self, branch: np.ndarray) -> np.ndarray:
        """External rotation `(copies, frames)` degrees, unwrapped from (-180, 180] at the instants `branch` (copies,),
        or where it is first known after them: the landing, since no forearm is laid back beyond 180 by then, and
        what is missed between the hands' parting and landing must not turn it over.

        From one camera the planar stand-in, unwrapped from (-90, 270].
        """
        planar = self.flat is not None

        def make() -> np.ndarray:
            curve = unwrapped(self.body.planar_layback() if planar else self.body.external_rotation())
            at = np.clip(np.round((branch - self.times[0]) * self.rate).astype(int), 0, self.times.size - 1)
            known = ~np.isnan(curve) & (np.arange(curve.shape[1]) >= at[:, None])
            value = curve[np.arange(curve.shape[0]), known.argmax(axis=1)]
            low = -90.0 if planar else -180.0
            shift = 360.0 * np.ceil((value - low) / 360.0 - 1.0)
            return np.asarray(curve - np.nan_to_num(shift)[:, None])

        return self.kept(("layback", branch.tobytes()), make)

    def rate_of(self, key: str, curve: np.ndarray) -> np.ndarray:
        """Derivative `(copies, frames)` of a named curve, kept."""
        return self.kept(("rate", key), lambda: derivative(curve, self.rate))

    def copies(self, count: int, rng: np.random.Generator) -> Motion:
        """`count` copies: the smoothed motion with fresh noise at the measured level, smoothed by the same rule.

        Smoothing is linear, so the noise is smoothed on its own, once, as one long stretch; each copy takes a
        stretch of it from a random place. Single precision: its rounding is far below any noise. Every call takes
        cut-offs that another analyst might have chosen; each copy has a scale and a camera of its own.
        """
        if self.is_bare:
            return replace(self, points=np.broadcast_to(self.points, (count, *self.points.shape[1:])), _cache={})
        frames, length, choice = self.times.size, round(_BANK * self.rate), float(rng.choice(_CUTOFF_CHOICES))
        cutoffs = self.cutoffs * choice
        clean = self.kept(("clean", choice), lambda: low_pass(self.points, self.rate, cutoffs)[0].astype(np.float32))
        own = np.random.default_rng(round(100 * choice))  # nothing hangs on whether a bank is there already
        bank = self.kept(("bank", choice), lambda: self._noise_bank(frames + length, cutoffs, own))
        starts = rng.integers(0, length, count)
        noise = np.stack([bank[start : start + frames] for start in starts])
        if self.trust is not None:
            # the models' marks at a third of full confidence are off by about half as much again
            noise *= (2.0 - self.trust)[..., None].astype(np.float32)
        jittered = clean + noise
        if self.offsets is not None:
            jittered += self.offsets.drawn(self.times, count, rng) * np.float32(self.height)
        if self.sight.scale_sd:
            jittered *= rng.normal(1.0, self.sight.scale_sd, (count, 1, 1, 1)).astype(np.float32)
        if self.flat is not None:
            self._turn_cameras(jittered, rng)
        return replace(self, points=jittered, _cache={})

    def _turn_cameras(self, jittered: np.ndarray, rng: np.random.Generator) -> None:
        """Each copy's camera stands a little otherwise than was thought; `jittered` is changed in place.

        A landmark as far before or behind the plane of motion as a body is wide is seen that far aside, a length along
        the plane is seen longer or shorter, and a picture that is not upright tilts everything.
        """
        count, seen = jittered.shape[0], 1 - (self.flat or 0)
        if self.sight.yaw_sd:
            yaw = np.radians(np.clip(rng.normal(self.sight.yaw, self.sight.yaw_sd, (count, 1)), -68, 68))
            depth = rng.normal(0.0, _BODY_DEPTH, (count, self.points.shape[2])) + rng.normal(size=(count, 2)) @ _ARMS
            depth *= self.height
            longer = np.cos(np.radians(self.sight.yaw)) / np.cos(yaw) if self.sight.yaw else np.ones_like(yaw)
            jittered[..., seen] *= longer[..., None].astype(np.float32)
            jittered[..., seen] += (depth * np.tan(yaw)).astype(np.float32)[:, None]
        if self.sight.roll_sd:
            roll = np.radians(rng.normal(0.0, self.sight.roll_sd, (count, 1, 1))).astype(np.float32)
            along, up = jittered[..., seen].copy(), jittered[..., 2]
            jittered[..., seen] += roll * up
            jittered[..., 2] = up - roll * along

    def _noise_bank(self, length: int, cutoffs: np.ndarray, rng: np.random.Generator) -> np.ndarray:
        """Smoothed noise `(length, landmarks, 3)` in metres at each landmark's level and cut-off."""
        white = rng.standard_normal((1, length, *self.raw.shape[1:]), dtype=np.float32)
        white *= self.noise[:, None].astype(np.float32)
        if self.sight.by_model:
            white[0] += wander_of(length, self.rate, self.height, rng)
        return np.asarray(low_pass(white, self.rate, cutoffs)[0])

    def smoothed_noise(self, name: str, order: int = 0, cutoff: float | None = None) -> float:
        """Noise left after smoothing in a landmark's position (m), or in its `order`-th derivative (m/s^order).

        At its own cut-off, or at another one (Hz): white noise and wavering together.
        """
        return float(np.hypot(self.white_noise(name, order, cutoff), self.waver(name, order, cutoff)))

    def white_noise(self, name: str, order: int = 0, cutoff: float | None = None) -> float:
        """The part of `smoothed_noise` that forgets from frame to frame."""
        j = _members(name)
        fc = cutoff or float(np.max(self.cutoffs[j]))
        sigma = float(np.sqrt(np.sum(self.noise[j] ** 2)) / len(j))
        return float(sigma * np.sqrt(2 * fc / self.rate) * (2 * np.pi * fc) ** order / np.sqrt(2 * order + 1))

    def stirs(self, names: Sequence[str], cutoff: float) -> tuple[float, float]:
        """m/s, standard deviations: how fast landmarks that stand still seem to move on a slow copy, by what is white
        and by what wavers.
        """
        white = max(self.white_noise(name, 1, cutoff=cutoff) for name in names)
        return white, max(self.waver(name, 1, cutoff=cutoff) for name in names)

    def waver(self, name: str, order: int = 0, cutoff: float | None = None) -> float:
        """The part of `smoothed_noise` that a landmark model's marks waver by; 0 for other tracks."""
        if not self.sight.by_model:
            return 0.0
        j = _members(name)
        fc = cutoff or float(np.max(self.cutoffs[j]))
        spread = self.height * float(np.sqrt(np.sum(_WANDER_SHARES[j] ** 2)) / len(j))
        f = np.linspace(-fc, fc, 201)  # the spectrum of what forgets exponentially, below the cut-off
        power = (2 * np.pi * f) ** (2 * order) * 2 * _FORGETS / (1 + (2 * np.pi * f * _FORGETS) ** 2)
        return float(spread * np.sqrt(np.trapezoid(power, f)))

    def kept(self, key: object, make: Callable[[], np.ndarray]) -> np.ndarray:
        """What `make` gives, worked out once for this motion."""
        if key not in self._cache:
            self._cache[key] = make()
        return np.asarray(self._cache[key])


def _members(name: str) -> list[int]:
    """Columns of a landmark, or of the pair whose middle it names."""
    return [INDEX[one] for one in MIDDLES.get(name, (name,))]


_WANDER_SHARES = np.array([_WANDER[name.rsplit("_", 1)[-1]] for name in LANDMARKS])


def wander_of(frames: int, rate: float, height: float, rng: np.random.Generator) -> np.ndarray:
    """How a landmark model's marks wander: `(frames, landmarks, 3)` metres, an Ornstein-Uhlenbeck process each."""
    keep = np.exp(-1.0 / (rate * _FORGETS))
    steps = rng.standard_normal((frames, len(LANDMARKS), 3)) * np.sqrt(1 - keep**2)
    steps[0] /= np.sqrt(1 - keep**2)
    wandered = forgetting(float(keep)).from_rest(steps.reshape(frames, -1)).reshape(steps.shape)
    return np.asarray(wandered * (height * _WANDER_SHARES)[:, None])


def prepare(track: Track, height: float, sight: Sight = FIELD_SIGHT, finer: float = 1.0) -> Motion:
    """Even clock, gaps filled, cut-offs chosen (and multiplied by `finer`), smoothed."""
    rate = track.rate
    if track.is_bare:
        none = np.full(len(LANDMARKS), np.inf)
        return Motion(track.times, rate, track.points[None], track.points, none, none, height, sight)
    times, points = _even(track, rate)
    raw = fill_gaps(points, rate)
    return _smoothed(times, rate, raw, choose_cutoffs(raw, rate) * finer, height, sight, _trust(track, times))


def smoothed_alike(motions: Sequence[Motion]) -> list[Motion]:
    """The motions with one smoothing: per landmark the lowest of their cut-offs; bare ones ask for none."""
    shared = np.min([m.cutoffs for m in motions], axis=0)
    return [
        m
        if m.is_bare or np.array_equal(shared, m.cutoffs)
        else _smoothed(m.times, m.rate, m.raw, shared, m.height, m.sight, m.trust)
        for m in motions
    ]


def _smoothed(
    times: np.ndarray,
    rate: float,
    raw: np.ndarray,
    cutoffs: np.ndarray,
    height: float,
    sight: Sight,
    trust: np.ndarray | None,
) -> Motion:
    smoothed = low_pass(raw[None], rate, cutoffs)
    noise = np.maximum(noise_level(raw, smoothed[0], rate, cutoffs), _LEAST_NOISE)
    return Motion(times, rate, smoothed, raw, cutoffs, noise, height, sight, trust)


def _trust(track: Track, times: np.ndarray) -> np.ndarray | None:
    """The track's confidence `(frames, landmarks)` on an even clock, None where it is full throughout."""
    seen = ~np.isnan(track.points).all(axis=-1)
    if (track.confidence[seen] >= 1.0).all():
        return None
    nearest = np.clip(np.searchsorted(track.times, times - 0.5 / track.rate), 0, track.times.size - 1)
    return np.asarray(np.clip(track.confidence[nearest], 0.0, 1.0))


def unwrapped(curve: np.ndarray) -> np.ndarray:
    """Degrees `(copies, frames)` without 360 jumps; missing frames are bridged, then missing again."""
    missing = np.isnan(curve)
    if missing.all():
        return curve
    if missing.any():
        index = np.where(missing, 0, np.arange(curve.shape[1]))
        last = np.maximum.accumulate(index, axis=1)
        bridged = np.take_along_axis(curve, last, axis=1)
        first = np.argmax(~missing, axis=1)
        head = curve[np.arange(curve.shape[0]), first][:, None]
        curve = np.where(np.isnan(bridged), head, bridged)
    out = np.unwrap(curve, period=360.0, axis=1)
    return np.where(missing, np.nan, out)


def _even(track: Track, rate: float) -> tuple[np.ndarray, np.ndarray]:
    """Times and points on an even clock; a track that is even to a twentieth of a frame is taken as it is."""
    count = round((track.times[-1] - track.times[0]) * rate) + 1
    times = track.times[0] + np.arange(count) / rate
    if count == track.times.size and np.abs(times - track.times).max() < 0.05 / rate:
        return times, track.points
    from scipy.interpolate import CubicSpline

    flat = track.points.reshape(track.times.size, -1)
    out = np.full((count, flat.shape[1]), np.nan)
    for j in range(flat.shape[1]):
        seen = ~np.isnan(flat[:, j])
        if seen.sum() < 4:
            continue
        at = track.times[seen]
        out[:, j] = CubicSpline(at, flat[seen, j], extrapolate=False)(times)
        for i in np.flatnonzero(np.diff(at) > _GAP_STEPS / rate):
            out[(times > at[i] + 0.1 / rate) & (times < at[i + 1] - 0.1 / rate), j] = np.nan
    return times, out.reshape(count, *track.points.shape[1:])
