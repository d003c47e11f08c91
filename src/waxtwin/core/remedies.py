"""What would help where a footage does not say enough: the one list of advice, for every screen and report."""

from __future__ import annotations

from collections.abc import Iterator

from waxtwin.core.contrast import UNTOLD, Contrast, Row
from waxtwin.core.measures.registry import (
    END_ON,
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

_REMEDIES = {
    VIEW_REASON["3D"]: "Add a clip of the same throw from the front or rear and solve both cameras, or use a 3D track.",
    VIEW_REASON["side"]: "Add a clip of the same throw from the open or closed side.",
    VIEW_REASON["front"]: "Add a clip of the same throw from the front or rear.",
    NO_SCALE: "Click a known length in the plane of motion, or solve the camera from points of the field.",
    NO_HEIGHT: "Type the standing height: metres and metres a second follow from it.",
    NO_PACE: "State at how many frames a second the clip was taken, in the Prepare room.",
    TOO_QUICK: "Film with 120 frames a second or more, 240 at best.",
    NO_LANDMARKS: "Let the landmarks be found, in the Prepare room.",
    END_ON: "Add a clip of the same throw from another side.",
}
_LANDMARK = "Click this landmark, at least at the stops."
_SHARP = 12.0  # ms: a stop that is vaguer than this is worth setting by hand


def remedy(reason: str) -> str:
    """What would make a measure available that is not, for this reason."""
    if reason in _REMEDIES:
        return _REMEDIES[reason]
    stop = reason.partition("the stop “")[2].partition("”")[0]
    return _set_by_hand(stop) if stop else _LANDMARK


def _set_by_hand(stop: str) -> str:
    return f"Set “{stop}” by hand."


def helps(row: Row, pair: Contrast) -> tuple[str, ...]:
    """What would help to tell how the two stand on a measure, the best advice first; nothing where it is told."""
    if row.verdict == UNTOLD:
        return tuple(_finer(row, pair))
    if row.difference is None and row.reason and hindered(row.reason):
        return (remedy(row.reason.partition(": ")[2] or row.reason),)
    return ()


def _finer(row: Row, pair: Contrast) -> Iterator[str]:
    sides = (pair.athlete, pair.twin)
    stops = [side.landing_stop if one == "landing" else one for side in sides for one in row.measure.stops]
    for stop in dict.fromkeys(stops):
        vague = max((side.events[stop].interval for side in sides if stop in side.events), default=0.0)
        if vague > _SHARP:
            yield _set_by_hand(EVENTS[stop].short)
    if row.planar:
        yield _REMEDIES[VIEW_REASON["3D"]]
    if any(not side.motion.sight.scaled and not side.motion.sight.by_body for side in sides) and row.measure.unit in (
        "m",
        "%",
        "m/s",
    ):
        yield _REMEDIES[NO_SCALE]
    if min(side.motion.rate for side in sides) < MIDDLING and row.measure.kind in "TV":
        yield "Film with more frames a second, 240 at best."
    if pair.sets is None or min(len(one.throws) for one in pair.sets) < 3:
        yield "Take three or more throws of a session on each side."
