"""A small depth-buffer painter with light on every pixel."""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, fastmath=True)
def extent(corners, rows, columns):
    """Twice a triangle's area, with its sign, and the first and last column and row that it may touch."""
    ax, ay, bx, by, cx, cy = corners
    area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    x0, x1 = int(max(0, np.floor(min(ax, bx, cx)))), int(min(columns - 1, np.ceil(max(ax, bx, cx))))
    y0, y1 = int(max(0, np.floor(min(ay, by, cy)))), int(min(rows - 1, np.ceil(max(ay, by, cy))))
    return area, x0, x1, y0, y1


@njit(cache=True, fastmath=True)
def place_in(corners, area, px, py):
    """Shares of a triangle's first two corners at a point; the third has the rest."""
    ax, ay, bx, by, cx, cy = corners
    u = ((bx - px) * (cy - py) - (by - py) * (cx - px)) / area
    v = ((cx - px) * (ay - py) - (cy - py) * (ax - px)) / area
    return u, v


@njit(cache=True, fastmath=True)
def paint(flat, depth, faces, normals, colours, shade, nearest, picture, lamp, toward, ambient, gloss):  # noqa: PLR0913
    """Paint triangles into `picture` (rows, columns, 3) and `nearest` (rows, columns), both changed in place.

    `flat` (vertices, 2) in pixels of the picture, `depth` (vertices,) metres, `shade` (vertices,) 0 in shadow to 1;
    `lamp` and `toward` (3,) units toward the light and the camera.
    """
    rows, columns = nearest.shape
    half = lamp + toward
    half = half / np.sqrt((half**2).sum())
    for f in range(faces.shape[0]):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        corners = flat[a, 0], flat[a, 1], flat[b, 0], flat[b, 1], flat[c, 0], flat[c, 1]
        area, x0, x1, y0, y1 = extent(corners, rows, columns)
        if area == 0.0:
            continue
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                u, v = place_in(corners, area, x + 0.5, y + 0.5)
                w = 1.0 - u - v
                if u < 0 or v < 0 or w < 0:
                    continue
                z = u * depth[a] + v * depth[b] + w * depth[c]
                if z >= nearest[y, x]:
                    continue
                nearest[y, x] = z
                nx = u * normals[a, 0] + v * normals[b, 0] + w * normals[c, 0]
                ny = u * normals[a, 1] + v * normals[b, 1] + w * normals[c, 1]
                nz = u * normals[a, 2] + v * normals[b, 2] + w * normals[c, 2]
                size = 1.0 / (np.sqrt(nx * nx + ny * ny + nz * nz) + 1e-9)
                if nx * toward[0] + ny * toward[1] + nz * toward[2] < 0:
                    size = -size
                nx, ny, nz = nx * size, ny * size, nz * size
                lit = max(0.0, nx * lamp[0] + ny * lamp[1] + nz * lamp[2])
                s = u * shade[a] + v * shade[b] + w * shade[c]
                bright = 1.25 * (ambient * (0.775 + 0.225 * nz) + (1 - ambient) * lit * s)
                shine = gloss * s * max(0.0, nx * half[0] + ny * half[1] + nz * half[2]) ** 20
                for k in range(3):
                    tone = u * colours[a, k] + v * colours[b, k] + w * colours[c, k]
                    picture[y, x, k] = min(1.0, tone * bright + shine)


@njit(cache=True, fastmath=True)
def cover(flat, faces, mask):
    """Set `mask` (rows, columns) to 1 wherever a triangle of `flat` (vertices, 2) lies."""
    rows, columns = mask.shape
    for f in range(faces.shape[0]):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        corners = flat[a, 0], flat[a, 1], flat[b, 0], flat[b, 1], flat[c, 0], flat[c, 1]
        area, x0, x1, y0, y1 = extent(corners, rows, columns)
        if area == 0.0:
            continue
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                u, v = place_in(corners, area, x + 0.5, y + 0.5)
                if u >= 0 and v >= 0 and u + v <= 1:
                    mask[y, x] = 1.0
