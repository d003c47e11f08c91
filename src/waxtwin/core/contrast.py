"""Athlete against twin, measure by measure, with a verdict that never calls noise a finding."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from waxtwin.core.analysis import Analysis, Delivery, analyse_prepared, prepared
from waxtwin.core.matters import USUAL, Matters
from waxtwin.core.measures import MEASURES, Measure, Value
from waxtwin.core.motion import smoothed_alike
from waxtwin.core.sets import Spread, ThrowSet

SHORT, BEYOND, LEVEL, UNTOLD, UNAVAILABLE = "short", "beyond", "level", "untold", "unavailable"
APART = frozenset({SHORT, BEYOND})  # told to be different
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


@dataclass(frozen=True)
class Standards:
    """What figures are read against: the `bands` of a population by measure, and what `matters`."""

    bands: Mapping[str, Band] = field(default_factory=dict)
    matters: Matters = USUAL


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

    `verdict` says where the athlete stands: `short` (less) or `beyond` (more) by more than is resolved, `small` when
    that matters little; `level` when both are known to be alike; `untold` when the footage is too coarse for either;
    `unavailable`. `alike_within` is what difference and resolution together must stay below to be level. `resolution`
    is None until the jittered copies have been worked through. `estimated`: a figure of it is not seen, but worked
    out from one camera. `throws` is there when the figures are means of sets.
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
    small: bool = False
    alike_within: float | None = None
    estimated: bool = False

    @property
    def depth(self) -> str:
        """How its figures are known: "measured", "planar" or "estimated"."""
        return "planar" if self.planar else "estimated" if self.estimated else "measured"

    @property
    def apart(self) -> bool:
        """Whether both sides are known to differ."""
        return self.verdict in APART

    @property
    def clearness(self) -> float:
        """How many resolutions the difference is; 0 while these are not known, below where there is no difference."""
        if self.difference is None:
            return -1.0
        return abs(self.difference) / self.resolution if self.resolution else 0.0

    @property
    def told(self) -> bool:
        """Whether the footage answers how the two stand: they differ, or are known to be alike."""
        return self.apart or self.verdict == LEVEL


@dataclass(frozen=True)
class Contrast:
    """A pair, analysed with the same smoothing, and its rows in registry order.

    Of sets of throws, `athlete` and `twin` are the typical ones, and `sets` holds all of them.
    """

    athlete: Analysis
    twin: Analysis
    rows: tuple[Row, ...]
    sets: tuple[ThrowSet, ThrowSet] | None = None

    @property
    def ball_speeds(self) -> tuple[float, float] | None:
        """The athlete's and the twin's ball speed, m/s: means of the throws whose speed is known; None without both."""
        sides = [one.throws for one in self.sets] if self.sets is not None else [(self.athlete,), (self.twin,)]
        known = [[throw.delivery.ball_speed for throw in throws if throw.delivery.ball_speed] for throws in sides]
        if not all(known):
            return None
        ours, theirs = (float(np.mean(speeds)) for speeds in known)
        return ours, theirs

    @property
    def bare(self) -> tuple[str, ...]:
        """The sides of which there are no landmarks yet."""
        return tuple(side for side in ("athlete", "twin") if getattr(self, side).motion.is_bare)

    @property
    def differing(self) -> tuple[Row, ...]:
        """What is known to differ and matters, the clearest first."""
        return tuple(sorted((row for row in self.rows if row.apart and not row.small), key=lambda row: -row.clearness))

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


def contrast(athlete: Analysis, twin: Analysis, standards: Standards | None = None) -> Contrast:
    """Rows of the pair; verdicts count a difference only beyond 2 sqrt(sdA^2 + sdB^2), and a frame for timing."""
    held = _Held(standards or Standards(), (athlete, twin))
    return Contrast(athlete, twin, held.rows(athlete.measures, twin.measures))


def contrast_sets(athlete: ThrowSet, twin: ThrowSet, standards: Standards | None = None) -> Contrast:
    """Rows of two sets: means against means, the throw-to-throw spread within what they resolve.

    A set of one throw on both sides gives what `contrast` gives.
    """
    if len(athlete.throws) == len(twin.throws) == 1:
        return contrast(athlete.throws[0], twin.throws[0], standards)
    held = _Held(standards or Standards(), (*athlete.throws, *twin.throws))
    rows = tuple(held.with_throws(row, athlete, twin) for row in held.rows(athlete.values(), twin.values()))
    ours, theirs = (side.throws[side.typical] for side in (athlete, twin))
    return Contrast(ours, theirs, rows, (athlete, twin))


class _Held:
    """Two sides held against each other: what they are read against, the longest frame (ms), the mean height (m)."""

    def __init__(self, standards: Standards, throws: Sequence[Analysis]) -> None:
        self.standards = standards
        self.frame = 1000.0 / min(one.motion.rate for one in throws)
        self.height = float(np.mean([one.motion.height for one in throws]))

    def rows(self, athlete: Mapping[str, Value], twin: Mapping[str, Value]) -> tuple[Row, ...]:
        """Every measure in registry order."""
        return tuple(self._row(item, athlete[item.id], twin[item.id]) for item in MEASURES.values())

    def _row(self, item: Measure, a: Value, b: Value) -> Row:
        planar = a.planar or b.planar
        band = None if planar else self.standards.bands.get(item.id)
        if a.value is None or b.value is None:
            who, reason = ("athlete", a.reason) if a.value is None else ("twin", b.reason)
            return Row(item, a.value, b.value, None, None, UNAVAILABLE, planar, f"{who}: {reason}", band)
        if a.planar != b.planar:
            reason = "one side is seen in a single picture only, the other in 3D"
            return Row(item, a.value, b.value, None, None, UNAVAILABLE, planar, reason, band)
        difference, resolution = a.value - b.value, resolved_to(item, a.sd, b.sd, self.frame)
        matters = self.standards.matters
        alike = matters.alike_within(item, a.value, b.value, height=self.height)
        verdict = verdict_of(difference, resolution, alike)
        small = verdict in APART and abs(difference) < matters.least(item, a.value, b.value, height=self.height)
        return Row(
            item, a.value, b.value, difference, resolution, verdict, planar, None, band, small=small,
            alike_within=alike, estimated=a.estimated or b.estimated,
        )  # fmt: skip

    def with_throws(self, row: Row, athlete: ThrowSet, twin: ThrowSet) -> Row:
        """The row with what its throws say one by one."""
        name = row.measure.id
        if row.difference is None:
            return row
        ours, theirs = athlete.spreads[name], twin.spreads[name]
        agree = 0
        for throw in athlete.throws:
            value = throw.measures[name]
            if value.value is not None:
                resolution = resolved_to(row.measure, value.sd, theirs.error, 1000.0 / throw.motion.rate)
                agree += verdict_of(value.value - theirs.mean, resolution, row.alike_within or 0.0) == row.verdict
        return replace(row, throws=Throws(ours, theirs, agree, ours.count))


def resolved_to(item: Measure, a: float | None, b: float | None, frame: float) -> float | None:
    """What two figures with these standard deviations tell apart; times no finer than a `frame` (ms)."""
    if a is None or b is None:
        return None
    resolution = 2.0 * float(np.hypot(a, b))
    return max(resolution, frame) if item.unit == "ms" else resolution


def verdict_of(difference: float, resolution: float | None, alike_within: float) -> str:
    """What a difference says: nothing before its resolution is known, or when that is too coarse."""
    if resolution is None:
        return UNTOLD
    if abs(difference) > resolution:
        return SHORT if difference < 0 else BEYOND
    return LEVEL if abs(difference) + resolution <= alike_within else UNTOLD
