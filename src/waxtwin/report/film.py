"""Encoding a clip from pictures, whole or not at all."""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from fractions import Fraction
from pathlib import Path

import numpy as np

from waxtwin.core.steps import Steps
from waxtwin.formats.files import FormatError

FPS = 30
SUFFIXES = (".mp4", ".mov", ".mkv")


def encode(path: Path, pictures: Iterable[np.ndarray], count: int, size: tuple[int, int]) -> Steps[None]:
    """Write `count` pictures `(height, width, 4)` blue-green-red-unused as H.264; yields the share done after each.

    Raises FormatError; then, and when it is left half-way, the file that was there before stays. `size` (width, height)
    must be even.
    """
    import av

    if path.suffix.lower() not in SUFFIXES:
        raise FormatError(path, f"clips are written as {', '.join(SUFFIXES)}")
    part = path.with_name(f".{path.stem}.part{path.suffix}")
    try:
        with av.open(str(part), "w") as container:
            stream = container.add_stream("libx264", rate=Fraction(FPS))
            stream.width, stream.height = size
            stream.pix_fmt = "yuv420p"
            stream.options = {"crf": "20", "preset": "veryfast", "tune": "animation"}
            for n, picture in enumerate(pictures, start=1):
                frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="bgra")
                container.mux(stream.encode(frame))
                yield n / count
            container.mux(stream.encode())
        part.replace(path)
    except (av.FFmpegError, OSError) as fault:
        said = getattr(fault, "strerror", None) or "output error"
        raise FormatError(path, f"it cannot be written ({said})") from None
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)
