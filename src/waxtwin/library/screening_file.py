"""Screening from a CSV file, as whoever measured hands it over."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from waxtwin.core.capacity import MEASURED, SIDES, STATES, Item, Reading
from waxtwin.formats.sheets import number, read_sheet
from waxtwin.library.judging import reading_of

COLUMNS = ("item", "side", "value", "state", "mode", "position", "date", "by")


def read_screening(path: Path, items: Mapping[str, Item]) -> dict[str, Reading]:
    """Readings {item, or item:side: Reading} of a CSV file with the columns `item` and `value`, and where they are
    known `side`, `state`, `mode`, `position`, `date` and `by`. Raises FormatError that names the line.
    """
    needed = (("item",), ("value",))
    return dict(read_sheet(path, needed, lambda line: _read(line, items), empty="there is nothing in it"))


def _read(line: Mapping[str, str], items: Mapping[str, Item]) -> tuple[str, Reading]:
    said = {name: line.get(name, "") for name in COLUMNS}
    item = items.get(said["item"])
    if item is None:
        raise ValueError(f"there is no item named “{said['item'][:40]}”; there are {', '.join(items)}")
    if item.sides != bool(said["side"]) or (said["side"] and said["side"] not in SIDES):
        where = f"on a side, {' or '.join(SIDES)}" if item.sides else "without a side"
        raise ValueError(f"{item.id} is measured {where}")
    state = next((one for one in (MEASURED, *STATES) if one.startswith(said["state"].casefold())), "")
    value = None
    if state == MEASURED:
        value = number(said["value"])
    elif not state:
        raise ValueError(f"a state is {', '.join(STATES)}, not “{said['state'][:40]}”")
    reading = reading_of({**said, "state": state, "value": value})
    if reading is None:
        raise ValueError(f"“{said['value'][:40]}” is no reading of {item.id}")
    return f"{item.id}:{said['side']}" if item.sides else item.id, reading
