"""Interlaced clips: pictures woven of two instants, line by line. Everything is done by FFmpeg's own filters."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

import av

from waxtwin.core.errors import WaxTwinError, shown_name
from waxtwin.core.steps import Steps

if TYPE_CHECKING:
    from waxtwin.capture.clip import ClipReader

_MOST = 0.3  # share of the frames in which something moves that must look woven
_FEWEST = 4  # such frames
_UNSAID = "auto"


def field_order(frames: Iterable[av.VideoFrame]) -> str:
    """In which order consecutive frames hold two instants each: "tff" or "bff", top or bottom lines first; "auto" where
    only their maker says that they are woven; nothing where they are not.

    By the comb that moving edges have (`idet`): makers' flags are often wrong.
    """
    graph, seen, flagged = None, Counter[str](), False
    for frame in frames:
        flagged |= bool(frame.interlaced_frame)
        graph = graph or _through(frame, "idet")
        graph.push(frame)
        with suppress(BlockingIOError):  # it looks at a frame once it has the next one
            seen[str(graph.vpull().metadata.get("lavfi.idet.single.current_frame", ""))] += 1
    order = max(("tff", "bff"), key=lambda one: seen[one])
    if seen[order] >= _FEWEST and seen[order] > _MOST * (seen["tff"] + seen["bff"] + seen["progressive"]):
        return order
    return _UNSAID if flagged else ""


def unweave(reader: ClipReader, order: str, target: Path) -> Steps[None]:
    """Write a clip in which every field is a picture of its own, at twice the rate (`bwdif`). Raises WaxTwinError."""
    total = reader.times.size
    rate = 2 * Fraction((total - 1) / float(reader.times[-1])).limit_denominator(1001)
    try:
        with av.open(str(target), "w") as into:
            stream = into.add_stream("libx264", rate=rate)
            stream.pix_fmt, stream.options = "yuv420p", {"crf": "16", "preset": "veryfast"}
            for i, field in enumerate(_fields((frame for _, frame in reader.through()), order)):
                if i == 0:  # as it is stored, not as it is shown
                    stream.width, stream.height = field.width, field.height
                field.pts, field.time_base = i, 1 / rate
                into.mux(stream.encode(field))
                yield min(i / (2 * total), 1.0)
            into.mux(stream.encode())
    except (av.FFmpegError, OSError, ValueError) as fault:
        target.unlink(missing_ok=True)
        raise WaxTwinError(f"{shown_name(reader.path)}: its fields cannot be taken apart") from fault


def _fields(frames: Iterable[av.VideoFrame], order: str) -> Iterator[av.VideoFrame]:
    graph = None
    for frame in frames:
        frame.pict_type = 0
        graph = graph or _through(frame, "bwdif", f"mode=send_field:parity={order}:deint=all")
        graph.push(frame)
        with suppress(BlockingIOError):
            while True:
                yield graph.vpull()
    if graph is not None:
        graph.push(None)
        with suppress(BlockingIOError, EOFError):
            while True:
                yield graph.vpull()


def _through(frame: av.VideoFrame, name: str, options: str | None = None) -> av.filter.Graph:
    """A graph of one filter for frames like this one."""
    graph = av.filter.Graph()
    source = graph.add_buffer(
        width=frame.width, height=frame.height, format=frame.format, time_base=frame.time_base,
    )  # fmt: skip
    graph.link_nodes(source, graph.add(name, options), graph.add("buffersink")).configure()
    return graph
