"""Wide CSV: `time,<landmark>_x,<landmark>_y,<landmark>_z[,<landmark>_c]`, seconds and metres."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterator, Mapping

import numpy as np

from waxtwin.core.landmarks import LANDMARKS
from waxtwin.core.track import Track
from waxtwin.formats.track_format import FaultyFileError, RawTrack, text_format

_MOST_COLUMNS = 2000


def read(text: str) -> RawTrack:
    """Parse the table. Raises FaultyFileError with the fault."""
    rows = _rows(text)
    header = [cell.strip() for cell in next(rows, [])]
    if "time" not in header:
        raise FaultyFileError("there is no “time” column")
    if len(set(header)) != len(header):
        raise FaultyFileError("a column stands there twice")
    if len(header) > _MOST_COLUMNS:
        raise FaultyFileError(f"it has {len(header)} columns, more than any body has landmarks")
    width = len(header)
    figures = []  # a row at a time: cells as text would take many times the room
    for number, row in enumerate(rows, start=2):
        if len(row) != width:
            raise FaultyFileError(
                f"row {number} has {len(row)} cells where the header has {width}; is the file cut short?"
            )
        figures.append(np.array(_numbers(row, number)))
    if not figures:
        raise FaultyFileError("there is a header but no row of figures")
    table = np.stack(figures)
    columns = dict(zip(header, table.T, strict=True))
    return _sorted(columns.pop("time"), columns)


def _sorted(times: np.ndarray, columns: Mapping[str, np.ndarray]) -> RawTrack:
    """Columns by landmark. Raises FaultyFileError."""
    points: dict[str, np.ndarray] = {}
    confidence: dict[str, np.ndarray] = {}
    for name, column in columns.items():
        landmark, _, part = name.rpartition("_")
        if not landmark or part not in ("x", "y", "z", "c"):
            raise FaultyFileError(f"the column “{name[:40]}” is not <landmark>_x, _y, _z or _c")
        if part == "c":
            confidence[landmark] = column
        else:
            points.setdefault(landmark, np.full((times.size, 3), np.nan))[:, "xyz".index(part)] = column
    if not points:
        raise FaultyFileError("there is no landmark column")
    return RawTrack(times, points, confidence)


def _rows(text: str) -> Iterator[list[str]]:
    """Rows with something in them. Raises FaultyFileError."""
    try:
        for row in csv.reader(text.splitlines(keepends=True)):
            if any(cell.strip() for cell in row):
                yield row
    except csv.Error:
        raise FaultyFileError("a quotation mark in it is never closed, or a cell is longer than any figure") from None


def _numbers(row: list[str], number: int) -> list[float]:
    try:
        return [float(cell) if cell else np.nan for cell in row]  # as rows usually are
    except ValueError:
        return [_number(cell, number) for cell in row]


def _number(cell: str, row: int) -> float:
    cell = cell.strip()
    if not cell or cell.lower() == "nan":
        return np.nan
    try:
        return float(cell)
    except ValueError:
        raise FaultyFileError(f"row {row} has “{cell[:20]}” where a number belongs") from None


def write(track: Track) -> str:
    """The table of every landmark that has a value, missing cells empty."""
    present = [(i, n) for i, n in enumerate(LANDMARKS) if not np.isnan(track.points[:, i]).all()]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["time", *(f"{n}_{part}" for _, n in present for part in "xyzc")])
    kept = [i for i, _ in present]
    points, trusts = track.points[:, kept].tolist(), track.confidence[:, kept].tolist()
    for time, body, trust in zip(track.times.tolist(), points, trusts, strict=True):
        cells = [f"{time:.6f}"]
        for point, trusted in zip(body, trust, strict=True):
            cells += ["" if math.isnan(v) else f"{v:.5f}" for v in point]
            cells.append(f"{trusted:.3g}")
        writer.writerow(cells)
    return out.getvalue()


FORMAT = text_format(".csv", "CSV table", read, write)
