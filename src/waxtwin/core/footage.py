"""What a footage can show: which measures it gives, which not and why, and what would make them so."""

from __future__ import annotations

from dataclasses import dataclass

from waxtwin.core.analysis import Analysis
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.registry import NO_SCALE, VIEW_REASON


@dataclass(frozen=True)
class Group:
    """Measures (their labels) that share a reason; `remedy` says what would make them available."""

    reason: str
    remedy: str
    measures: tuple[str, ...]


@dataclass(frozen=True)
class Footage:
    """The account: labels of what is there in full, of picture-plane stand-ins, and what is missing, largest first."""

    shown: tuple[str, ...]
    planar: tuple[str, ...]
    missing: tuple[Group, ...]

    @property
    def total(self) -> int:
        """How many measures there are."""
        return len(self.shown) + len(self.planar) + sum(len(group.measures) for group in self.missing)


_REMEDIES = {
    VIEW_REASON["3D"]: "Add a clip of the same throw from the front or rear and solve both cameras, or use a 3D track.",
    VIEW_REASON["side"]: "Add a clip of the same throw from the open or closed side.",
    VIEW_REASON["front"]: "Add a clip of the same throw from the front or rear.",
    NO_SCALE: "Click a known length in the plane of motion, or solve the camera from points of the field.",
}
_STOP = "Set this stop by hand."
_LANDMARK = "Click this landmark, at least at the stops."


def account_for(analysis: Analysis) -> Footage:
    """What this delivery's footage can and cannot show."""
    shown: list[str] = []
    planar: list[str] = []
    reasons: dict[str, list[str]] = {}
    for item in MEASURES.values():
        value = analysis.measures[item.id]
        if value.available:
            (planar if value.planar else shown).append(item.label)
        else:
            reasons.setdefault(value.reason or "", []).append(item.label)
    groups = [Group(reason, _remedy(reason), tuple(labels)) for reason, labels in reasons.items()]
    return Footage(tuple(shown), tuple(planar), tuple(sorted(groups, key=lambda g: -len(g.measures))))


def _remedy(reason: str) -> str:
    if reason in _REMEDIES:
        return _REMEDIES[reason]
    return _STOP if reason.startswith("the stop") else _LANDMARK
