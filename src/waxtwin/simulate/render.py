"""The figure as a person in kit, standing in the hall of a simulated clip."""

from __future__ import annotations

from collections.abc import Mapping

import cv2
import numpy as np

from waxtwin.core.camera import focal_length, project
from waxtwin.figure.ground import shadow
from waxtwin.figure.raster import Bounds, Picture, View, paint
from waxtwin.figure.sculpture import MATERIALS, Sculpture
from waxtwin.figure.shade import KEY, Shader
from waxtwin.figure.skin import TURNED, Skin, body_pose
from waxtwin.simulate.script import ground

Kit = Mapping[str, tuple[int, int, int]]  # each material's colour as blue, green, red

_OVERSAMPLE = 2
_BALL = 0.037  # m, its radius
_SHADOW = 0.9  # how dark a shadow is in the hall, over one on a stage

KITS: Mapping[str, Kit] = {
    "amber": {
        "skin": (132, 164, 206), "hair": (34, 44, 58), "shirt": (58, 132, 206), "trousers": (196, 206, 212),
        "belt": (36, 84, 150), "sock": (36, 84, 150), "shoe": (48, 44, 44), "glove": (44, 78, 128),
        "cap": (36, 84, 150), "ball": (238, 240, 240),
    },
    "teal": {
        "skin": (96, 124, 166), "hair": (26, 30, 36), "shirt": (136, 118, 44), "trousers": (198, 202, 204),
        "belt": (98, 78, 22), "sock": (98, 78, 22), "shoe": (52, 40, 36), "glove": (52, 72, 104), "cap": (98, 78, 22),
        "ball": (238, 240, 240),
    },
}  # fmt: skip


def cloth(kit: Kit) -> Shader:
    """The figure in a kit: dull cloth in the light of a hall."""
    colours = np.array([kit[name] for name in MATERIALS], np.float32) / 255

    def shade(normals: np.ndarray, body: Sculpture, lit: np.ndarray | float) -> np.ndarray:
        facing = np.clip(normals @ KEY, 0, 1)
        above = 0.5 - 0.5 * normals[:, 1]
        edge = (1 - np.clip(-normals[:, 2], 0, 1)) ** 3
        light = (0.46 + 0.16 * above) * (0.40 + 0.60 * body.open) + 0.50 * facing * (0.4 + 0.6 * lit) + 0.06 * edge
        return np.asarray(np.clip(colours[body.material] * light[:, None], 0, 1), np.float32)

    return shade


def draw(
    background: np.ndarray, matrix: np.ndarray, points: np.ndarray, height: float, kit: Kit,
    ball: np.ndarray | None = None, *, mirrored: bool = False,
) -> np.ndarray:  # fmt: skip
    """A frame: the figure standing in `background`.

    `background` (rows, columns, 3) uint8; `matrix` (3, 4) projection; `points` (landmarks, 3) in metres, those of a
    left-hander where `mirrored`; standing `height` in metres; `ball` (3,) in metres once it has left the hand, which
    holds it until then. Returns a new picture of the background's shape.
    """
    rows, columns = background.shape[:2]
    fine = np.diag([_OVERSAMPLE, _OVERSAMPLE, 1.0]) @ matrix
    skin = Skin.posed(body_pose(points * TURNED if mirrored else points, height), mirrored=mirrored)
    frame = background.copy()
    _cast_shadow(frame, shadow(skin, View.of(matrix), ground, (0, 0, columns, rows)))
    whole = (0, 0, columns * _OVERSAMPLE, rows * _OVERSAMPLE)
    cut = paint(skin, View.of(fine), cloth(kit), whole, ball=ball is None)
    if cut is not None:
        _lay(frame, cut)
    if ball is not None:
        _throw(frame, matrix, ball, kit["ball"])
    return frame


def _cast_shadow(frame: np.ndarray, found: tuple[np.ndarray, Bounds] | None) -> None:
    if found is None:
        return
    dark, (left, top, width, height) = found
    part = frame[top : top + height, left : left + width]
    whole = cv2.resize(dark, (width, height), interpolation=cv2.INTER_LINEAR)[: part.shape[0], : part.shape[1]]
    part[:] = (part * (1.0 - _SHADOW / 255 * whole[..., None].astype(np.float32))).astype(np.uint8)


def _lay(frame: np.ndarray, cut: Picture) -> None:
    """Lay a finer cut-out over the frame."""
    k = _OVERSAMPLE
    rows, columns = cut.pixels.shape[:2]
    before = (cut.top % k, cut.left % k)
    after = (-(rows + before[0]) % k, -(columns + before[1]) % k)
    whole = cv2.copyMakeBorder(cut.pixels, before[0], after[0], before[1], after[1], cv2.BORDER_CONSTANT)
    small = cv2.resize(whole, (whole.shape[1] // k, whole.shape[0] // k), interpolation=cv2.INTER_AREA)
    top, left = cut.top // k, cut.left // k
    part = frame[top : top + small.shape[0], left : left + small.shape[1]]
    small = small[: part.shape[0], : part.shape[1]].astype(np.float32)
    part[:] = np.clip(small[..., :3] + part * (1 - small[..., 3:] / 255), 0, 255)


def _throw(frame: np.ndarray, matrix: np.ndarray, ball: np.ndarray, colour: tuple[int, int, int]) -> None:
    where, deep = project(matrix, ball)
    if deep < _BALL:  # behind the camera
        return
    bits = 4
    size = _BALL * focal_length(matrix) / float(deep)
    middle = tuple(round(float(v) * (1 << bits)) for v in where)
    cv2.circle(frame, middle, round(size * (1 << bits)), colour, -1, cv2.LINE_AA, bits)
