"""Athlete against twin, measure by measure, with a verdict that never calls noise a finding."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.analysis import Analysis, Delivery, analyse_prepared, prepared
from waxtwin.core.measures import MEASURES, Measure
from waxtwin.core.motion import smoothed_alike

SHORT, BEYOND, LEVEL, UNAVAILABLE = "short", "beyond", "level", "unavailable"


@dataclass(frozen=True, slots=True)
class Band:
    """Where a population's figures lie for a measure, with its source."""

    low: float
    high: float
    population: str
    source: str
    verified: bool = False


@dataclass(frozen=True, slots=True)
class Row:
    """One measure of the pair: figures, `difference` athlete less twin, `resolution` in the same unit.

    `verdict` says where the athlete stands: `short` (less), `beyond` (more), `level`, or `unavailable`. `resolution`
    is None until the jittered copies have been worked through.
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


@dataclass(frozen=True)
class Contrast:
    """A pair, analysed with the same smoothing, and its rows in registry order."""

    athlete: Analysis
    twin: Analysis
    rows: tuple[Row, ...]

    def row(self, measure_id: str) -> Row:
        """The row of one measure. Raises KeyError."""
        for row in self.rows:
            if row.measure.id == measure_id:
                return row
        raise KeyError(measure_id)


def analyse_pair(athlete: Delivery, twin: Delivery, *, landing: str = "touch") -> tuple[Analysis, Analysis]:
    """Both deliveries with one smoothing: per landmark the lower of the two chosen cut-offs. Raises TrackError."""
    sides = (athlete, twin)
    ready = [prepared(d) for d in sides]
    motions = smoothed_alike([motion for motion, _ in ready])
    one, two = (
        analyse_prepared(d, motion, notes, landing=landing)
        for d, motion, (_, notes) in zip(sides, motions, ready, strict=True)
    )
    return one, two


def contrast(athlete: Analysis, twin: Analysis, bands: Mapping[str, Band] | None = None) -> Contrast:
    """Rows of the pair; verdicts count a difference only beyond 2 sqrt(sdA^2 + sdB^2), and a frame for timing."""
    bands = bands or {}
    frame = 1000.0 / min(athlete.motion.rate, twin.motion.rate)
    rows = tuple(_row(item, athlete, twin, bands.get(item.id), frame) for item in MEASURES.values())
    return Contrast(athlete, twin, rows)


def _row(item: Measure, athlete: Analysis, twin: Analysis, band: Band | None, frame: float) -> Row:
    a, b = athlete.measures[item.id], twin.measures[item.id]
    planar = a.planar or b.planar
    band = None if planar else band
    if a.value is None or b.value is None:
        who, reason = ("athlete", a.reason) if a.value is None else ("twin", b.reason)
        return Row(item, a.value, b.value, None, None, UNAVAILABLE, planar, f"{who}: {reason}", band)
    if a.planar != b.planar:
        reason = "one side is seen in a single picture only, the other in 3D"
        return Row(item, a.value, b.value, None, None, UNAVAILABLE, planar, reason, band)
    difference = a.value - b.value
    resolution = None
    if a.sd is not None and b.sd is not None:
        resolution = 2.0 * float(np.hypot(a.sd, b.sd))
        if item.unit == "ms":
            resolution = max(resolution, frame)
    return Row(item, a.value, b.value, difference, resolution, _verdict(difference, resolution), planar, None, band)


def _verdict(difference: float, resolution: float | None) -> str:
    """Before the resolution is known nothing is claimed: level."""
    if resolution is None or abs(difference) <= resolution:
        return LEVEL
    return SHORT if difference < 0 else BEYOND
