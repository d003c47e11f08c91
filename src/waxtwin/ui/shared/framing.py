"""How a clip's frame is laid into a box: filling it, centred on the throw, a left-hander turned over on request."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter

from waxtwin.core.camera import Camera, pixels_a_metre, project

_STANDING = np.array([0.66, 0.8])  # of a box: how tall a standing body is in it, for a stride has room there too
_MOST = 0.94  # of a box: how much of it any body takes
_MIDDLE = (0.44, 0.0, 0.9)  # what lies in the middle: x in standing heights, y and z in metres of the field


def solved_matrix(camera: Camera, frame: tuple[int, int]) -> np.ndarray:
    """Projection `(3, 4)` of true field points into the pixels of a frame (width, height)."""
    matrix = camera.matrix * (frame[0] / camera.size[0])
    matrix[2] = camera.matrix[2]
    return matrix


@dataclass(frozen=True)
class Framing:
    """A frame (width, height) in a box `width` wide: its `scale` and offset, and whether it `flips`."""

    frame: tuple[int, int]
    width: float
    scale: float
    dx: float
    dy: float
    flips: bool
    camera: Camera | None

    @classmethod
    def fit(
        cls, frame: tuple[int, int], box: tuple[float, float], camera: Camera | None, height: float | None, *,
        flips: bool, whole: bool = False,
    ) -> Framing:  # fmt: skip
        """Fill a box (width, height), or show the `whole` frame. `height` is the body's, metres: the throw lies in the
        middle.
        """
        w, h = frame
        if whole:
            scale = min(box[1] / h, box[0] / w)
            return cls(frame, box[0], scale, (box[0] - scale * w) / 2, (box[1] - scale * h) / 2, flips, camera)
        scale = max(box[1] / h, box[0] / w)
        middle = w / 2.0
        if camera is not None and height is not None:
            centre, _ = project(camera.matrix, np.array([_MIDDLE[0] * height, *_MIDDLE[1:]]))
            middle = w - float(centre[0]) if flips else float(centre[0])
        dx = _covering(box[0] / 2 - scale * middle, box[0], scale * w)
        return cls(frame, box[0], scale, dx, (box[1] - scale * h) / 2, flips, camera)

    def matrix(self) -> np.ndarray | None:
        """Projection of shown points into the box through the clip's solved camera, or None without one."""
        if self.camera is None:
            return None
        place = np.array([[self.scale, 0, self.dx], [0, self.scale, self.dy], [0, 0, 1.0]])
        solved = solved_matrix(self.camera, self.frame)
        if self.flips:  # canonical points go back to the true side, and the picture is turned over
            place = place @ np.array([[-1.0, 0, self.frame[0]], [0, 1, 0], [0, 0, 1]])
            solved = solved @ np.diag([1.0, -1.0, 1.0, 1.0])
        return np.asarray(place @ solved)

    def around(self, body: np.ndarray, box: tuple[float, float], height: float) -> Framing:
        """As it lies when it is framed for a `body`, or for many of one (landmarks, 3), of a standing `height`, m, in a
        box (width, height): two bodies are as tall as each other.
        """
        known = body[~np.isnan(body).any(axis=-1)]
        plain = replace(self, scale=1.0, dx=0.0, dy=0.0).matrix()
        if plain is None or not len(known):
            return self
        seen, _ = project(plain, known)
        low, high = seen.min(axis=0), seen.max(axis=0)
        tall = height * float(pixels_a_metre(plain, known.mean(axis=0)))
        scale = float(min(*_STANDING * box / tall, *(_MOST * np.array(box) / np.maximum(high - low, 1.0))))
        dx, dy = (_covering(box[k] / 2 - scale * (low[k] + high[k]) / 2, box[k], scale * self.frame[k]) for k in (0, 1))
        return replace(self, scale=scale, dx=dx, dy=dy)

    def nearer(self, closer: np.ndarray) -> Framing:
        """As it lies when the box is looked at through `closer` (3, 3), which scales and moves."""
        zoom = float(closer[0, 0])
        dx, dy = zoom * self.dx + float(closer[0, 2]), zoom * self.dy + float(closer[1, 2])
        return replace(self, scale=self.scale * zoom, dx=dx, dy=dy)

    def draw(self, painter: QPainter, image: QImage) -> None:
        """Lay the frame over the box."""
        w, h = self.frame
        dx = self.dx
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if self.flips:
            painter.translate(self.width, 0)
            painter.scale(-1, 1)
            dx = self.width - dx - self.scale * w
        painter.drawImage(QRectF(dx, self.dy, self.scale * w, self.scale * h), image)
        painter.restore()


def _covering(offset: float, box: float, picture: float) -> float:
    """The offset nearest to one wanted at which a picture leaves nothing of the box bare, or the middle of it."""
    return (box - picture) / 2 if picture < box else float(np.clip(offset, box - picture, 0.0))
