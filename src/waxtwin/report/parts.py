"""What a report consists of, and what may be wished of one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from waxtwin.core.contrast import Contrast
from waxtwin.core.explain import Explanation
from waxtwin.core.findings import Task
from waxtwin.core.measures import Measure
from waxtwin.core.plan import Plan
from waxtwin.core.progress import Answer
from waxtwin.core.remedies import Advice
from waxtwin.core.stops import EVENTS, LANDING, ORDER
from waxtwin.core.trend import Outcome

PARTS: Mapping[str, str] = {
    "todo": "Two things to do", "good": "What is known to be alike", "log": "What became of it",
    "pictures": "Pictures of the pair", "eye": "What was seen by eye", "account": "Where the speed is lost",
    "findings": "What was found", "table": "Every measure",
}  # fmt: skip

WORDS: Mapping[str, str] = {
    "title": "Heading", "opening": "First words", "first": "First thing, in plain words",
    "second": "Second thing, in plain words", "good": "What is alike, in plain words", "closing": "Last words",
}  # fmt: skip


_NAMED = {"lift", "load", "landing", "layback", "release"}  # stops that a measure's own name tells


def said_at(measure: Measure, landing: str) -> str:
    """A measure's name with its stop, unless the name tells that itself."""
    at = LANDING[landing] if measure.at == "landing" else measure.at
    stop = EVENTS[at].short if at in ORDER else ""
    said = measure.label.lower()
    told = not stop or stop in said or _NAMED & set(said.split())
    return measure.label if told else f"{measure.label}, {stop}"


@dataclass(frozen=True)
class Wish:
    """What the reader gets: `parts` and `stops` (pictures of the evidence), names as shown ("" for the own ones),
    wording {key of WORDS: text} where somebody wrote their own, the units, and whether pictures and clip show footage,
    by which anybody is recognised, or the wax figures.
    """

    parts: frozenset[str] = frozenset(PARTS)
    stops: tuple[str, ...] = ("peak_knee", "foot_contact", "release")
    athlete: str = ""
    twin: str = ""
    imperial: bool = False
    wording: Mapping[str, str] = field(default_factory=dict)
    footage: bool = False


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture that a document asks for: a stop, the measures whose gauges are lit, and what stands below it."""

    stop: str
    measures: tuple[str, ...]
    caption: str


@dataclass(frozen=True)
class Thing:
    """One thing to do: what, why, how far, what to practise, and its picture where there is one; `stands` says where
    this pair has it where that is no longer as the thing says.
    """

    title: str
    plain: str
    target: str
    tasks: tuple[Task, ...]
    picture: Picture | None
    stands: str = ""


@dataclass(frozen=True, slots=True)
class Bar:
    """A share of the gap: label, words, from and to in percent of the widest, and whether it is resolved."""

    label: str
    words: str
    start: float
    width: float
    loses: bool
    resolved: bool


@dataclass(frozen=True)
class Table:
    """A heading and rows of cells."""

    title: str
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, slots=True)
class Seen:
    """An eye check `at` a stop with the answers for one side or both, and whether both were seen and differ."""

    at: str
    question: str
    answers: tuple[str, ...]
    differs: bool

    @property
    def stop(self) -> str:
        """Its stop in words."""
        return EVENTS[self.at].short


@dataclass(frozen=True)
class Section:
    """A finding with its evidence, as text."""

    title: str
    says: str
    proof: tuple[str, ...]
    against: tuple[str, ...]


@dataclass(frozen=True)
class Report:
    """Everything that is said, in order. Parts that were not wanted are empty; method and cautions always stand.
    `apart` is what can be told apart where nothing is to be done about it, `seen` what was seen by eye. What
    was not `measured` was looked at alone.
    """

    title: str
    athlete: str
    twin: str
    made: str
    opening: str
    closing: str
    things: tuple[Thing, ...]
    good: tuple[str, ...]
    open: tuple[Advice, ...]
    answers: tuple[Answer, ...]
    pictures: tuple[Picture, ...]
    account: str
    chain: tuple[Bar, ...]
    shares: tuple[Bar, ...]
    findings: tuple[Section, ...]
    tables: tuple[Table, ...]
    method: tuple[str, ...]
    cautions: tuple[str, ...]
    imperial: bool
    apart: tuple[str, ...] = ()
    seen: tuple[Seen, ...] = ()
    measured: bool = True

    @property
    def all_drawn(self) -> tuple[Task, ...]:
        """Every practice task that is drawn or has a picture, each once."""
        drawn = (task for thing in self.things for task in thing.tasks if task.shows or task.picture)
        return tuple(dict.fromkeys(drawn))

    @property
    def all_pictures(self) -> tuple[Picture, ...]:
        """Every picture that has to be made, each once."""
        own = [thing.picture for thing in self.things if thing.picture is not None]
        return tuple(dict.fromkeys([*own, *self.pictures]))


@dataclass(frozen=True)
class Material:
    """What a report is made from."""

    pair: Contrast
    explanation: Explanation
    plan: Plan | None = None
    tasks: Mapping[str, Task] = field(default_factory=dict)
    outcome: Outcome | None = None
    why: str = ""

    @property
    def names(self) -> tuple[str, str]:
        """Athlete and twin as they are called; before and now of one pitcher are told apart."""
        one, two = (side.delivery.name for side in (self.pair.athlete, self.pair.twin))
        return (f"{one} now", f"{two} before") if one == two else (one, two)


def wish_document(wish: Wish) -> dict[str, Any]:
    """A wish as JSON, to be kept."""
    return {"parts": sorted(wish.parts), "stops": list(wish.stops), "athlete": wish.athlete, "twin": wish.twin,
            "wording": dict(wish.wording), "footage": wish.footage}  # fmt: skip


def wish_from(said: Mapping[str, Any], *, imperial: bool) -> Wish:
    """A wish from JSON; what is malformed is as usual."""
    usual = Wish(imperial=imperial)
    parts, stops, wording = said.get("parts"), said.get("stops"), said.get("wording")
    return Wish(
        frozenset(one for one in parts if one in PARTS) if isinstance(parts, list) else usual.parts,
        tuple(one for one in ORDER if one in stops) if isinstance(stops, list) else usual.stops,
        str(said.get("athlete") or ""), str(said.get("twin") or ""), imperial,
        {key: str(text) for key, text in wording.items() if key in WORDS} if isinstance(wording, dict) else {},
        said.get("footage") is True,
    )  # fmt: skip
