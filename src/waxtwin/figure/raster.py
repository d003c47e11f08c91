"""From posed points to a picture: triangles by OpenCV's rasteriser, and a smooth outline over them."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from waxtwin.figure.sculpture import MATERIALS, Sculpture
from waxtwin.figure.shade import KEY, Shader
from waxtwin.figure.skin import Skin

_FAR = 400.0  # m: nothing is further
_ORTHOGRAPHIC = 60.0  # m: how far a camera without perspective is put, which only sorts what is near
_BALL = MATERIALS.index("ball")
_MADE_UP = np.float32(0.28)  # how light a limb is that nobody saw
_SHADOW = 112  # px of the map that tells what the key light reaches
_TAPS = ((0.5, 0.5), (2.0, 0.8), (-0.9, 1.8), (-1.2, -0.9), (1.4, -1.4))  # px: where it is sampled
_EYE = np.eye(4, dtype=np.float32)
_RIGHT_ANGLE = np.pi / 2
_OUTSIDE, _INSIDE = 1.4, 0.8  # px beside an edge where it is asked what lies there
_APART = 0.004  # m: closer surfaces have no outline between them
_LEVELS = 7.0  # tones of the outline that are told apart
_BITS = 4  # of a pixel's fraction in outlines

Bounds = tuple[int, int, int, int]  # px: left, top, right and bottom of what is painted on


def _settings() -> cv2.TriangleRasterizeSettings:
    made = cv2.TriangleRasterizeSettings().setShadingType(cv2.RASTERIZE_SHADING_SHADED)
    made = made.setCullingMode(cv2.RASTERIZE_CULLING_NONE)
    return made.setGlCompatibleMode(cv2.RASTERIZE_COMPAT_DISABLED)


@dataclass(frozen=True)
class View:
    """A projection `(3, 4)` of the field into pixels, by perspective or not, with its axes `turn` (3, 3)."""

    matrix: np.ndarray
    turn: np.ndarray
    flat: bool

    @classmethod
    def of(cls, matrix: np.ndarray) -> View:
        """The view of a projection; of one without depth, the way it looks is what its two axes leave."""
        ahead = matrix[2, :3]
        flat = not np.any(ahead)
        if flat:
            ahead = np.cross(matrix[0, :3], matrix[1, :3])
        away = ahead / np.linalg.norm(ahead)
        right = matrix[0, :3] - (matrix[0, :3] @ away) * away
        right = right / np.linalg.norm(right)
        return cls(np.asarray(matrix, np.float32), np.stack([right, np.cross(away, right), away]), flat)

    def project(self, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Pixels `(n, 2)` and depths `(n,)` in metres."""
        mapped = points @ self.matrix[:, :3].T + self.matrix[:, 3]
        if not self.flat:
            return mapped[:, :2] / mapped[:, 2:], mapped[:, 2]
        return mapped[:, :2] / self.matrix[2, 3], points @ self.turn[2].astype(np.float32) + np.float32(_ORTHOGRAPHIC)


@dataclass(frozen=True)
class Picture:
    """A cut-out of a picture: premultiplied blue, green, red, alpha `(rows, columns, 4)` and its left upper corner."""

    pixels: np.ndarray
    left: int
    top: int


def paint(
    skin: Skin, view: View, shader: Shader, bounds: Bounds, *, ball: bool = True, shaded: bool = True
) -> Picture | None:
    """The figure's cut-out of what lies within `bounds`; None where it is outside, or not known at all.

    `ball` while it is in the hand; `shaded` whether parts darken each other.
    """
    body, points, normals = skin.body, skin.points, skin.normals
    flat, depth = view.project(points)
    box = _box(flat, bounds) if skin.is_known and float(depth.min()) > 0.1 else None
    if box is None:
        return None
    left, top, width, height = box
    place = flat - np.array([left, top], np.float32)
    faces, front = body.faces, _front(place, body.faces, skin.mirrored)
    if not ball:
        front &= body.face_material != _BALL
    lit = _reached(skin, view.turn) if shaded else 1.0
    in_picture = normals @ view.turn.T.astype(np.float32)
    colours = shader(in_picture, body, lit) * (_MADE_UP + (1 - _MADE_UP) * skin.seen)[:, None]
    picture, buffer = triangles(place, depth, faces[front], colours, (width, height))
    pixels = cv2.cvtColor(cv2.convertScaleAbs(picture, alpha=255), cv2.COLOR_BGR2BGRA)
    pixels[..., 3] = _covered(buffer)
    _outline(pixels, buffer, body, (place, depth, colours, in_picture[:, :2]), front)
    return Picture(pixels, left, top)


def triangles(
    place: np.ndarray, depth: np.ndarray, faces: np.ndarray, colours: np.ndarray, size: tuple[int, int]
) -> tuple[np.ndarray, np.ndarray]:
    """A picture (rows, columns, 3) of faces whose points `(n, 2)` px and depths (m) are given, their colours melting
    into each other, and how far off (m) each pixel is; `size` is (width, height).
    """
    width, height = size
    picture, buffer = np.zeros((height, width, 3), np.float32), np.full((height, width), _FAR, np.float32)
    cv2.triangleRasterize(
        _seen(place, depth, size), faces, colours, picture, buffer, _EYE, _RIGHT_ANGLE, 0.1, _FAR, _settings()
    )
    return picture, buffer


def coverage(place: np.ndarray, depth: np.ndarray, faces: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """Which pixels (rows, columns) the faces cover: 255 or 0."""
    buffer = np.full((size[1], size[0]), _FAR, np.float32)
    cv2.triangleRasterizeDepth(_seen(place, depth, size), faces, buffer, _EYE, _RIGHT_ANGLE, 0.1, _FAR, _settings())
    return _covered(buffer)


def _covered(buffer: np.ndarray) -> np.ndarray:
    return np.where(buffer < _FAR * 0.99, 255, 0).astype(np.uint8)


def _box(flat: np.ndarray, bounds: Bounds) -> Bounds | None:
    """Left, top, width and height of what is seen of the points."""
    x, y = flat[:, 0], flat[:, 1]  # far quicker one by one than along an axis
    low = np.maximum(np.floor([x.min() - 2, y.min() - 2]), bounds[:2]).astype(int)
    high = np.minimum(np.ceil([x.max() + 2, y.max() + 2]), bounds[2:]).astype(int)
    width, height = (high - low).tolist()
    return None if width <= 0 or height <= 0 else (int(low[0]), int(low[1]), width, height)


def _front(place: np.ndarray, faces: np.ndarray, mirrored: bool) -> np.ndarray:
    """Which faces look at the viewer."""
    x, y = place[:, 0], place[:, 1]
    a, b, c = faces[:, 0], faces[:, 1], faces[:, 2]
    area = (x[b] - x[a]) * (y[c] - y[a]) - (y[b] - y[a]) * (x[c] - x[a])
    return np.asarray(area > 0 if mirrored else area < 0)


def _seen(place: np.ndarray, depth: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """Points as an eye with a right angle of sight sees them, so that they land on their pixels."""
    width, height = size
    out = np.empty((len(place), 3), np.float32)
    out[:, 0] = (place[:, 0] - width / 2) * (2 / height) * depth
    out[:, 1] = (height / 2 - place[:, 1]) * (2 / height) * depth
    out[:, 2] = -depth
    return out


def _reached(skin: Skin, turn: np.ndarray) -> np.ndarray:
    """How much of the key light reaches each point `(n,)`: a depth map from the lamp, sampled a few times."""
    body, points, normals = skin.body, skin.points, skin.normals
    lamp = (KEY @ turn).astype(np.float32)
    across = np.cross(lamp, [0.3, 0.2, 0.9])
    across /= np.linalg.norm(across)
    axes = np.stack([across, np.cross(lamp, across), -lamp]).astype(np.float32)
    lifted = points + normals * np.float32(0.012)
    seen = lifted @ axes.T
    low, high = seen.min(axis=0), seen.max(axis=0)
    middle, half = (low + high) / 2, float(max(high[0] - low[0], high[1] - low[1])) / 2 * 1.03
    depth = seen[:, 2] - middle[2] + 6
    spot = (seen[:, :2] - middle[:2]) / half
    cast = np.stack([spot[:, 0] * depth, -spot[:, 1] * depth, -depth], axis=1).astype(np.float32)
    buffer = np.full((_SHADOW, _SHADOW), 50.0, np.float32)
    facing = (normals @ lamp)[body.faces[:, 0]] > -0.15
    cv2.triangleRasterizeDepth(
        cast, body.faces[facing & (body.face_material != _BALL)], buffer, _EYE, _RIGHT_ANGLE, 0.1, 50.0, _settings()
    )
    grid, near = (spot * 0.5 + 0.5) * _SHADOW - 0.5, depth - 0.022
    lit = np.zeros(len(points), np.float32)
    for dx, dy in _TAPS:
        x = np.clip(grid[:, 0] + dx, 0, _SHADOW - 1).astype(np.int32)
        y = np.clip(grid[:, 1] + dy, 0, _SHADOW - 1).astype(np.int32)
        lit += near < buffer[y, x]
    return lit / np.float32(len(_TAPS))


def _outline(
    pixels: np.ndarray, buffer: np.ndarray, body: Sculpture,
    at: tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray], front: np.ndarray,
) -> None:  # fmt: skip
    """Smooth lines along the edges past which nothing of the same surface is seen; `at` has the points' pixels, depths,
    colours and their normals in the picture.
    """
    place, depth, colours, normals = at
    ends, owners = body.edges
    turns = front[owners]
    found = ends[turns[:, 0] != turns[:, 1]]
    out = 2 * _middle(normals, found)
    out /= np.sqrt(np.vecdot(out, out))[:, None] + np.float32(1e-6)
    middle, deep = _middle(place, found), _middle(depth, found)
    past = _look(buffer, middle + _OUTSIDE * out) > deep + _APART
    hidden = _look(buffer, middle - _INSIDE * out) <= deep - 0.05
    found = found[past & ~hidden]
    tone = _middle(colours, found)
    key = (tone.sum(axis=1) * _LEVELS).astype(np.int32) + 40 * (body.material[found[:, 0]] == _BALL)
    order = np.argsort(key, kind="stable")
    lines = ((place[found] - 0.5) * (1 << _BITS)).astype(np.int32)[order]
    if not len(order):
        return
    starts = np.flatnonzero(np.diff(key[order], prepend=-1))
    ends_at = np.append(starts[1:], len(order))
    means = np.add.reduceat(tone[order], starts) / (ends_at - starts)[:, None] * 255
    for i, j, mean in zip(starts.tolist(), ends_at.tolist(), means.tolist(), strict=True):
        cv2.polylines(pixels, lines[i:j], False, (*mean, 255.0), 1, cv2.LINE_AA, _BITS)


def _middle(values: np.ndarray, edges: np.ndarray) -> np.ndarray:
    """Halfway between both ends of each edge (edges, 2)."""
    return np.asarray((values[edges[:, 0]] + values[edges[:, 1]]) * np.float32(0.5))


def _look(buffer: np.ndarray, at: np.ndarray) -> np.ndarray:
    rows, columns = buffer.shape
    x = np.clip(at[:, 0], 0, columns - 1).astype(np.int32)
    return np.asarray(buffer[np.clip(at[:, 1], 0, rows - 1).astype(np.int32), x])
