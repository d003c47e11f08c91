"""What a report says of what was seen by eye, and of a pair of which nothing else is known."""

from __future__ import annotations

from collections.abc import Sequence

from waxtwin.core.contrast import Contrast
from waxtwin.core.eye import Looked
from waxtwin.core.footing import footing
from waxtwin.core.stops import ESTIMATED, EVENTS, ORDER
from waxtwin.report.parts import Picture, Seen

EYES = (
    "What was seen by eye is an answer, not a figure: another pair of eyes may answer otherwise. A camera that stands "
    "elsewhere makes the same position look different."
)
_SAID = 2  # answers below a picture


def seen_of(looked: Looked | None, sides: int = 2) -> tuple[Seen, ...]:
    """Every answered check with the answers for the athlete, and for the twin where there are two `sides`; by stop."""
    return tuple(
        Seen(check.at, check.question, (mine or "–", theirs or "–")[:sides], bool(mine and theirs and mine != theirs))
        for check, mine, theirs in (looked.answered() if looked else ())
    )


def seen_at(seen: Sequence[Seen], stop: str) -> Picture:
    """Both at a stop as they were filmed, and what was seen there to differ."""
    differ = [one for one in seen if one.at == stop and one.differs]
    said = [f"{one.question} {one.answers[0].capitalize()}, the twin: {one.answers[1]}." for one in differ[:_SAID]]
    return Picture(stop, (), " ".join([f"{EVENTS[stop].label}.", *said]))


def method_by_eye(pair: Contrast) -> list[str]:
    """How it was looked at."""
    sides = ((pair.athlete, "the athlete's"), (pair.twin, "the twin's"))
    rates = " and ".join(f"{one.motion.rate:.0f} ({whose})" for one, whose in sides)
    guessed = [
        f"{EVENTS[stop].label.lower()} ({whose})"
        for one, whose in sides for stop in ORDER
        if stop in one.events and one.events[stop].source == ESTIMATED
    ]  # fmt: skip
    return [
        footing(pair).sentence,
        f"Both are shown at the same stops, at {rates} frames a second.",
        *([f"Outside the picture, and estimated: {', '.join(guessed)}."] if guessed else []),
        EYES,
    ]
