"""A shaded mannequin from landmarks: round solids cast into a depth buffer, lit, and laid over the hall."""

from __future__ import annotations

from collections.abc import Mapping

import cv2
import numpy as np

from waxtwin.core.camera import project
from waxtwin.core.figure import FIGURE_INDEX, LIMBS, TORSO, figure_points
from waxtwin.simulate.script import ground

_OVERSAMPLE = 2
_LIGHT = np.array([-0.42, -0.66, -0.62])  # toward the lamp in camera axes: left, above, behind the lens
_LIGHT = _LIGHT / np.linalg.norm(_LIGHT)
_SHADOW = np.array([0.35, 0.25, -1.0])  # the way shadows fall

KITS: Mapping[str, Mapping[str, tuple[int, int, int]]] = {  # blue, green, red
    "amber": {
        "skin": (132, 164, 206), "shirt": (58, 132, 206), "legs": (196, 206, 212), "shoe": (48, 44, 44),
        "glove": (44, 78, 128), "cap": (36, 84, 150), "ball": (238, 240, 240),
    },
    "teal": {
        "skin": (96, 124, 166), "shirt": (136, 118, 44), "legs": (198, 202, 204), "shoe": (52, 40, 36),
        "glove": (52, 72, 104), "cap": (98, 78, 22), "ball": (238, 240, 240),
    },
}  # fmt: skip


def draw(
    background: np.ndarray,
    matrix: np.ndarray,
    points: np.ndarray,
    height: float,
    kit: Mapping[str, tuple[int, int, int]],
    ball: np.ndarray | None = None,
) -> np.ndarray:
    """A frame: the figure standing in `background`.

    `background` (rows, columns, 3) uint8; `matrix` (3, 4) projection; `points` (landmarks, 3) in metres;
    standing `height` in metres; `ball` (3,) in metres or None. Returns a new picture of the background's shape.
    """
    body = figure_points(points)
    flat, depth = project(matrix, body)
    box = _box(flat, background.shape)
    frame = background.copy()
    _cast_shadow(frame, matrix, body, height)
    x0, y0, x1, y1 = box
    buffer = _Buffer(x0, y0, x1 - x0, y1 - y0)
    focal = float(np.linalg.norm(matrix[0, :3] - matrix[2, :3] * (matrix[0, :3] @ matrix[2, :3])))
    for solid in (*TORSO, *LIMBS):
        i, j = FIGURE_INDEX[solid.a], FIGURE_INDEX[solid.b]
        ra, rb = solid.ra * height, solid.rb * height
        buffer.cast(flat[i], flat[j], depth[i], depth[j], ra, rb, focal, kit[solid.material])
    if ball is not None:
        where, deep = project(matrix, ball)
        if x0 < where[0] < x1 and y0 < where[1] < y1:
            buffer.cast(where, where + 0.01, float(deep), float(deep), 0.037, 0.037, focal, kit["ball"])
    buffer.over(frame)
    return frame


def _box(flat: np.ndarray, shape: tuple[int, ...]) -> tuple[int, int, int, int]:
    margin = 60
    low = np.nanmin(flat, axis=0) - margin
    high = np.nanmax(flat, axis=0) + margin
    x0, y0 = max(int(low[0]), 0), max(int(low[1]), 0)
    return x0, y0, max(min(int(high[0]), shape[1]), x0 + 2), max(min(int(high[1]), shape[0]), y0 + 2)


def _cast_shadow(frame: np.ndarray, matrix: np.ndarray, body: np.ndarray, height: float) -> None:
    drop = (body[:, 2] - ground(body[:, 0]))[:, None]
    on_ground = body + _SHADOW * drop
    on_ground[:, 2] = ground(on_ground[:, 0]) + 0.004
    flat, depth = project(matrix, on_ground)
    mask = np.zeros(frame.shape[:2], np.uint8)
    scale = float(np.linalg.norm(matrix[0, :3])) / np.nanmean(depth)
    for solid in (*TORSO, *LIMBS):
        a, b = flat[FIGURE_INDEX[solid.a]], flat[FIGURE_INDEX[solid.b]]
        width = max(int((solid.ra + solid.rb) * height * scale * 0.6), 2)
        cv2.line(mask, (int(a[0]), int(a[1])), (int(b[0]), int(b[1])), 255, width, cv2.LINE_AA)
    soft = cv2.GaussianBlur(mask, (0, 0), 7).astype(np.float32)[..., None] / 255.0
    frame[:] = (frame * (1.0 - 0.42 * soft)).astype(np.uint8)


class _Buffer:
    """Depth, colour and cover of the part of the picture that the figure fills, oversampled."""

    def __init__(self, x: int, y: int, width: int, height: int) -> None:
        self.x, self.y = x, y
        shape = (height * _OVERSAMPLE, width * _OVERSAMPLE)
        self.depth = np.full(shape, np.inf, np.float32)
        self.colour = np.zeros((*shape, 3), np.float32)

    def cast(
        self,
        a: np.ndarray,
        b: np.ndarray,
        za: float,
        zb: float,
        ra: float,
        rb: float,
        focal: float,
        colour: tuple[int, int, int],
    ) -> None:
        """Lay a tapering, round-ended solid from picture point a to b; depths and radii in metres."""  # fmt: skip
        k = _OVERSAMPLE
        origin = np.array([self.x, self.y])
        a, b = (a - origin) * k, (b - origin) * k
        pa, pb = ra * focal / za * k, rb * focal / zb * k
        rows, columns = self.depth.shape
        reach = max(pa, pb) + 1
        x0, x1 = int(max(min(a[0], b[0]) - reach, 0)), int(min(max(a[0], b[0]) + reach + 1, columns))
        y0, y1 = int(max(min(a[1], b[1]) - reach, 0)), int(min(max(a[1], b[1]) + reach + 1, rows))
        if x1 <= x0 or y1 <= y0:
            return
        gx = np.arange(x0, x1, dtype=np.float32)[None, :]
        gy = np.arange(y0, y1, dtype=np.float32)[:, None]
        axis = b - a
        length = float(axis @ axis)
        share = np.clip(((gx - a[0]) * axis[0] + (gy - a[1]) * axis[1]) / max(length, 1e-6), 0, 1)
        radius = pa + share * (pb - pa)
        dx = (gx - (a[0] + share * axis[0])) / radius
        dy = (gy - (a[1] + share * axis[1])) / radius
        bulge = 1.0 - dx * dx - dy * dy
        inside = bulge > 0
        nz = np.sqrt(np.maximum(bulge, 0))
        near = (za + share * (zb - za)) - nz * (ra + share * (rb - ra))
        window = self.depth[y0:y1, x0:x1]
        wins = inside & (near < window)
        if not wins.any():
            return
        facing = dx * _LIGHT[0] + dy * _LIGHT[1] - nz * _LIGHT[2]
        tone = 0.40 + 0.62 * np.maximum(facing, 0) + 0.10 * (1 - nz) ** 3
        gleam = 34.0 * np.maximum(facing, 0) ** 18
        window[wins] = near[wins]
        shaded = tone[wins][:, None] * np.array(colour, np.float32) + gleam[wins][:, None]
        self.colour[y0:y1, x0:x1][wins] = shaded

    def over(self, frame: np.ndarray) -> None:
        cover = np.isfinite(self.depth).astype(np.float32)
        rows, columns = (n // _OVERSAMPLE for n in self.depth.shape)
        colour = cv2.resize(np.minimum(self.colour, 255), (columns, rows), interpolation=cv2.INTER_AREA)
        alpha = cv2.resize(cover, (columns, rows), interpolation=cv2.INTER_AREA)[..., None]
        patch = frame[self.y : self.y + rows, self.x : self.x + columns]
        patch[:] = (colour + patch * (1 - alpha)).astype(np.uint8)
