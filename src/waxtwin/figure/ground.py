"""What the figure stands on: a mound that fades into the stage, and the figure's soft shadow on it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from waxtwin.figure.raster import Bounds, Picture, View, coverage, triangles
from waxtwin.figure.skin import Skin
from waxtwin.figure.turns import smooth

_RINGS, _SPOKES = 26, 72
_LONG, _WIDE = 2.0, 1.5  # m: the mound's half length and half width
_FADES = (0.55, 0.98)  # of the way to the edge: where it begins to fade, and has
_TONE = np.array([0.300, 0.285, 0.270], np.float32)  # red, green, blue of the clay in full light
_LIGHT = np.array([-0.5, -0.35, 0.8])
_FINE = 2  # the mound is painted once for each view, so finely
_COARSE = 4  # px of the stage for one of the shadow's: it is soft
_LEAN = (0.14, 0.07)  # how far a shadow falls ahead and aside for a metre of height
_HARD, _SOFT = 0.30, 0.40  # how dark the shadow is near the body and around it

Rise = Callable[[np.ndarray], np.ndarray]  # the height (m) of the ground at places (m) toward the plate


@dataclass(frozen=True)
class Ground:
    """Heights (m) of the ground at the rubber, and at a place `x1` (m) toward the plate; even before and after."""

    z0: float
    x1: float
    z1: float

    def at(self, x: np.ndarray) -> np.ndarray:
        """The height of the ground at places toward the plate."""
        return np.asarray(np.interp(x, [0.0, self.x1], [self.z0, self.z1]))


def mound(view: View, ground: Ground, bounds: Bounds) -> Picture | None:
    """The mound within `bounds`, premultiplied, to be laid over whatever the stage is."""
    points, faces, fade = _mesh(ground)
    flat, depth = view.project(points.astype(np.float32))
    if float(depth.min()) < 0.1:
        return None
    left, top, width, height = bounds[0], bounds[1], bounds[2] - bounds[0], bounds[3] - bounds[1]
    columns = np.stack([_lit(points) * fade, fade, np.zeros(len(points))], axis=1).astype(np.float32)
    place = (flat - np.array([left, top], np.float32)) * _FINE
    found, _ = triangles(place, depth, faces, columns, (width * _FINE, height * _FINE))
    light, alpha, _ = cv2.split(cv2.resize(found, (width, height), interpolation=cv2.INTER_AREA))
    pixels = np.empty((height, width, 4), np.uint8)
    for channel, tone in enumerate(_TONE[::-1]):
        pixels[..., channel] = np.clip(255 * tone * light, 0, 255)
    pixels[..., 3] = 255 * alpha
    return Picture(pixels, left, top)


def _mesh(ground: Ground) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points, faces, and how much of each point is seen."""
    out = np.linspace(0, 1, _RINGS)[:, None]
    angle = np.linspace(0, 2 * np.pi, _SPOKES + 1)[None]
    x, y = 0.45 * ground.x1 + _LONG * out * np.cos(angle), _WIDE * out * np.sin(angle)
    edge = np.broadcast_to(out, x.shape)
    z = ground.at(x) - 0.004 - 0.10 * np.clip((edge - 0.55) / 0.45, 0, 1) ** 2
    grid = np.arange(x.size).reshape(x.shape)
    squares = np.stack([grid[:-1, :-1], grid[1:, :-1], grid[1:, 1:], grid[:-1, 1:]], axis=-1).reshape(-1, 4)
    faces = np.concatenate([squares[:, [0, 1, 2]], squares[:, [0, 2, 3]]]).astype(np.int32)
    return np.stack([x, y, z], axis=-1).reshape(-1, 3), faces, (0.9 * (1 - smooth(*_FADES, edge))).ravel()


def _lit(points: np.ndarray) -> np.ndarray:
    """How light each point of the mound is."""
    surface = points.reshape(_RINGS, _SPOKES + 1, 3)
    with np.errstate(invalid="ignore"):
        normal = np.cross(np.gradient(surface, axis=0), np.gradient(surface, axis=1))
        normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    normal = np.where(np.isfinite(normal), normal, [0.0, 0.0, 1.0])
    normal[normal[..., 2] < 0] *= -1
    facing = np.clip(normal @ (_LIGHT / np.linalg.norm(_LIGHT)), 0, 1)
    return np.asarray(0.55 + 0.55 * facing**2).ravel()


def shadow(skin: Skin, view: View, rise: Rise, bounds: Bounds) -> tuple[np.ndarray, Bounds] | None:
    """The figure's shadow on the ground: how dark it is (rows, columns) uint8, and the pixels that it covers as left,
    top, width, height; None where it is outside.
    """
    points = skin.points
    if not skin.is_known:
        return None
    over = np.maximum(points[:, 2] - rise(points[:, 0]), 0)
    fallen = np.stack([points[:, 0] + _LEAN[0] * over, points[:, 1] + _LEAN[1] * over], axis=1)
    on_it = np.column_stack([fallen, rise(fallen[:, 0])]).astype(np.float32)
    flat, depth = view.project(on_it)
    flat = flat / _COARSE
    low = np.maximum(np.floor(flat.min(axis=0) - 6), np.array(bounds[:2]) // _COARSE).astype(int)
    high = np.minimum(np.ceil(flat.max(axis=0) + 6), np.array(bounds[2:]) // _COARSE + 1).astype(int)
    width, height = (high - low).tolist()
    if width <= 0 or height <= 0 or float(depth.min()) < 0.1:
        return None
    covered = coverage(flat - low, depth, skin.body.faces, (width, height))
    near, around = cv2.blur(covered, (3, 3)), cv2.GaussianBlur(covered, (0, 0), 2.6)
    dark = cv2.addWeighted(near, _HARD, around, _SOFT, 0)
    return dark, (int(low[0]) * _COARSE, int(low[1]) * _COARSE, width * _COARSE, height * _COARSE)
