"""What a camera wrote into its clip: at how many frames a second it was taken, and on which day."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date, datetime, timedelta
from fractions import Fraction

_RATES = ("com.android.capture.fps", "capture_fps", "capture-fps", "com.apple.quicktime.capture.fps")
_LOCAL_DAY = "com.apple.quicktime.creationdate"  # in the time of the place
_MADE = "creation_time"  # in universal time, and also of copies that some program made
_CAMERAS = ("com.android.version", "com.android.manufacturer", "com.android.model", "make", "model")
_FIRST = date(2000, 1, 1)  # a clock that was never set says an earlier day

Tags = Iterable[tuple[str, str]]


def tags_of(*said: Mapping[str, str]) -> list[tuple[str, str]]:
    """Everything that a file and its pictures say, names in small letters."""
    return [(key.lower(), value) for one in said for key, value in one.items()]


def captured(tags: Tags) -> float | None:
    """The rate at which a clip says it was taken, where its makers wrote one down."""
    for key, value in tags:
        if key in _RATES:
            try:
                rate = float(Fraction(value))
            except (ValueError, ZeroDivisionError):
                continue
            if 1 <= rate <= 20000:
                return rate
    return None


def filmed(tags: Tags, today: date) -> str | None:
    """The day (ISO) on which its camera says that a clip was taken, by the clock where this runs if it says no other;
    None where no camera says so, for what a program made anew carries the day on which that was done.
    """
    said = dict(tags)
    local, made = said.get(_LOCAL_DAY, ""), said.get(_MADE, "") if any(key in said for key in _CAMERAS) else ""
    try:
        day = (datetime.fromisoformat(local) if local else datetime.fromisoformat(made).astimezone()).date()
    except (ValueError, OverflowError, OSError):
        return None
    return day.isoformat() if _FIRST <= day <= today + timedelta(days=1) else None
