"""Encoding a film from pictures, with its sound, captions and chapters, whole or not at all."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from waxtwin.core.steps import Steps
from waxtwin.formats.files import FormatError
from waxtwin.formats.talk import SOUND_RATE

if TYPE_CHECKING:
    from av.container import OutputContainer

FPS = 30
SUFFIXES = (".mp4", ".mov", ".mkv")
_BLOCK = 1024  # samples handed over at a time
_MS = Fraction(1, 1000)
_STYLES = b"""[Script Info]\r
ScriptType: v4.00+\r
\r
[V4+ Styles]\r
Format: Name, Fontname, Fontsize, PrimaryColour, SecondaryColour, OutlineColour, BackColour, Bold, Italic, \
Underline, StrikeOut, ScaleX, ScaleY, Spacing, Angle, BorderStyle, Outline, Shadow, Alignment, MarginL, MarginR, \
MarginV, Encoding\r
Style: Default,Sans,16,&Hffffff,&Hffffff,&H0,&H0,0,0,0,0,100,100,0,0,1,1,0,2,10,10,10,1\r
\r
[Events]\r
Format: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text\r
"""


@dataclass(frozen=True, slots=True)
class Words:
    """Words that stand from `start` to `end`, s of the film."""

    start: float
    end: float
    text: str


@dataclass(frozen=True)
class Beside:
    """What goes with a film's pictures: `sound` in blocks `(n,)` at SOUND_RATE, captions as a track of their own,
    chapters, and a title.
    """

    fps: int = FPS
    sound: Iterable[np.ndarray] | None = None
    captions: Sequence[Words] = ()
    chapters: Sequence[Words] = ()
    title: str = ""


def encode(
    path: Path, pictures: Iterable[np.ndarray], count: int, size: tuple[int, int], beside: Beside | None = None
) -> Steps[None]:
    """Write `count` pictures `(height, width, 4)` blue-green-red-unused as H.264; yields the share done after each. The
    very same array once more is the same picture.

    Raises FormatError; then, and when it is left half-way, the file that was there before stays. `size` (width, height)
    must be even.
    """
    import av

    if path.suffix.lower() not in SUFFIXES:
        raise FormatError(path, f"clips are written as {', '.join(SUFFIXES)}")
    part = part_of(path)
    try:
        with av.open(str(part), "w") as container:
            yield from _write(container, pictures, count, size, beside or Beside())
        part.replace(path)
    except (av.FFmpegError, OSError) as fault:
        said = getattr(fault, "strerror", None) or "output error"
        raise FormatError(path, f"it cannot be written ({said})") from None
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)


def part_of(path: Path) -> Path:
    """Where a film lies until it is whole."""
    return path.with_name(f".{path.stem}.part{path.suffix}")


def _write(
    container: OutputContainer, pictures: Iterable[np.ndarray], count: int, size: tuple[int, int], beside: Beside
) -> Steps[None]:
    import av

    stream = container.add_stream("libx264", rate=Fraction(beside.fps))
    stream.width, stream.height = size
    stream.pix_fmt = "yuv420p"
    stream.options = {"crf": "20", "preset": "veryfast", "tune": "animation"}
    sound = None if beside.sound is None else _Sound(container, beside.sound)
    captions = _captions(container, beside.captions)
    if beside.title:
        container.metadata["title"] = beside.title
    container.set_chapters([
        {"id": n, "start": round(one.start * 1000), "end": round(one.end * 1000), "time_base": _MS,
         "metadata": {"title": one.text}} for n, one in enumerate(beside.chapters)
    ])  # fmt: skip
    for packet in captions:
        container.mux(packet)
    before: np.ndarray | None = None
    for n, picture in enumerate(pictures, start=1):
        if picture is not before:  # what stands still is turned into the film's colours once
            whole = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="bgra")
            frame, before = whole.reformat(format=stream.pix_fmt), picture
        frame.pts, frame.time_base = n - 1, Fraction(1, beside.fps)
        container.mux(stream.encode(frame))
        if sound is not None:
            sound.go_on(n / beside.fps)
        yield n / count
    container.mux(stream.encode())
    if sound is not None:
        sound.finish()


class _Sound:
    """The sound of a film, written as far as its pictures are."""

    def __init__(self, container: OutputContainer, blocks: Iterable[np.ndarray]) -> None:
        self._container, self._blocks = container, _in_blocks(blocks)
        self._stream: Any = container.add_stream("aac", rate=SOUND_RATE)
        self._stream.layout = "mono"
        self._stream.bit_rate = 128_000
        self._done = 0

    def go_on(self, until: float) -> None:
        """Up to `until`, s of the film."""
        while self._done < until * SOUND_RATE and self._more():
            pass

    def finish(self) -> None:
        """What is left."""
        while self._more():
            pass
        self._container.mux(self._stream.encode())

    def _more(self) -> bool:
        import av

        block = next(self._blocks, None)
        if block is None:
            return False
        frame = av.AudioFrame.from_ndarray(block[None], format="fltp", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = SOUND_RATE, self._done, Fraction(1, SOUND_RATE)
        self._done += len(block)
        self._container.mux(self._stream.encode(frame))
        return True


def _in_blocks(blocks: Iterable[np.ndarray]) -> Iterator[np.ndarray]:
    for block in blocks:
        for start in range(0, len(block), _BLOCK):
            yield np.ascontiguousarray(block[start : start + _BLOCK], np.float32)


def _captions(container: OutputContainer, captions: Sequence[Words]) -> list[Any]:
    """The packets of a track of captions, where there are any."""
    if not captions:
        return []
    from av.subtitles.subtitle import SubtitleSet

    name = "mov_text" if container.format.name in ("mp4", "mov") else "ass"
    stream: Any = container.add_stream(name)
    stream.time_base = stream.codec_context.time_base = _MS
    stream.codec_context.subtitle_header = _STYLES
    packets = []
    for n, one in enumerate(captions):
        text = one.text.replace("{", "(").replace("}", ")").replace("\\", "/").replace("\n", "\\N")
        start, length = round(one.start * 1000), round((one.end - one.start) * 1000)
        said = f"{n},0,Default,,0,0,0,,{text}".encode()
        packet = stream.codec_context.encode_subtitle(SubtitleSet.create(text=said, start=0, end=length, pts=start))
        packet.stream, packet.time_base = stream, _MS
        packet.pts = packet.dts = start
        packet.duration = length
        packets.append(packet)
    return packets
