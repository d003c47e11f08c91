"""The desk as a moment of a talk-through, and a moment back on the desk. Knows no Qt."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from waxtwin.core.measures import MEASURES
from waxtwin.formats.talk import Instant, Moment
from waxtwin.talk.timeline import clock_at, near_stop
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.display import VIEWS, read_display


def moment_of(desk: Desk, at: float) -> Moment:
    """What the stages show now, as a moment `at` s into a recording."""
    clock, pair = desk.clock, desk.pair
    here = Instant(stop=clock.stop or "") if clock.is_held else near_stop(clock.time, pair.event_times("athlete"))
    twin = None if clock.is_held or clock.apart is None else near_stop(clock.apart, pair.event_times("twin"))
    return Moment(at=at, here=here, rate=clock.playing * clock.rate, twin=twin, shown=_shown(desk))


def _shown(desk: Desk) -> dict[str, Any]:
    return {
        "mode": desk.clock.mode, "anchor": desk.clock.anchor, "selected": desk.view.lit, "marks": desk.chalk.visible,
        "display": asdict(desk.view.display), "closeups": desk.closeups.state(),
    }  # fmt: skip


def dress(desk: Desk, moment: Moment) -> None:
    """Show the pair as a moment has it; what it does not say, or says wrongly, stays."""
    shown = moment.shown
    with desk.hub.changing():
        display = dict(read_display(shown.get("display")))
        if "azimuth" not in display and display.get("camera") in VIEWS:
            display["azimuth"], display["elevation"] = VIEWS[str(display["camera"])]
        desk.view.show(**display)
        if "selected" in shown:
            chosen = shown["selected"]
            desk.view.select(chosen if isinstance(chosen, str) and chosen in MEASURES else None)
        if isinstance(shown.get("closeups"), dict):
            desk.closeups.restore(shown["closeups"])
        if isinstance(shown.get("marks"), bool):
            desk.chalk.show(shown["marks"])
        desk.clock.rehang(shown)


def turn_clock(desk: Desk, moment: Moment, at: float) -> bool:
    """Show the instant that a moment has at `at` (s of its scene); False where a stop of it is not known any more."""
    clock, pair = desk.clock, desk.pair
    time = clock_at(moment, at, pair.event_times("athlete"))
    if time is None:
        return False
    if moment.twin is not None:
        twin = moment.twin.time(pair.event_times("twin"))
        if twin is None:
            return False
        clock.stand(time, twin)
    elif not moment.rate and moment.here.stop in pair.stops() and not moment.here.plus:
        clock.hold(moment.here.stop)
    else:
        clock.go(time)
    return True
