"""Reading one C3D file in a process of its own: a damaged file can bring the reading library down, never the program.

`python -m waxtwin.formats.c3d_worker FILE OUT.npz` writes times, names, points in metres and notes.
"""

from __future__ import annotations

import resource
import sys
from pathlib import Path

import numpy as np

MOST_FRAMES = 65535  # what the reading library reads back of a longer file, without an error
# bytes of addresses beyond what the libraries take: a sound file needs fifteen times its size
_LEAST_MEMORY, _TIMES, _MOST_MEMORY = 128 * 1024**2, 40, 3 * 1024**3
_SECONDS = 120
_UNITS = {"m": 1.0, "mm": 0.001, "cm": 0.01, "dm": 0.1, "in": 0.0254, "inch": 0.0254, "ft": 0.3048}


def main(source: str, target: str) -> None:
    """Read `source`, write `target`; a fault is one line on standard error and exit code 3."""
    import ezc3d

    taken = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    memory = taken + min(_LEAST_MEMORY + _TIMES * Path(source).stat().st_size, _MOST_MEMORY)
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CPU, (_SECONDS, _SECONDS))
    try:
        file = ezc3d.c3d(source)
        parameters = file["parameters"]["POINT"]
        labels = [str(name).strip() for name in parameters["LABELS"]["value"]]
        rate = float(parameters["RATE"]["value"][0])
        units = parameters["UNITS"]["value"] if "UNITS" in parameters else []
        unit = str(units[0]).strip().lower() if units else "mm"
        points = np.asarray(file["data"]["points"], float)[:3]
    except Exception:  # noqa: BLE001 - whatever a damaged file makes the library raise; this process is its own
        sys.exit("it is not a C3D file that can be read")
    if unit not in _UNITS:
        sys.exit(f"its unit “{unit[:20]}” is not known")
    if not rate > 0:
        sys.exit("it gives no frame rate")
    frames = points.shape[2]
    if frames >= MOST_FRAMES:
        sys.exit(f"it has {MOST_FRAMES} frames or more, and the rest would be lost; cut the trial into parts first")
    count = min(len(labels), points.shape[1])
    first = float(file["header"]["points"]["first_frame"])
    np.savez(
        target, times=(first + np.arange(frames)) / rate, names=np.array(labels[:count]),
        points=np.moveaxis(points[:, :count] * _UNITS[unit], 2, 0).swapaxes(1, 2),
    )  # fmt: skip


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2])
