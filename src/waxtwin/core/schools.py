"""Schools: where practitioners agree and where they do not. A measure is a fact; what to do about it is a stance."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

TOPICS: Mapping[str, str] = {
    "leaving": "Leaving the rubber", "pressure": "Back foot in the load", "load": "Knee over the toe in the load",
    "first_move": "First move", "lift": "Top of the lift", "head": "Head and weight, lift to landing",
    "front_leg": "Front leg on the way", "front_foot": "Front foot at landing",
    "back_foot": "Back foot through release", "shoulders": "Shoulder line at landing",
    "hand": "Hand as the hands part", "glove": "Glove side", "layback": "Layback", "side_tilt": "Side lean at release",
    "brace": "Front leg at release", "finish": "Finish", "landing": "What counts as landing",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Stance:
    """What a school makes of a finding: whether it acts on it, how much it weighs, and why in a sentence."""

    acts: bool
    weight: float
    reason: str


@dataclass(frozen=True)
class School:
    """A school: `stances` by finding, `topics` in its own words, `targets` {measure: (low, high)}.

    Findings that it says nothing about it acts on, as all do. `rejects` are theories that it does not hold with: it
    never brings them up. `landing` is "touch" or "plant". `own` for one that the user made.
    """

    id: str
    label: str
    says: str
    landing: str
    topics: Mapping[str, str]
    stances: Mapping[str, Stance]
    targets: Mapping[str, tuple[float, float]]
    own: bool = False
    rejects: frozenset[str] = frozenset()

    def stance(self, finding: str) -> Stance:
        """What it makes of a finding; a theory that it rejects it never acts on."""
        return Stance(False, 1.0, "") if finding in self.rejects else self.stances.get(finding, Stance(True, 1.0, ""))
