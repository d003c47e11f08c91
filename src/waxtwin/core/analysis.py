"""One delivery, analysed: motion, stops, every measure, and how far to trust each."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from waxtwin.core.camera import FIELD_SIGHT, Sight
from waxtwin.core.errors import TrackError
from waxtwin.core.estimated import InSpace, was_measured
from waxtwin.core.events import find_events
from waxtwin.core.measures import MEASURES, Measure, Reading, Value, evaluate
from waxtwin.core.measures.registry import LOST_IN_NOISE, OUT_OF_VIEW, is_planar
from waxtwin.core.measures.speeds import SPEED_POINTS, TURNS, peak_spread
from waxtwin.core.motion import Motion, prepare
from waxtwin.core.picture_stops import shows_throw
from waxtwin.core.placing import NOMINAL_HEIGHT
from waxtwin.core.quality import doubts
from waxtwin.core.rates import cost, model_doubt
from waxtwin.core.steps import Steps, finish
from waxtwin.core.stops import LANDING, ORDER, Event, StopsByHand
from waxtwin.core.track import Track, check_track, estimate_height
from waxtwin.core.withheld import Withheld, check_stops, withhold

COPIES = 200
SEQUENCE = ("sequence_order", "sequence_lags")
_INTERVAL = 2500.0  # an interval (ms) is so many standard deviations (s) of what detection is off, as measured
_INTERVAL_BY_MODEL = 2000.0  # marks that waver leave more of the interval open
_ESTIMATED_COPIES = 48
_BATCH = 25  # copies worked on at a time: small enough to stay in the cache and to cancel soon


@dataclass(frozen=True)
class Delivery:
    """One throw as it came from its files: the track in the true field frame and what is known about it.

    `height` and `span` in metres, `mass` in kg. `by_hand` is what somebody said about its stops. The cut-offs that the
    footage asks for are multiplied by `smoothing`; `in_space` is what one camera's clip was estimated to be in space,
    where somebody had that done. A bare track has the frames of a clip and no landmarks yet: only what needs none is
    worked out.
    """

    name: str
    track: Track
    throws: str = "R"
    height: float | None = None
    span: float | None = None
    ball_speed: float | None = None
    by_hand: StopsByHand = field(default_factory=StopsByHand)
    sight: Sight = FIELD_SIGHT
    notes: tuple[str, ...] = ()
    smoothing: float = 1.0
    in_space: InSpace | None = None
    mass: float | None = None


@dataclass(frozen=True)
class Analysis:
    """Everything computed from one delivery, canonical side.

    `events` are the stops that may be used; `withheld` those that were found but contradict something or are too vague:
    nothing is computed from them, somebody is asked. `copies` {measure: (copies,)} are its jittered figures once it is
    `resolved`.
    """

    delivery: Delivery
    motion: Motion
    events: Mapping[str, Event]
    landing: str
    measures: Mapping[str, Value]
    warnings: tuple[str, ...]
    copies: Mapping[str, np.ndarray] = field(default_factory=dict)
    resolved: bool = False
    withheld: Mapping[str, Withheld] = field(default_factory=dict)

    @property
    def reading(self) -> Reading:
        """The reading that the values came from."""
        stops = {name: np.array([time]) for name, time in self.event_times.items()}
        return Reading(self.motion, stops, self.landing_stop)

    @property
    def landing_stop(self) -> str:
        """Id of the stop that counts as landing."""
        return LANDING[self.landing]

    @property
    def event_times(self) -> dict[str, float]:
        """Seconds of every stop found."""
        return {name: event.time for name, event in self.events.items()}

    def time(self, stop: str) -> float | None:
        """Seconds of a stop; `landing` follows the chosen landing."""
        event = self.events.get(self.landing_stop if stop == "landing" else stop)
        return None if event is None else event.time

    def holds_ball(self, time: float) -> bool:
        """Whether the ball is known to be in the hand still."""
        release = self.time("release")
        return release is not None and time <= release

    def proposal(self, stop: str) -> Event | None:
        """A stop as found, whether it may be used or not."""
        held = self.withheld.get(stop)
        return self.events.get(stop) or (None if held is None else held.event)


NO_THROW = (
    "No hand is as quick in this clip as one that throws: it seems to end before release, or to begin after it. Stops "
    "are found from release, so set those that it shows by hand."
)


def prepared(delivery: Delivery) -> tuple[Motion, list[str]]:
    """The delivery's motion, canonical and smoothed, and warnings. Raises TrackError for an impossible track."""
    notes = list(delivery.notes)
    if delivery.track.is_bare:
        return prepare(delivery.track, delivery.height or NOMINAL_HEIGHT, delivery.sight), notes
    check_track(delivery.track)
    height = delivery.height
    if height is None and delivery.sight.by_body:
        height = NOMINAL_HEIGHT
        notes.append("The standing height is not given: lengths are shares of it, not metres.")
    if height is None:
        height = estimate_height(delivery.track)
        if height is None or not 0.9 < height < 2.6:
            raise TrackError("standing height is not given and cannot be read from the track; state it in the sidecar")
        notes.append(f"Standing height was not given; {height:.2f} m is read from the track.")
    return prepare(delivery.track.canonical(delivery.throws), height, delivery.sight, delivery.smoothing), notes


def analyse(delivery: Delivery, *, landing: str = "touch") -> Analysis:
    """Events and measures of one delivery, without resolution; `landing` is "touch" or "plant". Raises TrackError."""
    return analyse_prepared(delivery, *prepared(delivery), landing=landing)


def analyse_prepared(delivery: Delivery, motion: Motion, notes: Sequence[str], *, landing: str) -> Analysis:
    """The same from a motion that is prepared already, with the notes made on the way."""
    notes = list(notes)
    found = find_events(motion, delivery.by_hand)
    events, withheld = withhold(found)
    motion = motion.put_right({name: event.time for name, event in events.items()})
    unthrown = "release" not in found and motion.flat is not None and not motion.is_bare and not shows_throw(motion)
    if unthrown:
        notes.append(NO_THROW)
    said = check_stops(found, withheld, ORDER if motion.is_bare or unthrown else delivery.by_hand.rejected)
    warnings = (*notes, *said, *(() if motion.is_bare else doubts(motion, events)))
    analysis = Analysis(delivery, motion, events, landing, {}, warnings, withheld=withheld)
    values = _values(analysis.reading, withheld)
    return replace(analysis, measures=_with_estimates(analysis, values, withheld))


def _values(reading: Reading, withheld: Collection[str]) -> dict[str, Value]:
    values = {}
    for item in MEASURES.values():
        figures, reason = evaluate(item, reading, withheld)
        planar = is_planar(item, reading.motion)
        values[item.id] = Value(None if figures is None else float(figures[0]), planar, reason)
    return values | _sequence(values)


def _with_estimates(analysis: Analysis, values: dict[str, Value], withheld: Collection[str]) -> dict[str, Value]:
    """What only space shows, from the estimate in space where there is one."""
    estimate = analysis.delivery.in_space
    if estimate is None or analysis.motion.flat is None or (estimate.gated and not was_measured(analysis.motion)):
        return values
    reading = replace(analysis.reading, motion=estimate.motion_on(analysis.motion))
    out = dict(values)
    for item in MEASURES.values():
        known = estimate.known_off(item.id)
        if values[item.id].reason in OUT_OF_VIEW and known is not None:
            figures, reason = evaluate(item, reading, withheld)
            value = None if figures is None else float(figures[0]) - _estimate_off(analysis, item.id)[0]
            out[item.id] = Value(value, reason=reason, estimated=figures is not None)
    return out | _sequence(out)


def _sequence(values: Mapping[str, Value]) -> dict[str, Value]:
    times = {turn: values[f"{turn}_time"].value for turn in TURNS}
    known = {turn: time for turn, time in times.items() if time is not None}
    if len(known) < len(TURNS):
        reason = next(values[f"{turn}_time"].reason for turn in TURNS if turn not in known)
        return {name: Value(None, reason=reason) for name in SEQUENCE}
    order = tuple(sorted(known, key=known.__getitem__))
    lags = tuple(round(known[b] - known[a], 3) for a, b in pairwise(order))
    return {"sequence_order": Value(None, order=order), "sequence_lags": Value(None, order=lags)}


def resolve_steps(analysis: Analysis, count: int = COPIES, seed: int = 0) -> Steps[Analysis]:
    """Work out every measure's standard deviation and bias over `count` jittered copies.

    Returns the resolved analysis; each batch is a step. Each copy is the smoothed motion with fresh noise at the
    measured level, smoothed again, its stops moved within their intervals and by up to a quarter of a frame.
    """
    motion = analysis.motion
    rng = np.random.default_rng(seed)
    known = [item for item in MEASURES.values() if analysis.measures[item.id].value is not None]
    estimated = [item for item in known if analysis.measures[item.id].estimated]
    wanted = [item for item in known if not analysis.measures[item.id].estimated]
    kept: dict[str, list[np.ndarray]] = {}
    for start in range(0, count, _BATCH):
        size = min(_BATCH, count - start)
        reading = Reading(motion.copies(size, rng), jittered(analysis, size, rng), analysis.landing_stop)
        for item in wanted:
            kept.setdefault(item.id, []).append(item.function(reading))
        yield (start + size) / count
    copies = {name: np.concatenate(parts) for name, parts in kept.items()}
    if estimated:
        copies |= _estimated_copies(analysis, estimated, count, rng)
    return replace(analysis, measures=_with_spread(analysis, copies), copies=copies, resolved=True)


def _estimated_copies(
    analysis: Analysis, wanted: Sequence[Measure], count: int, rng: np.random.Generator
) -> dict[str, np.ndarray]:
    """The estimated measures over draws of the estimate, their stops moved like all others."""
    estimate = analysis.delivery.in_space
    assert estimate is not None
    size = min(count, _ESTIMATED_COPIES)
    motion = estimate.drawn(analysis.motion, size, rng)
    reading = Reading(motion, jittered(analysis, size, rng), analysis.landing_stop)
    return {item.id: item.function(reading) - _estimate_off(analysis, item.id)[0] for item in wanted}


def _estimate_off(analysis: Analysis, measure: str) -> tuple[float, float]:
    """What the estimate is off in a measure on average, not known where a person set the marks, and its doubt."""
    estimate = analysis.delivery.in_space
    off, doubt = (None if estimate is None else estimate.known_off(measure)) or (0.0, 0.0)
    return off if analysis.motion.sight.by_model else 0.0, doubt


def resolve_all(analyses: Sequence[Analysis]) -> list[Analysis]:
    """Every one resolved, two at a time: the array work lets go of the interpreter."""
    with ThreadPoolExecutor(2) as pool:
        return list(pool.map(resolve, analyses))


def resolve(analysis: Analysis, count: int = COPIES, seed: int = 0) -> Analysis:
    """The analysis with standard deviations and biases; see `resolve_steps`."""
    return finish(resolve_steps(analysis, count, seed))


def jittered(analysis: Analysis, size: int, rng: np.random.Generator) -> dict[str, np.ndarray]:
    """Stops of each copy, moved within their intervals, and all of them by up to a quarter of a frame either way."""
    motion = analysis.motion
    per_sd = _INTERVAL_BY_MODEL if motion.sight.by_model else _INTERVAL
    frame = rng.uniform(-0.25, 0.25, size) / motion.rate
    stops: dict[str, np.ndarray] = {}
    # no two stops are turned around, and a flat moment gives way to a sharp one: the surest are placed first
    for event in sorted(analysis.events.values(), key=lambda one: one.interval):
        moved = event.time + rng.normal(0.0, event.interval / per_sd, size) + frame
        at = ORDER.index(event.id)
        low = [stops[name] for name in ORDER[:at] if name in stops]
        high = [stops[name] for name in ORDER[at + 1 :] if name in stops]
        first = np.max(low, axis=0) if low else motion.times[0]
        last = np.min(high, axis=0) if high else motion.times[-1]
        stops[event.id] = np.clip(np.clip(moved, first, last), motion.times[0], motion.times[-1])
    return stops


def _own_doubt(analysis: Analysis, measure: str, value: float) -> float:
    """What copies do not show of a measure's doubt, one standard deviation."""
    motion = analysis.motion
    if analysis.measures[measure].estimated:
        return _estimate_off(analysis, measure)[1]
    return model_doubt(measure, value, motion.flat) if motion.flat is not None and motion.sight.by_model else 0.0


def _with_spread(analysis: Analysis, copies: Mapping[str, np.ndarray]) -> dict[str, Value]:
    values = dict(analysis.measures)
    for name, figures in copies.items():
        value = values[name].value
        seen = figures[np.isfinite(figures)]
        if value is None:
            continue
        if seen.size < figures.size // 2:  # what is there by chance is no figure
            values[name] = replace(values[name], value=None, reason=LOST_IN_NOISE)
            continue
        lost = cost(name, value, analysis.motion.rate)
        # about the stated figure, not about their own mean: what the copies are off on average is doubt as well
        own = _own_doubt(analysis, name, value)
        sd = float(np.sqrt(np.mean((seen - value) ** 2) + lost**2 + own**2))
        values[name] = replace(values[name], sd=sd, bias=float(np.mean(seen) - value) + lost)
    for point in SPEED_POINTS:  # a landmark is hardly faster when it is fastest: then its marks do not say when that is
        speed, time = values[f"peak_speed_{point}"].sd, values[f"peak_time_{point}"].sd
        if speed is not None and time is not None:
            spread = float(peak_spread(analysis.reading, point, speed)[0])
            values[f"peak_time_{point}"] = replace(values[f"peak_time_{point}"], sd=float(np.hypot(time, spread)))
    return values
