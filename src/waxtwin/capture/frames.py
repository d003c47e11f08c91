"""A clip's frames at hand: one decoding thread, a bounded cache, read-ahead in the direction of travel."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

import numpy as np

from waxtwin.capture.clip import ClipError, ClipReader

CACHE_BYTES = 320 * 1024 * 1024
_AHEAD = 24


class FrameStore:
    """Frames of one clip, opened and decoded off the calling thread.

    `frame(i)` answers at once with the picture or None; when None, or when frames around are missing, the thread
    works toward them and calls `ready(i)` from its own thread; so it does with -1 once the clip is open, or cannot be
    opened (`fault`). Newer wishes replace older ones.
    """

    def __init__(self, path: Path, ready: Callable[[int], None], cache_bytes: int = CACHE_BYTES) -> None:
        self._path, self._ready, self._bytes = path, ready, cache_bytes
        self._reader: ClipReader | None = None
        self.times = np.zeros(0)
        self.size = (0, 0)
        self._room = 4
        self._kept: OrderedDict[int, np.ndarray] = OrderedDict()
        self._lock = threading.Condition()
        self._wish: tuple[int, int] | None = None
        self._closing = False
        self._wanted = 0
        self.fault: str | None = None
        self._thread = threading.Thread(target=self._work, name=f"frames of {path.name}", daemon=True)
        self._thread.start()

    @property
    def is_open(self) -> bool:
        """Whether times and size are known and frames can come."""
        return self.times.size > 0

    def nearest(self, time: float) -> int:
        """Index of the frame shown at `time` seconds; 0 while the clip is not open."""
        return max(int(np.searchsorted(self.times, time + 1e-6, side="right")) - 1, 0)

    def frame(self, index: int, direction: int = 1) -> np.ndarray | None:
        """The picture `(height, width, 4)` if it is at hand; asks for it and its neighbours otherwise."""
        with self._lock:
            picture = self._kept.get(index)
            if picture is not None:
                self._kept.move_to_end(index)
            self._wish = (index, 1 if direction >= 0 else -1)
            self._wanted = index
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

    def _work(self) -> None:
        try:
            self._open()
            self._ready(-1)
            if self._reader is not None:
                self._serve_wishes()
        finally:
            if self._reader is not None:
                self._reader.close()

    def _open(self) -> None:
        try:
            self._reader = ClipReader(self._path)
        except ClipError as fault:
            self.fault = str(fault)
            return
        self.size = self._reader.size
        self._room = max(int(self._bytes / (self.size[0] * self.size[1] * 4)), 4)
        self.times = self._reader.times

    def _serve_wishes(self) -> None:
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
        reach = min(_AHEAD, self._room // 2)
        first = max(index - reach, 0) if direction < 0 else index
        if not self._bring(index, first):
            return
        # backwards, whole stretches: a decoder only runs forwards, and what it passes on the way is kept
        steps = range(1, reach) if direction > 0 else range(reach, 2 * reach)
        for k in steps:
            with self._lock:
                if self._closing or (self._wish is not None and self._wish != (index, direction)):
                    return
            at = index + direction * k
            if 0 <= at < self.times.size:
                self._bring(at, max(at - reach, 0) if direction < 0 else at)

    def _bring(self, at: int, first: int) -> bool:
        """Have frame `at` in the cache, and from `first` on those that are passed; False when it cannot be had."""
        with self._lock:
            if at in self._kept:
                self._kept.move_to_end(at)
                return True
        assert self._reader is not None
        try:
            self._keep(at, self._reader.read(at, (first, self._keep)))
        except ClipError as fault:
            self.fault = str(fault)
            return False
        return True

    def _keep(self, at: int, picture: np.ndarray) -> None:
        with self._lock:
            new = at not in self._kept
            self._kept[at] = picture
            self._kept.move_to_end(at)
            while len(self._kept) > self._room:
                self._kept.popitem(last=False)
            wanted = new and at == self._wanted
        if wanted:
            self._ready(at)
