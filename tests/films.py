"""Clips for tests: the frame number is drawn into every picture, so that each can say which one it is."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

BITS, BLOCK = 10, 24


def numbered_picture(number: int, width: int = 320, height: int = 96) -> np.ndarray:
    """A picture `(height, width, 3)` that carries a number as black and white blocks along its top."""
    picture = np.full((height, width, 3), 90, np.uint8)
    for bit in range(BITS):
        picture[8 : 8 + BLOCK, 8 + bit * BLOCK : 8 + (bit + 1) * BLOCK] = 235 if number >> bit & 1 else 16
    picture[60:80, (number * 5) % (width - 20) : (number * 5) % (width - 20) + 20] = (200, 60, 40)
    return picture


def number_of(picture: np.ndarray) -> int:
    """The number in a picture read back."""
    blocks = [picture[14 : 2 + BLOCK, 14 + b * BLOCK : 2 + (b + 1) * BLOCK, :3].mean() for b in range(BITS)]
    return sum(1 << bit for bit, light in enumerate(blocks) if light > 125)


_filmed: dict[str, tuple[bytes, dict]] = {}  # with the words, so that no other painter takes one's place


def film(path: Path, **how) -> Path:
    """Write a numbered clip, by the words of `encode`; the same is encoded once."""
    key = f"{path.suffix} {sorted(how.items(), key=str)}"
    if key not in _filmed:
        _filmed[key] = encode(path, **how).read_bytes(), how
    path.write_bytes(_filmed[key][0])
    return path


def encode(
    path: Path, *, codec: str = "libx264", count: int = 60, rate: int = 60, steps: tuple[int, ...] = (10,),
    pixels: str = "yuv420p", size: tuple[int, int] = (320, 96), sound: bool = False, first: int = 0,
    metadata: dict[str, str] | None = None, form: str | None = None,
    picture: Callable[..., np.ndarray] = numbered_picture, **options: str,
) -> Path:  # fmt: skip
    """Write a numbered clip; `steps` are frame lengths in 1/600 s, taken in turn, starting at `first`."""
    with av.open(str(path), "w", format=form, options={"movflags": "use_metadata_tags"}) as container:
        container.metadata.update(metadata or {})
        stream = container.add_stream(codec, rate=Fraction(rate))
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        stream.options = dict(options)
        even = len(steps) == 1
        clock = Fraction(1, rate) if even else Fraction(1, 600)
        if not even:
            stream.codec_context.time_base = clock
        audio = container.add_stream("aac", rate=8000) if sound else None
        at = first
        for k in range(count):
            frame = av.VideoFrame.from_ndarray(picture(k, *size), format="rgb24")
            frame.pts, frame.time_base = at, clock
            at += 1 if even else steps[k % len(steps)]
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
        if audio is not None:
            samples = av.AudioFrame.from_ndarray(np.zeros((1, 8000), np.float32), format="fltp", layout="mono")
            samples.rate = 8000
            container.mux(audio.encode(samples))
            container.mux(audio.encode())
    return path


def woven(number: int, width: int, height: int) -> np.ndarray:
    """Two instants of bars that move, in one picture: even lines of the earlier, odd lines of the later."""
    picture = bars(2 * number, width, height)
    picture[1::2] = bars(2 * number + 1, width, height)[1::2]
    return picture


def bars(number: int, width: int, height: int) -> np.ndarray:
    """A numbered picture with bars below that move; they look alike every twelfth time."""
    picture = numbered_picture(number, width, height)
    picture[40:] = np.where((np.arange(width) + 4 * number) % 48 < 24, 200, 60)[:, None]
    return picture


def turned(path: Path, quarter_turns: int) -> Path:
    """Set the display matrix of an MP4's picture track, as a phone held upright does."""
    data = bytearray(path.read_bytes())
    at = data.index(b"tkhd") + 4
    matrix = at + 4 + (36 if data[at] == 0 else 48)
    cos, sin = ((1, 0), (0, 1), (-1, 0), (0, -1))[quarter_turns % 4]
    words = (cos, sin, 0, -sin, cos, 0, 0, 0, 1)
    for i, word in enumerate(words):
        scale = 1 << 30 if i % 3 == 2 else 1 << 16
        data[matrix + 4 * i : matrix + 4 * i + 4] = int(word * scale).to_bytes(4, "big", signed=True)
    path.write_bytes(bytes(data))
    return path


def begun_later(path: Path, frames: int, rate: int = 60) -> Path:
    """Let an MP4's edit list begin `frames` later, as a phone does that trims a clip without writing it anew."""
    data = bytearray(path.read_bytes())
    at = data.index(b"elst") + 8
    media_time = at + 8  # of the first entry, after its count and segment length
    ticks = int.from_bytes(data[data.index(b"mdhd") + 16 : data.index(b"mdhd") + 20], "big") * frames // rate
    moved = int.from_bytes(data[media_time : media_time + 4], "big") + ticks
    data[media_time : media_time + 4] = moved.to_bytes(4, "big")
    path.write_bytes(bytes(data))
    return path
