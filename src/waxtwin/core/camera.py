"""Pinhole cameras as 3x4 projection matrices: field frame in metres to picture coordinates in pixels."""

from __future__ import annotations

import numpy as np


def look_at(position: np.ndarray, target: np.ndarray, focal: float, size: tuple[int, int]) -> np.ndarray:
    """Projection matrix (3, 4) of a level camera.

    `position`, `target` (3,) in metres; `focal` in pixels; `size` (width, height) in pixels. Picture x runs
    right, y down, the principal point in the middle; the third homogeneous coordinate is depth in metres.
    """
    ahead = (target - position) / np.linalg.norm(target - position)
    right = np.cross(ahead, [0.0, 0.0, 1.0])
    right /= np.linalg.norm(right)
    down = np.cross(ahead, right)
    rotation = np.stack([right, down, ahead])
    intrinsic = np.array([[focal, 0, size[0] / 2], [0, focal, size[1] / 2], [0, 0, 1]])
    return intrinsic @ np.column_stack([rotation, -rotation @ position])


def project(matrix: np.ndarray, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Picture points `(..., 2)` in pixels and depths `(...,)` in metres of field points `(..., 3)`."""
    mapped = points @ matrix[:, :3].T + matrix[:, 3]
    depth = mapped[..., 2]
    return mapped[..., :2] / depth[..., None], depth
