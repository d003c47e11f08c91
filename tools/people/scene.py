"""Where the figures throw: ground, wall and sky behind them, painted once a camera."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from tools.people.outfit import mottle

SCENES = ("park", "hall", "cage", "yard")  # the first two teach, the last two judge


@dataclass(frozen=True)
class Scene:
    """A place: its kind, a seed for its pattern, where the light comes from, and how much of it is everywhere."""

    kind: str
    seed: int
    lamp: tuple[float, float, float]
    ambient: float


_GROUND = {
    "park": (0.30, 0.40, 0.20),
    "hall": (0.36, 0.42, 0.40),
    "cage": (0.22, 0.36, 0.24),
    "yard": (0.52, 0.50, 0.47),
}
_WALL = {"park": (0.16, 0.27, 0.20), "hall": (0.60, 0.60, 0.57), "cage": (0.20, 0.21, 0.23), "yard": (0.50, 0.34, 0.27)}
_TOP = {"park": 1.9, "hall": 9.0, "cage": 9.0, "yard": 2.6}
_DIRT = (0.58, 0.45, 0.34)


def _waves(at: np.ndarray, seed: int, scale: float) -> np.ndarray:
    return mottle(at.reshape(-1, at.shape[-1]), scale, seed).reshape(at.shape[:-1])


def backdrop(matrix: np.ndarray, size: tuple[int, int], scene: Scene) -> np.ndarray:
    """The empty place through a camera: (rows, columns, 3) red green blue, 0 to 1. `matrix` is perspective."""
    eye, rays = _rays(matrix, size)
    rng = np.random.default_rng(scene.seed)
    grain = cv2.GaussianBlur(rng.normal(0, 1.6, rays.shape[:2]), (0, 0), 0.9)[..., None]
    picture = np.array([0.62, 0.72, 0.86]) * (1.0 - 0.3 * rays[..., 2:3])
    fall = np.where(rays[..., 2] < -1e-4, -eye[2] / np.minimum(rays[..., 2], -1e-4), 1e9)
    below = eye + rays * fall[..., None]
    picture = np.where((fall < 1e8)[..., None], _floor(np.clip(below[..., :2], -60, 60), scene, grain), picture)
    axis = 1 if abs(matrix[2, 1]) > abs(matrix[2, 0]) else 0
    away = np.sign(matrix[2, axis])
    wall = (5.5 if axis == 1 else 12.0) * away
    through = (wall - eye[axis]) / np.where(np.abs(rays[..., axis]) < 1e-6, 1e-6, rays[..., axis])
    hit = eye + rays * through[..., None]
    along, high = hit[..., 1 - axis], hit[..., 2]
    behind = (through > 0) & (through < fall) & (high > 0)
    painted = _upright(along, high, scene, grain)
    picture = np.where((behind & (high < _TOP[scene.kind]))[..., None], painted, picture)
    if scene.kind in ("park", "yard"):
        crown = _TOP[scene.kind] + 2.0 + 1.1 * _waves(along[..., None], scene.seed + 2, 1.3)
        leaves = np.array([0.20, 0.28, 0.15]) * (1 + 0.3 * _waves(hit, scene.seed + 3, 5.0)[..., None] + 0.25 * grain)
        picture = np.where((behind & (high >= _TOP[scene.kind]) & (high < crown))[..., None], leaves, picture)
    soft = cv2.GaussianBlur(picture.astype(np.float32), (0, 0), 1.3)
    near = (fall < 14)[..., None] & ~behind[..., None]
    return np.clip(np.where(near, picture, soft), 0, 1).astype(np.float32)


def _rays(matrix: np.ndarray, size: tuple[int, int]) -> tuple[np.ndarray, np.ndarray]:
    """The camera's place, and the direction (rows, columns, 3) in which each pixel looks."""
    back = np.linalg.inv(matrix[:, :3])
    x, y = np.meshgrid(np.arange(size[0]) + 0.5, np.arange(size[1]) + 0.5)
    rays = np.stack([x, y, np.ones_like(x)], axis=-1) @ back.T
    return -back @ matrix[:, 3], rays / np.linalg.norm(rays, axis=-1, keepdims=True)


def _floor(at: np.ndarray, scene: Scene, grain: np.ndarray) -> np.ndarray:
    uneven = _waves(at, scene.seed, 3.0)
    out = np.array(_GROUND[scene.kind]) * (1 + 0.10 * uneven[..., None] + 0.14 * grain)
    if scene.kind == "hall":
        out[np.abs(at[..., 1] % 1.5) < 0.04] *= 0.8
    else:
        mound = np.hypot(at[..., 0] - 0.4, at[..., 1]) < 2.6 + 0.12 * uneven
        lane = (np.abs(at[..., 1] + 0.02 * uneven) < 0.9) & (at[..., 0] > 0) & (at[..., 0] < 14)
        dirt = np.array(_DIRT) * (1 + 0.07 * uneven[..., None] + 0.07 * grain)
        out = np.where((mound | lane)[..., None], dirt, out)
    rubber = (at[..., 0] > -0.15) & (at[..., 0] < 0) & (np.abs(at[..., 1]) < 0.305)
    out[rubber] = (0.85, 0.85, 0.82)
    return out


def _upright(along: np.ndarray, high: np.ndarray, scene: Scene, grain: np.ndarray) -> np.ndarray:
    uneven = _waves(np.stack([along, high], axis=-1), scene.seed + 1, 4.0)
    out = np.array(_WALL[scene.kind]) * (1 + 0.07 * uneven[..., None] + 0.05 * grain)
    if scene.kind == "hall":
        out[(np.abs(along % 1.2) < 0.02) | (np.abs(high % 0.6) < 0.015)] *= 0.82
        out = np.where((high < 1.5)[..., None], out * np.array([0.55, 0.62, 0.80]), out)
    elif scene.kind == "cage":
        out[(np.abs((along + high) % 0.16) < 0.012) | (np.abs((along - high) % 0.16) < 0.012)] = (0.42, 0.43, 0.44)
    elif scene.kind == "yard":
        out[(np.abs(high % 0.22) < 0.012) | (np.abs((along + 0.3 * (high // 0.22)) % 0.6) < 0.01)] *= 0.75
    else:
        out[np.abs(along % 2.4) < 0.05] *= 1.5
    return out
