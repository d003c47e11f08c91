"""TRC marker text: five header lines, then frame, time and x y z of every marker, tab-separated.

The format names no axes and no marker set: both are settled where the columns become a track. Files are written in
the field frame.
"""

from __future__ import annotations

import numpy as np

from waxtwin.core.landmarks import LANDMARKS
from waxtwin.core.track import Track
from waxtwin.formats.track_format import FaultyFileError, RawTrack, text_format

_MOST_MARKERS = 500
_UNITS = {"m": 1.0, "meters": 1.0, "metres": 1.0, "mm": 0.001, "millimeters": 0.001, "millimetres": 0.001,
          "cm": 0.01}  # fmt: skip


def read(text: str) -> RawTrack:
    """Parse the markers. Raises FaultyFileError with the fault."""
    lines = [line.rstrip("\r") for line in text.split("\n")]
    if not lines[0].startswith("PathFileType") or len(lines) < 6:
        raise FaultyFileError("it does not begin like a TRC file")
    facts = dict(zip(lines[1].split("\t"), lines[2].split("\t"), strict=False))
    unit = facts.get("Units", "mm").strip().lower()
    if unit not in _UNITS:
        raise FaultyFileError(f"its unit “{unit[:20]}” is not known")
    names = [name.strip() for name in lines[3].split("\t")[2:] if name.strip()]
    if not names:
        raise FaultyFileError("it names no markers")
    if len(names) > _MOST_MARKERS:
        raise FaultyFileError(f"it names {len(names)} markers, more than any body carries")
    rows = []
    for number, line in enumerate(lines[5:], start=6):
        if not line.strip():
            continue
        cells = line.split("\t")
        if len(cells) < 2 + 3 * len(names):
            raise FaultyFileError(f"line {number} is cut short")
        rows.append(np.array([_number(cell, number) for cell in cells[1 : 2 + 3 * len(names)]]))
    if not rows:
        raise FaultyFileError("it has no frames")
    table = np.stack(rows)
    points = table[:, 1:].reshape(len(rows), len(names), 3) * _UNITS[unit]
    return RawTrack(table[:, 0], {name: points[:, j] for j, name in enumerate(names)}, {})


def _number(cell: str, line: int) -> float:
    cell = cell.strip()
    if not cell:
        return np.nan
    try:
        return float(cell)
    except ValueError:
        raise FaultyFileError(f"line {line} has “{cell[:20]}” where a number belongs") from None


def write(track: Track) -> str:
    """Markers in metres, field frame; missing coordinates are left empty."""
    present = [(i, n) for i, n in enumerate(LANDMARKS) if not np.isnan(track.points[:, i]).all()]
    rate, frames = f"{track.rate:.4f}", track.times.size
    lines = [
        "PathFileType\t4\t(X/Y/Z)\twaxtwin.trc",
        "DataRate\tCameraRate\tNumFrames\tNumMarkers\tUnits\tOrigDataRate\tOrigDataStartFrame\tOrigNumFrames",
        f"{rate}\t{rate}\t{frames}\t{len(present)}\tm\t{rate}\t1\t{frames}",
        "Frame#\tTime\t" + "\t\t\t".join(n for _, n in present),
        "\t\t" + "\t".join(f"X{j}\tY{j}\tZ{j}" for j in range(1, len(present) + 1)),
    ]
    for k, time in enumerate(track.times):
        cells = [str(k + 1), f"{time:.6f}"]
        for i, _ in present:
            cells += ["" if np.isnan(v) else f"{v:.5f}" for v in track.points[k, i]]
        lines.append("\t".join(cells))
    return "\n".join(lines) + "\n"


FORMAT = text_format(".trc", "TRC file", read, write, lab=True)
