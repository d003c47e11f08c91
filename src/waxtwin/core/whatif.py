"""What if: a body with chosen shares of the twin's motion, its hand and ball speed, and whether it could be.

The response to a share is not a straight line, so every share is computed, never drawn out from others.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.body import Body, dot, unit
from waxtwin.core.borrowed import COPIES, FACTORS, Side, far_apart, on_clock, peak_speed, sample_offsets, side_of
from waxtwin.core.landmarks import INDEX
from waxtwin.core.linked import Linked, hand_of, joints_of, matrices, mixed
from waxtwin.core.motion import Motion

MOST = 1.2  # a share may go a little beyond the twin's
Shares = Mapping[str, float]
_FEET = tuple(f"{side}_{part}" for side in ("drive", "lead") for part in ("ankle", "heel", "toe"))
_ON_TRUNK = ("glove_shoulder", "glove_elbow", "glove_wrist", "glove_hand", "head", "nose")
_PARTS = {"pelvis": "pelvis_path", "turn": "pelvis_rotation", "trunk": "trunk", "shoulder": "trunk",
          "upper": "shoulder", "forearm": "elbow_hand", "hand": "elbow_hand"}  # fmt: skip
_TURNS = ("turn", "trunk", "upper")
_UNITS = ("forearm", "hand")
_REACHES = 1.005  # of the leg's length: further from the foot no hip can be
_MOST_LAYBACK, _MOST_SEPARATION = 200.0, 80.0  # degrees: beyond these no pitcher was seen


@dataclass(frozen=True, slots=True)
class Prediction:
    """Speeds in m/s; `low` and `high` two standard deviations of the end's speed about it, as far as is resolved."""

    hand: float
    ball: float | None
    low: float
    high: float


@dataclass(frozen=True)
class WhatIf:
    """A pair from which shares of the twin's motion can be borrowed; those left out are 0. Raises NotBorrowable."""

    athlete: Analysis
    twin: Analysis
    _kept: dict[object, Any] = field(default_factory=dict, repr=False, compare=False)

    @cached_property
    def _sides(self) -> tuple[Side, Side]:
        return side_of(self.athlete, "athlete", from_lift=True), side_of(self.twin, "twin", from_lift=True)

    @cached_property
    def _copies(self) -> tuple[Side, Side]:
        return side_of(self.athlete, "athlete", COPIES, 11), side_of(self.twin, "twin", COPIES, 12)

    @cached_property
    def trouble(self) -> str:
        """Which joints are turned too far apart to be mixed, in words, or nothing."""
        return far_apart(*self._sides)

    # speeds --------------------------------------------------------------------------------------------------------
    def predict(self, shares: Shares, *, spread: bool = True) -> Prediction:
        """Hand and ball speed with these shares; without `spread`, quickly and not saying how far they are resolved."""
        hand = float(_speed(self._sides, shares, self._kept)[0])
        balls = [side.delivery.ball_speed for side in (self.athlete, self.twin)]
        ratio = 1.0
        with_ball = all(balls)
        if with_ball:
            ends = [float(ball or 0.0) / self._own(k) for k, ball in enumerate(balls)]
            ratio = ends[0] + shares.get("ball", 0.0) * (ends[1] - ends[0])
        doubt = 2 * self._spread(shares) * ratio if spread else 0.0
        end = hand * ratio
        return Prediction(hand, end if with_ball else None, end - doubt, end + doubt)

    def _own(self, which: int) -> float:
        """A side's own hand speed out of its linked body, m/s."""
        key = ("own", which)
        if key not in self._kept:
            everything = dict.fromkeys(FACTORS, float(which))
            self._kept[key] = float(_speed(self._sides, everything, {})[0])
        return float(self._kept[key])

    def _spread(self, shares: Shares) -> float:
        """Standard deviation of what is gained over the athlete's own speed, over jittered copies, m/s."""
        if not any(shares.values()):
            return 0.0
        cache = self._kept.setdefault("copies", {})
        if "own" not in cache:
            cache["own"] = _speed(self._copies, {}, {})
        return float(np.std(_speed(self._copies, shares, cache) - cache["own"]))

    # the figure ----------------------------------------------------------------------------------------------------
    def clock(self, shares: Shares) -> np.ndarray:
        """Lift, landing, release and the end in seconds `(4,)`, on the clock of a body with these shares."""
        return np.asarray(_knots(self._sides, shares)[0])

    def body(self, shares: Shares, phase: float) -> np.ndarray:
        """The whole body's landmarks `(landmarks, 3)` in metres; `phase` from 0 at the lift to 1 at the end."""
        knots = _knots(self._sides, shares)
        time = knots[:, :1] + phase * (knots[:, 3:] - knots[:, :1])
        times = [on_clock(knots, side.knots, time) for side in self._sides]
        bodies = [side.body.at(t) for side, t in zip(self._sides, times, strict=True)]
        joints = {name: at[0, 0] for name, at in joints_of(*_mixture(bodies, shares)).items()}
        poses = [_pose(one.motion, float(t[0, 0])) for one, t in zip((self.athlete, self.twin), times, strict=True)]
        axes = _frames(bodies, shares)
        size = 1 + shares.get("size", 0.0) * (self.twin.motion.height / self.athlete.motion.height - 1)
        return _whole(poses, joints, axes, shares, size, self.athlete.motion.height, self.twin.motion.height)

    def problems(self, shares: Shares) -> list[str]:
        """Why a body with these shares is not a possible one, in plain words; empty for the athlete's own."""
        if not any(shares.values()):
            return []
        found = []
        knots = self.clock(shares)
        at_landing = (knots[1] - knots[0]) / (knots[3] - knots[0])
        at_release = (knots[2] - knots[0]) / (knots[3] - knots[0])
        bodies = Body(np.stack([self.body(shares, p) for p in np.linspace(at_landing, at_release, 8)]))
        own = Body(np.stack([self.body({}, p) for p in np.linspace(at_landing, at_release, 8)]))
        for side, words in (("lead", "front"), ("drive", "back")):
            leg = _leg(own, side)
            scaled = leg * (1 + shares.get("size", 0.0) * (self.twin.motion.height / self.athlete.motion.height - 1))
            reach, usual = _reach(bodies, side) / scaled, _reach(own, side) / leg
            if reach.max() > max(_REACHES, usual.max() + 0.01):
                found.append(f"The {words} leg would have to be {reach.max() - 1:.0%} longer to reach its foot.")
        low = min(float(bodies.at(f"{side}_knee")[:, 2].min()) for side in ("lead", "drive"))
        if low < min(float(own.at(f"{side}_knee")[:, 2].min()) for side in ("lead", "drive")) - 0.15 or low < 0:
            found.append("A knee would go through the ground.")
        layback = bodies.external_rotation()
        if np.nanmax(layback, initial=0.0) > _MOST_LAYBACK:
            found.append(f"The arm would lay back to {np.nanmax(layback):.0f}°, further than a shoulder goes.")
        apart = bodies.pelvis_rotation() - bodies.trunk_rotation()
        if np.max(np.abs((apart + 180) % 360 - 180)) > _MOST_SEPARATION:
            found.append("Hips and shoulders would be turned further apart than a back allows.")
        return found


def _speed(sides: tuple[Side, Side], shares: Shares, kept: dict[object, Any]) -> np.ndarray:
    """Peak hand speed `(copies,)` m/s of a body with these shares; samples of the two bodies are kept per tempo."""
    tempo = shares.get("tempo", 0.0)
    if kept.get("tempo") != tempo:
        knots = _knots(sides, shares)
        drive = knots[:, 2] - knots[:, 1]
        offsets = sample_offsets(drive)
        times = knots[:, 2:3] + offsets * drive[:, None]
        bodies = [side.body.at(on_clock(knots, side.knots, times)) for side in sides]
        kept.update(tempo=tempo, samples=(bodies, times, offsets))
    bodies, times, offsets = kept["samples"]
    return peak_speed(hand_of(*_mixture(bodies, shares)), times, offsets)[0]


def _knots(sides: tuple[Side, Side], shares: Shares) -> np.ndarray:
    """The clock's knots `(copies, 4)` with a share of the twin's tempo; release stays where the athlete's is."""
    ours, theirs = (side.knots - side.knots[:, 2:3] for side in sides)
    return np.asarray(sides[0].knots[:, 2:3] + ours + shares.get("tempo", 0.0) * (theirs - ours))


def _mixture(bodies: list[Linked], shares: Shares) -> tuple[dict[str, np.ndarray], np.ndarray, np.ndarray]:
    """Parts, height and lengths of the mixed body, as `joints_of` takes them."""
    a, t = bodies
    parts = {}
    for name, factor in _PARTS.items():
        share = shares.get(factor, 0.0)
        ours, theirs = getattr(a, name), getattr(t, name)
        if name in _TURNS:
            parts[name] = mixed(ours, theirs, share)
        else:
            parts[name] = ours + share * (theirs - ours)
            if name in _UNITS:
                parts[name] = unit(parts[name])
    size = shares.get("size", 0.0)
    lengths = (a.lengths + size * (t.lengths - a.lengths))[:, None]
    return parts, np.asarray(a.height + size * (t.height - a.height)), lengths


def _frames(bodies: list[Linked], shares: Shares) -> tuple[np.ndarray, np.ndarray]:
    """Pelvis and trunk axes `(3, 3)` of the mixed body."""
    parts, _, _ = _mixture(bodies, shares)
    pelvis = matrices(parts["turn"])[0, 0]
    return pelvis, pelvis @ matrices(parts["trunk"])[0, 0]


def _pose(motion: Motion, time: float) -> np.ndarray:
    return np.asarray(motion.sample(motion.points, np.array([time]))[0], float)


def _whole(
    poses: list[np.ndarray], joints: Mapping[str, np.ndarray], axes: tuple[np.ndarray, np.ndarray], shares: Shares,
    size: float, height: float, other: float,
) -> np.ndarray:  # fmt: skip
    """The other landmarks around the chain: hips, what rides on the trunk, feet where the path puts them, knees."""
    ours, theirs = (Body(pose) for pose in poses)
    out = poses[0].copy()
    for name, at in joints.items():
        if name in INDEX:
            out[INDEX[name]] = at
    own_trunk = _trunk_axes(ours)
    pelvis, trunk = axes
    half = np.linalg.norm(ours.at("lead_hip") - ours.at("drive_hip")) / 2 * size
    out[INDEX["drive_hip"]] = joints["pelvis"] - half * pelvis[:, 0]
    out[INDEX["lead_hip"]] = joints["pelvis"] + half * pelvis[:, 0]
    for name in _ON_TRUNK:
        local = own_trunk.T @ (ours.at(name) - ours.at("throwing_shoulder"))
        out[INDEX[name]] = joints["throwing_shoulder"] + trunk @ local * size
    share = shares.get("pelvis_path", 0.0)
    for name in _FEET:
        path = ours.at(name) / height + share * (theirs.at(name) / other - ours.at(name) / height)
        out[INDEX[name]] = path * height * size
    for side in ("drive", "lead"):
        hip, ankle = out[INDEX[f"{side}_hip"]], out[INDEX[f"{side}_ankle"]]
        thigh, shank = (np.linalg.norm(ours.at(f"{side}_{a}") - ours.at(f"{side}_{b}")) * size
                        for a, b in (("hip", "knee"), ("knee", "ankle")))  # fmt: skip
        pole = ours.at(f"{side}_knee") - (ours.at(f"{side}_hip") + ours.at(f"{side}_ankle")) / 2
        out[INDEX[f"{side}_knee"]] = _knee(hip, ankle, pole, float(thigh), float(shank))
    for name in ("ball", "navel"):
        out[INDEX[name]] = np.nan
    return out


def _trunk_axes(body: Body) -> np.ndarray:
    """Axes as the linked body has them: third up the trunk, first toward the glove shoulder."""
    e3 = unit(body.trunk)
    s = body.at("glove_shoulder") - body.at("throwing_shoulder")
    e1 = unit(s - dot(s, e3) * e3)
    return np.stack([e1, np.cross(e3, e1), e3], axis=-1)


def _knee(hip: np.ndarray, ankle: np.ndarray, pole: np.ndarray, thigh: float, shank: float) -> np.ndarray:
    """The knee of a two-bone leg, bent toward `pole`; on the line between hip and ankle when they are too far apart."""
    line = ankle - hip
    reach = max(float(np.linalg.norm(line)), 1e-6)
    along = line / reach
    if reach >= thigh + shank:
        return np.asarray(hip + along * reach * thigh / (thigh + shank))
    forward = (thigh**2 - shank**2 + reach**2) / (2 * reach)
    aside = unit(pole - dot(pole, along) * along)
    return np.asarray(hip + along * forward + aside * np.sqrt(max(thigh**2 - forward**2, 0.0)))


def _leg(body: Body, side: str) -> float:
    """Length of a leg, hip to knee to ankle, metres: the middle over `(n,)` poses."""
    hip, knee, ankle = (body.at(f"{side}_{part}") for part in ("hip", "knee", "ankle"))
    return float(np.median(np.linalg.norm(hip - knee, axis=-1) + np.linalg.norm(knee - ankle, axis=-1)))


def _reach(body: Body, side: str) -> np.ndarray:
    """Hip to ankle `(n,)`, metres."""
    return np.asarray(np.linalg.norm(body.at(f"{side}_hip") - body.at(f"{side}_ankle"), axis=-1))
