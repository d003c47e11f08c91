"""Figures in words and units. The core works in metres, seconds and degrees; people choose."""

from __future__ import annotations

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


def figure(value: float | None, unit: str, imperial: bool = False, *, signed: bool = False) -> str:
    """A figure with its unit, or a dash."""
    if value is None:
        return "–"
    number, name, digits = converted(value, unit, imperial)
    text = f"{number:+.{digits}f}" if signed else f"{number:.{digits}f}"
    text = text.replace("-", "−")
    if text.lstrip("+−").strip("0.") == "":
        text = text.lstrip("+−")
    return f"{text}{name}" if name == "°" else f"{text} {name}"


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
