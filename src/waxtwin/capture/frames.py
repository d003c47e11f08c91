"""A clip's frames at hand: one decoding thread, a bounded cache, read-ahead in the direction of travel."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

import numpy as np

from waxtwin.capture.clip import ClipError, ClipReader

CACHE_BYTES = 256 * 1024 * 1024
_AHEAD = 24


class FrameStore:
    """Frames of one clip, decoded off the calling thread.

    `frame(i)` answers at once with the picture or None; when None, or when frames around are missing, the thread
    works toward them and calls `ready(i)` from its own thread. Newer wishes replace older ones.
    """

    def __init__(self, path: Path, ready: Callable[[int], None], cache_bytes: int = CACHE_BYTES) -> None:
        """Open the clip. Raises ClipError."""
        self._reader = ClipReader(path)
        self.times = self._reader.times
        self.size = self._reader.size
        self._ready = ready
        self._room = max(int(cache_bytes / (self.size[0] * self.size[1] * 4)), 4)
        self._kept: OrderedDict[int, np.ndarray] = OrderedDict()
        self._lock = threading.Condition()
        self._wish: tuple[int, int] | None = None
        self._closing = False
        self.fault: str | None = None
        self._thread = threading.Thread(target=self._work, name=f"frames of {path.name}", daemon=True)
        self._thread.start()

    def nearest(self, time: float) -> int:
        """Index of the frame shown at `time` seconds."""
        return self._reader.nearest(time)

    def frame(self, index: int, direction: int = 1) -> np.ndarray | None:
        """The picture `(height, width, 4)` if it is at hand; asks for it and its neighbours otherwise."""
        with self._lock:
            picture = self._kept.get(index)
            if picture is not None:
                self._kept.move_to_end(index)
            self._wish = (index, 1 if direction >= 0 else -1)
            self._lock.notify()
        return picture

    @property
    def held(self) -> int:
        """How many frames are in the cache."""
        with self._lock:
            return len(self._kept)

    def close(self) -> None:
        """Stop the thread and let go of the file."""
        with self._lock:
            self._closing = True
            self._lock.notify()
        self._thread.join()
        self._reader.close()

    def _work(self) -> None:
        while True:
            with self._lock:
                while self._wish is None and not self._closing:
                    self._lock.wait()
                if self._closing:
                    return
                wish, self._wish = self._wish, None
            assert wish is not None
            self._serve(*wish)

    def _serve(self, index: int, direction: int) -> None:
        """Decode the wish, then onward in its direction, until a newer wish comes."""
        reach = min(_AHEAD, self._room - 2)
        wanted = [index + direction * k for k in range(reach)]
        if direction < 0:
            # backwards a decoder still runs forwards: take the stretch from its far end, after the wish itself
            wanted = [index, *sorted(wanted[1:])]
        for at in wanted:
            with self._lock:
                if self._closing or (self._wish is not None and self._wish != (index, direction)):
                    return
                if at in self._kept or not 0 <= at < self.times.size:
                    continue
            try:
                picture = self._reader.read(at)
            except ClipError as fault:
                self.fault = str(fault)
                continue
            with self._lock:
                self._kept[at] = picture
                while len(self._kept) > self._room:
                    self._kept.popitem(last=False)
            if at == index:
                self._ready(at)
