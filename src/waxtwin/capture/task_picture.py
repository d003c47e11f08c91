"""A practice task in pictures of one's own: a picture as it is, or a clip as four frames in a row."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np

from waxtwin.capture.clip import ClipReader
from waxtwin.core.steps import Steps
from waxtwin.formats.files import FormatError

TALL, WIDEST = 260, 1040  # px of what is kept
_FRAMES, _BETWEEN = 4, 8  # of a clip, and px between them
_PAPER = 246  # grey level of what lies between
PICTURES = (".png", ".jpg", ".jpeg")


def task_picture(path: Path) -> Steps[bytes]:
    """A PNG file of a picture or a clip. Raises FormatError, ClipError."""
    if path.suffix.lower() in PICTURES:
        try:
            found = cv2.imdecode(np.frombuffer(path.read_bytes(), np.uint8), cv2.IMREAD_COLOR)
        except (OSError, cv2.error):
            found = None
        if found is None:
            raise FormatError(path, "it is not a picture that can be read")
        yield 0.8
        return _png(_fitted(found))
    frames = []
    with ClipReader(path) as clip:
        for n, index in enumerate(np.linspace(0, len(clip.times) - 1, _FRAMES).round().astype(int)):
            yield 0.9 * n / _FRAMES
            frames.append(_fitted(np.ascontiguousarray(clip.read(int(index))[..., :3])))
    gap = np.full((TALL, _BETWEEN, 3), _PAPER, np.uint8)
    row = [part for frame in frames for part in (frame, gap)][:-1]
    return _png(_fitted(np.hstack(row)))


def _fitted(picture: np.ndarray) -> np.ndarray:
    """As tall as is kept, or as wide if it would be wider."""
    rows, columns = picture.shape[:2]
    scale = min(TALL / rows, WIDEST / columns)
    size = (max(round(columns * scale), 1), max(round(rows * scale), 1))
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA))


def _png(picture: np.ndarray) -> bytes:
    return bytes(cv2.imencode(".png", picture)[1])
