"""What a clip cannot know by itself, in order of what it would bring: each a thing that somebody can do."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping
from dataclasses import dataclass

from waxtwin.core.analysis import Analysis
from waxtwin.core.estimate_gate_table import OPEN
from waxtwin.core.estimated import was_measured
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.registry import HIDDEN, NO_HEIGHT, NO_PACE, NO_SCALE, OUT_OF_VIEW, TOO_QUICK
from waxtwin.core.stops import EVENTS

STOP, HEIGHT, LENGTH, PACE, CLICKS, CLIP, RATE = "stop", "height", "length", "pace", "clicks", "clip", "rate"
ARM = "arm"
_BY_REASON: Mapping[str, str] = {
    NO_HEIGHT: HEIGHT, NO_SCALE: LENGTH, NO_PACE: PACE, TOO_QUICK: RATE, HIDDEN: ARM,
}  # fmt: skip


@dataclass(frozen=True)
class Ask:
    """Something to do: its `kind`, the stop it is about where it is one, what to do in words, and how many measures
    it would bring.
    """

    kind: str
    stop: str
    words: str
    brings: int

    @property
    def told(self) -> str:
        """In a line: what to do, and what for."""
        return f"{self.words}: {self.brings} measure{'s' if self.brings != 1 else ''}"


_WORDS: Mapping[str, str] = {
    HEIGHT: "Type the standing height",
    LENGTH: "Give a known length",
    PACE: "State the rate at which it was taken",
    CLICKS: "Twelve clicks on hips and shoulders",
    ARM: "Click elbow and hand around release",
    CLIP: "Add a clip from another side",
    RATE: "Film with 120 frames a second or more",
}


def asks(analysis: Analysis) -> tuple[Ask, ...]:
    """What would bring measures that are missing, the most first."""
    counts: Counter[tuple[str, str]] = Counter()
    clicks_bring = clickable(analysis)
    for name in MEASURES:
        value = analysis.measures[name]
        if value.available or value.reason is None:
            continue
        if value.reason in OUT_OF_VIEW:
            counts[CLIP, ""] += 1
            if name in clicks_bring:
                counts[CLICKS, ""] += 1
        elif value.reason in _BY_REASON:
            counts[_BY_REASON[value.reason], ""] += 1
        elif (stop := stop_in(value.reason)) is not None:
            counts[STOP, stop] += 1
    found = [
        Ask(kind, stop, f"Set “{EVENTS[stop].short}”" if kind == STOP else _WORDS[kind], brings)
        for (kind, stop), brings in counts.items()
    ]
    # another clip means another day: what can be done with this one comes first
    return tuple(sorted(found, key=lambda ask: (ask.kind in (CLIP, RATE), -ask.brings)))


def clickable(analysis: Analysis) -> Collection[str]:
    """What clicks on hips and shoulders would bring; nothing where they are clicked, or for a clip of which it was
    never measured.
    """
    estimate = analysis.delivery.in_space
    clicked = estimate is not None and estimate.clicked
    return OPEN["clicked"] if was_measured(analysis.motion) and not clicked else ()


def stop_in(reason: str) -> str | None:
    """The stop that a reason speaks of."""
    if not reason.startswith("the stop"):
        return None
    return next((stop for stop, kind in EVENTS.items() if f"“{kind.short}”" in reason), None)
