"""Tables for other programs: measures, stops and curves as CSV. Text that a spreadsheet would run stays text."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.contrast import Contrast
from waxtwin.core.curves import CURVES
from waxtwin.core.measures import MEASURES
from waxtwin.core.stops import EVENTS
from waxtwin.formats.files import write_text

Cells = tuple[Sequence[str], Iterable[Sequence[Any]]]
_RUNS = ("=", "+", "-", "@", "\t", "\r")  # what a spreadsheet takes for the start of a formula


def cell(value: Any) -> str:
    """A cell as text: nothing for what is missing; words that would run begin with an apostrophe."""
    if value is None or (isinstance(value, float) and np.isnan(value)):
        return ""
    if isinstance(value, (int, float, np.floating)):
        return f"{value:.6g}"
    said = str(value)
    return f"'{said}" if said.startswith(_RUNS) else said


def write_table(path: Path, cells: Cells) -> None:
    """Write a head and rows as CSV, whole or not at all. Raises FormatError."""
    head, rows = cells
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    writer.writerows([cell(value) for value in row] for row in rows)
    write_text(path, out.getvalue())


def contrast_table(pair: Contrast) -> Cells:
    """Every measure of a pair with its verdict."""
    head = ("id", "measure", "kind", "stop", "unit", "athlete", "athlete_sd", "twin", "twin_sd", "difference",
            "resolution", "verdict", "band_low", "band_high", "planar", "reason")  # fmt: skip
    rows = (
        (row.measure.id, row.measure.label, row.measure.kind, row.measure.at, row.measure.unit, row.athlete,
         pair.athlete.measures[row.measure.id].sd, row.twin, pair.twin.measures[row.measure.id].sd, row.difference,
         row.resolution, row.verdict, row.band and row.band.low, row.band and row.band.high,
         int(row.planar), row.reason)
        for row in pair.rows
    )  # fmt: skip
    return head, rows


def measures_table(analysis: Analysis) -> Cells:
    """Every measure of one delivery."""
    rows = (
        (item.id, item.label, item.kind, item.at, item.unit, value.value, value.sd, int(value.planar), value.reason)
        for item in MEASURES.values() if (value := analysis.measures[item.id])
    )  # fmt: skip
    return ("id", "measure", "kind", "stop", "unit", "value", "sd", "planar", "reason"), rows


def events_table(analysis: Analysis) -> Cells:
    """The stops of one delivery."""
    rows = ((one.id, EVENTS[one.id].label, one.time, one.source, one.confidence, one.interval)
            for one in analysis.events.values())  # fmt: skip
    return ("id", "stop", "time_s", "source", "confidence", "interval_ms"), rows


def curves_table(analysis: Analysis) -> Cells:
    """Every curve over the throw's own time."""
    head = ("time_s", *(f"{one.id}_{one.unit.replace('/', '_')}" for one in CURVES.values()))
    columns = [analysis.motion.times, *(one.values(analysis) for one in CURVES.values())]
    return head, zip(*columns, strict=True)


def curves_document(analysis: Analysis) -> dict[str, Any]:
    """Every curve over the throw's own time, as JSON."""
    return {
        "time_s": [round(float(t), 6) for t in analysis.motion.times],
        "stops_s": {name: round(time, 6) for name, time in analysis.event_times.items()},
        "curves": {
            one.id: {"label": one.label, "unit": one.unit,
                     "values": [None if np.isnan(v) else round(float(v), 5) for v in one.values(analysis)]}
            for one in CURVES.values()
        },
    }  # fmt: skip
