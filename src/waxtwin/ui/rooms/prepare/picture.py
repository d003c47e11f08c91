"""The picture of a clip: a frame with its marks and clicks, a lens to aim with, zoomed by the wheel."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import HAND
from waxtwin.core.repair import LOW
from waxtwin.ui.rooms.prepare.state import PrepareState, PrepareTopic
from waxtwin.ui.shared.theme import colour, font

if TYPE_CHECKING:
    from waxtwin.capture.frames import FrameStore
    from waxtwin.library.preparing import ViewState

_BONES = (
    ("head", "throwing_shoulder"), ("head", "glove_shoulder"), ("throwing_shoulder", "glove_shoulder"),
    ("throwing_shoulder", "throwing_elbow"), ("throwing_elbow", "throwing_wrist"), ("throwing_wrist", "throwing_hand"),
    ("glove_shoulder", "glove_elbow"), ("glove_elbow", "glove_wrist"), ("glove_wrist", "glove_hand"),
    ("throwing_shoulder", "drive_hip"), ("glove_shoulder", "lead_hip"), ("drive_hip", "lead_hip"),
    ("drive_hip", "drive_knee"), ("drive_knee", "drive_ankle"), ("drive_heel", "drive_toe"),
    ("lead_hip", "lead_knee"), ("lead_knee", "lead_ankle"), ("lead_heel", "lead_toe"),
)  # fmt: skip
_BACK, _FRONT, _MIDDLE = QColor("#F0C36B"), QColor("#8CC3CE"), QColor("#F6F2EA")
_LIT = QColor("#FF8E7A")
_LENS, _LENS_ZOOM = 78, 4.0


class Picture(QWidget):
    """Shows the workpiece's frame. `clicked(x, y)` in picture pixels for whatever is aimed at; `moved(name, x, y)`
    when a mark was dragged; `nudged(dx, dy)` by the arrow keys.
    """  # fmt: skip

    clicked = Signal(float, float)
    moved = Signal(str, float, float)
    _arrived = Signal(int)

    def __init__(self, state: PrepareState) -> None:
        super().__init__()
        self.state = state
        self._store: FrameStore | None = None
        self._shown: tuple[np.ndarray, QImage] | None = None
        self._seen: int | None = None  # the frame that is on show, which may lag behind the one that is wanted
        self._path: object = None
        self._last = 0
        self._zoom, self._shift = 1.0, QPointF(0, 0)
        self._pointer: QPointF | None = None
        self._press: QPointF | None = None
        self._drag: tuple[str, QPointF] | None = None
        self._panning = False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(360, 260)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("picture of the clip")
        self._arrived.connect(self._take_frame)
        state.listen(self._told)

    def close_clip(self) -> None:
        """Let go of the clip and its thread."""
        if self._store is not None:
            self._store.close()
        self._store, self._shown, self._path, self._seen = None, None, None, None

    def _told(self, topic: PrepareTopic) -> None:
        if topic is PrepareTopic.WORK:
            self._open()
        self.update()

    def _open(self) -> None:
        view = self.state.view
        path = None if view is None or not view.path.is_file() else view.path
        if path == self._path:
            return
        self.close_clip()
        self._path = path
        self._zoom, self._shift = 1.0, QPointF(0, 0)
        if path is not None:
            from waxtwin.capture.frames import FrameStore

            self._store = FrameStore(path, self._arrived.emit)

    def _take_frame(self, index: int) -> None:
        if index < 0 and self._store is not None and self._store.is_open:
            self.state.set_times(self._store.times)
        self.update()

    # geometry ------------------------------------------------------------------------------------------------------
    def _place(self) -> tuple[float, QPointF]:
        """Scale from picture to widget, and where the picture's corner lies."""
        if self._store is None or not self._store.is_open:
            return 1.0, QPointF(0, 0)
        w, h = self._store.size
        scale = min(self.width() / w, self.height() / h) * self._zoom
        corner = QPointF((self.width() - w * scale) / 2, (self.height() - h * scale) / 2) + self._shift
        return scale, corner

    def to_picture(self, at: QPointF) -> tuple[float, float]:
        """Widget point to picture pixels."""
        scale, corner = self._place()
        return (at.x() - corner.x()) / scale, (at.y() - corner.y()) / scale

    def to_widget(self, x: float, y: float) -> QPointF:
        """Picture pixels to a widget point."""
        scale, corner = self._place()
        return QPointF(corner.x() + x * scale, corner.y() + y * scale)

    # painting ------------------------------------------------------------------------------------------------------
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("stage"))
        if not self._paint_frame(painter):
            painter.setPen(colour("stage_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._words())
            return
        self._paint_marks(painter)
        self._paint_clicks(painter)
        if self._pointer is not None and self.state.aim.kind != "look":
            self._paint_lens(painter, self._pointer)
        self._paint_caption(painter)

    def _words(self) -> str:
        view = self.state.view
        if self.state.work is None:
            return "Choose a throw on the Bench and press Prepare."
        if view is None:
            return "This throw came as a track, without a clip.\nAdd a clip of it, or go on to its stops."
        if self._store is None:
            return f"{view.name} is missing from where it was."
        return self._store.fault or "opening…"

    def _paint_frame(self, painter: QPainter) -> bool:
        store = self._store
        if store is None or not store.is_open:
            return False
        index = self.state.frame
        picture = store.frame(index, -1 if index < self._last else 1)
        self._last = index
        if picture is not None:
            h, w = picture.shape[:2]
            self._shown = (picture, QImage(picture.data, w, h, picture.strides[0], QImage.Format.Format_RGB32))
            self._seen = index
        if self._shown is None:
            return False
        scale, corner = self._place()
        w, h = store.size
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(corner.x(), corner.y(), w * scale, h * scale), self._shown[1])
        return True

    def _paint_marks(self, painter: QPainter) -> None:
        marks, frame = self.state.marks, self.state.frame if self._seen is None else self._seen
        if marks is None or frame >= marks.times.size:
            return
        points, trust = marks.points[frame], marks.confidence[frame]
        for a, b in _BONES:
            i, j = INDEX[a], INDEX[b]
            if not np.isnan(points[[i, j]]).any():
                faint = min(trust[i], trust[j]) < LOW
                pen = QPen(QColor(246, 242, 234, 70 if faint else 150), 1.4)
                pen.setStyle(Qt.PenStyle.DotLine if faint else Qt.PenStyle.SolidLine)
                painter.setPen(pen)
                painter.drawLine(self.to_widget(*points[i]), self.to_widget(*points[j]))
        for name, j in INDEX.items():
            if np.isnan(points[j, 0]):
                continue
            at = self.to_widget(*points[j])
            if self._drag is not None and self._drag[0] == name:
                at = self._drag[1]
            self._paint_mark(painter, name, at, float(trust[j]), by_hand=marks.source[frame, j] == HAND)

    def _paint_mark(self, painter: QPainter, name: str, at: QPointF, trust: float, *, by_hand: bool) -> None:
        """Back side round, front side square, by hand filled, doubtful hollow: never by colour alone."""
        back = name.startswith(("throwing", "drive"))
        ink = _LIT if name == self.state.landmark else _BACK if back else _FRONT if "_" in name else _MIDDLE
        size = 5.5 if name == self.state.landmark else 3.8
        painter.setPen(QPen(QColor(20, 24, 27), 1))
        if trust < LOW:
            painter.setPen(QPen(ink, 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        else:
            painter.setBrush(ink)
        box = QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size)
        if back:
            painter.drawEllipse(box)
        else:
            painter.drawRect(box.adjusted(0.6, 0.6, -0.6, -0.6))
        if by_hand:
            painter.setPen(QPen(_LIT, 1.2))
            painter.drawLine(at - QPointF(size + 3, 0), at + QPointF(size + 3, 0))

    def _paint_clicks(self, painter: QPainter) -> None:
        view = self.state.view
        if view is None or self.state.step != "camera":
            return
        points = {name: self._on_this_frame(view, *at) for name, at in view.clicks.get("points", {}).items()}
        for name, (x, y) in points.items():
            at = self.to_widget(x, y)
            painter.setPen(QPen(_LIT if name == self.state.aim.target else QColor("#F6F2EA"), 1.6))
            painter.drawLine(at - QPointF(7, 7), at + QPointF(7, 7))
            painter.drawLine(at - QPointF(7, -7), at + QPointF(7, -7))
        if {"length_from", "length_to"} <= points.keys():
            painter.setPen(QPen(_LIT, 1.6, Qt.PenStyle.DashLine))
            painter.drawLine(self.to_widget(*points["length_from"]), self.to_widget(*points["length_to"]))

    def _on_this_frame(self, view: ViewState, x: float, y: float) -> tuple[float, float]:
        """Where a place of the first frame's picture lies on the shown frame, of a camera that moves."""
        if view.steadying is None or self.state.frame >= len(view.steadying):
            return x, y
        motion = view.steadying[self.state.frame]
        there = np.linalg.solve(motion[:, :2], np.array([x, y]) - motion[:, 2])
        return float(there[0]), float(there[1])

    def _paint_lens(self, painter: QPainter, at: QPointF) -> None:
        """A round lens beside the pointer that shows what lies under it, much enlarged."""
        if self._shown is None:
            return
        x, y = self.to_picture(at)
        centre = at + QPointF(_LENS + 26, -_LENS - 18)
        if centre.x() + _LENS > self.width():
            centre.setX(at.x() - _LENS - 26)
        if centre.y() - _LENS < 0:
            centre.setY(at.y() + _LENS + 18)
        reach = _LENS / _LENS_ZOOM
        painter.save()
        from PySide6.QtGui import QPainterPath

        edge = QPainterPath()
        edge.addEllipse(centre, _LENS, _LENS)
        painter.setClipPath(edge)
        painter.fillRect(QRectF(centre.x() - _LENS, centre.y() - _LENS, 2 * _LENS, 2 * _LENS), colour("stage"))
        painter.drawImage(
            QRectF(centre.x() - _LENS, centre.y() - _LENS, 2 * _LENS, 2 * _LENS), self._shown[1],
            QRectF(x - reach, y - reach, 2 * reach, 2 * reach),
        )  # fmt: skip
        painter.restore()
        painter.setPen(QPen(QColor("#F6F2EA"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, _LENS, _LENS)
        painter.setPen(QPen(_LIT, 1.2))
        painter.drawLine(centre - QPointF(14, 0), centre - QPointF(4, 0))
        painter.drawLine(centre + QPointF(4, 0), centre + QPointF(14, 0))
        painter.drawLine(centre - QPointF(0, 14), centre - QPointF(0, 4))
        painter.drawLine(centre + QPointF(0, 4), centre + QPointF(0, 14))

    def _paint_caption(self, painter: QPainter) -> None:
        aim = self.state.aim
        words = {
            "mark": f"Click the {aim.target.replace('_', ' ')}",
            "origin": "Click the ground under the middle of the rubber's front edge",
            "length": "Click the " + ("first" if aim.target == "length_from" else "other") + " end of the known length",
            "field": f"Click: {aim.target.replace('_', ' ')}", "person": "Click the pitcher",
        }.get(aim.kind, "")  # fmt: skip
        seen = self.state.frame if self._seen is None else self._seen
        late = "fetching…   " if seen != self.state.frame else ""
        clock = f"{late}frame {seen + 1} of {self.state.times.size}   {self.state.true_time(seen):.3f} s"
        painter.fillRect(QRectF(0, 0, self.width(), 32), QColor(20, 24, 27, 150))
        painter.setFont(font(0.5, QFont.Weight.DemiBold))
        painter.setPen(_LIT)
        left = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(14, 0, self.width() - 240, 32), left, words)
        painter.setFont(font(-0.5))
        painter.setPen(QColor(233, 228, 218, 200))
        painter.drawText(QRectF(0, 0, self.width() - 14, 32), left | Qt.AlignmentFlag.AlignRight, clock)

    # hand ----------------------------------------------------------------------------------------------------------
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._press = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            self._panning = True
            return
        x, y = self.to_picture(event.position())
        if self.state.step == "landmarks" and self.state.aim.kind in ("look", "mark"):
            name = self.state.mark_at(x, y, self._place()[0])
            # a click that aims at one landmark may land on another's mark: only the aimed one is taken hold of
            if name is not None and self.state.aim.target in ("", name):
                self._drag = (name, event.position())
                self.state.choose_landmark(name)
        self._panning = self._drag is None and self.state.aim.kind == "look"

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag = (self._drag[0], event.position())
        elif self._panning and self._press is not None:
            self._shift += event.position() - self._press
            self._press = event.position()
        self._pointer = event.position()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, press = self._drag, self._press
        self._drag = self._press = None
        panning, self._panning = self._panning, False
        if event.button() != Qt.MouseButton.LeftButton or press is None:
            return
        x, y = self.to_picture(event.position())
        far = (event.position() - press).manhattanLength() > 2
        if drag is not None and far:
            self.moved.emit(drag[0], x, y)
        elif not panning and self.state.aim.kind != "look":
            self.clicked.emit(x, y)
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._pointer = None
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        before = self.to_picture(event.position())
        self._zoom = float(np.clip(self._zoom * 1.0015 ** event.angleDelta().y(), 1.0, 12.0))
        if self._zoom == 1.0:
            self._shift = QPointF(0, 0)
        else:
            self._shift += event.position() - self.to_widget(*before)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """By keyboard alone: Alt with arrows moves the aimed point by a pixel, with Ctrl by ten; Enter sets it."""
        steps = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        key = Qt.Key(event.key())
        if key in steps and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            reach = 10.0 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else 1.0
            at = self._pointer or QPointF(self.width() / 2, self.height() / 2)
            scale = self._place()[0]
            self._pointer = at + QPointF(*(d * reach * scale for d in steps[key]))
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._pointer is not None:
            if self.state.aim.kind != "look":
                self.clicked.emit(*self.to_picture(self._pointer))
        elif key == Qt.Key.Key_Escape:
            self.state.aim_at("look")
        else:
            super().keyPressEvent(event)
