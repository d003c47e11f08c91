"""The former net loft in which simulated clips are filmed: one still backdrop per camera."""

from __future__ import annotations

import cv2
import numpy as np

from waxtwin.core.camera import project
from waxtwin.simulate.script import ground

# blue, green, red, as OpenCV paints
_FLOOR = (74, 92, 96)
_PLANK = (70, 92, 116)
_MOUND = (58, 88, 128)
_GLASS = (196, 206, 196)
_NET = (96, 110, 112)
_WHITE = (228, 234, 236)


def backdrop(matrix: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """The empty hall seen by a camera: `(height, width, 3)` uint8, blue-green-red."""
    width, height = size
    scale = 2
    picture = np.zeros((height * scale, width * scale, 3), np.uint8)
    picture[:] = (52, 62, 70)
    paint = _Painter(picture, matrix, scale)
    rng = np.random.default_rng(7)
    x0, x1, y0, y1, top = -14.0, 32.0, -12.0, 12.0, 5.2
    paint.fill([(x0, y0, -0.25), (x1, y0, -0.25), (x1, y1, -0.25), (x0, y1, -0.25)], _FLOOR)
    for x in np.arange(x0, x1, 1.2):
        paint.line((x, y0, -0.25), (x, y1, -0.25), (66, 83, 87), 1)
    for wall_y in (y1, y0):
        for x in np.arange(x0, x1, 0.6):
            paint.wall(((x, wall_y), (x + 0.58, wall_y)), top, _shade(_PLANK, rng.uniform(0.86, 1.06)))
        for x in np.arange(x0 + 2, x1, 4.5):
            paint.window((x, wall_y), (x + 1.7, wall_y))
    for wall_x in (x0, x1):
        for y in np.arange(y0, y1, 0.6):
            paint.wall(((wall_x, y), (wall_x, y + 0.58)), top, _shade(_PLANK, rng.uniform(0.80, 1.0)))
        for y in np.arange(y0 + 2, y1 - 2, 4.5):
            paint.window((wall_x, y), (wall_x, y + 1.7))
    for wall_y in (y1 - 0.4, y0 + 0.4):
        _hang_net(paint, wall_y, x0 + 1, x1 - 1)
    for x in np.arange(x0 + 1, x1, 4.0):
        paint.line((x, y0, 4.6), (x, y1, 4.6), (44, 58, 72), 7)
    cv2.GaussianBlur(picture, (0, 0), 3.2 * scale / 2, dst=picture)
    _mound(paint)
    paint.plate()
    return np.asarray(cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA), np.uint8)


def _shade(colour: tuple[int, int, int], factor: float) -> tuple[int, int, int]:
    b, g, r = (int(np.clip(c * factor, 0, 255)) for c in colour)
    return b, g, r


Spot = tuple[float, float]  # m, on the ground
Place = tuple[float, float, float]  # m, in the field
Wall = tuple[Spot, Spot]


class _Painter:
    """Fills and lines given in field coordinates, clipped in front of the camera."""

    def __init__(self, picture: np.ndarray, matrix: np.ndarray, scale: int) -> None:
        self.picture, self.matrix, self.scale = picture, matrix, scale

    def _flat(self, corners: list[Place]) -> np.ndarray | None:
        points = np.array(corners, float)
        depth = points @ self.matrix[2, :3] + self.matrix[2, 3]
        kept = []
        for i in range(len(points)):  # clip the outline at 0.3 m in front of the lens
            j = (i + 1) % len(points)
            if depth[i] > 0.3:
                kept.append(points[i])
            if (depth[i] > 0.3) != (depth[j] > 0.3):
                share = (0.3 - depth[i]) / (depth[j] - depth[i])
                kept.append(points[i] + share * (points[j] - points[i]))
        if len(kept) < 2:
            return None
        flat, _ = project(self.matrix, np.array(kept))
        return np.asarray(np.clip(flat * self.scale * 16, -2e7, 2e7).astype(np.int32))

    def fill(self, corners: list[Place], colour: tuple[int, int, int]) -> None:
        flat = self._flat(corners)
        if flat is not None and len(flat) > 2:
            cv2.fillPoly(self.picture, [flat], colour, cv2.LINE_AA, shift=4)

    def line(self, a: Place, b: Place, colour: tuple[int, int, int], width: int) -> None:
        flat = self._flat([a, b])
        if flat is not None:
            cv2.polylines(self.picture, [flat], False, colour, width, cv2.LINE_AA, shift=4)

    def wall(self, foot: Wall, top: float, colour: tuple[int, int, int]) -> None:
        (ax, ay), (bx, by) = foot
        self.fill([(ax, ay, -0.25), (bx, by, -0.25), (bx, by, top), (ax, ay, top)], colour)

    def window(self, a: Spot, b: Spot) -> None:
        (ax, ay), (bx, by) = a, b
        self.fill([(ax, ay, 2.5), (bx, by, 2.5), (bx, by, 3.9), (ax, ay, 3.9)], _GLASS)
        mx, my = (ax + bx) / 2, (ay + by) / 2
        self.line((mx, my, 2.5), (mx, my, 3.9), _PLANK, 6)
        self.line((ax, ay, 3.2), (bx, by, 3.2), _PLANK, 6)

    def plate(self) -> None:
        x = 18.44
        self.fill(
            [(x, 0, -0.24), (x - 0.22, 0.22, -0.24), (x - 0.43, 0.22, -0.24), (x - 0.43, -0.22, -0.24),
             (x - 0.22, -0.22, -0.24)],
            _WHITE,
        )  # fmt: skip


def _hang_net(paint: _Painter, y: float, x0: float, x1: float) -> None:
    """A drying net in swags along a wall, with glass floats on its upper rope."""
    for start in np.arange(x0, x1, 5.0):
        x = np.linspace(start, start + 5.0, 22)
        sag = 0.9 * (1 - ((x - start - 2.5) / 2.5) ** 2)
        for drop in np.linspace(0, 1, 7):
            z = 4.4 - sag * (0.35 + 0.65 * drop) - 1.5 * drop
            for i in range(len(x) - 1):
                paint.line((x[i], y, z[i]), (x[i + 1], y, z[i + 1]), _NET, 2)
        for i in range(0, len(x), 2):
            paint.line((x[i], y, 4.4 - 0.35 * sag[i]), (x[i], y, 2.9 - sag[i]), _NET, 2)


def _mound(paint: _Painter) -> None:
    angles = np.linspace(0, 2 * np.pi, 72)
    ring = [(0.2 + 2.9 * np.cos(v), 2.6 * np.sin(v), -0.25) for v in angles]
    paint.fill(ring, _shade(_MOUND, 0.80))
    for share in np.linspace(0.97, 0.42, 30):  # terraces so fine that they read as a slope
        x = 0.2 + 2.9 * share * np.cos(angles)
        y = 2.6 * share * np.sin(angles)
        level = np.minimum(-0.25 + 0.25 * (1 - share) / 0.55, ground(x))
        paint.fill(list(zip(x, y, level, strict=True)), _shade(_MOUND, 0.80 + 0.22 * (1 - share) / 0.58))
    paint.fill([(-0.15, -0.3, 0.0), (0, -0.3, 0.0), (0, 0.3, 0.0), (-0.15, 0.3, 0.0)], _WHITE)
    paint.fill([(0, -0.3, 0.0), (0, 0.3, 0.0), (0, 0.3, -0.02), (0, -0.3, -0.02)], _shade(_WHITE, 0.8))
