"""What a footage can show: which measures it gives, which not and why, and what would make them so."""

from __future__ import annotations

from dataclasses import dataclass

from waxtwin.core.analysis import Analysis
from waxtwin.core.measures import MEASURES
from waxtwin.core.remedies import remedy


@dataclass(frozen=True)
class Group:
    """Measures (their labels) that share a reason; `remedy` says what would make them available."""

    reason: str
    remedy: str
    measures: tuple[str, ...]


@dataclass(frozen=True)
class Footage:
    """The account: labels of what is there in full, of picture-plane stand-ins, of what is estimated from one camera,
    and what is missing, largest first.
    """

    shown: tuple[str, ...]
    planar: tuple[str, ...]
    estimated: tuple[str, ...]
    missing: tuple[Group, ...]

    @property
    def total(self) -> int:
        """How many measures there are."""
        return len(self.shown) + len(self.planar) + len(self.estimated) + self.lost

    @property
    def lost(self) -> int:
        """How many of them are not available."""
        return sum(len(group.measures) for group in self.missing)


def account_for(analysis: Analysis) -> Footage:
    """What this delivery's footage can and cannot show."""
    shown: list[str] = []
    planar: list[str] = []
    estimated: list[str] = []
    reasons: dict[str, list[str]] = {}
    for item in MEASURES.values():
        value = analysis.measures[item.id]
        if value.available:
            (planar if value.planar else estimated if value.estimated else shown).append(item.label)
        else:
            reasons.setdefault(value.reason or "", []).append(item.label)
    groups = [Group(reason, remedy(reason).words, tuple(labels)) for reason, labels in reasons.items()]
    return Footage(tuple(shown), tuple(planar), tuple(estimated), tuple(sorted(groups, key=lambda g: -len(g.measures))))
