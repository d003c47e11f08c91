"""Small CSV files that people hand over: a line that cannot be read is named, and nothing is taken."""

from __future__ import annotations

import csv
from collections.abc import Callable, Mapping, Sequence
from datetime import date
from io import StringIO
from pathlib import Path
from typing import TypeVar

from waxtwin.formats.files import FormatError, read_text

T = TypeVar("T")


def read_sheet(
    path: Path, columns: Sequence[Sequence[str]], read: Callable[[Mapping[str, str]], T], *, empty: str
) -> list[T]:
    """What `read` makes of each line {column in lower case: text}; its ValueErrors become the fault of that line.

    `columns` are those that must be there, each by any of its names; `empty` is said of a file without lines. Raises
    FormatError.
    """
    lines = csv.DictReader(StringIO(read_text(path)))
    found: list[T] = []
    try:
        names = {(name or "").strip().casefold() for name in lines.fieldnames or ()}
        for each in columns:
            if not names & {*each}:
                raise FormatError(path, f"it needs a column {' or '.join(f'“{name}”' for name in each)}")
        for line in lines:
            said = {(name or "").strip().casefold(): str(text or "").strip() for name, text in line.items()}
            found.append(read(said))
    except ValueError as fault:
        if isinstance(fault, FormatError):
            raise
        raise FormatError(path, f"line {lines.line_num}: {fault}") from None
    except csv.Error:
        raise FormatError(path, f"line {lines.line_num}: it cannot be read as CSV") from None
    if not found:
        raise FormatError(path, empty)
    return found


def iso_day(text: str) -> str:
    """A day of a sheet. Raises ValueError, one plain sentence."""
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        raise ValueError("a day is written as year-month-day") from None


def number(text: str) -> float:
    """A number of a sheet, with a point or a comma. Raises ValueError, one plain sentence."""
    try:
        return float(text.strip().replace(",", "."))
    except ValueError:
        raise ValueError(f"“{text.strip()[:40]}” is not a number") from None
