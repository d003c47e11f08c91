"""Where an athlete stands on a measure, in words and in the chosen units."""

from __future__ import annotations

from waxtwin.core.contrast import LEVEL, SHORT, UNTOLD, Row
from waxtwin.core.units import converted, figure


def resolution(row: Row, imperial: bool, *, brief: bool = False) -> str:
    """The margin: what the footage tells apart, one decimal finer than the figure where that is a whole number; `brief`
    without its unit.
    """
    if row.resolution is None:
        return ""
    number, name, digits = converted(row.resolution, row.measure.unit, imperial)
    text = f"{number:.{max(digits, 1)}f}" if number < 10 else f"{number:.{digits}f}"
    if brief:
        return text
    return f"{text}{name}" if name == "°" else f"{text} {name}"


def verdict(row: Row, imperial: bool, *, brief: bool = False) -> str:
    """Where the athlete stands, in words: “less 8.0 %”, “more 12°, small · 4 of 5”, “level”, “cannot be told”; `brief`
    has 4/5.
    """
    if row.difference is None:
        return "not available"
    if row.resolution is None:
        return "…"
    if row.verdict == LEVEL:
        return "level"
    if row.verdict == UNTOLD:
        return "cannot be told"
    size = figure(abs(row.difference), row.measure.unit, imperial)
    of = "/" if brief else " of "
    throws = f" · {row.throws.agree}{of}{row.throws.of}" if row.throws is not None and row.throws.of > 1 else ""
    return f"{'less' if row.verdict == SHORT else 'more'} {size}{', small' if row.small else ''}{throws}"
