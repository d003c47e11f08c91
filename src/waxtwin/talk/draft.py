"""A talk drafted from what a report says: real speed, what is alike, each thing to do with its practice, the end."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import Any, Literal

from waxtwin.core.contrast import Contrast
from waxtwin.core.findings import Task
from waxtwin.core.measures import MEASURES
from waxtwin.core.progress import day
from waxtwin.core.stops import EVENTS, LANDING, ORDER
from waxtwin.formats.talk import CARD, TASK, Instant, Moment, Scene, Talk
from waxtwin.report.parts import Report, Thing
from waxtwin.talk.timeline import near_stop

_LEAD, _TAIL = 0.5, 0.4  # s before the lift's top and after release that are shown at real speed
_AROUND = 0.22  # s before and after a stop that are shown slowly
SLOW = 0.125
_GOOD = 3  # sentences of what is alike: more are not listened to
FURTHER = {
    "card": "A card with words", "real": "At real speed", "slow": "At a quarter of real speed", "back": "Backwards",
}  # fmt: skip
_SEEN_FROM = ("side", "front", "rear", "top")


def draft(
    report: Report, pair: Contrast, *, footage: bool, next_look: str | None = None, backwards: bool = False
) -> Talk:
    """The scenes that a report asks for; `footage` where both throws have clips, `next_look` an ISO day."""
    scenes = _numbered(_scenes(report, pair, footage, next_look, backwards))
    return Talk(
        title=report.title, athlete=report.athlete, twin=report.twin, landing=_landing(pair), imperial=report.imperial,
        scenes=scenes,
    )  # fmt: skip


def plain_draft(report: Report, pair: Contrast, *, footage: bool, next_look: str | None = None) -> Talk:
    """The scenes of a pair of which no account can be given yet: real speed, every stop that both have, slowly, each
    thing to do that somebody chose, again; what is said under the stops is for whoever looks.
    """
    names = report.athlete, report.twin
    usual = {"shown": "clip" if footage else "figure", "camera": "side"}
    stops = [stop for stop in ORDER if stop in pair.athlete.event_times and stop in pair.twin.event_times]
    scenes = [
        Scene(id="draft", kind=CARD, title=" beside ".join(names)),
        _through(pair, usual, "At real speed"),
        *(
            Scene(id="draft", title=EVENTS[stop].label, moments=(
                Moment(here=Instant(stop=stop), shown={"display": usual | {"gauges": True}, "selected": None}),))
            for stop in stops
        ),
        _through(pair, usual, "Slowly", rate=0.25),
        *(scene for thing in report.things for scene in _thing(thing, pair, usual, footage)),
        _through(pair, usual, "Once more at real speed"),
        *([_end(report, next_look)] if report.things else []),
    ]  # fmt: skip
    return Talk(title=" beside ".join(names), landing=_landing(pair), scenes=_numbered(scenes))


def _numbered(scenes: Iterable[Scene]) -> tuple[Scene, ...]:
    return tuple(one.but(id=f"s{n}") for n, one in enumerate(scenes, start=1))


def _landing(pair: Contrast) -> Literal["touch", "plant"]:
    return "plant" if pair.athlete.landing == "plant" else "touch"


def _scenes(report: Report, pair: Contrast, footage: bool, next_look: str | None, backwards: bool) -> Iterator[Scene]:
    usual = {"shown": "clip" if footage else "figure", "camera": "side"}
    yield Scene(
        id="draft", kind=CARD, title=report.title, lines=(f"{report.athlete} beside {report.twin}", report.made)
    )
    yield _through(pair, usual, "At real speed", caption="Both deliveries at real speed, tied at release.")
    if report.good:
        landing = _held(pair, LANDING[pair.athlete.landing])
        moment = Moment(here=landing, shown={"display": usual | {"gauges": False}, "selected": None})
        yield Scene(
            id="draft", title="What is alike already", caption="\n".join(report.good[:_GOOD]), moments=(moment,)
        )
    for thing in report.things:
        yield from _thing(thing, pair, usual, footage)
    yield _through(pair, usual, "Once more at real speed")
    if backwards:
        yield _through(pair, usual, "Backwards", rate=-1.0)
    yield _end(report, next_look)


def further_scene(kind: str, pair: Contrast, *, footage: bool) -> Scene:
    """A scene of one of FURTHER, to be put anywhere."""
    usual = {"shown": "clip" if footage else "figure", "camera": "side"}
    if kind == "card":
        return Scene(id="further", kind=CARD, title="New card", lines=("What stands on it.",))
    return _through(pair, usual, FURTHER[kind], rate={"real": 1.0, "slow": 0.25, "back": -1.0}[kind])


def _thing(thing: Thing, pair: Contrast, usual: Mapping[str, Any], footage: bool) -> Iterator[Scene]:
    """The stop with its gauge, the figures and how far, slowly through it, and what to practise."""
    if thing.picture is None:
        yield Scene(id="draft", kind=CARD, title=thing.title, lines=(thing.plain,))
    else:
        stop, measure = thing.picture.stop, thing.picture.measures[0]
        at = _held(pair, stop)
        view = MEASURES[measure].view
        seen = {"camera": view if view in _SEEN_FROM else "side"}
        shown = {"display": {**usual, **seen, "gauges": True}, "selected": measure}
        yield Scene(id="draft", title=thing.title, caption=thing.plain, moments=(Moment(here=at, shown=shown),))
        figures = {"display": {**usual, **seen, "shown": "figure", "gauges": True}, "selected": measure}
        said = f"{thing.target}." if thing.target else thing.picture.caption
        yield Scene(id="draft", title=f"{thing.title}: how far", caption=said,
                    moments=(Moment(here=at, shown=figures if footage else shown),))  # fmt: skip
        before, after = (Instant(stop=at.stop, plus=at.plus + by) for by in (-_AROUND, _AROUND))
        slow = Moment(here=before, until=after, rate=SLOW, shown=shown)
        yield Scene(id="draft", title=f"{thing.title}: slowly", moments=(slow,), length=2 * _AROUND / SLOW)
    for task in thing.tasks[:1]:
        yield _task(task)


def _task(task: Task) -> Scene:
    return Scene(id="draft", kind=TASK, title=task.title, lines=(task.how, task.dose, task.caution), poses=task.shows,
                 caption=task.purpose)  # fmt: skip


def _through(pair: Contrast, shown: Mapping[str, Any], title: str, rate: float = 1.0, caption: str = "") -> Scene:
    """The whole delivery without gauges, tied at release; backwards where the rate is below 0."""
    first, last = (float(t) for t in pair.athlete.motion.times[[0, -1]])
    events = pair.athlete.event_times
    start = max(events["peak_knee"] - _LEAD, first) if "peak_knee" in events else first
    end = min(events["release"] + _TAIL, last) if "release" in events else last
    ends = [_near(pair, start), _near(pair, end)]
    here, until = ends if rate > 0 else ends[::-1]
    kept = {"display": {**shown, "gauges": False}, "selected": None, "mode": "one", "anchor": "release"}
    moment = Moment(here=here, until=until, rate=rate, shown=kept)
    return Scene(id="draft", title=title, caption=caption, moments=(moment,), length=(end - start) / abs(rate))


def _near(pair: Contrast, time: float) -> Instant:
    return near_stop(time, pair.athlete.event_times)


def _held(pair: Contrast, stop: str) -> Instant:
    """A stop that both have, or the middle of the throw where it is not known."""
    if stop in pair.athlete.event_times and stop in pair.twin.event_times:
        return Instant(stop=stop)
    return _near(pair, float(pair.athlete.motion.times.mean()))


def _end(report: Report, next_look: str | None) -> Scene:
    things = [f"{n}. {thing.title}: {', '.join(task.title for task in thing.tasks)}".rstrip(": ")
              for n, thing in enumerate(report.things, start=1)]  # fmt: skip
    look = [f"We look again on {day(next_look, year=True)}."] if next_look else []
    lines = (*(things or [report.opening]), *look, *report.cautions)
    return Scene(id="draft", kind=CARD, title="Until then" if report.things else "That is all", lines=tuple(lines))
