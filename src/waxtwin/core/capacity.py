"""The body behind the motion: screening with its bands, and where it changes what a finding means.

Capacity explains or softens; it never overrides a caution.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

MEASURED, NOT_MEASURED, FAILED = "measured", "not measured", "failed on the day"
STATES = (MEASURED, NOT_MEASURED, FAILED)
SIDES = ("throwing", "glove")
_LEGS = {"drive": "throwing", "lead": "glove"}  # the back leg is the throwing side's
_LONG = 1.035  # span over height: longer limbs than most
_STIFF = 2  # range items below the band


@dataclass(frozen=True, slots=True)
class Examination:
    """How a range was tested: `mode` “active” or “passive”, and the position of the body."""

    mode: str
    position: str

    def __str__(self) -> str:
        return f"{self.mode}, {self.position}"


@dataclass(frozen=True, slots=True)
class Item:
    """Something that is screened, with the band it usually lies in; `sides` when it is taken left and right.

    `tests` are the ways in which it is tested, where they give unlike figures; the band belongs to the first.
    """

    id: str
    label: str
    unit: str
    group: str
    sides: bool
    low: float
    high: float
    tests: tuple[Examination, ...] = ()


@dataclass(frozen=True, slots=True)
class Reading:
    """What was read: `value` in the item's unit when `state` is MEASURED, else None. `date` ISO or empty, `test` None
    where it was not said, `by` who measured.
    """

    state: str
    value: float | None
    date: str = ""
    test: Examination | None = None
    by: str = ""


@dataclass(frozen=True, slots=True)
class Join:
    """Findings whose meaning changes with capacity: any of the items `low` (or `high`) makes `says` hold."""

    findings: tuple[str, ...]
    low: tuple[str, ...]
    high: tuple[str, ...]
    says: str


@dataclass(frozen=True)
class Screening:
    """What can be screened, as data: items by id, joins, findings that long limbs or stiffness soften, the source."""

    items: Mapping[str, Item]
    joins: tuple[Join, ...]
    softened: frozenset[str]
    source: str


@dataclass(frozen=True)
class Capacity:
    """One athlete's readings {item, or item:side for two-sided ones: Reading}, with span and height in metres.

    Sides are `throwing` and `glove`. `pain` is what was reported, in the athlete's words, or nothing.
    """

    screening: Screening
    readings: Mapping[str, Reading]
    height: float | None = None
    span: float | None = None
    pain: str = ""

    def standing(self, key: str) -> str | None:
        """ "low", "in band" or "high" of a reading; None where it was not measured, failed, or was tested in another
        way than its band, or in one that nobody noted.

        `key` is an item, or item:side with a side of SIDES, `drive` or `lead`.
        """
        name, _, side = key.partition(":")
        item = self.screening.items[name]
        reading = self.readings.get(f"{name}:{_LEGS.get(side, side)}" if side else name)
        if reading is None or reading.state != MEASURED or reading.value is None:
            return None
        if item.tests and reading.test != item.tests[0]:
            return None
        return "low" if reading.value < item.low else "high" if reading.value > item.high else "in band"

    @property
    def long_limbed(self) -> bool:
        """Whether the arms are long for the height."""
        return bool(self.span and self.height and self.span / self.height > _LONG)

    @property
    def stiff(self) -> bool:
        """Whether several ranges lie below their bands."""
        low = [key for key in self.readings if self._is_range(key) and self.standing(key) == "low"]
        return len(low) >= _STIFF

    def _is_range(self, key: str) -> bool:
        item = self.screening.items.get(key.partition(":")[0])
        return item is not None and item.group == "range"

    def softens(self, finding: str) -> str:
        """Why a position is held to less here, or nothing."""
        if finding not in self.screening.softened:
            return ""
        if self.long_limbed:
            return "Long limbs: all schools accept less extreme positions."
        return "Stiff in several joints: all schools accept less extreme positions." if self.stiff else ""

    def said_of(self, finding: str) -> tuple[str, ...]:
        """What capacity says about a finding."""
        return tuple(
            join.says for join in self.screening.joins
            if finding in join.findings and (self._any(join.low, "low") or self._any(join.high, "high"))
        )  # fmt: skip

    def _any(self, keys: Iterable[str], standing: str) -> bool:
        return any(self.standing(key) == standing for key in keys)
