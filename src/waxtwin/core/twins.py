"""Twin choice: which throws of a library are worth holding beside an athlete's, with reasons; the analyst decides."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields
from typing import Any

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.measures import MEASURES

# What a throw is known by, and how far apart two pitchers usually are in it (one standard deviation).
STYLE: Mapping[str, float] = {
    "lift_height": 5.0, "lift_turn": 10.0, "lift_foot_swing": 15.0, "release_side_tilt": 8.0,
    "landing_elbow_flexion": 14.0, "lead_swing_width": 0.12,
}  # fmt: skip
TEMPO: Mapping[str, float] = {"landing_to_release": 12.0, "lift_to_landing": 80.0, "first_move_to_lift": 140.0}
SLOT: Mapping[str, float] = {"release_slot": 12.0}
FEATURES: tuple[str, ...] = (*SLOT, *TEMPO, *STYLE)
CRITERIA: Mapping[str, str] = {
    "build": "Height and arm span", "slot": "Arm slot", "tempo": "Tempo", "style": "Style", "hand": "Throwing hand",
    "speed": "Faster, but not out of reach", "view": "View and frame rate",
}  # fmt: skip
WEIGHTS: Mapping[str, float] = {
    "build": 3.0, "slot": 2.0, "tempo": 1.5, "style": 1.5, "hand": 1.0, "speed": 2.0, "view": 1.5,
}  # fmt: skip
_UNKNOWN = 0.4  # closeness where a figure is missing on either side
_TALLER = 0.03  # m: bigger than you
_HEIGHT, _SPAN = 0.06, 0.03  # m; share of height: usual differences of build
_WANTED = (0.04, 0.16)  # of the athlete's speed: how much faster a twin best is
_MIRRORED = 0.75  # closeness of the other hand


@dataclass(frozen=True, slots=True)
class Profile:
    """A throw as it is compared: `features` (FEATURES,) in the measures' units, NaN where not known; metres, m/s.

    `view` is "3D", "side" or "front"; `rate` frames a second; `key` and `athlete` are the library's.
    """

    key: int
    athlete: int
    name: str
    throws: str
    height: float | None
    span: float | None
    ball_speed: float | None
    pitch: str | None
    recorded: str | None
    view: str
    rate: float
    features: np.ndarray


def features_of(analysis: Analysis) -> tuple[np.ndarray, str, float]:
    """Features, view and frame rate of a throw. Features seen in the picture only count as not known."""
    values = [analysis.measures[name] for name in FEATURES]
    features = np.array([np.nan if v.value is None or (v.planar and MEASURES[name].unit == "deg") else v.value
                         for name, v in zip(FEATURES, values, strict=True)])  # fmt: skip
    return features, {None: "3D", 1: "side", 0: "front"}[analysis.motion.flat], analysis.motion.rate


class Shelf:
    """Many profiles as columns, in the order of Profile's fields: ten thousand are ranked while somebody waits."""

    def __init__(self, columns: Sequence[Sequence[Any]], features: np.ndarray) -> None:
        """`columns` for every field but the last, `features` (profiles, FEATURES)."""
        self._columns = columns
        self.features = features
        self.keys, self.athletes = (np.array(column, dtype=int) for column in columns[:2])
        self.throws, self.views = np.array(columns[3]), np.array(columns[9])
        self.heights, self.spans, self.balls = (np.array(column, dtype=float) for column in columns[4:7])
        self.rates = np.array(columns[10], dtype=float)

    @classmethod
    def of(cls, profiles: Sequence[Profile]) -> Shelf:
        """These profiles. Raises ValueError for none."""
        if not profiles:
            raise ValueError("no profiles")
        names = [one.name for one in fields(Profile)][:-1]
        columns = [[getattr(profile, name) for profile in profiles] for name in names]
        return cls(columns, np.array([profile.features for profile in profiles]))

    def __len__(self) -> int:
        return int(self.features.shape[0])

    def profile(self, i: int) -> Profile:
        """One of them."""
        values: list[Any] = [*(column[i] for column in self._columns), self.features[i]]
        return Profile(*values)

    def recorded(self, i: int) -> str:
        """When it was thrown, ISO, or nothing."""
        return self._columns[8][i] or ""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A possible twin: `score` 0 to 1, `closeness` by criterion, `reasons` for it, `warnings`; `own` if it is the
    athlete's own throw.
    """  # fmt: skip

    profile: Profile
    score: float
    closeness: Mapping[str, float]
    reasons: tuple[str, ...]
    warnings: tuple[str, ...]
    own: bool


@dataclass(frozen=True)
class Wish:
    """What is looked for: weights by criterion, and whether only bigger pitchers or only the same build will do."""

    weights: Mapping[str, float]
    bigger: bool = False
    same_build: bool = False


def rank(athlete: Profile, shelf: Shelf, wish: Wish | None = None, count: int = 30) -> list[Candidate]:
    """The best twins for an athlete, best first, each pitcher with the best throw; after them own throws, by day."""
    wish = wish or Wish(WEIGHTS)
    close = _closeness(athlete, shelf)
    weights = np.array([max(wish.weights.get(name, 0.0), 0.0) for name in CRITERIA])
    score = np.array(list(close.values())).T @ (weights / max(weights.sum(), 1e-9))
    others = shelf.keys != athlete.key
    own = shelf.athletes == athlete.athlete
    allowed = _allowed(athlete, shelf, wish) & ~own & others
    order = np.argsort(-np.where(allowed, score, -1.0), kind="stable")[: int(allowed.sum())]
    _, first = np.unique(shelf.athletes[order], return_index=True)
    order = order[np.sort(first)][:count]
    mine = sorted(np.flatnonzero(own & others), key=lambda i: shelf.recorded(int(i)), reverse=True)
    days = [shelf.recorded(int(i)) for i in mine]
    mine = [i for n, i in enumerate(mine) if days[n] not in days[:n]]  # one throw of each day is enough
    return [_candidate(athlete, shelf.profile(int(i)), float(score[i]), {n: float(c[i]) for n, c in close.items()})
            for i in (*order, *mine)]  # fmt: skip


def _closeness(athlete: Profile, shelf: Shelf) -> dict[str, np.ndarray]:
    """How close each is by criterion, 0 to 1, `(profiles,)`."""
    height, span, ball = (np.nan if v is None else v for v in (athlete.height, athlete.span, athlete.ball_speed))
    away = (shelf.features - athlete.features) / np.array([{**SLOT, **TEMPO, **STYLE}[name] for name in FEATURES])
    places = {name: i for i, name in enumerate(FEATURES)}

    def near(group: Mapping[str, float]) -> np.ndarray:
        return _known_mean(np.exp(-0.5 * away[:, [places[name] for name in group]] ** 2))

    limbs = (shelf.spans / shelf.heights - span / height) / _SPAN
    build = np.stack([np.exp(-0.5 * ((shelf.heights - height) / _HEIGHT) ** 2), np.exp(-0.5 * limbs**2)], axis=1)
    faster = shelf.balls / ball - 1
    short, far = np.maximum(_WANTED[0] - faster, 0) / 0.04, np.maximum(faster - _WANTED[1], 0) / 0.10
    speed = np.exp(-0.5 * (short**2 + far**2))
    rates = np.minimum(shelf.rates, athlete.rate) / np.maximum(shelf.rates, athlete.rate)
    seen = np.where(
        shelf.views == athlete.view, 1.0, np.where((shelf.views == "3D") | (athlete.view == "3D"), 0.5, 0.1)
    )
    return {
        "build": _known_mean(build), "slot": near(SLOT), "tempo": near(TEMPO), "style": near(STYLE),
        "hand": np.where(shelf.throws == athlete.throws, 1.0, _MIRRORED), "speed": np.nan_to_num(speed, nan=_UNKNOWN),
        "view": seen * rates**0.25,
    }  # fmt: skip


def _known_mean(values: np.ndarray) -> np.ndarray:
    """Mean over the last axis of what is known, _UNKNOWN where nothing is."""
    known = ~np.isnan(values)
    total = np.where(known, values, 0.0).sum(axis=1)
    return np.asarray(np.where(known.any(axis=1), total / np.maximum(known.sum(axis=1), 1), _UNKNOWN))


def _allowed(athlete: Profile, shelf: Shelf, wish: Wish) -> np.ndarray:
    allowed = np.ones(shelf.heights.size, bool)
    if athlete.height is not None and wish.bigger:
        allowed &= shelf.heights > athlete.height + _TALLER
    if athlete.height is not None and wish.same_build:
        allowed &= np.abs(shelf.heights - athlete.height) <= _HEIGHT
        if athlete.span is not None:
            apart = np.abs(shelf.spans / shelf.heights - athlete.span / athlete.height)
            allowed &= ~(apart > _SPAN)  # an unknown span is no reason against
    return allowed


def _candidate(athlete: Profile, one: Profile, score: float, closeness: Mapping[str, float]) -> Candidate:
    own = one.athlete == athlete.athlete
    return Candidate(one, score, closeness, tuple(_reasons(athlete, one, own=own)), tuple(_warnings(athlete, one)), own)


def _reasons(athlete: Profile, one: Profile, *, own: bool) -> list[str]:
    said = []
    if own:
        said.append(f"the athlete's own throw{f' of {one.recorded}' if one.recorded else ''}")
    if athlete.height and one.height:
        apart = one.height - athlete.height
        words = "as tall to a centimetre" if abs(apart) < 0.015 else f"{abs(apart) * 100:.0f} cm "
        said.append(words if abs(apart) < 0.015 else words + ("taller" if apart > 0 else "shorter"))
    if all((athlete.height, athlete.span, one.height, one.span)):
        limbs = one.span / one.height - athlete.span / athlete.height  # type: ignore[operator]
        if abs(limbs) > 0.02:
            said.append("longer arms for the height" if limbs > 0 else "shorter arms for the height")
        else:
            said.append("arms alike")
    for name, words in (("release_slot", "arm slot"), ("landing_to_release", "landing to release")):
        apart = float(one.features[FEATURES.index(name)] - athlete.features[FEATURES.index(name)])
        if np.isfinite(apart):
            said.append(f"{words} {abs(apart):.0f}{'°' if name == 'release_slot' else ' ms'} apart")
    if athlete.ball_speed and one.ball_speed:
        faster = one.ball_speed / athlete.ball_speed - 1
        words = f"{abs(faster) * 100:.0f} % {'faster' if faster > 0 else 'slower'}"
        said.append("as fast" if abs(faster) < 0.005 else words)
    return said


def _warnings(athlete: Profile, one: Profile) -> list[str]:
    said = []
    if one.throws != athlete.throws:
        said.append("throws with the other hand; shown mirrored")
    if one.view != athlete.view:
        said.append(f"seen {_seen(one.view)}, the athlete {_seen(athlete.view)}: only what both show is contrasted")
    if max(one.rate, athlete.rate) > 1.9 * min(one.rate, athlete.rate):
        said.append(f"{one.rate:.0f} frames a second against {athlete.rate:.0f}")
    if one.pitch and athlete.pitch and one.pitch != athlete.pitch:
        said.append(f"a {one.pitch} against a {athlete.pitch}")
    return said


def _seen(view: str) -> str:
    return {"3D": "in space", "side": "from the side", "front": "from the front or rear"}[view]
