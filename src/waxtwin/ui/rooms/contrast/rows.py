"""The rows of a contrast as a reader wants them: chosen, found, put in order, written out. Knows no Qt."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from waxtwin.core.contrast import APART, BEYOND, LEVEL, SHORT, UNAVAILABLE, UNTOLD, Row
from waxtwin.core.measures.registry import KINDS
from waxtwin.core.standing import resolution, verdict
from waxtwin.core.units import figure
from waxtwin.ui.model.wording import stop_of

STANDINGS: Mapping[str, tuple[str, frozenset[str]]] = {
    "any": ("all measures", frozenset({SHORT, BEYOND, LEVEL, UNTOLD, UNAVAILABLE})),
    "apart": ("that differ", APART),
    "short": ("athlete less", frozenset({SHORT})),
    "beyond": ("athlete more", frozenset({BEYOND})),
    "level": ("level", frozenset({LEVEL})),
    "untold": ("that cannot be told", frozenset({UNTOLD})),
    "known": ("available", frozenset({SHORT, BEYOND, LEVEL, UNTOLD})),
    "missing": ("not available", frozenset({UNAVAILABLE})),
}


@dataclass(frozen=True)
class Wish:
    """What is asked for: a `kind` or "all", a key of STANDINGS, a stop or None, `words` that must all occur in name,
    explanation or id, `only` these measures where not None, and whether the largest differences (in resolutions) come
    first.
    """  # fmt: skip

    kind: str = "all"
    standing: str = "any"
    stop: str | None = None
    words: str = ""
    only: frozenset[str] | None = None
    by_size: bool = False


def arranged(rows: Sequence[Row], wish: Wish, landing: str) -> list[Row | str]:
    """The rows that are asked for: under a heading per kind, what is told before what is not; or by size, without."""
    found = [row for row in rows if _wanted(row, wish, landing)]
    if wish.by_size:
        return [*sorted(found, key=lambda row: -row.clearness)]
    out: list[Row | str] = []
    for kind, name in KINDS.items():
        of_kind = sorted((row for row in found if row.measure.kind == kind), key=_says)
        out += [name, *of_kind] if of_kind else []
    return out


def _says(row: Row) -> int:
    """How little a row says: how the two stand, only their figures, or nothing."""
    return 0 if row.told else 1 if row.difference is not None else 2


def _wanted(row: Row, wish: Wish, landing: str) -> bool:
    item = row.measure
    text = f"{item.label} {item.text} {item.usual} {item.id}".lower()
    return (
        wish.kind in ("all", item.kind)
        and row.verdict in STANDINGS[wish.standing][1]
        and wish.stop in (None, stop_of(item, landing))
        and (wish.only is None or item.id in wish.only)
        and all(word in text for word in wish.words.lower().split())
    )


_HEAD = ("measure", "unit", "athlete", "twin", "difference", "resolution", "verdict", "band")


def as_text(rows: Iterable[Row | str], imperial: bool) -> str:
    """The rows as lines of text, columns by tabs, in the chosen units."""
    lines = ["\t".join(("Measure", "Athlete", "Twin", "Margin ±", "Athlete stands"))]
    for row in rows:
        if isinstance(row, str):
            lines += ["", row]
            continue
        unit = row.measure.unit
        sides = [figure(value, unit, imperial) for value in (row.athlete, row.twin)]
        lines.append("\t".join((row.measure.label, *sides, resolution(row, imperial), verdict(row, imperial))))
    return "\n".join(lines) + "\n"


def as_csv(rows: Iterable[Row | str]) -> str:
    """The rows as CSV: ids, plain figures in the JSON's own units, empty where not available."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(_HEAD)
    for row in rows:
        if not isinstance(row, str):
            figures = [_plain(value) for value in (row.athlete, row.twin, row.difference, row.resolution)]
            band = "" if row.band is None else f"{row.band.low:g} to {row.band.high:g}"
            writer.writerow((row.measure.id, row.measure.unit, *figures, row.verdict, band))
    return out.getvalue()


def _plain(value: float | None) -> str:
    return "" if value is None else f"{value:.6g}"
