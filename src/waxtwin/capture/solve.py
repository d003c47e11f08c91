"""Solving a camera from points of the field that were clicked in its picture (OpenCV)."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from waxtwin.core.camera import Camera
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.field import LEAST_POINTS

_WITH_LENS = 9  # points from which the lens' bend is solved too
_TRIALS = 24
_WORST_PX = 0.02  # of the picture's width
_WORST_M = 0.10
_LANDING = np.array([[1.5, 0.0, 0.0], [1.5, 0.0, 1.2], [0.2, 0.0, 1.7]])


class SolveError(WaxTwinError):
    """The clicked points do not give a camera."""


def solve_camera(clicks: Mapping[str, tuple[float, float]], places: Mapping[str, tuple[float, float, float]],
                 size: tuple[int, int]) -> Camera:  # fmt: skip
    """The camera that sees `places` (field metres) at `clicks` (pixels). Raises SolveError in one plain sentence.

    `error_px` is the rms distance between clicks and the places seen through the camera, `error_m` how far a point at
    landing moves when every click is off by a pixel (standard deviation).
    """
    names = [name for name in clicks if name in places]
    if len(names) < LEAST_POINTS:
        raise SolveError(f"{len(names)} points are clicked; a camera needs at least {LEAST_POINTS}")
    pixels = np.array([clicks[name] for name in names], float)
    points = np.array([places[name] for name in names], float)
    if np.linalg.matrix_rank(points - points.mean(axis=0), tol=1e-3) < 2:
        raise SolveError("the clicked points lie on one line; add some to either side of it")
    matrix, bend, error = _best(pixels, points, size)
    if error > _WORST_PX * size[0]:
        raise SolveError(f"the points do not fit together: off by {error:.0f} pixels; is one of them another corner?")
    spread = _spread(pixels, points, size, matrix)
    if spread > _WORST_M:
        raise SolveError(
            f"these points leave the camera open by {spread * 100:.0f} cm at landing; add points far from the rubber, "
            "such as the plate, or a rod of known height"
        )
    return Camera(matrix, size, "solved", bend, error, spread)


def _spread(pixels: np.ndarray, points: np.ndarray, size: tuple[int, int], matrix: np.ndarray) -> float:
    rng = np.random.default_rng(0)
    seen = _flat(matrix, _LANDING)
    off = []
    for _ in range(_TRIALS):
        try:
            other, _, _ = _best(pixels + rng.normal(0, 1.0, pixels.shape), points, size)
        except SolveError:
            continue
        depth = np.abs(_LANDING @ matrix[2, :3] + matrix[2, 3])
        focal = np.linalg.norm(matrix[0, :3])
        off.append(np.linalg.norm(_flat(other, _LANDING) - seen, axis=1) * depth / focal)
    return float(np.sqrt(np.mean(np.square(off)))) if off else float("inf")


def _best(pixels: np.ndarray, points: np.ndarray, size: tuple[int, int]) -> tuple[np.ndarray, float, float]:
    """Matrix, lens bend and rms error (pixels): the best poses over a range of focal lengths, refined together."""
    guesses = sorted(
        (guess for focal in max(size) * np.geomspace(0.5, 10.0, 16) if (guess := _pose(pixels, points, size, focal))),
        key=lambda guess: guess[0],
    )
    found = [one for _, start in guesses[:2] if (one := _refined(pixels, points, size, start)) is not None]
    if not found:
        raise SolveError("no camera can see the field like this; is a point clicked at the wrong corner?")
    error, matrix, bend = min(found, key=lambda one: one[0])
    return matrix, bend, error


def _pose(
    pixels: np.ndarray, points: np.ndarray, size: tuple[int, int], focal: float
) -> tuple[float, np.ndarray] | None:
    """Error and parameters (log focal, turn, shift) of the best pose for one focal length."""
    import cv2

    inner = _inner(focal, size)
    try:
        good, turn, shift = cv2.solvePnP(points, pixels, inner, None, flags=cv2.SOLVEPNP_SQPNP)
    except cv2.error:
        return None
    if not good:
        return None
    seen, _ = cv2.projectPoints(points, turn, shift, inner, None)
    error = float(np.sqrt(np.mean((seen[:, 0] - pixels) ** 2)))
    return error, np.r_[np.log(focal), turn.ravel(), shift.ravel()]


def _refined(
    pixels: np.ndarray, points: np.ndarray, size: tuple[int, int], start: np.ndarray
) -> tuple[float, np.ndarray, float] | None:
    import cv2
    from scipy.optimize import least_squares

    if len(pixels) >= _WITH_LENS:
        start = np.r_[start, 0.0]

    def off(x: np.ndarray) -> np.ndarray:
        seen, _ = cv2.projectPoints(points, x[1:4], x[4:7], _inner(np.exp(x[0]), size), np.r_[x[7:8], np.zeros(4)][:4])
        return np.asarray((seen[:, 0] - pixels).ravel())

    try:
        x = least_squares(off, start, x_scale="jac", max_nfev=60).x
    except (ValueError, cv2.error):
        return None
    rotation, _ = cv2.Rodrigues(x[1:4])
    matrix = _inner(np.exp(x[0]), size) @ np.column_stack([rotation, x[4:7]])
    if not np.isfinite(matrix).all() or (points @ matrix[2, :3] + matrix[2, 3] <= 0).any():
        return None
    return float(np.sqrt(np.mean(off(x) ** 2) * 2)), matrix, float(x[7]) if x.size > 7 else 0.0


def _inner(focal: float, size: tuple[int, int]) -> np.ndarray:
    return np.array([[focal, 0, size[0] / 2], [0, focal, size[1] / 2], [0, 0, 1.0]])


def _flat(matrix: np.ndarray, points: np.ndarray) -> np.ndarray:
    mapped = points @ matrix[:, :3].T + matrix[:, 3]
    return np.asarray(mapped[:, :2] / mapped[:, 2:])
