"""What judgement needs besides the two deliveries: screening, what was ruled on findings, schools, all as data."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import date
from functools import cache
from pathlib import Path
from typing import Any

from waxtwin import ASSETS
from waxtwin.core.capacity import MEASURED, SIDES, STATES, Capacity, Examination, Item, Join, Reading, Screening
from waxtwin.core.explain import Perspective
from waxtwin.core.findings import Playbook, Rulings
from waxtwin.core.rules import RuleError
from waxtwin.core.schools import School
from waxtwin.formats.files import FormatError, read_text
from waxtwin.library.eye import load_checks, looked_at
from waxtwin.library.playbook import shipped_playbook
from waxtwin.library.stored import StoredDelivery

SCREENING = ASSETS / "screening.json"
PAIN, RULINGS = "pain", "rulings"
MODES = ("active", "passive")
_LONGEST = 120  # characters of a position, and of a name
_LARGEST = 1e6  # no reading of any item comes near it


def load_screening(path: Path = SCREENING) -> Screening:
    """What can be screened, with bands and joins. Raises FormatError."""
    try:
        document = json.loads(read_text(path))
        items = {str(one["id"]): Item(str(one["id"]), str(one["label"]), str(one["unit"]), str(one["group"]),
                                      bool(one["sides"]), float(one["low"]), float(one["high"]),
                                      tuple(map(_test, one.get("tests", ()))))
                 for one in document["items"]}  # fmt: skip
        joins = tuple(_join(one) for one in document["joins"])
        for key in (key for join in joins for key in (*join.low, *join.high)):
            if key.partition(":")[0] not in items:
                raise RuleError(f"there is no item named {key}")
        return Screening(items, joins, frozenset(map(str, document["softened"])), str(document["source"]))
    except RuleError as fault:
        raise FormatError(path, str(fault)) from None
    except (ValueError, KeyError, TypeError, AttributeError) as fault:
        if isinstance(fault, FormatError):
            raise
        raise FormatError(path, "it is not a screening file that can be read") from None


def _test(entry: Mapping[str, Any]) -> Examination:
    mode, position = str(entry["mode"]), str(entry["position"])
    if mode not in MODES:
        raise RuleError(f"a test is {' or '.join(MODES)}, not {mode[:20]}")
    return Examination(mode, position)


def _join(entry: Mapping[str, Any]) -> Join:
    findings, low, high = (tuple(map(str, entry.get(part, ()))) for part in ("findings", "low", "high"))
    return Join(findings, low, high, str(entry["says"]))


_shipped_screening = cache(load_screening)


def readings_of(screening: Mapping[str, Any], items: Mapping[str, Item]) -> dict[str, Reading]:
    """The readings in a sidecar's `screening`, by item or item:side; what is malformed counts as not measured."""
    found = {}
    for name, item in items.items():
        entry = screening.get(name)
        parts = {f"{name}:{side}": entry.get(side) for side in SIDES} if item.sides and isinstance(entry, dict) else {}
        for key, one in (parts or {name: entry}).items():
            reading = reading_of(one)
            if reading is not None:
                found[key] = reading
    return found


def reading_of(entry: Any) -> Reading | None:
    """A reading from JSON; None where it is malformed."""
    if not isinstance(entry, dict) or entry.get("state") not in STATES:
        return None
    value, day = entry.get("value"), entry.get("date")
    measured = entry["state"] == MEASURED
    if measured and (not isinstance(value, (int, float)) or isinstance(value, bool) or not abs(value) < _LARGEST):
        return None
    try:
        said = date.fromisoformat(str(day or "")).isoformat()
    except ValueError:
        said = ""
    mode, position = entry.get("mode"), str(entry.get("position") or "").strip()
    test = Examination(str(mode), position[:_LONGEST]) if mode in MODES and position else None
    by = str(entry.get("by") or "").strip()[:_LONGEST]
    return Reading(entry["state"], float(value or 0.0) if measured else None, said, test, by)


def screening_document(readings: Mapping[str, Reading], pain: str) -> dict[str, Any]:
    """Readings as they stand in a sidecar."""
    out: dict[str, Any] = {}
    for key, one in readings.items():
        entry: dict[str, Any] = {"state": one.state, "value": one.value, "date": one.date}
        entry |= {"mode": one.test.mode, "position": one.test.position} if one.test is not None else {}
        entry |= {"by": one.by} if one.by else {}
        name, _, side = key.partition(":")
        if side:
            out.setdefault(name, {})[side] = entry
        else:
            out[name] = entry
    return out | ({PAIN: pain.strip()} if pain.strip() else {})


def capacity_of(stored: StoredDelivery) -> Capacity:
    """The athlete's body as far as it is known."""
    what = _shipped_screening()
    said = stored.sidecar.screening
    who = stored.sidecar.athlete
    readings = readings_of(said, what.items)
    return Capacity(what, readings, who.height_m, who.span_m, str(said.get(PAIN) or ""))


def rulings_of(stored: StoredDelivery) -> Rulings:
    """What was ruled on this throw's findings."""
    said = (stored.sidecar.model_extra or {}).get(RULINGS)
    if not isinstance(said, dict):
        return Rulings()
    aside = said.get("set_aside")
    accepted = said.get("accepted")
    return Rulings(
        frozenset(map(str, accepted)) if isinstance(accepted, list) else frozenset(),
        {str(k): str(v) for k, v in aside.items()} if isinstance(aside, dict) else {},
    )


def perspective_of(
    stored: StoredDelivery, school: School, schools: list[School], playbook: Playbook | None = None, *,
    twin: StoredDelivery | None = None,
) -> Perspective:  # fmt: skip
    """How an athlete's throw is looked at from a school, and the twin's by eye; `schools` are all that are asked for
    their stance.
    """
    return Perspective(
        playbook or shipped_playbook(), school, tuple(schools), capacity_of(stored), rulings_of(stored),
        stored.sidecar.athlete.born, looked_at(load_checks()[0], stored, twin),
    )  # fmt: skip
