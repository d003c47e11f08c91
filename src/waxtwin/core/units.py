"""Figures in words and units. The core works in metres, seconds and degrees; people choose."""

from __future__ import annotations

import re
from collections.abc import Mapping

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
    return value, unit, 0 if unit in ("ms", "%/s") else 1


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


_HEIGHTS = (0.9, 2.6)  # m: what a bare figure in centimetres can be meant for
_NUMBER = r"(\d+(?:[.,]\d*)?|[.,]\d+)"
_FEET, _INCHES = r"(?:'|’|′|ft\.?|feet|foot)", r"(?:\"|”|″|''|in\.?|inch|inches)"
_LENGTH_UNITS: Mapping[str, float] = {
    "m": 1.0, "metre": 1.0, "metres": 1.0, "meter": 1.0, "meters": 1.0, "cm": 0.01, "mm": 0.001, "in": _INCH,
    '"': _INCH,
    "”": _INCH, "″": _INCH, "inch": _INCH, "inches": _INCH, "ft": _FOOT, "'": _FOOT, "’": _FOOT, "′": _FOOT,
    "foot": _FOOT, "feet": _FOOT,
}  # fmt: skip
_SPEED_UNITS: Mapping[str, float] = {
    "m/s": 1.0, "mps": 1.0, "mph": _MPH, "mi/h": _MPH, "km/h": 1 / 3.6, "kmh": 1 / 3.6, "kph": 1 / 3.6,
}  # fmt: skip


def read_length(text: str, *, tall: bool = False, imperial: bool = False) -> float:
    """A length in metres from what somebody typed: 6'1, 6 ft 1, 73 in, 1.85, 185 cm; with `tall` a bare 185 is cm.

    A bare figure is metres, or inches where `imperial`. Raises ValueError, one plain sentence.
    """
    said = text.strip().lower()
    feet = re.fullmatch(rf"{_NUMBER}\s*{_FEET}\s*(?:{_NUMBER}\s*{_INCHES}?)?", said)
    if feet:
        inches = _figure(feet[2]) if feet[2] else 0.0
        if inches < 12:
            return _figure(feet[1]) * _FOOT + inches * _INCH
    plain = re.fullmatch(rf"{_NUMBER}\s*([a-z\"”″]*)\.?", said)
    if plain and plain[2] in _LENGTH_UNITS:
        return _figure(plain[1]) * _LENGTH_UNITS[plain[2]]
    if plain and not plain[2]:
        value = _figure(plain[1])
        if tall and _HEIGHTS[0] * 100 <= value <= _HEIGHTS[1] * 100:
            return value / 100
        if not tall or value < 3:
            return value * _INCH if imperial and not tall else value
    raise ValueError(f"“{text.strip()[:40]}” is not understood as a length; write 1.85, 185 cm, 6'1 or 73 in.")


def read_speed(text: str, *, imperial: bool = False) -> float:
    """A speed in m/s from what somebody typed: 33.2 m/s, 74 mph, 120 km/h; a bare figure is in the chosen units.

    Raises ValueError, one plain sentence.
    """
    found = re.fullmatch(rf"{_NUMBER}\s*([a-z/]*)", text.strip().lower())
    unit = found[2] if found else ""
    if found and (not unit or unit in _SPEED_UNITS):
        return _figure(found[1]) * _SPEED_UNITS[unit or ("mph" if imperial else "m/s")]
    raise ValueError(f"“{text.strip()[:40]}” is not understood as a speed; write 33.2 m/s, 74 mph or 120 km/h.")


def _figure(text: str) -> float:
    return float(text.replace(",", "."))
