"""Who is due: where every athlete stands, and what asks for attention first. Knows no Qt."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from waxtwin.core.cautions import is_minor
from waxtwin.core.plan import Plan
from waxtwin.core.progress import Answer, answers, day, told_note
from waxtwin.core.trend import ArmNote, Figures, Outcome, outcome

_SOON = timedelta(days=7)  # so long before a look it is told
_ENDS_SOON = timedelta(days=30)  # so long before data is to be given up
_NOTE_HOLDS = timedelta(days=14)  # so long a sore arm is told without another note
_NOBODY_LOOKED = timedelta(weeks=8)
_NOTHING = 99  # rank of whoever needs none


@dataclass(frozen=True, slots=True)
class Asks:
    """What asks for attention: `rank` 0 is the most urgent."""

    rank: int
    says: str


@dataclass(frozen=True)
class Standing:
    """Where an athlete stands. Dates are ISO days. `plan` is the version being worked on, `answers` whether it moved,
    whether the speed moved, whether the arm stayed well - none without a start.
    """

    athlete: int
    name: str
    last_look: str | None = None
    plan: Plan | None = None
    answers: tuple[Answer, ...] = ()
    notes: tuple[ArmNote, ...] = ()
    born: str | None = None
    consent_on: str | None = None
    keep_until: str | None = None
    asks: tuple[Asks, ...] = ()

    @property
    def known(self) -> bool:
        """Whether there is anything to follow: a plan, a note, or a date until which data is kept."""
        return bool(self.plan or self.notes or self.keep_until)


def standing(one: Standing, throws: Sequence[Figures], today: date) -> Standing:
    """The standing with its answers and what asks for attention, the most urgent first."""
    found = None if one.plan is None else outcome(one.plan, throws, one.notes)
    told = () if found is None else answers(found, imperial=False)  # their short words have no units
    asks = sorted((*_of_person(one, today), *_of_plan(one, found, today)), key=lambda ask: ask.rank)
    return replace(one, answers=told, asks=tuple(asks))


def by_urgency(all_: Sequence[Standing]) -> list[Standing]:
    """Whoever needs attention first, then by name."""
    return sorted(all_, key=lambda one: (one.asks[0].rank if one.asks else _NOTHING, one.name.casefold()))


def _of_person(one: Standing, today: date) -> Iterator[Asks]:
    last = max(one.notes, key=lambda note: note.date, default=None)
    if last is not None and last.soreness and today - _day(last.date, today) <= _NOTE_HOLDS:
        yield Asks(0, f"Arm on {day(last.date)}: {told_note(last)}. Pain means stop and see a clinician.")
    if one.keep_until:
        ends = _day(one.keep_until, today)
        if ends < today:
            yield Asks(1, f"Data was to be kept until {day(one.keep_until, year=True)}.")
        elif ends - today <= _ENDS_SOON:
            yield Asks(5, f"Data is kept until {day(one.keep_until, year=True)}.")
    if is_minor(one.born, today) and not one.consent_on:
        yield Asks(1, "Under age, and no consent is noted.")
    if one.plan and one.last_look is not None and today - _day(one.last_look, today) > _NOBODY_LOOKED:
        yield Asks(6, f"The last throw kept is of {day(one.last_look, year=True)}.")


def _of_plan(one: Standing, found: Outcome | None, today: date) -> Iterator[Asks]:
    plan = one.plan
    if plan is None:
        return
    if found is not None and any(toward is False for toward in found.toward):
        yield Asks(2, "The focus moves the wrong way.")
    if plan.next_look is None:
        yield Asks(4, "No day is set for the next look.")
    else:
        away = _day(plan.next_look, today) - today
        looked = one.last_look is not None and one.last_look >= plan.next_look
        if away < timedelta(0) and not looked:
            yield Asks(3, f"The look of {day(plan.next_look)} is due since {-away.days} day{'s' * (away.days != -1)}.")
        elif timedelta(0) <= away <= _SOON:
            yield Asks(4, f"The next look is on {day(plan.next_look)}.")


def _day(said: str, otherwise: date) -> date:
    try:
        return date.fromisoformat(said)
    except ValueError:
        return otherwise
