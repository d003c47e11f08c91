"""Which stops may be used: one that contradicts the order or a phase's length, or is too vague, is withheld.

Nothing is computed from a withheld stop; it stays a proposal that somebody is asked about. What was set or accepted by
hand is never withheld.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from itertools import combinations

from waxtwin.core.stops import DETECTED, EVENTS, ORDER, Event

VAGUE, VAGUE_FLAT = 60.0, 150.0  # ms either way
_FLAT = frozenset({"set", "first_move", "peak_knee", "drive_start"})  # moments without a sharp end
# first, last, shortest and longest (ms): outside, one of the two is wrong
_PHASES = (("foot_contact", "release", 60.0, 400.0), ("peak_knee", "foot_contact", 250.0, 1800.0))
# What was found by leaning on a stop falls with it.
_HANGS_ON = {
    "release": ("foot_contact", "foot_plant", "max_layback", "finish"),
    "foot_contact": ("foot_plant", "max_layback"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Withheld:
    """A stop that was found but may not be used, and why, in plain words."""

    event: Event
    why: str


def withhold(found: Mapping[str, Event]) -> tuple[dict[str, Event], dict[str, Withheld]]:
    """The stops that may be used and those that are withheld, both in order."""
    why: dict[str, str] = {}
    for name, event in found.items():
        limit = VAGUE_FLAT if name in _FLAT else VAGUE
        if event.source == DETECTED and event.interval > limit:
            why[name] = f"it is known only to ± {event.interval:.0f} ms"
    for names, reason in _contradictions(found):
        for name in names:
            why.setdefault(name, reason)
            for other in _HANGS_ON.get(name, ()):
                if other in found and found[other].source == DETECTED:
                    why.setdefault(other, f"it was found from “{EVENTS[name].short}”, and {reason}")
    usable = {name: event for name, event in found.items() if name not in why}
    return usable, {name: Withheld(event, why[name]) for name, event in found.items() if name in why}


def _contradictions(found: Mapping[str, Event]) -> Iterator[tuple[list[str], str]]:
    """Stops that cannot all be right, and the sentence that says so. What lies within both intervals is no alarm."""
    present = [found[name] for name in ORDER if name in found]
    for before, after in combinations(present, 2):
        over = (before.time - after.time) * 1000.0
        if over > _slack(before, after):
            reason = f"“{EVENTS[after.id].short}” comes {over:.0f} ms before “{EVENTS[before.id].short}”"
            yield _suspects(before, after), reason
    for first, last, low, high in _PHASES:
        if first in found and last in found:
            length = (found[last].time - found[first].time) * 1000.0
            slack = _slack(found[first], found[last])
            if not low - slack <= length <= high + slack:
                reason = (
                    f"“{EVENTS[first].short}” to “{EVENTS[last].short}” takes {length:.0f} ms, "
                    f"where {low:.0f} to {high:.0f} is plausible"
                )
                # the lift hangs on landing, which release has borne out already
                yield [name for name in ((first, last) if last == "release" else (first,))
                       if found[name].source == DETECTED], reason  # fmt: skip


def _slack(*events: Event) -> float:
    return sum(event.interval for event in events)


def _suspects(before: Event, after: Event) -> list[str]:
    """The less certain of two stops in the wrong order; both where neither is clearly surer."""
    open_ = [event for event in (before, after) if event.source == DETECTED]
    if len(open_) < 2:
        return [event.id for event in open_]
    vaguer, surer = sorted(open_, key=lambda event: -event.interval)
    return [vaguer.id] if vaguer.interval > 1.5 * surer.interval else [vaguer.id, surer.id]


def check_stops(
    found: Mapping[str, Event], withheld: Mapping[str, Withheld], rejected: Collection[str] = ()
) -> list[str]:
    """What has to be said about the stops: those not found, those withheld, and what was set by hand impossibly."""
    said = [
        f"The stop “{EVENTS[name].short}” could not be found in this track: set it by hand."
        for name in ORDER if name not in found and name not in rejected
    ]  # fmt: skip
    groups: dict[str, list[str]] = {}
    for name, one in withheld.items():
        groups.setdefault(one.why, []).append(f"“{EVENTS[name].short}”")
    for why, names in groups.items():
        many = len(names) > 1
        said.append(
            f"{' and '.join(names)} {'are' if many else 'is'} not used, since {why}: set {'them' if many else 'it'} "
            "by hand."
        )
    said += [
        f"{reason[0].upper()}{reason[1:]}, as set by hand." for names, reason in _contradictions(found) if not names
    ]
    return said
