"""The smallest difference that matters in practice, per measure, and what a good laboratory track tells apart.

Both are data that lie beside the bands; without a file the usual sizes per unit stand.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from waxtwin.core.measures import Measure

_UNITS: Mapping[str, float] = {"deg": 5.0, "%": 2.0, "ms": 15.0}
_SHARES: Mapping[str, float] = {"m/s": 0.03, "deg/s": 0.08, "m/s2": 0.08}
_OF_HEIGHT = 0.02
_USUAL_HEIGHT = 1.80  # m, where nobody's height is at hand


@dataclass(frozen=True)
class Matters:
    """What matters: `units` in the unit itself, `shares` of the larger figure, `of_height` of standing height for
    lengths in metres, and `measures` where one measure has a size of its own. `laboratory` {measure: size} is what a
    good laboratory track tells apart.
    """

    units: Mapping[str, float] = field(default_factory=lambda: dict(_UNITS))
    shares: Mapping[str, float] = field(default_factory=lambda: dict(_SHARES))
    of_height: float = _OF_HEIGHT
    measures: Mapping[str, float] = field(default_factory=dict)
    laboratory: Mapping[str, float] = field(default_factory=dict)

    def least(self, item: Measure, *figures: float, height: float = _USUAL_HEIGHT) -> float:
        """The smallest difference of a measure that matters, in its own unit, between these figures."""
        if item.id in self.measures:
            return self.measures[item.id]
        if item.unit == "m":
            return self.of_height * height
        if item.unit in self.shares:
            return self.shares[item.unit] * max((abs(one) for one in figures), default=0.0)
        return self.units.get(item.unit, 0.0)

    def alike_within(self, item: Measure, *figures: float, height: float = _USUAL_HEIGHT) -> float:
        """How far two figures may lie apart, doubt included, and still be called alike."""
        return max(self.least(item, *figures, height=height), self.laboratory.get(item.id, 0.0))


USUAL = Matters()
