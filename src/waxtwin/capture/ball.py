"""The ball near release, followed both ways from one frame where it was clicked."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np

from waxtwin.capture.clip import ClipReader
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import FLOW, Marks

_BALL = INDEX["ball"]
_REACH = 40  # frames to either side
_HALF = 7  # px: half the size of the patch that is looked for
_SEARCH = 26  # px around where the ball should be next
_ALIKE = 0.55  # correlation below which the ball is lost


def follow_ball(clip: Path, marks: Marks) -> Iterator[float | Marks]:
    """Shares done, then marks that hold the ball around every frame on which it was set by hand.

    The patch around it is looked for near where it flies on to (normalised correlation), until it is lost.
    Raises WaxTwinError when the ball is set nowhere.
    """
    anchors = [int(i) for i in np.flatnonzero(marks.fixed[:, _BALL])]
    if not anchors:
        raise WaxTwinError("Click the ball on one frame near release first; it is then followed both ways.")
    points = np.full_like(marks.points, np.nan)
    trust, source = np.zeros_like(marks.confidence), np.zeros_like(marks.source)
    with ClipReader(clip) as reader:
        for n, anchor in enumerate(anchors):
            first, last = max(anchor - _REACH, 0), min(anchor + _REACH + 1, marks.times.size)
            greys = {}
            for i in range(first, last):
                greys[i] = _grey(reader.read(i))
                yield (n + (i - first) / (last - first)) / len(anchors)
            for way in (range(anchor + 1, last), range(anchor - 1, first - 1, -1)):
                for i, at, alike in _followed(greys, marks.points[anchor, _BALL], anchor, way):
                    points[i, _BALL], trust[i, _BALL], source[i, _BALL] = at, alike, FLOW
    yield replace(marks, points=points, confidence=trust, source=source)


def _grey(picture: np.ndarray) -> np.ndarray:
    import cv2

    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGRA2GRAY))


def _followed(
    greys: dict[int, np.ndarray], start: np.ndarray, anchor: int, way: range
) -> Iterator[tuple[int, np.ndarray, float]]:
    """Frame, place and likeness, as long as the ball is found."""
    import cv2

    patch = _cut(greys[anchor], start, _HALF)
    at, step = start.astype(float), np.zeros(2)
    if patch is None:
        return
    for i in way:
        window = _cut(greys[i], at + step, _SEARCH)
        if window is None:
            return
        likeness = cv2.matchTemplate(window, patch, cv2.TM_CCOEFF_NORMED)
        _, best, _, place = cv2.minMaxLoc(likeness)
        if best < _ALIKE:
            return
        corner = np.round(at + step) - _SEARCH
        found = corner + np.array(place) + _HALF
        step, at = found - at, found
        yield i, found, float(best)


def _cut(grey: np.ndarray, at: np.ndarray, half: int) -> np.ndarray | None:
    """The square of `half` pixels around a point; None at the picture's edge."""
    x, y = (int(v) for v in np.round(at))
    if x - half < 0 or y - half < 0 or x + half >= grey.shape[1] or y + half >= grey.shape[0]:
        return None
    return grey[y - half : y + half + 1, x - half : x + half + 1]
