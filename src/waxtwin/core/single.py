"""One delivery on its own: its figures against the band and the athlete's own past, and nothing about a twin."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from waxtwin.core.analysis import Analysis
from waxtwin.core.before_after import CHANGED
from waxtwin.core.contrast import BEYOND, LEVEL, SHORT, UNAVAILABLE, UNTOLD, Band, Row, Standards
from waxtwin.core.measures import MEASURES
from waxtwin.core.trend import Figures, Point, Shift, between, trend


@dataclass(frozen=True)
class Single:
    """A delivery and its `rows` in registry order, as contrast rows of which the other side is the athlete's own past.

    `twin` is the mean of the last session before, where there is one; `difference` how far beyond the band (0 within
    it), `resolution` what the figure is known to, twice its standard deviation; `verdict` where it stands to the band,
    UNTOLD at its edge and where there is none. `shifts` {measure: since the last session}.
    """

    side: str
    analysis: Analysis
    rows: tuple[Row, ...]
    shifts: Mapping[str, Shift]

    @property
    def outside(self) -> tuple[Row, ...]:
        """The measures that lie outside their band by more than they are known to, furthest first."""
        found = [row for row in self.rows if row.apart and row.difference is not None]
        return tuple(sorted(found, key=lambda row: -abs(row.difference or 0.0) / (row.resolution or 1.0)))

    @property
    def inside(self) -> tuple[Row, ...]:
        """The measures that are known to lie within their band."""
        return tuple(row for row in self.rows if row.verdict == LEVEL)

    @property
    def moved(self) -> tuple[Row, ...]:
        """The measures that changed since the last session."""
        return tuple(row for row in self.rows if (one := self.shifts.get(row.measure.id)) and one.state == CHANGED)


def against_bands(
    side: str, analysis: Analysis, standards: Standards, earlier: Iterable[Figures] = (), date: str = ""
) -> Single:
    """A delivery against the bands, and against the last of the `earlier` throws' sessions; it was thrown on `date`."""
    before = list(earlier)
    shifts = {}
    for name, value in analysis.measures.items():
        if name not in MEASURES or value.value is None or not before:
            continue
        past = _last(trend(before, name), planar=value.planar)
        if past is not None:
            now = Point(date, value.value, value.sd, value.value, value.value, 1, value.planar)
            shifts[name] = between(past, now, name, standards.matters)
    return Single(side, analysis, tuple(_row(name, analysis, standards, shifts.get(name)) for name in MEASURES), shifts)


def _last(points: Sequence[Point], *, planar: bool) -> Point | None:
    return next((one for one in reversed(points) if one.planar == planar), None)


def _row(name: str, analysis: Analysis, standards: Standards, since: Shift | None) -> Row:
    item, value = MEASURES[name], analysis.measures[name]
    before = None if since is None else since.before.value
    if value.value is None:
        return Row(item, None, before, None, None, UNAVAILABLE, value.planar, value.reason, None)
    band = None if value.planar else standards.bands.get(name)
    doubt = None if value.sd is None else 2.0 * value.sd
    beyond, verdict = _stands(value.value, doubt, band)
    return Row(item, value.value, before, beyond, doubt, verdict, value.planar, None, band)


def _stands(value: float, doubt: float | None, band: Band | None) -> tuple[float, str]:
    """How far beyond a band a figure is, and what that says: within it, below, above, or too near to its edge to say.

    What is better the more of it there is is never too much, and the other way round.
    """
    if band is None:
        return 0.0, UNTOLD
    below = 0.0 if band.direction == "less" else min(value - band.low, 0.0)
    above = 0.0 if band.direction == "more" else max(value - band.high, 0.0)
    beyond = below + above
    if doubt is None:
        return beyond, UNTOLD
    if abs(beyond) > doubt:
        return beyond, SHORT if beyond < 0 else BEYOND
    under = doubt if band.direction == "less" else value - band.low
    over = doubt if band.direction == "more" else band.high - value
    return beyond, LEVEL if min(under, over) >= doubt else UNTOLD
