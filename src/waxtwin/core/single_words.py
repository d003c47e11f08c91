"""Where a delivery on its own stands on a measure, in words and in the chosen units."""

from __future__ import annotations

from waxtwin.core.before_after import CHANGED
from waxtwin.core.contrast import LEVEL, SHORT, Row
from waxtwin.core.single import Single
from waxtwin.core.units import figure


def against_band(row: Row, imperial: bool) -> str:
    """Where a delivery on its own stands: “below by 7.0 %”, “inside”, “at its edge”."""
    if row.athlete is None:
        return "not available"
    if row.band is None:
        return "no band"
    if row.resolution is None:
        return "…"
    if not row.apart:
        return "inside" if row.verdict == LEVEL else "at its edge"
    size = figure(abs(row.difference or 0.0), row.measure.unit, imperial)
    return f"{'below' if row.verdict == SHORT else 'above'} by {size}"


def last_time(single: Single, row: Row, imperial: bool) -> str:
    """What a measure was in the session before, with a sign where it is known to have changed since."""
    if row.twin is None:
        return ""
    since = single.shifts[row.measure.id]
    sign = ("  ▲" if since.difference > 0 else "  ▼") if since.state == CHANGED else ""
    return f"{figure(row.twin, row.measure.unit, imperial)}{sign}"
