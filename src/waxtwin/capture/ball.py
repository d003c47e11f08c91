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
from waxtwin.core.steps import Steps

_BALL = INDEX["ball"]
_REACH = 40  # frames to either side
_FIRST, _NEXT = 70, 30  # px around where the ball should be, for the first step and once its speed is known
_MOVES = 14.0  # grey levels by which the ball must stand out from the still background
_ALIKE = 28.0  # grey levels by which it may differ from what was clicked
_STRAY = 0.6  # grey levels that a pixel off the expected place counts for
_SIZE = 5  # px: box over which levels are averaged


def follow_ball(clip: Path, marks: Marks) -> Steps[Marks]:
    """Marks that hold the ball around every frame on which it was set by hand.

    It is what moves against the still background, as bright as what was clicked, near where it flies on to; until lost.
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
    return replace(marks, points=points, confidence=trust, source=source)


def _grey(picture: np.ndarray) -> np.ndarray:
    import cv2

    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGRA2GRAY))


def _followed(
    greys: dict[int, np.ndarray], start: np.ndarray, anchor: int, way: range
) -> Iterator[tuple[int, np.ndarray, float]]:
    """Frame, place and trust, as long as the ball is found."""
    import cv2

    every = list(greys.values())
    still = np.median(every[:: max(len(every) // 15, 1)], axis=0).astype(np.float32)
    level = {i: cv2.blur(grey.astype(np.float32), (_SIZE, _SIZE)) for i, grey in greys.items()}
    quiet = cv2.blur(still, (_SIZE, _SIZE))
    x, y = (int(v) for v in np.round(start))
    if not (0 <= y < still.shape[0] and 0 <= x < still.shape[1]):
        return
    wanted = float(level[anchor][y, x])
    at, step, reach = start.astype(float), np.zeros(2), _FIRST
    for i in way:
        centre = np.round(at + step).astype(int)
        x0, y0 = np.maximum(centre - reach, 0)
        x1, y1 = np.minimum(centre + reach + 1, [still.shape[1], still.shape[0]])
        if x1 - x0 < _SIZE or y1 - y0 < _SIZE:
            return
        moving = np.abs(level[i] - quiet)[y0:y1, x0:x1]
        unlike = np.abs(level[i][y0:y1, x0:x1] - wanted)
        rows, columns = np.mgrid[y0:y1, x0:x1]
        score = moving - unlike - _STRAY * np.hypot(columns - centre[0], rows - centre[1])
        row, column = np.unravel_index(int(np.argmax(score)), score.shape)
        if moving[row, column] < _MOVES or unlike[row, column] > _ALIKE:
            return
        found = np.array([x0 + column, y0 + row], float)
        step, at, reach = found - at, found, _NEXT
        yield i, found, float(np.clip(1 - unlike[row, column] / _ALIKE, 0.3, 1.0))
