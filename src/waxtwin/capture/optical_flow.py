"""A landmark between the frames where it was set by hand: optical flow from both ends, a spline where that fails."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from waxtwin.capture.clip import ClipReader
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.marks import FLOW, Marks
from waxtwin.core.steps import Steps

_LUCAS_KANADE: dict[str, Any] = {"winSize": (31, 31), "maxLevel": 4}
_APART = 12.0  # px by which the two ways may differ before the spline is trusted instead


def follow(clip: Path, marks: Marks, landmark: int) -> Steps[Marks]:
    """Marks that hold the landmark on every frame between the first and last set by hand.

    Raises WaxTwinError when it is set on fewer than two frames.
    """
    anchors = np.flatnonzero(marks.fixed[:, landmark])
    if anchors.size < 2:
        raise WaxTwinError("Set this landmark by hand on at least two frames; what lies between them is then followed.")
    found = marks.points[:, landmark].copy()
    confidence = np.zeros(marks.times.size)
    spline = _spline(marks, landmark, anchors)
    with ClipReader(clip) as reader:
        for n, (a, b) in enumerate(pairwise(anchors)):
            yield n / (anchors.size - 1)
            if b - a < 2:
                continue
            greys = [_grey(reader.read(int(i))) for i in range(a, b + 1)]
            there = _tracked(greys, marks.points[a, landmark])
            back = _tracked(greys[::-1], marks.points[b, landmark])[::-1]
            share = np.linspace(0, 1, b - a + 1)[:, None]
            blend = there * (1 - share) + back * share
            apart = np.linalg.norm(there - back, axis=1)
            good = np.nan_to_num(apart, nan=np.inf) < _APART
            found[a : b + 1] = np.where(good[:, None], blend, spline[a : b + 1])
            confidence[a : b + 1] = np.where(good, 0.9, 0.6)
    inside = np.zeros(marks.times.size, bool)
    inside[anchors[0] : anchors[-1] + 1] = True
    points = np.full_like(marks.points, np.nan)
    points[inside, landmark] = found[inside]
    trust = np.zeros_like(marks.confidence)
    trust[inside, landmark] = confidence[inside]
    source = np.zeros_like(marks.source)
    source[inside, landmark] = FLOW
    return replace(marks, points=points, confidence=trust, source=source)


def _spline(marks: Marks, landmark: int, anchors: np.ndarray) -> np.ndarray:
    from scipy.interpolate import PchipInterpolator

    return np.asarray(PchipInterpolator(marks.times[anchors], marks.points[anchors, landmark])(marks.times))


def _grey(picture: np.ndarray) -> np.ndarray:
    import cv2

    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGRA2GRAY))


def _tracked(greys: list[np.ndarray], start: np.ndarray) -> np.ndarray:
    """Path `(frames, 2)` of a point through grey pictures (pyramidal Lucas-Kanade); NaN once it is lost."""
    import cv2

    path = np.full((len(greys), 2), np.nan)
    path[0] = start
    at = start.astype(np.float32).reshape(1, 1, 2)
    for k in range(1, len(greys)):
        next_at, good, _ = cv2.calcOpticalFlowPyrLK(greys[k - 1], greys[k], at, at.copy(), **_LUCAS_KANADE)
        at = np.asarray(next_at, np.float32)
        if not np.ravel(good)[0]:
            break
        path[k] = at.ravel()
    return path
