"""The clip on a stage: which one, and the frame of it that is at hand for an instant."""

from __future__ import annotations

from collections.abc import Callable
from threading import Event
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtGui import QImage

from waxtwin.library.stored import Clip
from waxtwin.ui.model.closeup import Closeup

if TYPE_CHECKING:
    from waxtwin.capture.frames import FrameStore

_PLAIN = Closeup()
_PATIENCE_S = 20.0  # for one frame that is waited for


class StageClip:
    """`announce(frame)` is called, on whichever thread, when a frame that was asked for is there."""

    def __init__(self, announce: Callable[[int], None]) -> None:
        self._announce = announce
        self._store: FrameStore | None = None
        self._picture: tuple[np.ndarray, QImage, int] | None = None  # the array must outlive the image of it
        self._shown = (0.0, 0.0)  # its light and contrast
        self._last_time = 0.0
        self.clip: Clip | None = None
        self.late = False  # whether the frame at hand is not yet the one that is wanted

    def show(self, clip: Clip | None) -> None:
        """Show another clip, or none."""
        if clip is self.clip:
            return
        self.close()
        if clip is None:
            return
        from waxtwin.capture.frames import FrameStore  # video decoding loads with the first clip

        self._store, self.clip = FrameStore(clip.path, self._announce), clip

    def close(self) -> None:
        """Let go of the clip and its thread."""
        if self._store is not None:
            self._store.close()
        self._store, self.clip, self._picture = None, None, None

    @property
    def is_open(self) -> bool:
        """Whether there is a clip to be seen."""
        return self._store is not None and self._store.is_open

    @property
    def fault(self) -> str | None:
        """Why the clip cannot be shown, or None."""
        return None if self._store is None else self._store.fault

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of its frames, pixels."""
        return (0, 0) if self._store is None else self._store.size

    def _read(self, index: int, direction: int) -> np.ndarray | None:
        """A frame `(height, width, 4)`, or None as long as it is not there."""
        assert self._store is not None
        return self._store.frame(index, direction)

    def fetch(self, time: float, closeup: Closeup = _PLAIN) -> bool:
        """Have the frame of an instant (s of the throw) at hand, as light as is wanted, or the last one meanwhile."""
        if self._store is None or self.clip is None:
            return False
        direction = -1 if time < self._last_time else 1
        self._last_time = time
        index = self._store.nearest(self.clip.clock.to_clip(time))
        picture = self._read(index, direction)
        self.late = picture is None
        shown = (closeup.light, closeup.contrast)
        if picture is not None and (self._picture is None or (self._picture[2], self._shown) != (index, shown)):
            if any(shown):
                from waxtwin.capture.light import lit

                picture = lit(picture, *shown)
            h, w = picture.shape[:2]
            image = QImage(picture.data, w, h, picture.strides[0], QImage.Format.Format_RGB32)
            self._picture, self._shown = (picture, image, index), shown
        return self._picture is not None

    @property
    def image(self) -> QImage | None:
        """The frame at hand."""
        return None if self._picture is None else self._picture[1]

    @property
    def seen_time(self) -> float | None:
        """The instant (s of the throw) of the frame at hand."""
        if self._picture is None or self._store is None or self.clip is None:
            return None
        return float(self.clip.clock.to_throw(float(self._store.times[self._picture[2]])))


class PatientClip(StageClip):
    """The same for pictures that are made one by one: a frame that is not there yet is waited for."""

    def __init__(self) -> None:
        self._came = Event()
        super().__init__(lambda _: self._came.set())

    def show(self, clip: Clip | None) -> None:
        if clip is self.clip:
            return
        self._came.clear()
        super().show(clip)
        if self._store is not None:
            self._came.wait(_PATIENCE_S)  # until it is open, or cannot be

    def _read(self, index: int, direction: int) -> np.ndarray | None:
        self._came.clear()
        picture = super()._read(index, direction)
        while picture is None and self.fault is None and self._came.wait(_PATIENCE_S):
            self._came.clear()
            picture = super()._read(index, direction)
        return picture
