"""Chalk marks with the throws they are on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from math import isfinite
from typing import Any

from waxtwin.core.chalk import KINDS, Chalk, End, told
from waxtwin.core.read_off import POINTS
from waxtwin.core.stops import ORDER
from waxtwin.library.store import Library
from waxtwin.library.stored import StoredDelivery
from waxtwin.library.throws import delivery_row

_KEPT = "chalk"  # the sidecar's own name for it
_MOST = 200  # marks of a throw


def chalk_of(stored: StoredDelivery | None) -> tuple[Chalk, ...]:
    """The marks of a throw; what cannot be understood is left out."""
    kept = () if stored is None else stored.sidecar.chalk
    found = (_read(one) for one in kept[:_MOST])
    return tuple(one for one in found if one is not None)


def _read(entry: Any) -> Chalk | None:
    try:
        kind, stop = str(entry["kind"]), str(entry.get("stop", ""))
        ends = tuple(_end(one) for one in entry["ends"])
        first, last = (None if entry.get(name) is None else float(entry[name]) for name in ("first", "last"))
        if kind not in KINDS or len(ends) != KINDS[kind][1] or (stop and stop not in ORDER):
            return None
        made = Chalk(
            str(entry["id"])[:40], kind, ends, float(entry["put"]), told(str(entry.get("words", ""))), stop, first,
            last, str(entry.get("clip", "")), str(entry.get("view", "side")), bool(entry.get("hidden", False)),
        )  # fmt: skip
    except (KeyError, TypeError, ValueError, AttributeError):
        return None
    return made if all(isfinite(at) for at in (made.put, first or 0.0, last or 0.0)) else None


def _end(entry: Mapping[str, Any]) -> End:
    end = End(str(entry.get("landmark", "")), float(entry.get("x", 0.0)), float(entry.get("y", 0.0)))
    if end.landmark not in ("", *POINTS) or not (abs(end.x) <= 10 and abs(end.y) <= 10):
        raise ValueError("no such end")
    return end


def keep_chalk(library: Library, chalk: Mapping[int, Sequence[Chalk]], label: str) -> dict[int, list[dict[str, Any]]]:
    """Keep all marks of throws, {key: marks}, as one change; returns them as kept. Raises LibraryError."""
    kept = {key: [asdict(one) for one in marks] for key, marks in chalk.items()}
    with library.change(label) as session:
        for key, entries in kept.items():
            row = delivery_row(session, key)
            row.extra = {**row.extra, _KEPT: entries}
    return kept


def with_chalk(stored: StoredDelivery, kept: Sequence[Mapping[str, Any]]) -> StoredDelivery:
    """The throw with these marks."""
    return replace(stored, sidecar=stored.sidecar.model_copy(update={_KEPT: list(kept)}))
