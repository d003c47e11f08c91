"""Pinhole cameras as 3x4 projection matrices: field frame in metres to picture coordinates in pixels."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

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
    return np.asarray(intrinsic @ np.column_stack([rotation, -rotation @ position]))


def project(matrix: np.ndarray, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Picture points `(..., 2)` in pixels and depths `(...,)` in metres of field points `(..., 3)`."""
    mapped = points @ matrix[:, :3].T + matrix[:, 3]
    depth = mapped[..., 2]
    return mapped[..., :2] / depth[..., None], depth


def pixels_a_metre(matrix: np.ndarray, points: np.ndarray) -> np.ndarray:
    """How many pixels a metre across the line of sight is at field points `(..., 3)`: `(...,)`."""
    near, _ = project(matrix, points[..., None, :] + 0.01 * np.eye(3))
    flat, _ = project(matrix, points)
    return np.asarray(np.linalg.norm(near - flat[..., None, :], axis=-1).max(axis=-1) / 0.01)


Scale = Literal["none", "body", "planar", "solved"]


@dataclass(frozen=True)
class Camera:
    """What is known of a clip's camera.

    `matrix` (3, 4) from field metres to pixels of a picture of `size` (width, height); for a camera without depth it
    is affine. `scale` is "none" (lengths are nominal), "body" (from the size of the figure itself), "planar" (a known
    length in the plane of motion) or "solved"; `scale_sd` its standard deviation as a share, where it comes from the
    body. `yaw` (deg) is how far an affine camera is turned off its view, as `yaw_of` has it, and `yaw_sd` how well that
    is known. `distortion` is the first radial term of the lens; `error_px` and `error_m` the rms error at the points it
    was solved from.
    """

    matrix: np.ndarray
    size: tuple[int, int]
    scale: Scale = "solved"
    distortion: float = 0.0
    error_px: float | None = None
    error_m: float | None = None
    scale_sd: float = 0.0
    yaw: float = 0.0
    yaw_sd: float | None = None

    def straightened(self, pixels: np.ndarray) -> np.ndarray:
        """Pixels `(..., 2)` as a lens without radial distortion would show them (fixed-point iteration)."""
        if not self.distortion:
            return pixels
        middle = np.array(self.size) / 2
        focal = focal_length(self.matrix)
        seen = (pixels - middle) / focal
        straight = seen
        for _ in range(12):
            straight = seen / (1 + self.distortion * np.sum(straight**2, axis=-1, keepdims=True))
        return straight * focal + middle


@dataclass(frozen=True, slots=True)
class Sight:
    """How a track was seen: whether its lengths are metres, and how far (deg, with its standard deviation) the one
    camera stood off the view that its plane of motion asks for; the standard deviation of its scale, as a share;
    whether a landmark model found it, whose marks waver; whether the scale is the body's own, so that lengths are right
    as shares of standing height even where they are no metres; how well the upright is known (deg); the view; and
    whether its clock is true, or only guessed for slow motion that nobody stated.
    """  # fmt: skip

    scaled: bool = True
    yaw: float = 0.0
    yaw_sd: float = 0.0
    scale_sd: float = 0.0
    by_model: bool = False
    by_body: bool = False
    roll_sd: float = 0.0
    view: str = ""
    paced: bool = True


FIELD_SIGHT = Sight()


def focal_length(matrix: np.ndarray) -> float:
    """Focal length in pixels of a perspective projection matrix with square pixels."""
    axis = matrix[2, :3] / np.linalg.norm(matrix[2, :3])
    row = matrix[0, :3] / np.linalg.norm(matrix[2, :3])
    return float(np.linalg.norm(row - axis * (row @ axis)))


def affine(
    origin: tuple[float, float], metres_per_pixel: float, axis: int, right: float, roll: float = 0.0, yaw: float = 0.0
) -> np.ndarray:
    """Projection matrix (3, 4) of a camera without depth that does not see the field axis `axis` (0 or 1).

    `origin` is the pixel of the field's origin; `right` is +1 when the seen horizontal axis runs to the right in the
    picture, else -1; `roll` (deg) is how far the picture's vertical is turned clockwise from the true one; `yaw` (deg)
    how far the camera is turned off the view, as `yaw_of` has it.
    """
    k = 1.0 / metres_per_pixel
    c, s = np.cos(np.radians(roll)), np.sin(np.radians(roll))
    square, aside = np.cos(np.radians(yaw)), np.sin(np.radians(yaw))
    matrix = np.zeros((3, 4))
    matrix[:2, 1 - axis] = right * square * k * np.array([c, s])
    matrix[:2, axis] = (aside if axis == 0 else -aside) * k * np.array([c, s])
    matrix[:2, 2] = k * np.array([s, -c])
    matrix[:, 3] = (*origin, 1.0)
    return matrix


def onto_plane(matrix: np.ndarray, pixels: np.ndarray, axis: int, at: float = 0.0) -> np.ndarray:
    """Field points `(..., 3)` in the upright plane `axis` = `at` that are seen at `pixels` (..., 2).

    The unseen axis is NaN: the plane is where the motion is taken to be, not where a limb really is.
    """
    other = 1 - axis
    plane = np.column_stack([matrix[:, other], matrix[:, 2], matrix[:, axis] * at + matrix[:, 3]])
    back = np.linalg.inv(plane)
    mapped = pixels @ back[:, :2].T + back[:, 2]
    points = np.full((*pixels.shape[:-1], 3), np.nan)
    points[..., other] = mapped[..., 0] / mapped[..., 2]
    points[..., 2] = mapped[..., 1] / mapped[..., 2]
    return points


def yaw_of(matrix: np.ndarray, axis: int) -> float:
    """Degrees by which a perspective camera looks past the normal of the upright plane `axis`; 0 is square on."""
    ahead = matrix[2, :2] / np.linalg.norm(matrix[2, :2])
    return float(np.degrees(np.arctan2(ahead[1 - axis], abs(ahead[axis]))))
