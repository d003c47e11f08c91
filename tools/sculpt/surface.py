"""From a shape's signed distance to a light mesh that lies on it, and what its light hangs on."""

from __future__ import annotations

from collections.abc import Callable

import fast_simplification
import numpy as np
from skimage.measure import marching_cubes
from tools.sculpt.parts import Part
from tools.sculpt.solids import Shape

_RAYS = ((0.012, 1.0), (0.025, 0.8), (0.050, 0.6))  # how far something may stand before a point, and what it counts
_FAN = ((0.0, 0.0), (0.7, 0.0), (-0.7, 0.0), (0.0, 0.7), (0.0, -0.7))
_BURIED = -0.007  # of height: deeper in another part than this is never seen


class Scene:
    """All parts together: the distance to whatever is nearest."""

    def __init__(self, parts: tuple[Part, ...]) -> None:
        self._shapes = [(part.shape, *part.shape.box(0.06)) for part in parts]

    def __call__(self, points: np.ndarray) -> np.ndarray:
        out = np.full(len(points), 0.2, np.float32)
        for shape, low, high in self._shapes:
            near = ((points > low) & (points < high)).all(axis=1)
            if near.any():
                out[near] = np.minimum(out[near], shape(points[near]))
        return out

    def buried(self, points: np.ndarray, own: Shape) -> np.ndarray:
        """Which points lie deep inside another part."""
        out = np.zeros(len(points), bool)
        for shape, low, high in self._shapes:
            near = ((points > low) & (points < high)).all(axis=1)
            if shape is not own and near.any():
                out[near] |= shape(points[near]) < _BURIED
        return out


def mesh(part: Part, scene: Scene) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points (n, 3), faces (m, 3) outward, and unit normals (n, 3) of what can be seen of a part."""
    points, faces = _cut_out(part.shape, part.voxel)
    points = _onto(part.shape, points, 3)
    points, faces = fast_simplification.simplify(points, faces.astype(np.int32), target_count=part.triangles, agg=4)
    points = _onto(part.shape, np.asarray(points, np.float32), 3)
    normals = part.shape.gradient(points)
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    a, b, c = (points[faces[:, i]] for i in range(3))
    if np.einsum("ij,ij", np.cross(b - a, c - a), normals[faces].mean(axis=1)) < 0:
        faces = faces[:, ::-1]
    faces = faces[~scene.buried(points, part.shape)[faces].all(axis=1)]
    used = np.unique(faces)
    renumbered = np.zeros(len(points), int)
    renumbered[used] = np.arange(len(used))
    return points[used], renumbered[faces], normals[used]


def openness(scene: Callable[[np.ndarray], np.ndarray], points: np.ndarray, normals: np.ndarray) -> np.ndarray:
    """How much of the room before each point is free, 0 to 1: five rays into the distance field, three lengths each."""
    across = np.cross(normals, [0.3, 0.5, 0.8])
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    up = np.cross(normals, across)
    hidden, whole = np.zeros(len(points)), 0.0
    for reach, weight in _RAYS:
        for x, y in _FAN:
            ray = normals + x * across + y * up
            ray /= np.linalg.norm(ray, axis=1, keepdims=True)
            free = reach * np.einsum("ij,ij->i", ray, normals)
            hidden += weight * np.clip((free - scene((points + ray * reach).astype(np.float32))) / reach, 0, 1)
            whole += weight
    return np.asarray(1 - hidden / whole)


def thinness(scene: Callable[[np.ndarray], np.ndarray], points: np.ndarray, normals: np.ndarray) -> np.ndarray:
    """How thin the wax is behind each point, 0 to 1."""
    behind = scene((points - normals * 0.03).astype(np.float32))
    return np.asarray(1 - np.clip(-behind / 0.024, 0, 1))


def _cut_out(shape: Shape, voxel: float) -> tuple[np.ndarray, np.ndarray]:
    low, high = shape.box(3 * voxel)
    axes = [np.arange(low[i], high[i] + voxel, voxel, dtype=np.float32) for i in range(3)]
    field = np.empty([len(a) for a in axes], np.float32)
    for i, x in enumerate(axes[0]):
        field[i] = shape(np.stack(np.meshgrid([x], axes[1], axes[2], indexing="ij"), -1)[0])
    points, faces, _, _ = marching_cubes(field, 0, spacing=(voxel,) * 3)
    return (points + low).astype(np.float32), faces


def _onto(shape: Shape, points: np.ndarray, rounds: int) -> np.ndarray:
    """Points moved onto the surface by Newton steps, none longer than 0.2 % of height."""
    for _ in range(rounds):
        slope = shape.gradient(points)
        step = shape(points) / np.maximum(np.einsum("ij,ij->i", slope, slope), 0.1)
        points = points - np.clip(step, -0.002, 0.002)[:, None] * slope
    return points
