"""An athlete over time: what every session's throws say together, and whether it moved since.

A change counts only when it is resolved: larger than twice the two sessions' doubts together. It is called unchanged
only when both sessions are known to be alike.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from waxtwin.core.arm_sensor import ArmReading
from waxtwin.core.before_after import CHANGED, STATES, UNCHANGED, UNRESOLVABLE
from waxtwin.core.contrast import verdict_of
from waxtwin.core.matters import USUAL, Matters
from waxtwin.core.measures import MEASURES
from waxtwin.core.plan import Focus, Plan
from waxtwin.core.sets import error_of_mean

SPEED = "ball_speed"
RADAR_SD = 0.13  # m/s: a radar gun that shows whole miles an hour is off by up to half of one, evenly
_OFF = 3.5  # how many usual distances from its session a reading must be to be asked about, and ...
_OFF_LEAST = 3.0  # ... by how many m/s at least
_SAYS = {CHANGED: "changed", UNCHANGED: "not moved", UNRESOLVABLE: "cannot be told"}


@dataclass(frozen=True)
class Figures:
    """One throw's measures with their doubts, `values` and `sds` by id (None where not seen or not resolved)."""

    key: int
    date: str
    ball_speed: float | None
    values: Mapping[str, float | None]
    sds: Mapping[str, float | None]
    planar: bool = False


@dataclass(frozen=True, slots=True)
class Point:
    """A measure in one session: the mean of its throws, the mean's standard deviation (None when it cannot be told),
    the lowest and highest throw, how many throws show it, and whether it is seen in the picture only.
    """  # fmt: skip

    date: str
    value: float
    error: float | None
    low: float
    high: float
    count: int
    planar: bool


@dataclass(frozen=True, slots=True)
class Shift:
    """From one point to another: how much, resolved to what, and what that makes it (CHANGED, UNCHANGED, ...)."""

    before: Point
    after: Point
    difference: float
    resolution: float | None
    state: str


@dataclass(frozen=True, slots=True)
class ArmNote:
    """How the arm was on a day: `soreness` 0 (none) to 10, `place` where, `since` when (ISO day), `text` more."""

    date: str
    soreness: int
    place: str = ""
    since: str | None = None
    text: str = ""


@dataclass(frozen=True)
class Outcome:
    """Whether a plan worked, as far as it can be told: each focus with its shift, the speed's shift, the arm.

    A shift is None where there is no session before or after. `arm` are the notes since the start, `sensed` what a
    sensor on the arm ever said, which is told and not judged.
    """

    since: str
    moved: tuple[tuple[Focus, Shift | None], ...]
    speed: Shift | None
    arm: tuple[ArmNote, ...]
    sensed: tuple[ArmReading, ...] = ()

    @property
    def toward(self) -> tuple[bool | None, ...]:
        """For each focus whether it moved the right way; None: it did not move, or that cannot be told."""
        return tuple(_toward(focus, found) for focus, found in self.moved)

    @property
    def arm_well(self) -> bool | None:
        """Whether no soreness was noted since the start; None when nothing was noted."""
        return None if not self.arm else all(note.soreness == 0 for note in self.arm)

    @property
    def worst(self) -> ArmNote | None:
        """The sorest day since the start."""
        return max(self.arm, key=lambda note: (note.soreness, note.date), default=None)


def trend(throws: Iterable[Figures], measure: str) -> tuple[Point, ...]:
    """A measure session by session, in order of date; SPEED for ball speed. Sessions seen another way stay apart."""
    sessions: dict[tuple[str, bool], list[Figures]] = {}
    for throw in throws:
        if value_of(throw, measure) is not None:
            sessions.setdefault((throw.date, throw.planar and measure != SPEED), []).append(throw)
    return tuple(_point(date, planar, each, measure) for (date, planar), each in sorted(sessions.items()))


def value_of(throw: Figures, measure: str) -> float | None:
    """A throw's figure; SPEED for its ball speed."""
    return throw.ball_speed if measure == SPEED else throw.values.get(measure)


def _point(date: str, planar: bool, throws: Sequence[Figures], measure: str) -> Point:
    figures = np.array([value_of(throw, measure) for throw in throws], float)
    noise = [RADAR_SD if measure == SPEED else throw.sds.get(measure) for throw in throws]
    # one throw says nothing about how fast somebody throws that day
    error = None if measure == SPEED and figures.size < 2 else error_of_mean(figures, noise)
    return Point(date, float(figures.mean()), error, float(figures.min()), float(figures.max()), figures.size, planar)


def shift(points: Sequence[Point], measure: str, since: str, matters: Matters = USUAL) -> Shift | None:
    """From the last session up to a day to the latest one after it, seen the same way; None without both."""
    after = [point for point in points if point.date > since]
    if not after:
        return None
    last = after[-1]
    before = [point for point in points if point.date <= since and point.planar == last.planar]
    return None if not before else between(before[-1], last, measure, matters)


def between(before: Point, after: Point, measure: str, matters: Matters = USUAL) -> Shift:
    """What changed between two sessions in a measure, or in SPEED."""
    known = before.error is not None and after.error is not None
    resolution = 2.0 * float(np.hypot(before.error or 0.0, after.error or 0.0)) if known else None
    difference = after.value - before.value
    figures = before.value, after.value
    if measure == SPEED:
        alike = matters.shares["m/s"] * max(map(abs, figures))
    else:
        alike = matters.alike_within(MEASURES[measure], *figures)
    return Shift(before, after, difference, resolution, STATES[verdict_of(difference, resolution, alike)])


def outcome(
    plan: Plan, throws: Sequence[Figures], notes: Sequence[ArmNote], sensed: Sequence[ArmReading] = ()
) -> Outcome | None:
    """Whether a plan worked; None as long as it has no start."""
    if plan.start is None:
        return None
    since = plan.start
    moved = []
    for focus in plan.focus:
        found = None
        if focus.target is not None:
            found = shift(trend(throws, focus.target.measure), focus.target.measure, since)
        moved.append((focus, found))
    speed = shift(trend(throws, SPEED), SPEED, since)
    return Outcome(since, tuple(moved), speed, tuple(note for note in notes if note.date >= since), tuple(sensed))


def _toward(focus: Focus, found: Shift | None) -> bool | None:
    if found is None or found.state != CHANGED or focus.target is None:
        return None
    wanted = focus.target.aim - found.before.value
    return found.difference * wanted > 0


def suspect_speeds(speeds: Sequence[float | None]) -> tuple[int, ...]:
    """Which readings of a session stand so far from the others that a radar gun may have read something else.

    Places in `speeds`; distance from the median in units of the usual distance (median absolute deviation, Hampel
    1974), and by at least 3 m/s. Fewer than three readings tell nothing.
    """
    known = [(n, value) for n, value in enumerate(speeds) if value is not None]
    if len(known) < 3:
        return ()
    figures = np.array([value for _, value in known])
    away = np.abs(figures - np.median(figures))
    usual = 1.4826 * float(np.median(away))
    far = (away > _OFF * usual) & (away > _OFF_LEAST)
    return tuple(n for (n, _), odd in zip(known, far, strict=True) if odd)


def said_state(state: str) -> str:
    """A state in plain words."""
    return _SAYS[state]


@dataclass(frozen=True)
class Limits:
    """The league's limits as somebody entered them: most throws a day, and days of rest after so many throws."""

    league: str = ""
    link: str = ""
    most: int | None = None
    rest: tuple[tuple[int, int], ...] = ()

    def rest_after(self, thrown: int) -> int | None:
        """Days of rest after so many throws; None where nothing was entered."""
        if not self.rest:
            return None
        return max((days for throws, days in self.rest if thrown >= throws), default=0)


def against_limits(limits: Limits, thrown: Sequence[tuple[str, int]]) -> tuple[str, ...]:
    """What days (ISO day, throws) say against the entered limits, in plain words; nothing where none were entered."""
    from datetime import date

    said = []
    for n, (day, count) in enumerate(thrown):
        if limits.most is not None and count > limits.most:
            said.append(
                f"{day}: {count} throws; the limit entered for {limits.league or 'the league'} is {limits.most}."
            )
        rest = limits.rest_after(count)
        if rest and n + 1 < len(thrown):
            rested = (date.fromisoformat(thrown[n + 1][0]) - date.fromisoformat(day)).days - 1
            if rested < rest:
                said.append(f"{day}: {count} throws ask for {rest} days of rest as entered; {rested} were kept.")
    return tuple(said)
