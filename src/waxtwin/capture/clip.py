"""Frame-exact reading of a clip by presentation time.

A plain seek is not frame-exact for many codecs, so all packets are indexed once; a frame is reached from the keyframe
at or before it, from one keyframe earlier when it does not appear, and from the start at last. Where the times of the
packets cannot be trusted (some AVI files), the clip is decoded once from its start and frames are counted.
"""

from __future__ import annotations

import stat
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from itertools import islice
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import VideoReformatter

from waxtwin.capture.clip_tags import captured, filmed, tags_of
from waxtwin.capture.weave import field_order
from waxtwin.core.errors import WaxTwinError, shown_name

_NEAR = 8  # frames ahead that are quicker decoded than sought
_UNEVEN = 0.25  # share of a frame by which steps may differ in a clip of constant rate
_WEAVES_BELOW, _RUN = 31.0, 12  # frames a second that interlaced clips stay below; frames looked at in one go
_INDEXES = 64  # clips whose times are kept: of a long one half a megabyte
_TRIES = (0, 1, 2)  # keyframes to step back before the clip is opened anew

_PLAIN_CLIPS = {
    "format_whitelist": "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts", "protocol_whitelist": "file",
}  # fmt: skip
_FAULTS = (av.FFmpegError, OSError, IndexError, ValueError, AttributeError, RuntimeError, TypeError, OverflowError)

Passing = tuple[int, Callable[[int, np.ndarray], None]]


class ClipError(WaxTwinError):
    """A clip cannot be read; the sentence names the file and the fault."""


@dataclass(frozen=True)
class ClipFacts:
    """What a clip says about itself. `size` (width, height) as shown; `rate` the frames a second at which it plays;
    `captured` the frames a second at which it says it was taken, or None; `rotation` degrees already applied; `woven`
    whether each picture holds two instants, line by line (interlaced); `filmed` the day (ISO) that its camera wrote
    into it, or None.
    """  # fmt: skip

    codec: str
    container: str
    frames: int
    seconds: float
    rate: float
    even: bool
    size: tuple[int, int]
    rotation: int
    bits: int
    sound: bool
    captured: float | None
    whole: bool
    woven: bool
    filmed: str | None


@dataclass(frozen=True, slots=True)
class _Index:
    """Presentation times in the stream's own units, which of them are key frames, and what the first frame told. Of a
    `counted` clip the times are only numbers.
    """

    pts: tuple[int, ...]
    keys: tuple[int, ...]
    counted: bool
    whole: bool
    size: tuple[int, int]
    rotation: int


_indexed: dict[tuple[int, ...], _Index] = {}  # by what tells a file from all others, and from itself once changed


class ClipReader:
    """One open clip. Not for use from two threads at once.

    `times` (frames,) are presentation times in seconds from the first frame; `size` (width, height) as shown.
    """

    def __init__(self, path: Path) -> None:
        """Open and index. Raises ClipError."""
        self.path = path
        self._decoder: Iterator[av.VideoFrame] | None = None
        self._next = 0
        self._counted = False
        self._whole = True
        self._rotation = 0
        try:
            found = path.stat()
            if not stat.S_ISREG(found.st_mode):
                raise ClipError(f"{shown_name(path)}: this is not a plain file")
            file = found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns
            self._open()
            known = _indexed.get(file)
            if known is not None:
                self._pts, self._keys = known.pts, known.keys
                self._counted, self._whole, self._rotation = known.counted, known.whole, known.rotation
            else:
                self._pts, self._keys = self._index()
                if not self._pts or self._order_is_lost():
                    self._count()
        except ClipError:
            raise
        except _FAULTS as fault:
            raise ClipError(f"{shown_name(path)}: this is not a clip that can be read") from fault
        if not self._pts:
            raise ClipError(f"{shown_name(path)}: there is no picture in this clip")
        base = 1.0 / self._rate() if self._counted else float(self._stream.time_base or 1)
        self.times = (np.array(self._pts) - self._pts[0]) * base
        self._place = {pts: i for i, pts in enumerate(self._pts)}
        if known is None:
            height, width = self.read(0).shape[:2]
            known = _Index(self._pts, self._keys, self._counted, self._whole, (width, height), self._rotation)
            if self._whole:
                _keep(file, known)
        self.size = known.size

    def _open(self) -> None:
        # the whole path, for a name with a colon reads as an address; and plain clips only, for a text that lists files
        # would have others opened
        self._container = av.open(str(self.path.resolve()), options=_PLAIN_CLIPS)
        self._stream = self._container.streams.video[0]
        if self._stream.codec_context is None or self._stream.codec_context.codec is None:
            raise ValueError("no codec")
        self._stream.thread_type = "AUTO"

    def close(self) -> None:
        """Let go of the file."""
        self._decoder = None
        self._container.close()

    def __enter__(self) -> ClipReader:
        return self

    def __exit__(self, *fault: object) -> None:
        self.close()

    @property
    def facts(self) -> ClipFacts:
        """What the clip says about itself."""
        steps = np.diff(self.times)
        middle = float(np.median(steps)) if steps.size else 0.0
        even = bool(steps.size == 0 or np.abs(steps - middle).max() <= _UNEVEN * max(middle, 1e-9) + 0.0011)
        rate = steps.size / float(self.times[-1]) if steps.size and even else 1.0 / middle if middle else 0.0
        context, tags = self._stream.codec_context, tags_of(self._container.metadata, self._stream.metadata)
        return ClipFacts(
            context.codec.canonical_name, self._container.format.name, self.times.size,
            float(self.times[-1]) + middle, rate, even, self.size, self._rotation,
            _bits(context.format), bool(self._container.streams.audio), captured(tags), self._whole,
            bool(self.field_order), filmed(tags, date.today()),
        )  # fmt: skip

    @property
    def field_order(self) -> str:
        """In which order its lines were taken where each picture holds two instants, as `weave.field_order` has it."""
        rate = (self.times.size - 1) / max(float(self.times[-1]), 1e-9)
        return field_order(self._looks()) if rate < _WEAVES_BELOW else ""

    def _looks(self) -> Iterator[av.VideoFrame]:
        """Short runs of frames from three parts of the clip."""
        last = self.times.size - 1
        for share in (0.5, 0.7, 0.3):
            for _, frame in islice(self.through(int(share * last)), _RUN):
                yield frame

    def nearest(self, time: float) -> int:
        """Index of the frame shown at `time` seconds."""
        return int(np.clip(np.searchsorted(self.times, time + 1e-6, side="right") - 1, 0, self.times.size - 1))

    def read(self, index: int, passing: Passing | None = None) -> np.ndarray:
        """Frame `index` as `(height, width, 4)` uint8, blue-green-red-unused. Raises ClipError.

        `passing` (first frame wanted, taker) is handed the frames that are decoded on the way.
        """
        if not 0 <= index < len(self._pts):
            raise ClipError(f"{shown_name(self.path)}: there is no frame {index}")
        try:
            found = self._find(index, passing)
        except (*_FAULTS, MemoryError) as fault:
            self._decoder = None
            raise ClipError(f"{shown_name(self.path)}: frame {index} cannot be decoded") from fault
        if found is None:
            raise ClipError(f"{shown_name(self.path)}: frame {index} cannot be decoded")
        return found

    def through(self, first: int = 0) -> Iterator[tuple[int, av.VideoFrame]]:
        """Every frame from `first` on with its index, as it is stored (not turned upright). What cannot be decoded is
        left out.
        """
        self._decoder = None
        try:
            if self._counted:
                self._container.close()
                self._open()
                yield from enumerate(self._container.decode(self._stream))
                return
            at = int(np.searchsorted(self._keys, first, side="right")) - 1
            self._seek(self._keys[max(at, 0)])
            assert self._decoder is not None
            for frame in self._decoder:
                place = self._place.get(frame.pts) if frame.pts is not None else None
                if place is not None and place >= first:
                    yield place, frame
        except _FAULTS:
            return
        finally:
            self._decoder = None

    def greys(self, scale: float) -> Iterator[tuple[int, np.ndarray]]:
        """Every frame with its index, upright, as `(height, width)` uint8 grey, `scale` times as large. What cannot be
        decoded is left out.
        """
        small = VideoReformatter()
        for index, frame in self.through():
            width, height = (max(round(side * scale), 1) for side in (frame.width, frame.height))
            grey = small.reformat(frame, width, height, "gray", interpolation="AREA").to_ndarray()
            yield index, self._turned(grey, frame)

    def _find(self, index: int, passing: Passing | None) -> np.ndarray | None:
        if self._decoder is not None and 0 <= index - self._next <= _NEAR:
            found = self._run_to(index, passing)
            if found is not None:
                return found
        if not self._counted:
            at = int(np.searchsorted(self._keys, index, side="right")) - 1
            for back in _TRIES:
                self._seek(self._keys[max(at - back, 0)])
                found = self._run_to(index, passing)
                if found is not None:
                    return found
        self._container.close()
        self._open()
        self._decoder, self._next = self._container.decode(self._stream), 0
        return self._run_to(index, passing)

    def _index(self) -> tuple[tuple[int, ...], tuple[int, ...]]:
        shown, keys = [], []
        try:
            for packet in self._container.demux(self._stream):
                if packet.is_corrupt:
                    self._whole = False
                if packet.pts is None or packet.is_discard:
                    continue
                shown.append(packet.pts)
                if packet.is_keyframe:
                    keys.append(packet.pts)
        except av.FFmpegError:
            self._whole = False  # a truncated end: what was indexed up to there is good
        shown = sorted(set(shown))
        known = {pts: i for i, pts in enumerate(shown)}
        return tuple(shown), tuple(sorted({known[k] for k in keys if k in known})) or (0,)

    def _order_is_lost(self) -> bool:
        """Whether presentation times are only decoding times: so it is for reordered frames in AVI."""
        return "avi" in self._container.format.name and bool(self._stream.codec_context.has_b_frames)

    def _count(self) -> None:
        """Number the frames by decoding them all; the clip then has no usable times but its rate."""
        self._container.close()
        self._open()
        count = 0
        try:
            for _ in self._container.decode(self._stream):
                count += 1
        except av.FFmpegError:
            self._whole = False
        self._counted = True
        self._pts, self._keys = tuple(range(count)), (0,)

    def _rate(self) -> float:
        for rate in (self._stream.average_rate, self._stream.guessed_rate, self._stream.base_rate):
            if rate:
                return float(Fraction(rate))
        return 25.0

    def _seek(self, index: int) -> None:
        self._container.seek(self._pts[index], stream=self._stream, backward=True)
        self._decoder = self._container.decode(self._stream)
        self._next = index

    def _run_to(self, index: int, passing: Passing | None) -> np.ndarray | None:
        assert self._decoder is not None
        for frame in self._decoder:
            at = self._next if self._counted else self._place.get(frame.pts) if frame.pts is not None else None
            if at is None:
                continue
            self._next = at + 1
            if at == index:
                return self._upright(frame)
            if at > index:
                return None
            if passing is not None and at >= passing[0]:
                passing[1](at, self._upright(frame))
        self._decoder = None
        return None

    def _upright(self, frame: av.VideoFrame) -> np.ndarray:
        return self._turned(frame.to_ndarray(format="bgra"), frame)

    def _turned(self, picture: np.ndarray, frame: av.VideoFrame) -> np.ndarray:
        self._rotation = round(getattr(frame, "rotation", 0) / 90) % 4 * 90
        return np.ascontiguousarray(np.rot90(picture, self._rotation // 90)) if self._rotation else picture


def _keep(file: tuple[int, ...], index: _Index) -> None:
    """For whoever opens it next: a clip is opened by many, and reading through it takes a while."""
    _indexed[file] = index
    while len(_indexed) > _INDEXES:
        _indexed.pop(next(iter(_indexed)), None)


def _bits(form: object) -> int:
    components = getattr(form, "components", ())
    return max((component.bits for component in components), default=8)


def clip_facts(path: Path) -> ClipFacts:
    """What a clip says about itself. Raises ClipError."""
    with ClipReader(path) as reader:
        return reader.facts
