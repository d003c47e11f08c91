"""Steadying a panning or shaking camera: how each frame's background lies against that of a reference frame.

Corners of the background (the person masked out) are followed from frame to frame; a turn, scale and shift is fitted
robustly and chained. Marks are moved by it; the pictures are left as they are.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from waxtwin.capture.clip import ClipReader

_CORNERS = 300
_LEAST = 20
_LUCAS_KANADE: dict[str, Any] = {"winSize": (21, 21), "maxLevel": 3}
_RANSAC_PX = 2.0


@dataclass(frozen=True)
class Steadying:
    """`motion` (frames, 2, 3) takes a frame's pixels to the first frame's; `held` (frames,) is the share of followed
    corners that agree with it, 0 where the background was lost and the frame before it was kept.
    """  # fmt: skip

    motion: np.ndarray
    held: np.ndarray

    @property
    def travel(self) -> float:
        """How far the camera moved, in pixels: the largest shift of any frame."""
        return float(np.abs(self.motion[:, :, 2]).max())

    @property
    def lost(self) -> float:
        """Share of the frames in which the background was lost."""
        return float((self.held == 0).mean())


def steady(clip: Path, boxes: np.ndarray | None = None) -> Iterator[float | Steadying]:
    """Shares done, then how to steady every frame. `boxes` (frames, 4) x0 y0 x1 y1 of the person, NaN where unknown.

    Raises ClipError.
    """
    import cv2

    with ClipReader(clip) as reader:
        count = reader.times.size
        motion = np.tile(np.eye(2, 3), (count, 1, 1))
        held = np.ones(count)
        before = cv2.cvtColor(reader.read(0), cv2.COLOR_BGRA2GRAY)
        for k in range(1, count):
            now = cv2.cvtColor(reader.read(k), cv2.COLOR_BGRA2GRAY)
            step, share = _between(before, now, None if boxes is None else boxes[k - 1])
            held[k] = share
            motion[k] = _chained(motion[k - 1], step)
            before = now
            if k % 8 == 0:
                yield k / count
    yield Steadying(motion, held)


def _between(before: np.ndarray, now: np.ndarray, box: np.ndarray | None) -> tuple[np.ndarray, float]:
    """What takes pixels of `now` back to `before`, and the share of corners that agree; unmoved and 0 when lost."""
    import cv2

    mask = np.full(before.shape, 255, np.uint8)
    if box is not None and not np.isnan(box).any():
        x0, y0, x1, y1 = box.astype(int)
        room = int(0.15 * max(x1 - x0, y1 - y0))
        mask[max(y0 - room, 0) : y1 + room, max(x0 - room, 0) : x1 + room] = 0
    corners = cv2.goodFeaturesToTrack(before, _CORNERS, 0.01, 8, mask=mask)
    if corners is None or len(corners) < _LEAST:
        return np.eye(2, 3), 0.0
    moved, good, _ = cv2.calcOpticalFlowPyrLK(before, now, corners, corners.copy(), **_LUCAS_KANADE)
    kept = np.ravel(good) == 1
    if kept.sum() < _LEAST:
        return np.eye(2, 3), 0.0
    fit, inliers = cv2.estimateAffinePartial2D(
        np.asarray(moved)[kept], np.asarray(corners)[kept], method=cv2.RANSAC, ransacReprojThreshold=_RANSAC_PX
    )
    if fit is None or inliers is None or inliers.sum() < _LEAST:
        return np.eye(2, 3), 0.0
    return np.asarray(fit), float(inliers.mean())


def _chained(first: np.ndarray, then: np.ndarray) -> np.ndarray:
    """`first` after `then`: from the newest frame to the first one."""
    return np.asarray((np.vstack([first, [0, 0, 1]]) @ np.vstack([then, [0, 0, 1]]))[:2])
