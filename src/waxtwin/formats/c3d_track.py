"""C3D, the binary marker format, through ezc3d."""

from __future__ import annotations

import struct
import subprocess
import sys
import tempfile
from contextlib import suppress
from pathlib import Path

import numpy as np

from waxtwin.core.landmarks import LANDMARKS
from waxtwin.core.track import Track
from waxtwin.formats.c3d_worker import MOST_FRAMES
from waxtwin.formats.files import check_plain_file
from waxtwin.formats.track_format import FaultyFileError, Format, RawTrack

_SECONDS = 150
_MOST_BYTES = 200 * 1024**2


def read(path: Path) -> RawTrack:
    """Marker paths in metres, lab axes. Raises FaultyFileError with the fault."""
    check_plain_file(path, _MOST_BYTES)
    with path.open("rb") as file:
        start = file.read(512)
    if len(start) < 512 or start[1] != 0x50:
        raise FaultyFileError("it does not begin like a C3D file")
    if _promised(start) > 2 * path.stat().st_size:
        raise FaultyFileError("it promises more frames than it holds; is the file cut short?")
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "read.npz"
        command = [sys.executable, "-m", "waxtwin.formats.c3d_worker", str(path), str(out)]
        try:
            done = subprocess.run(command, capture_output=True, text=True, timeout=_SECONDS, check=False)
        except subprocess.TimeoutExpired:
            raise FaultyFileError("it is damaged: reading it does not come to an end") from None
        if done.returncode != 0 or not out.is_file():
            said = done.stderr.strip().splitlines()
            plain = done.returncode == 1 and said and not said[-1].startswith(("Traceback", " ")) and len(said) == 1
            raise FaultyFileError(said[-1] if plain else "it is damaged and cannot be read")
        with np.load(out, allow_pickle=False) as found:
            times, names, points = found["times"], [str(n) for n in found["names"]], found["points"]
    if not names:
        raise FaultyFileError("it names no markers")
    return RawTrack(times, {name: points[:, j] for j, name in enumerate(names)}, {})


def _promised(header: bytes) -> int:
    """Bytes of the frames that the first block speaks of (little-endian words, as nearly all files have them)."""
    points, analog, first, last = struct.unpack_from("<4H", header, 2)
    (scale,) = struct.unpack_from("<f", header, 12)
    return int((4 * points + analog) * max(last - first + 1, 0) * (4 if scale < 0 else 2))


def write(track: Track, path: Path) -> None:
    """Markers in metres, field frame; a missing landmark is invalid there. Raises FaultyFileError for a long track."""
    import ezc3d

    if track.times.size >= MOST_FRAMES:
        raise FaultyFileError(f"a C3D file holds fewer than {MOST_FRAMES} frames")
    present = [(i, n) for i, n in enumerate(LANDMARKS) if not np.isnan(track.points[:, i]).all()]
    file = ezc3d.c3d()
    point = file["parameters"]["POINT"]
    point["RATE"]["value"] = [track.rate]
    point["LABELS"]["value"] = [name for _, name in present]
    point["UNITS"]["value"] = ["m"]
    file["header"]["points"]["first_frame"] = round(float(track.times[0]) * track.rate)
    points = np.ones((4, len(present), track.times.size))
    points[:3] = np.moveaxis(track.points[:, [i for i, _ in present]], 0, 2).swapaxes(0, 1)
    file["data"]["points"] = points
    part = path.with_name(f".{path.stem[:200]}.part.c3d")
    path.parent.mkdir(parents=True, exist_ok=True)
    try:
        file.write(str(part))
        part.replace(path)  # in one step: a write that fails leaves the old file
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)


FORMAT = Format(".c3d", "C3D file", read, write, lab=True)
