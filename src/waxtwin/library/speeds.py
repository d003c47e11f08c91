"""Ball speeds of a day that no throw in the library carries: typed, from a CSV file, or logged where no clip was taken.

They lie in the day's log as readings of a radar gun, so whatever keeps, hands out or erases a session keeps them too.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from sqlalchemy import select

from waxtwin.core.readings import RADAR, READ, LiveThrow, Reading
from waxtwin.core.trend import Figures
from waxtwin.core.units import read_speed
from waxtwin.formats.sheets import iso_day, read_sheet
from waxtwin.library.records import ThrowingSession
from waxtwin.library.session_log import keep_run, sessions_of, throw_document
from waxtwin.library.store import Library

TYPED = "typed"
_UNITS = {"speed_mps": "m/s", "speed_mph": "mph", "speed_kmh": "km/h", "speed": ""}  # columns of a CSV file
_SLOWEST, _FASTEST = 5.0, 60.0  # m/s: beyond these it is no throw


def speeds_of(library: Library, athlete_id: int) -> tuple[Figures, ...]:
    """Every such speed of an athlete in order of date, as a throw of which nothing else is known."""
    with library.reading() as session:
        rows = sessions_of(session, athlete_id)
        return tuple(Figures(0, row.date, speed, {}, {}) for row in rows for speed in _speeds(row.log))


def typed_speeds(library: Library, athlete_id: int, day: str) -> tuple[float, ...]:
    """The speeds that were typed or brought in for a day, m/s."""
    with library.reading() as session:
        row = session.scalars(
            select(ThrowingSession).where(ThrowingSession.athlete_id == athlete_id, ThrowingSession.date == day)
        ).first()
        return () if row is None else tuple(_speeds([one for one in row.log if _is_typed(one)]))


def set_speeds(library: Library, athlete_id: int, days: Mapping[str, Sequence[float]]) -> None:
    """Keep {ISO day: speeds in m/s} in the place of what was typed for these days. Raises LibraryError."""
    entries = {day: list(map(_entry, range(len(speeds)), speeds)) for day, speeds in days.items()}
    keep_run(library, athlete_id, "Speeds of", TYPED, entries)


def read_speeds(path: Path, imperial: bool = False) -> dict[str, list[float]]:
    """{ISO day: speeds in m/s} of a CSV file with a column `date` and one of `speed_mps`, `speed_mph`, `speed_kmh`, or
    `speed` in any unit or the chosen ones. Raises FormatError that names the line.
    """
    found: dict[str, list[float]] = {}
    for day, speed in read_sheet(
        path, (("date",), tuple(_UNITS)), lambda line: _line(line, imperial), empty="there are no speeds in it"
    ):
        found.setdefault(day, []).append(speed)
    return found


def _line(said: Mapping[str, str], imperial: bool) -> tuple[str, float]:
    column = next(name for name in _UNITS if name in said)
    return iso_day(said["date"]), speed_of(f"{said[column]} {_UNITS[column]}", imperial)


def speed_of(text: str, imperial: bool = False) -> float:
    """A ball speed in m/s from what somebody typed. Raises ValueError, one plain sentence."""
    speed = read_speed(text, imperial=imperial)
    if not _SLOWEST <= speed <= _FASTEST:
        raise ValueError(f"“{text.strip()[:40]}” is no ball speed.")
    return speed


def _entry(n: int, speed: float) -> dict[str, Any]:
    reading = Reading(RADAR, float(n), READ, speed, TYPED)
    return throw_document(LiveThrow(float(n), {RADAR: reading}), None)


def _is_typed(entry: Any) -> bool:
    return isinstance(entry, dict) and entry.get("run") == TYPED


def _speeds(log: Sequence[Any]) -> list[float]:
    """Speeds of a log's throws that have no clip; what is malformed is left out."""
    found = []
    for entry in log:
        if not isinstance(entry, dict) or entry.get("delivery") is not None:
            continue
        readings = entry.get("readings")
        for one in readings if isinstance(readings, list) else ():
            if isinstance(one, dict) and one.get("device") == RADAR and one.get("state") == READ:
                value = one.get("value")
                if isinstance(value, (int, float)) and not isinstance(value, bool):
                    found.append(float(value))
    return found
