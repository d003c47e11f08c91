"""The other side laid over a stage: its figure, or its clip warped to this athlete's place and scale."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF, QTransform

from waxtwin.core.camera import project
from waxtwin.ui.shared.theme import colour
from waxtwin.ui.shared.wax_figure import Figure, paint_figure

_FAR = 10_000.0  # px: taller than any stage


@dataclass(frozen=True)
class Placed:
    """The other body as laid over: its pose `bones` (bones, 22) there, its field's `scale` and `shift` (3,), the signs
    `turned` (3,) that bring canonical points to how this stage shows them, its `height` in metres, its wax, build and
    whether it is `shaded`.
    """

    bones: np.ndarray
    scale: float
    shift: np.ndarray
    turned: np.ndarray
    height: float
    wax: str
    heaviness: float = 0.0
    shaded: bool = True


@dataclass(frozen=True)
class Frame:
    """A frame of the other clip with the projection `(3, 4)` of true field points into its pixels.

    `view` is "side", "front" or "rear"; `mirrored` for a left-hander, whose true field is the canonical one turned.
    """

    image: QImage
    matrix: np.ndarray
    view: str
    mirrored: bool


@dataclass(frozen=True)
class Overlay:
    """What is laid over, how much of it is seen (`fade`, 0 to 1), and whether it is `split` from this side's own."""

    body: Placed
    fade: float
    split: bool
    width: int

    @property
    def own_opacity(self) -> float:
        """How solid this stage's own figure stays."""
        return 1.0 if self.split else min(1.0, 2.0 * (1.0 - self.fade))

    @property
    def _opacity(self) -> float:
        return 1.0 if self.split else min(1.0, 2.0 * self.fade)

    @property
    def _edge(self) -> float:
        return self.width * (1.0 - self.fade)

    def clip_own(self, painter: QPainter) -> None:
        """Keep to this side's part of a split stage."""
        if self.split:
            painter.setClipRect(QRectF(0, 0, self._edge, _FAR))

    def _clip_other(self, painter: QPainter) -> None:
        if self.split:
            painter.setClipRect(QRectF(self._edge, 0, _FAR, _FAR))

    def paint_figure(self, painter: QPainter, matrix: np.ndarray) -> None:
        """The other body's figure through the stage's projection `(3, 4)`."""
        painter.save()
        self._clip_other(painter)
        painter.setOpacity(self._opacity)
        body = self.body
        figure = Figure(
            body.bones, body.wax, mirrored=bool(body.turned[1] < 0), shaded=body.shaded, heaviness=body.heaviness
        )
        paint_figure(painter, matrix, figure)
        painter.restore()

    def paint_frame(self, painter: QPainter, matrix: np.ndarray, frame: Frame | None) -> None:
        """The other clip's frame, warped in the plane of the throw; its figure where there is no such frame."""
        warped = None if frame is None else self._warp(matrix, frame)
        if frame is None or warped is None:
            self.paint_figure(painter, matrix)
            return
        painter.save()
        self._clip_other(painter)
        painter.setOpacity(1.0 if self.split else self.fade)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setTransform(warped, combine=True)
        painter.drawImage(0, 0, frame.image)
        painter.restore()

    def _warp(self, matrix: np.ndarray, frame: Frame) -> QTransform | None:
        """The frame's pixels onto the stage's: four points of the throw's plane, as each camera sees them."""
        h = self.body.height / self.body.scale
        if frame.view == "side":
            plane = np.array([[x * h, 0.0, z * h] for x, z in ((-0.4, 0), (1.3, 0), (1.3, 1.1), (-0.4, 1.1))])
        else:
            plane = np.array([[0.5 * h, y * h, z * h] for y, z in ((-0.5, 0), (0.5, 0), (0.5, 1.1), (-0.5, 1.1))])
        true = plane * ([1.0, -1.0, 1.0] if frame.mirrored else 1.0)
        shown = (plane * self.body.scale + self.body.shift) * self.body.turned
        corners = [QPolygonF([QPointF(*p) for p in project(m, points)[0]])
                   for m, points in ((frame.matrix, true), (matrix, shown))]  # fmt: skip
        found = QTransform.quadToQuad(*corners)
        return found if isinstance(found, QTransform) else None

    def paint_edge(self, painter: QPainter) -> None:
        """The line between the two halves of a split stage."""
        if self.split:
            painter.setPen(QPen(QColor(colour("thread")), 2))
            painter.drawLine(QPointF(self._edge, 0), QPointF(self._edge, _FAR))
