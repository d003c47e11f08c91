"""Readings of a sensor worn on the arm: typed, or from a CSV file; kept in the day's log beside what devices said."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from math import isfinite
from pathlib import Path
from typing import Any

from waxtwin.core.arm_sensor import LONGEST, ArmReading
from waxtwin.core.readings import READ, LiveThrow, Reading
from waxtwin.formats.sheets import iso_day, number, read_sheet
from waxtwin.library.session_log import ARM_SENSOR, keep_run, sessions_of, throw_document
from waxtwin.library.store import Library

_MOST = 1e6  # beyond it, it is no reading


def arm_readings(library: Library, athlete_id: int) -> tuple[ArmReading, ...]:
    """Every reading of an athlete, in order of date."""
    with library.reading() as session:
        read = [_reading(row.date, entry) for row in sessions_of(session, athlete_id) for entry in row.log]
    return tuple(one for one in read if one is not None)


def set_arm_readings(library: Library, athlete_id: int, days: Mapping[str, Sequence[ArmReading]]) -> None:
    """Keep {ISO day: readings} in the place of what was kept for these days, as one change. Raises LibraryError."""
    entries = {day: list(map(_entry, range(len(readings)), readings)) for day, readings in days.items()}
    keep_run(library, athlete_id, "Arm sensor on", ARM_SENSOR, entries)


def read_arm_readings(path: Path) -> dict[str, list[ArmReading]]:
    """{ISO day: readings} of a CSV file with the columns `date` and `value`, and where they are known `unit`, `make`
    and `throw`, the number of that day's throw. Raises FormatError that names the line.
    """
    found: dict[str, list[ArmReading]] = {}
    for one in read_sheet(path, (("date",), ("value",)), _line, empty="there are no readings in it"):
        found.setdefault(one.date, []).append(one)
    return found


def arm_reading_of(text: str, unit: str = "", make: str = "") -> ArmReading:
    """What somebody typed: “52.1”, or “3: 52.1” for the day's third throw; the day is still to be said.

    Raises ValueError, one plain sentence.
    """
    throw, _, value = text.rpartition(":")
    return ArmReading("", _value(value), unit.strip()[:LONGEST], make.strip()[:LONGEST], _throw(throw))


def _line(said: Mapping[str, str]) -> ArmReading:
    reading = arm_reading_of(said["value"], said.get("unit", ""), said.get("make", ""))
    return replace(reading, date=iso_day(said["date"]), throw=_throw(said.get("throw", "")))


def _value(text: str) -> float:
    value = number(text)
    if not isfinite(value) or not 0 <= value <= _MOST:
        raise ValueError(f"“{text.strip()[:40]}” is no reading of an arm sensor")
    return value


def _throw(text: str) -> int | None:
    if not text.strip():
        return None
    if not text.strip().isdecimal() or not 1 <= int(text) <= 1000:
        raise ValueError(f"“{text.strip()[:40]}” is not the number of a throw")
    return int(text)


def _entry(n: int, reading: ArmReading) -> dict[str, Any]:
    said = Reading(ARM_SENSOR, float(n), READ, reading.value, "")
    return throw_document(LiveThrow(float(n), {ARM_SENSOR: said}), None) | {
        "unit": reading.unit, "make": reading.make, "throw": reading.throw,
    }  # fmt: skip


def _reading(date: str, entry: Any) -> ArmReading | None:
    """A log's entry as a reading; None for what is none, or is malformed."""
    if not isinstance(entry, dict) or entry.get("run") != ARM_SENSOR:
        return None
    said = entry.get("readings")
    value = said[0].get("value") if isinstance(said, list) and said and isinstance(said[0], dict) else None
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        return None
    throw = entry.get("throw")
    unit, make = (str(entry.get(name, ""))[:LONGEST] for name in ("unit", "make"))
    return ArmReading(date, float(value), unit, make, throw if isinstance(throw, int) else None)
