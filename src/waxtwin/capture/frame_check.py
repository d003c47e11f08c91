"""Which frames of a clip show an instant of their own."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from waxtwin.capture.clip import ClipReader
from waxtwin.core.repeats import repeated
from waxtwin.core.steps import Steps

_WIDTH, _PART = 160, 8  # px: the small picture, and the squares of it over which change is averaged


def fresh_frames(clip: Path) -> Steps[np.ndarray]:
    """(frames,) whether each frame of a clip is other than the one before it. Raises ClipError."""
    with ClipReader(clip) as reader:
        count, (width, height) = reader.times.size, reader.size
        change, before = np.zeros(count), None
        for i, picture in reader.greys(max(_WIDTH / width, 2 * _PART / height)):
            grey = picture.astype(np.float32)
            if before is not None:
                change[i] = _change(grey - before)
            before = grey
            if i % 16 == 0:
                yield i / count
    return ~repeated(change)


def _change(difference: np.ndarray) -> float:
    """How much the square that changes most does so, less what the light does to all of them; grey levels."""
    import cv2

    size = (max(difference.shape[1] // _PART, 1), max(difference.shape[0] // _PART, 1))
    squares = cv2.resize(np.abs(difference), size, interpolation=cv2.INTER_AREA)
    return float(squares.max() - np.median(squares))
