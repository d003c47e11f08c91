"""Measures of the house: a line's tilt, an angle or a distance between joints at a stop, kept by the user as data.

They stand in the registry beside the shipped ones, so that resolution, contrast, bands and the log treat them alike.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from waxtwin.core.body import angle_between, degrees
from waxtwin.core.measures.registry import HIPS, MEASURES, SHOULDERS, Function, Reading, measure
from waxtwin.core.read_off import POINTS
from waxtwin.core.stops import EVENTS

HOUSE = "house_"  # how the id of every such measure begins
GAUGE = "house:"  # and of its drawing
KINDS = {"line": 2, "angle": 3, "distance": 2}
PLANES = ("side", "front")
_MIDDLES = {"pelvis": HIPS, "chest": SHOULDERS}
_LONGEST = 60  # characters of a label


@dataclass(frozen=True, slots=True)
class HouseMeasure:
    """A `kind` over `points` (landmarks, pelvis or chest) `at` a stop; a line's tilt is read from the `plane` "side" or
    "front", and so is everything where one camera sees no more. Raises ValueError, one plain sentence.
    """

    id: str
    label: str
    kind: str
    points: tuple[str, ...]
    at: str
    plane: str = "side"

    def __post_init__(self) -> None:
        strange = [one for one in self.points if one not in POINTS]
        for wrong, words in (
            (not self.id.startswith(HOUSE), f"its id must begin with {HOUSE}"),
            (not self.label.strip() or len(self.label) > _LONGEST, f"it needs a name of at most {_LONGEST} characters"),
            (self.kind not in KINDS, f"it is no {', '.join(KINDS)}"),
            (bool(strange), f"there is no landmark named {strange[0][:40] if strange else ''}"),
            (self.kind in KINDS and len(self.points) != KINDS[self.kind], "it has the wrong number of points"),
            (len(set(self.points)) < len(self.points), "two of its points are the same"),
            (self.at not in EVENTS, f"there is no stop named {self.at[:40]}"),
            (self.plane not in PLANES, f"it is seen from {' or '.join(PLANES)}"),
        ):
            if wrong:
                raise ValueError(f"house measure {self.id[:60]}: {words}")

    @property
    def gauge(self) -> str:
        """What is drawn for it."""
        return f"{GAUGE}{self.kind}:{','.join(self.points)}"


def register(house: Sequence[HouseMeasure]) -> None:
    """Have these measures of the house in the registry, and no others. Raises ValueError for two of one id."""
    if len({one.id for one in house}) < len(house):
        raise ValueError("two house measures share an id")
    for name in [name for name in MEASURES if name.startswith(HOUSE)]:
        del MEASURES[name]
    for one in house:
        _declare(one)


def _declare(one: HouseMeasure) -> None:
    named = [POINTS[point] for point in one.points]
    where = EVENTS[one.at].short
    needs = tuple(dict.fromkeys(name for point in one.points for name in _MIDDLES.get(point, (point,))))
    segments = () if _MIDDLES.keys() & set(one.points) else tuple(zip(one.points, one.points[1:], strict=False))
    unit, text, formula, function = {
        "line": ("deg", f"Tilt of the line from {named[0]} to {named[-1]} against the upright, from the {one.plane}.",
                 f"tilt of {one.points[-1]} - {one.points[0]} against the upright at {one.at}", _tilt(one)),
        "angle": ("deg", f"Angle at the {named[1 % len(named)]}, between {named[0]} and {named[-1]}.",
                  f"angle of {', '.join(one.points)} at {one.at}", _angle(one)),
        "distance": ("%", f"Distance from {named[0]} to {named[-1]}, in % of standing height.",
                     f"|{one.points[-1]} - {one.points[0]}| at {one.at}", _distance(one)),
    }[one.kind]  # fmt: skip
    measure(
        one.id, one.label, unit=unit, kind="P", at=one.at, view=one.plane if one.kind == "line" else "3D", needs=needs,
        text=f"{text} A measure of the house, at “{where}”.", formula=formula, sign="+ more", planar=one.plane,
        gauge=one.gauge, segments=segments if one.kind == "angle" else (), reference="measure of the house",
    )(function)  # fmt: skip


def _at(reading: Reading, one: HouseMeasure) -> list[np.ndarray]:
    """Its points at its stop, `(copies, 3)` each, the axis that no camera saw counted as 0."""
    pose = reading.pose(one.at)
    return [pose.seen(pose.at(name)) for name in one.points]


def _tilt(one: HouseMeasure) -> Function:
    axis = 0 if one.plane == "side" else 1

    def function(reading: Reading) -> np.ndarray:
        first, last = _at(reading, one)
        along = last - first
        upward = np.where(along[..., 2] < 0, -1.0, 1.0)[..., None]  # from the lower to the higher end
        along = along * upward
        return degrees(along[..., axis], along[..., 2])

    return function


def _angle(one: HouseMeasure) -> Function:
    def function(reading: Reading) -> np.ndarray:
        a, b, c = _at(reading, one)
        return np.asarray(angle_between(a - b, c - b))

    return function


def _distance(one: HouseMeasure) -> Function:
    def function(reading: Reading) -> np.ndarray:
        first, last = _at(reading, one)
        return reading.percent(np.linalg.norm(last - first, axis=-1))

    return function
