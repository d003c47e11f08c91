"""What a sensor worn on the arm said, throw by throw: a number in its maker's unit.

Makers work their figure out in ways of their own, and none of them is the load inside an elbow. So nothing is judged
here: readings of one unit and make are put together by day, and those of another stand apart.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

LONGEST = 40  # characters of a unit's or a maker's name


@dataclass(frozen=True, slots=True)
class ArmReading:
    """What was read on a day (ISO): `unit` as its maker calls it, `make` free, `throw` the number of the day's throw
    that it was read of, where that is known.
    """

    date: str
    value: float
    unit: str = ""
    make: str = ""
    throw: int | None = None

    @property
    def kind(self) -> tuple[str, str]:
        """Unit and make: only readings of one kind can be held against each other."""
        return self.unit, self.make


@dataclass(frozen=True, slots=True)
class ArmDay:
    """A day's readings of one kind: mean, lowest, highest, how many."""

    date: str
    mean: float
    low: float
    high: float
    count: int


def latest_kind(readings: Sequence[ArmReading]) -> tuple[str, str] | None:
    """The kind that was read last; None without readings."""
    return max(readings, key=lambda one: one.date).kind if readings else None


def by_day(readings: Iterable[ArmReading], kind: tuple[str, str]) -> tuple[ArmDay, ...]:
    """Days with readings of a kind, in order."""
    days: dict[str, list[float]] = {}
    for one in readings:
        if one.kind == kind:
            days.setdefault(one.date, []).append(one.value)
    return tuple(
        ArmDay(date, sum(values) / len(values), min(values), max(values), len(values))
        for date, values in sorted(days.items())
    )


def kind_said(kind: tuple[str, str]) -> str:
    """A kind in words: “N·m, cuff of the house”."""
    unit, make = kind
    return ", ".join(part for part in (unit or "unit not said", make) if part)
