"""What would help where a footage does not say enough: the one list of advice, for every screen and report."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from waxtwin.core.asks import clickable, stop_in
from waxtwin.core.contrast import UNTOLD, Contrast, Row
from waxtwin.core.measures.registry import (
    END_ON,
    HIDDEN,
    LOST_IN_NOISE,
    NO_HEIGHT,
    NO_LANDMARKS,
    NO_PACE,
    NO_SCALE,
    TOO_QUICK,
    VIEW_REASON,
    hindered,
)
from waxtwin.core.quality import MIDDLING
from waxtwin.core.stops import EVENTS


@dataclass(frozen=True, slots=True)
class Remedy:
    """Something that would help, in `words`; the room it is done in, "" where it takes other footage, and the stop that
    is to be set, where it is one.
    """

    words: str
    room: str = ""
    stop: str = ""


@dataclass(frozen=True, slots=True)
class Advice:
    """A remedy, the questions of a footage that it would answer, and the side whose throw lacks it."""

    remedy: Remedy
    asks: tuple[str, ...]
    side: str


_IN_SPACE = Remedy(
    "Add a clip of the same throw from the front or rear and solve both cameras, or use a 3D track.", "Prepare"
)
_CLICKS = Remedy("Click hips and shoulders at three instants (twelve clicks), in the Prepare room.", "Prepare")
_SCALE = Remedy("Click a known length in the plane of motion, or solve the camera from points of the field.", "Prepare")
_REMEDIES = {
    VIEW_REASON["3D"]: _IN_SPACE,
    VIEW_REASON["side"]: Remedy("Add a clip of the same throw from the open or closed side.", "Prepare"),
    VIEW_REASON["front"]: Remedy("Add a clip of the same throw from the front or rear.", "Prepare"),
    NO_SCALE: _SCALE,
    NO_HEIGHT: Remedy("Type the standing height: metres and metres a second follow from it.", "Prepare"),
    NO_PACE: Remedy("State at how many frames a second the clip was taken, in the Prepare room.", "Prepare"),
    TOO_QUICK: Remedy("Film with 120 frames a second or more, 240 at best."),
    HIDDEN: Remedy("Let the thorough model find the landmarks, or click elbow and hand around release.", "Prepare"),
    LOST_IN_NOISE: Remedy("Click what it is read from by hand, from stop to stop.", "Prepare"),
    NO_LANDMARKS: Remedy("Let the landmarks be found, in the Prepare room.", "Prepare"),
    END_ON: Remedy("Add a clip of the same throw from another side.", "Prepare"),
}
_LANDMARK = Remedy("Click this landmark, at least at the stops.", "Prepare")
_FINER = Remedy("Film with more frames a second, 240 at best.")
_MORE = Remedy("Take three or more throws of a session on each side.")
_NOTHING = Remedy("Nothing simple would help here.")
_OF_VIEWS = (_REMEDIES[VIEW_REASON[view]] for view in ("3D", "side", "front"))
_ANOTHER_DAY = frozenset({_FINER, _MORE, _NOTHING, _REMEDIES[TOO_QUICK], _REMEDIES[END_ON], *_OF_VIEWS})
_SHARP = 12.0  # ms: a stop that is vaguer than this is worth setting by hand


def remedy(reason: str) -> Remedy:
    """What would make a measure available that is not, for this reason."""
    if reason in _REMEDIES:
        return _REMEDIES[reason]
    stop = stop_in(reason)
    return _LANDMARK if stop is None else _set_by_hand(stop)


def helps(row: Row, pair: Contrast) -> tuple[Remedy, ...]:
    """What would help to tell how the two stand on a measure, the best advice first; nothing where it is told."""
    if row.verdict == UNTOLD:
        return tuple(_finer(row, pair))
    if row.difference is None and row.reason and hindered(row.reason):
        found = remedy(row.reason.partition(": ")[2] or row.reason)
        lacking = pair.twin if _side_of(row) == "twin" else pair.athlete
        if found is _IN_SPACE and row.measure.id in clickable(lacking):
            return _CLICKS, found
        return (found,)
    return ()


def advice(left: Mapping[str, tuple[Row, ...]], pair: Contrast) -> tuple[Advice, ...]:
    """The questions that a footage leaves open {question: rows it hangs on}, by what would answer them: what can be
    done with this footage before what takes another day, and then what answers most.
    """
    answered: dict[Remedy, tuple[list[str], str]] = {}
    for asks, rows in left.items():
        found = [(one, row) for row in rows for one in helps(row, pair)]
        first, row = min(found, key=lambda it: it[0] in _ANOTHER_DAY, default=(_NOTHING, rows[0]))
        answered.setdefault(first, ([], _side_of(row)))[0].append(asks)
    ranked = sorted(answered.items(), key=lambda item: (item[0] in _ANOTHER_DAY, -len(item[1][0])))
    return tuple(Advice(one, tuple(asks), side) for one, (asks, side) in ranked)


def _side_of(row: Row) -> str:
    """Whose throw it is that lacks something."""
    return "twin" if (row.reason or "").startswith("twin: ") else "athlete"


def _set_by_hand(stop: str) -> Remedy:
    return Remedy(f"Set “{EVENTS[stop].short}” by hand.", "Pair", stop)


def _finer(row: Row, pair: Contrast) -> Iterator[Remedy]:
    sides = (pair.athlete, pair.twin)
    stops = [side.landing_stop if one == "landing" else one for side in sides for one in row.measure.stops]
    for stop in dict.fromkeys(stops):
        vague = max((side.events[stop].interval for side in sides if stop in side.events), default=0.0)
        if vague > _SHARP:
            yield _set_by_hand(stop)
    if row.planar:
        yield _IN_SPACE
    if any(not side.motion.sight.scaled and not side.motion.sight.by_body for side in sides) and row.measure.unit in (
        "m",
        "%",
        "m/s",
    ):
        yield _SCALE
    if min(side.motion.rate for side in sides) < MIDDLING and row.measure.kind in "TV":
        yield _FINER
    if pair.sets is None or min(len(one.throws) for one in pair.sets) < 3:
        yield _MORE
