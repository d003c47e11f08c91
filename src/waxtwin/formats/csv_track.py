"""Wide CSV: `time,<landmark>_x,<landmark>_y,<landmark>_z[,<landmark>_c]`, seconds and metres."""

from __future__ import annotations

import csv
import io

import numpy as np

from waxtwin.core.landmarks import LANDMARKS
from waxtwin.core.track import Track
from waxtwin.formats.registry import RawTrack


def read(text: str) -> RawTrack:
    """Parse the table. Raises ValueError with the fault."""
    rows = [row for row in csv.reader(io.StringIO(text, newline="")) if any(cell.strip() for cell in row)]
    header = [cell.strip() for cell in rows[0]]
    if "time" not in header:
        raise ValueError("there is no “time” column")
    if len(set(header)) != len(header):
        raise ValueError("a column stands there twice")
    width = len(header)
    for number, row in enumerate(rows[1:], start=2):
        if len(row) != width:
            raise ValueError(f"row {number} has {len(row)} cells where the header has {width}; is the file cut short?")
    table = np.array([[_number(cell, n) for cell in row] for n, row in enumerate(rows[1:], start=2)], float)
    if table.size == 0:
        raise ValueError("there is a header but no row of figures")
    columns = dict(zip(header, table.T, strict=True))
    times = columns.pop("time")
    points: dict[str, np.ndarray] = {}
    confidence: dict[str, np.ndarray] = {}
    for name, column in columns.items():
        landmark, _, part = name.rpartition("_")
        if not landmark or part not in ("x", "y", "z", "c"):
            raise ValueError(f"the column “{name[:40]}” is not <landmark>_x, _y, _z or _c")
        if part == "c":
            confidence[landmark] = column
        else:
            points.setdefault(landmark, np.full((times.size, 3), np.nan))[:, "xyz".index(part)] = column
    if not points:
        raise ValueError("there is no landmark column")
    return RawTrack(times, points, confidence)


def _number(cell: str, row: int) -> float:
    cell = cell.strip()
    if not cell or cell.lower() == "nan":
        return np.nan
    try:
        return float(cell)
    except ValueError:
        raise ValueError(f"row {row} has “{cell[:20]}” where a number belongs") from None


def write(track: Track) -> str:
    """The table of every landmark that has a value, missing cells empty."""
    present = [(i, n) for i, n in enumerate(LANDMARKS) if not np.isnan(track.points[:, i]).all()]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["time", *(f"{n}_{part}" for _, n in present for part in "xyzc")])
    for k, time in enumerate(track.times):
        cells = [f"{time:.6f}"]
        for i, _ in present:
            cells += ["" if np.isnan(v) else f"{v:.5f}" for v in track.points[k, i]]
            cells.append(f"{track.confidence[k, i]:.3g}")
        writer.writerow(cells)
    return out.getvalue()
