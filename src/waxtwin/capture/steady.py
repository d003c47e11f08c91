"""Steadying a panning or shaking camera: how each frame's background lies against that of the first frame.

Corners of the background (the person masked out) are held from a key frame through all that follow it, and a turn,
scale and shift is fitted robustly; a new key frame is taken only when too few of them are left in sight, so that
errors do not add up from frame to frame. Marks are moved by it; the pictures are left as they are.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from waxtwin.capture.clip import ClipError, ClipReader
from waxtwin.core.errors import shown_name
from waxtwin.core.steps import Steps

_CORNERS = 300
_LEAST = 20
_WIDEST = 960  # pixels: larger pictures are looked at smaller, a corner is found to a tenth of a pixel all the same
_RENEW = 0.3  # of the key frame's corners: with fewer of them holding, the frame before becomes the key
_LUCAS_KANADE: dict[str, Any] = {"winSize": (21, 21), "maxLevel": 3}
_RANSAC_PX = 2.0
_STILL = np.eye(2, 3)


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


@dataclass(frozen=True)
class _Key:
    """A frame that later ones are held against: its picture, its corners `(corners, 1, 2)`, its way to the first."""

    picture: np.ndarray
    corners: np.ndarray | None
    motion: np.ndarray


def steady(clip: Path, boxes: np.ndarray | None = None) -> Steps[Steadying]:
    """How to steady every frame. `boxes` (frames, 4) x0 y0 x1 y1 of the person, NaN where unknown.

    Raises ClipError.
    """
    with ClipReader(clip) as reader:
        count, scale = reader.times.size, min(_WIDEST / max(reader.size), 1.0)
        small = None if boxes is None else boxes * scale
        motion, held = np.tile(_STILL, (count, 1, 1)), np.zeros(count)
        pictures = reader.greys(scale)
        first = next(pictures, None)
        if first is None:
            raise ClipError(f"{shown_name(clip)}: no frame can be decoded")
        last, before = first
        key, since, held[last] = _key(before, small, last, _STILL), _STILL, 1.0
        for k, now in pictures:
            motion[last + 1 : k] = motion[last]  # of frames that cannot be decoded
            step, share = _between(key, now, since)
            if share < _RENEW and key.picture is not before:
                key = _key(before, small, last, motion[last])
                step, share = _between(key, now, _STILL)
            since, held[k] = (_STILL if step is None else step), share
            motion[k] = motion[last] if step is None else _chained(key.motion, step)
            last, before = k, now
            if k % 8 == 0:
                yield k / count
        motion[last + 1 :] = motion[last]
    motion[:, :, 2] /= scale
    return Steadying(motion, held)


def _key(picture: np.ndarray, boxes: np.ndarray | None, frame: int, motion: np.ndarray) -> _Key:
    """Corners of the background, away from the person."""
    import cv2

    mask = np.full(picture.shape, 255, np.uint8)
    if boxes is not None and not np.isnan(boxes[frame]).any():
        x0, y0, x1, y1 = boxes[frame].astype(int)
        room = int(0.15 * max(x1 - x0, y1 - y0))
        mask[max(y0 - room, 0) : y1 + room, max(x0 - room, 0) : x1 + room] = 0
    corners = cv2.goodFeaturesToTrack(picture, _CORNERS, 0.01, 8, mask=mask)
    return _Key(picture, None if corners is None or len(corners) < _LEAST else corners, motion)


def _between(key: _Key, now: np.ndarray, guess: np.ndarray) -> tuple[np.ndarray | None, float]:
    """What takes pixels of `now` back to the key frame, and the share of its corners that agree; None and 0 when lost.

    `guess` is what did so for the frame before.
    """
    import cv2

    if key.corners is None:
        return None, 0.0
    turn = np.linalg.inv(guess[:, :2])
    start = ((key.corners - guess[:, 2]) @ turn.T).astype(np.float32)
    flags = cv2.OPTFLOW_USE_INITIAL_FLOW
    moved, good, _ = cv2.calcOpticalFlowPyrLK(key.picture, now, key.corners, start, flags=flags, **_LUCAS_KANADE)
    kept = np.ravel(good) == 1
    if kept.sum() < _LEAST:
        return None, 0.0
    fit, inliers = cv2.estimateAffinePartial2D(
        np.asarray(moved)[kept], key.corners[kept], method=cv2.RANSAC, ransacReprojThreshold=_RANSAC_PX
    )
    if fit is None or inliers is None or inliers.sum() < _LEAST:
        return None, 0.0
    return np.asarray(fit), float(inliers.sum()) / len(key.corners)


def _chained(first: np.ndarray, then: np.ndarray) -> np.ndarray:
    """`first` after `then`: from the newest frame to the first one."""
    return np.asarray((np.vstack([first, [0, 0, 1]]) @ np.vstack([then, [0, 0, 1]]))[:2])
