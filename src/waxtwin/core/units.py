"""Figures in words and units. The core works in metres, seconds and degrees; people choose."""

from __future__ import annotations

from waxtwin.core.contrast import BEYOND, LEVEL, SHORT, Row

_FOOT, _INCH, _MPH = 0.3048, 0.0254, 0.44704


def converted(value: float, unit: str, imperial: bool) -> tuple[float, str, int]:
    """A figure in the chosen units: value, unit as shown, decimals."""
    if unit == "m/s":
        return (value / _MPH, "mph", 1) if imperial else (value, "m/s", 2)
    if unit == "m":
        return (value / _INCH, "in", 1) if imperial else (value * 100, "cm", 1)
    if unit == "m/s2":
        return (value / _FOOT, "ft/s²", 0) if imperial else (value, "m/s²", 0)
    if unit == "deg":
        return value, "°", 0
    if unit == "deg/s":
        return value, "°/s", 0
    return value, unit, 0 if unit == "ms" else 1


def figure(value: float | None, unit: str, imperial: bool, *, signed: bool = False) -> str:
    """A figure with its unit, or a dash."""
    if value is None:
        return "–"
    number, name, digits = converted(value, unit, imperial)
    text = f"{number:+.{digits}f}" if signed else f"{number:.{digits}f}"
    text = text.replace("-", "−")
    if text.lstrip("+−").strip("0.") == "":
        text = text.lstrip("+−")
    return f"{text}{name}" if name == "°" else f"{text} {name}"


def resolution(row: Row, imperial: bool) -> str:
    """What the footage resolves, one decimal finer than the figure where that is a whole number."""
    if row.resolution is None:
        return ""
    number, name, digits = converted(row.resolution, row.measure.unit, imperial)
    text = f"{number:.{max(digits, 1)}f}" if number < 10 else f"{number:.{digits}f}"
    return f"{text}{name}" if name == "°" else f"{text} {name}"


def verdict(row: Row, imperial: bool) -> str:
    """Where the athlete stands, in words: “short 8.0 %”, “beyond 12°”, “level”."""
    if row.difference is None:
        return "not available"
    if row.resolution is None:
        return "…"
    if row.verdict == LEVEL:
        return "level"
    size = figure(abs(row.difference), row.measure.unit, imperial)
    throws = f" · {row.throws.agree} of {row.throws.of}" if row.throws is not None and row.throws.of > 1 else ""
    return f"{'short' if row.verdict == SHORT else 'beyond' if row.verdict == BEYOND else ''} {size}{throws}".strip()


def speed(value: float | None, imperial: bool) -> str:
    """A ball speed."""
    return "speed not known" if value is None else figure(value, "m/s", imperial)


def height(value: float | None, imperial: bool) -> str:
    """A standing height."""
    if value is None:
        return "height not known"
    if not imperial:
        return f"{value:.2f} m"
    inches = round(value / _INCH)
    return f"{inches // 12} ft {inches % 12} in"
