"""Chalk: what somebody marks on a stage to measure or to point, and the number that belongs to it.

Ends lie on landmarks, and then go with the body, or at a place of a clip's picture. Numbers are read in the plane that
is seen: in the field where every end lies on a landmark or the clip has a camera, else in the picture itself.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import atan2, degrees

import numpy as np

from waxtwin.core.body import angle_between
from waxtwin.core.errors import plain
from waxtwin.core.read_off import POINTS

KINDS: Mapping[str, tuple[str, int]] = {
    "plumb": ("Plumb line", 1), "level": ("Level line", 1), "line": ("Line", 2), "angle": ("Angle", 3),
    "distance": ("Distance", 2), "circle": ("Circle", 2), "arrow": ("Arrow", 2), "word": ("Word", 1),
}  # fmt: skip
"""{kind: (its name, how many ends it has)}"""
MEASURING = ("plumb", "level", "line", "angle", "distance")
_LONGEST = 80  # characters of a word


@dataclass(frozen=True, slots=True)
class End:
    """On a `landmark`, or at `x` and `y` of a clip's picture, in shares of its width and height."""

    landmark: str = ""
    x: float = 0.0
    y: float = 0.0


@dataclass(frozen=True)
class Chalk:
    """A mark of one throw. `put` is the instant (s) at which it was made; it shows at a `stop`, or from `first` to
    `last` (s, None for no end). Free ends belong to the clip of that name; `view` is from where it was marked.
    """

    id: str
    kind: str
    ends: tuple[End, ...]
    put: float
    words: str = ""
    stop: str = ""
    first: float | None = None
    last: float | None = None
    clip: str = ""
    view: str = "side"
    hidden: bool = False

    @property
    def on_body(self) -> bool:
        """Whether every end lies on a landmark."""
        return all(end.landmark for end in self.ends)

    @property
    def for_any_throw(self) -> bool:
        """Whether it means the same on another throw: on joints, at a stop or always, and not where it was put."""
        return self.on_body and self.first is None and self.last is None and self.kind not in ("plumb", "level")

    @property
    def title(self) -> str:
        """What it is called in a list."""
        where = " to ".join(POINTS[end.landmark] for end in self.ends) if self.on_body else ""
        return self.words or (f"{KINDS[self.kind][0]}, {where}" if where else KINDS[self.kind][0])

    def shows(self, time: float, stop_time: float | None, frame: float) -> bool:
        """Whether it is seen at an instant; `stop_time` is when its stop is, `frame` how long a frame lasts (s)."""
        if self.stop:
            return stop_time is not None and abs(time - stop_time) < frame
        after = self.first is None or time >= self.first - 0.5 * frame
        return after and (self.last is None or time <= self.last + 0.5 * frame)

    def seen_in(self, clip: str, time: float, stop_time: float | None, frame: float) -> bool:
        """Whether it is seen at an instant, as `shows` has it, in the clip of that name, or "" on a figure."""
        return not self.hidden and self.clip in ("", clip) and self.shows(time, stop_time, frame)


@dataclass(frozen=True, slots=True)
class Sum:
    """A mark's number: `value` in `unit` ("deg", "%" of standing height, "picture" for % of the picture's height), and
    `metres` where the footage has a scale.
    """

    value: float
    unit: str
    metres: float | None = None


@dataclass(frozen=True)
class Plane:
    """Where ends lie now, in the plane that is seen: `now` and, for what stays where it was put, `then`, each
    `(ends, 2)` to the plate (or to the open side) and up; angles and distances on a body in space `(ends, 3)`.

    `height` is the standing height in the same unit, `scaled` whether that unit is a metre; `height` None for a picture
    that has no camera, where the unit is its own height.
    """

    now: np.ndarray
    then: np.ndarray
    height: float | None
    scaled: bool = False


def reckon(chalk: Chalk, plane: Plane) -> Sum | None:
    """The number of a mark; None for one that only points, or whose ends are not seen."""
    points = plane.now
    if chalk.kind not in MEASURING or np.isnan(points).any():
        return None
    if chalk.kind in ("plumb", "level"):
        axis = 0 if chalk.kind == "plumb" else 1
        if not chalk.on_body or np.isnan(plane.then).any():
            return None  # a line at a place of the picture measures nothing by itself
        return _length(float(points[0, axis] - plane.then[0, axis]), plane)
    if chalk.kind == "distance":
        return _length(float(np.linalg.norm(points[1] - points[0])), plane)
    if chalk.kind == "angle":
        return Sum(float(angle_between(points[0] - points[1], points[2] - points[1])), "deg")
    low, high = sorted(points, key=lambda point: float(point[1]))
    tilt = degrees(atan2(float(high[0] - low[0]), float(high[1] - low[1])))
    return Sum(abs(tilt) if plane.height is None else tilt, "deg")


def _length(value: float, plane: Plane) -> Sum:
    if plane.height is None:
        return Sum(100.0 * value, "picture")
    return Sum(100.0 * value / plane.height, "%", value if plane.scaled else None)


def on_other_side(chalk: Chalk, name: str, *, put: float, clip: str, mirrored: bool) -> Chalk:
    """The same mark on the other throw: on its landmarks, free ends at the same place, `mirrored` for another hand."""
    ends = tuple(end if end.landmark or not mirrored else replace(end, x=1.0 - end.x) for end in chalk.ends)
    moved = put - chalk.put
    first, last = (None if at is None else at + moved for at in (chalk.first, chalk.last))
    return replace(chalk, id=name, ends=ends, put=put, first=first, last=last, clip="" if chalk.on_body else clip)


def told(words: str) -> str:
    """Words as they may be kept: one line of a bounded length."""
    return " ".join(plain(words).split())[:_LONGEST]
