"""Screening from a CSV file, as whoever measured hands it over."""

from __future__ import annotations

import csv
from collections.abc import Mapping
from io import StringIO
from pathlib import Path

from waxtwin.core.capacity import MEASURED, SIDES, STATES, Item, Reading
from waxtwin.formats.files import FormatError, read_text
from waxtwin.library.judging import reading_of

COLUMNS = ("item", "side", "value", "state", "mode", "position", "date", "by")


def read_screening(path: Path, items: Mapping[str, Item]) -> dict[str, Reading]:
    """Readings {item, or item:side: Reading} of a CSV file with the columns `item` and `value`, and where they are
    known `side`, `state`, `mode`, `position`, `date` and `by`. Raises FormatError that names the line.
    """
    lines = csv.DictReader(StringIO(read_text(path).lstrip("\ufeff")))
    missing = [name for name in ("item", "value") if name not in (lines.fieldnames or ())]
    if missing:
        raise FormatError(path, f"it needs a column “{missing[0]}”; the columns are {', '.join(COLUMNS)}")
    found = {}
    for line in lines:
        said = {name: (line.get(name) or "").strip() for name in COLUMNS}
        try:
            key, reading = _read(said, items)
        except ValueError as fault:
            raise FormatError(path, f"line {lines.line_num}: {fault}") from None
        found[key] = reading
    if not found:
        raise FormatError(path, "there is nothing in it")
    return found


def _read(said: Mapping[str, str], items: Mapping[str, Item]) -> tuple[str, Reading]:
    item = items.get(said["item"])
    if item is None:
        raise ValueError(f"there is no item named “{said['item'][:40]}”; there are {', '.join(items)}")
    if item.sides != bool(said["side"]) or (said["side"] and said["side"] not in SIDES):
        where = f"on a side, {' or '.join(SIDES)}" if item.sides else "without a side"
        raise ValueError(f"{item.id} is measured {where}")
    state = next((one for one in (MEASURED, *STATES) if one.startswith(said["state"].casefold())), "")
    value = None
    if state == MEASURED:
        try:
            value = float(said["value"].replace(",", "."))
        except ValueError:
            raise ValueError(f"“{said['value'][:40]}” is not a number") from None
    elif not state:
        raise ValueError(f"a state is {', '.join(STATES)}, not “{said['state'][:40]}”")
    reading = reading_of({**said, "state": state, "value": value})
    if reading is None:
        raise ValueError(f"“{said['value'][:40]}” is no reading of {item.id}")
    return f"{item.id}:{said['side']}" if item.sides else item.id, reading
