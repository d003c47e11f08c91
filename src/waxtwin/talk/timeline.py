"""When each scene of a talk stands, and what it shows at an instant."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass

from waxtwin.formats.talk import Instant, Moment, Point, Scene, Talk

_GONE = 0.15  # s after which a pointer that has not moved on is gone


@dataclass(frozen=True)
class Placed:
    """A scene and when it begins, s of the film."""

    scene: Scene
    start: float

    @property
    def end(self) -> float:
        """When it is over, s of the film."""
        return self.start + self.scene.seconds


def placed(talk: Talk) -> list[Placed]:
    """The scenes that the film has, one after the other."""
    found, start = [], 0.0
    for scene in talk.wanted:
        found.append(Placed(scene, start))
        start += scene.seconds
    return found


def moment_at(scene: Scene, at: float) -> Moment:
    """What a scene of the pair shows at an instant (s of the scene)."""
    return scene.moments[max(bisect_right(scene.moments, at + 1e-9, key=lambda one: one.at) - 1, 0)]


def clock_at(moment: Moment, at: float, events: Mapping[str, float]) -> float | None:
    """The athlete's clock (s of the throw) at an instant (s of the scene); None where a stop is not known any more."""
    here = moment.here.time(events)
    if here is None:
        return None
    time = here + moment.rate * (at - moment.at)
    if moment.until is None:
        return time
    end = moment.until.time(events)
    if end is None:
        return None
    return min(time, end) if moment.rate > 0 else max(time, end)


def missing_stops(scene: Scene, athlete: Mapping[str, float], twin: Mapping[str, float]) -> tuple[str, ...]:
    """Stops that a scene hangs on and that are not known any more."""
    wanted: dict[str, None] = {}
    for moment in scene.moments:
        for one, known in ((moment.here, athlete), (moment.until, athlete), (moment.twin, twin)):
            if one is not None and one.time(known) is None:
                wanted[one.stop] = None
    return tuple(wanted)


def pointer_at(scene: Scene, at: float) -> Point | None:
    """Where the pointer is at an instant (s of the scene), between what was noted; None where it is not seen."""
    n = bisect_right(scene.pointer, at, key=lambda one: one.at)
    if not n or not scene.pointer[n - 1].on:
        return None
    before, after = scene.pointer[n - 1], scene.pointer[n] if n < len(scene.pointer) else None
    if after is None or after.at - before.at > _GONE or (after.side, after.body) != (before.side, before.body):
        return before if at - before.at < _GONE else None
    share = (at - before.at) / (after.at - before.at)
    x, y = (old + share * (new - old) for old, new in ((before.x, after.x), (before.y, after.y)))
    return before.model_copy(update={"at": at, "x": x, "y": y})


def near_stop(time: float, events: Mapping[str, float]) -> Instant:
    """An instant of a throw (s) as so much after the nearest stop, so that it follows the stop where that is moved."""
    if not events:
        return Instant(plus=round(time, 5))
    stop = min(events, key=lambda name: abs(events[name] - time))
    return Instant(stop=stop, plus=round(time - events[stop], 5))
