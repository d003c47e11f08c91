"""Frame-exact reading of a clip by presentation time.

A plain seek is not frame-exact for many codecs, so all packets are indexed once; a frame is reached from the keyframe
at or before it, from one keyframe earlier when it does not appear, and from the start at last.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import av
import numpy as np

from waxtwin.core.errors import WaxTwinError


class ClipError(WaxTwinError):
    """A clip cannot be read; the sentence names the file and the fault."""


class ClipReader:
    """One open clip. Not for use from two threads at once.

    `times` (frames,) are presentation times in seconds from the first frame; `size` (width, height) as shown.
    """

    def __init__(self, path: Path) -> None:
        """Open and index. Raises ClipError."""
        self.path = path
        try:
            self._container = av.open(str(path))
            self._stream = self._container.streams.video[0]
            self._pts, self._keys = self._index()
        except (av.FFmpegError, OSError, IndexError) as fault:
            raise ClipError(f"{path.name}: this is not a clip that can be read") from fault
        if not self._pts:
            raise ClipError(f"{path.name}: there is no picture in this clip")
        self._stream.thread_type = "AUTO"
        base = float(self._stream.time_base or 1)
        self.times = (np.array(self._pts) - self._pts[0]) * base
        self._place = {pts: i for i, pts in enumerate(self._pts)}
        self._decoder: Iterator[av.VideoFrame] | None = None
        self._next = 0
        self.size = self.read(0).shape[1::-1]

    def close(self) -> None:
        """Let go of the file."""
        self._decoder = None
        self._container.close()

    def nearest(self, time: float) -> int:
        """Index of the frame shown at `time` seconds."""
        return int(np.clip(np.searchsorted(self.times, time + 1e-6, side="right") - 1, 0, self.times.size - 1))

    def read(self, index: int) -> np.ndarray:
        """Frame `index` as `(height, width, 4)` uint8, blue-green-red-unused. Raises ClipError."""
        if not 0 <= index < len(self._pts):
            raise ClipError(f"{self.path.name}: there is no frame {index}")
        try:
            if self._decoder is not None and 0 <= index - self._next <= 8:
                found = self._run_to(index)
                if found is not None:
                    return found
            key = self._key_before(index)
            for start in (key, self._key_before(max(key - 1, 0)), 0):
                self._seek(start)
                found = self._run_to(index)
                if found is not None:
                    return found
        except (av.FFmpegError, OSError) as fault:
            self._decoder = None
            raise ClipError(f"{self.path.name}: frame {index} cannot be decoded") from fault
        raise ClipError(f"{self.path.name}: frame {index} cannot be decoded")

    def _index(self) -> tuple[list[int], list[int]]:
        shown, keys = [], []
        try:
            for packet in self._container.demux(self._stream):
                if packet.pts is None or packet.is_discard:
                    continue
                shown.append(packet.pts)
                if packet.is_keyframe:
                    keys.append(packet.pts)
        except av.FFmpegError:
            pass  # a truncated end: what was indexed up to there is good
        shown = sorted(set(shown))
        return shown, sorted(shown.index(k) for k in set(keys) if k in set(shown)) or [0]

    def _key_before(self, index: int) -> int:
        at = int(np.searchsorted(self._keys, index, side="right")) - 1
        return self._keys[max(at, 0)]

    def _seek(self, index: int) -> None:
        self._container.seek(self._pts[index], stream=self._stream, backward=True)
        self._decoder = self._container.decode(self._stream)
        self._next = index

    def _run_to(self, index: int) -> np.ndarray | None:
        assert self._decoder is not None
        for frame in self._decoder:
            at = self._place.get(frame.pts) if frame.pts is not None else None
            if at is None:
                continue
            self._next = at + 1
            if at == index:
                picture = frame.to_ndarray(format="bgra")
                turns = round(getattr(frame, "rotation", 0) / 90) % 4
                return np.ascontiguousarray(np.rot90(picture, turns)) if turns else picture
            if at > index:
                return None
        self._decoder = None
        return None
