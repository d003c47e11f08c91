"""Athlete against twin, measure by measure, with a verdict that never calls noise a finding."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from waxtwin.core.analysis import Analysis, Delivery, analyse_prepared, prepared
from waxtwin.core.measures import MEASURES, Measure, Value
from waxtwin.core.motion import smoothed_alike
from waxtwin.core.sets import Spread, ThrowSet

SHORT, BEYOND, LEVEL, UNAVAILABLE = "short", "beyond", "level", "unavailable"
DIRECTIONS: Mapping[str, str] = {"inside": "inside the band", "more": "more is better", "less": "less is better"}


@dataclass(frozen=True, slots=True)
class Band:
    """Where a population's figures lie for a measure, with its source; `direction` is a key of DIRECTIONS."""

    low: float
    high: float
    population: str
    source: str
    verified: bool = False
    direction: str = "inside"

    def told(self) -> str:
        """The band in words, with its source and whether that was checked against the paper."""
        checked = "" if self.verified or "to verify" in self.source else "; to verify"
        held = "" if self.direction == "inside" else f", {DIRECTIONS[self.direction]}"
        return f"{self.low:g} to {self.high:g}{held}, {self.population}; {self.source}{checked}"


@dataclass(frozen=True, slots=True)
class Throws:
    """One measure over the throws of both sides; of the athlete's `of` throws that show it, `agree` stand against the
    twin's mean as the verdict says, each by more than it resolves.
    """  # fmt: skip

    athlete: Spread
    twin: Spread
    agree: int
    of: int


@dataclass(frozen=True, slots=True)
class Row:
    """One measure of the pair: figures, `difference` athlete less twin, `resolution` in the same unit.

    `verdict` says where the athlete stands: `short` (less), `beyond` (more), `level`, or `unavailable`. `resolution`
    is None until the jittered copies have been worked through. `throws` is there when the figures are means of sets.
    """

    measure: Measure
    athlete: float | None
    twin: float | None
    difference: float | None
    resolution: float | None
    verdict: str
    planar: bool
    reason: str | None
    band: Band | None
    throws: Throws | None = None


@dataclass(frozen=True)
class Contrast:
    """A pair, analysed with the same smoothing, and its rows in registry order.

    Of sets of throws, `athlete` and `twin` are the typical ones, and `sets` holds all of them.
    """

    athlete: Analysis
    twin: Analysis
    rows: tuple[Row, ...]
    sets: tuple[ThrowSet, ThrowSet] | None = None

    def row(self, measure_id: str) -> Row:
        """The row of one measure. Raises KeyError."""
        for row in self.rows:
            if row.measure.id == measure_id:
                return row
        raise KeyError(measure_id)


def analyse_pair(athlete: Delivery, twin: Delivery, *, landing: str = "touch") -> tuple[Analysis, Analysis]:
    """Both deliveries with one smoothing. Raises TrackError."""
    one, two = analyse_alike((athlete, twin), landing=landing)
    return one, two


def analyse_alike(deliveries: Sequence[Delivery], *, landing: str = "touch") -> list[Analysis]:
    """Deliveries with one smoothing: per landmark the lowest of the cut-offs chosen for each. Raises TrackError."""
    ready = [prepared(d) for d in deliveries]
    motions = smoothed_alike([motion for motion, _ in ready])
    return [
        analyse_prepared(d, motion, notes, landing=landing)
        for d, motion, (_, notes) in zip(deliveries, motions, ready, strict=True)
    ]


def contrast(athlete: Analysis, twin: Analysis, bands: Mapping[str, Band] | None = None) -> Contrast:
    """Rows of the pair; verdicts count a difference only beyond 2 sqrt(sdA^2 + sdB^2), and a frame for timing."""
    sides = (athlete.measures, twin.measures)
    return Contrast(athlete, twin, _rows(sides, bands or {}, _frame(athlete, twin)))


def contrast_sets(athlete: ThrowSet, twin: ThrowSet, bands: Mapping[str, Band] | None = None) -> Contrast:
    """Rows of two sets: means against means, the throw-to-throw spread within what they resolve.

    A set of one throw on both sides gives what `contrast` gives.
    """
    if len(athlete.throws) == len(twin.throws) == 1:
        return contrast(athlete.throws[0], twin.throws[0], bands)
    frame = min(_frame(a, t) for a in athlete.throws for t in twin.throws)
    rows = _rows((athlete.values(), twin.values()), bands or {}, frame)
    rows = tuple(_with_throws(row, athlete, twin) for row in rows)
    ours, theirs = (side.throws[side.typical] for side in (athlete, twin))
    return Contrast(ours, theirs, rows, (athlete, twin))


def _frame(athlete: Analysis, twin: Analysis) -> float:
    """The longer frame of the two, ms."""
    return 1000.0 / min(athlete.motion.rate, twin.motion.rate)


def _rows(
    sides: tuple[Mapping[str, Value], Mapping[str, Value]], bands: Mapping[str, Band], frame: float
) -> tuple[Row, ...]:
    return tuple(_row(item, sides[0][item.id], sides[1][item.id], bands.get(item.id), frame)
                 for item in MEASURES.values())  # fmt: skip


def _row(item: Measure, a: Value, b: Value, band: Band | None, frame: float) -> Row:
    planar = a.planar or b.planar
    band = None if planar else band
    if a.value is None or b.value is None:
        who, reason = ("athlete", a.reason) if a.value is None else ("twin", b.reason)
        return Row(item, a.value, b.value, None, None, UNAVAILABLE, planar, f"{who}: {reason}", band)
    if a.planar != b.planar:
        reason = "one side is seen in a single picture only, the other in 3D"
        return Row(item, a.value, b.value, None, None, UNAVAILABLE, planar, reason, band)
    difference = a.value - b.value
    resolution = _resolution(item, a.sd, b.sd, frame)
    return Row(item, a.value, b.value, difference, resolution, _verdict(difference, resolution), planar, None, band)


def _resolution(item: Measure, a: float | None, b: float | None, frame: float) -> float | None:
    if a is None or b is None:
        return None
    resolution = 2.0 * float(np.hypot(a, b))
    return max(resolution, frame) if item.unit == "ms" else resolution


def _with_throws(row: Row, athlete: ThrowSet, twin: ThrowSet) -> Row:
    """The row with what its throws say one by one."""
    name = row.measure.id
    if row.difference is None:
        return row
    ours, theirs = athlete.spreads[name], twin.spreads[name]
    agree = 0
    for throw in athlete.throws:
        value = throw.measures[name]
        if value.value is not None:
            frame = 1000.0 / throw.motion.rate
            verdict = _verdict(value.value - theirs.mean, _resolution(row.measure, value.sd, theirs.error, frame))
            agree += verdict == row.verdict
    return replace(row, throws=Throws(ours, theirs, agree, ours.count))


def _verdict(difference: float, resolution: float | None) -> str:
    """Before the resolution is known nothing is claimed: level."""
    if resolution is None or abs(difference) <= resolution:
        return LEVEL
    return SHORT if difference < 0 else BEYOND
