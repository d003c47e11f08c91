"""The stops: which there are, in which order, and what is known of one that was found."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

ORDER: tuple[str, ...] = (
    "set", "first_move", "peak_knee", "hand_break", "drive_start", "foot_contact", "foot_plant", "max_layback",
    "release", "finish",
)  # fmt: skip

DETECTED, ACCEPTED, BY_HAND, ESTIMATED = "detected", "accepted", "set by hand", "estimated by hand"


@dataclass(frozen=True, slots=True)
class Event:
    """A stop: `time` in seconds on the track's clock, `interval` in ms either way, `confidence` 0 to 1; `source` is
    DETECTED, ACCEPTED, BY_HAND or ESTIMATED.
    """  # fmt: skip

    id: str
    time: float
    source: str
    confidence: float
    interval: float


@dataclass(frozen=True)
class StopsByHand:
    """What somebody said about a throw's stops: `times` {id: seconds} that were set or accepted, which of these are
    `estimated`, since the moment lies outside the picture, and those `rejected`: this footage does not show them.
    """

    times: Mapping[str, float] = field(default_factory=dict)
    estimated: frozenset[str] = frozenset()
    rejected: frozenset[str] = frozenset()

    def put(self, stop: str, time: float, *, estimated: bool = False) -> StopsByHand:
        """With a stop set at an instant."""
        others = self.give_back(stop)
        guessed = others.estimated | ({stop} if estimated else set())
        return replace(others, times={**others.times, stop: time}, estimated=guessed)

    def give_back(self, stop: str) -> StopsByHand:
        """With a stop left to detection."""
        times = {name: time for name, time in self.times.items() if name != stop}
        return StopsByHand(times, self.estimated - {stop}, self.rejected - {stop})

    def reject(self, stop: str) -> StopsByHand:
        """With a stop that this footage does not show."""
        return replace(self.give_back(stop), rejected=self.rejected | {stop})


@dataclass(frozen=True, slots=True)
class EventKind:
    """A declared stop: its id, its names on screen, its definition in words, and what the field usually calls it."""

    id: str
    label: str
    short: str
    definition: str
    usual: str


EVENTS: Mapping[str, EventKind] = {
    kind[0]: EventKind(*kind)
    for kind in (
        ("set", "Set", "set", "Last instant at rest before the first move.", "set position"),
        ("first_move", "First move", "first move", "Pelvis or front ankle moves for good.", "start of the delivery"),
        ("peak_knee", "Top of the lift", "lift", "The front knee is highest.", "leg lift, peak knee height"),
        ("hand_break", "Hands part", "hands part", "The hands leave each other for good.", "hand separation"),
        ("drive_start", "Deepest load", "load", "The back knee is bent most; it extends from here.",
         "start of the drive, deepest back-leg flexion"),
        ("foot_contact", "Front foot touches", "foot touches", "The front foot reaches the ground.",
         "stride foot contact, front foot strike"),
        ("foot_plant", "Front foot takes weight", "foot planted", "Front ankle, heel and toe rest.",
         "foot plant, full weight"),
        ("max_layback", "Layback", "layback", "The forearm is laid back furthest.", "maximum external rotation (MER)"),
        ("release", "Release", "release", "The throwing hand is fastest.", "ball release"),
        ("finish", "Finish", "finish", "The throwing hand is below a fifth of its peak speed.", "follow-through"),
    )
}  # fmt: skip

LANDING = {"touch": "foot_contact", "plant": "foot_plant"}
