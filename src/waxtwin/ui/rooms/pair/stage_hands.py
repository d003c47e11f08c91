"""What a hand does on a stage: take a side, turn the figures, come nearer, move what is seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QEvent, QObject, QPointF, Qt
from PySide6.QtGui import QFocusEvent, QMouseEvent, QNativeGestureEvent, QWheelEvent

from waxtwin.ui.model.display import VIEWS
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.rooms.pair.chalk_hand import ChalkHand
from waxtwin.ui.rooms.pair.pointing import point_on
from waxtwin.ui.shared.talk_recording import TalkRecording

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.stage import Stage

_CLICK = 4  # px: a hand that moves less did not drag
_NOTCH = 1.25  # how much nearer a notch of the wheel comes
_BY_TAB = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
_PINCH = Qt.NativeGestureType.ZoomNativeGesture
_MOVES = Qt.MouseButton.MiddleButton | Qt.MouseButton.RightButton


class StageHands(QObject):
    """Follows mouse, wheel and pinch of one stage."""

    def __init__(self, stage: Stage) -> None:
        super().__init__(stage)
        self._stage, self._desk = stage, stage.desk
        stage.installEventFilter(self)
        self._grip: QPointF | None = None
        self._pressed: QPointF | None = None
        self.chalk: ChalkHand | None = None
        self.recording: TalkRecording | None = None

    def eventFilter(self, stage: QObject, event: QEvent) -> bool:
        """Whether a hand's doing was taken care of."""
        if isinstance(event, QMouseEvent):
            does = {
                QEvent.Type.MouseButtonPress: self._press, QEvent.Type.MouseMove: self._drag,
                QEvent.Type.MouseButtonRelease: self._release, QEvent.Type.MouseButtonDblClick: self._double,
            }.get(event.type())  # fmt: skip
            if does is not None:
                does(event)
                return True
        elif isinstance(event, QFocusEvent) and event.gotFocus() and event.reason() in _BY_TAB:
            self._desk.clock.take(self._stage.side if self._stage.side in SIDES else "")
        elif isinstance(event, QWheelEvent):
            self._nearer(_NOTCH ** (event.angleDelta().y() / 120.0), event.position())
            return True
        elif isinstance(event, QNativeGestureEvent) and event.gestureType() == _PINCH:
            self._nearer(1.0 + event.value(), event.position())
            return True
        return False

    def _press(self, event: QMouseEvent) -> None:
        if (
            event.button() == Qt.MouseButton.LeftButton
            and self.chalk is not None
            and self.chalk.press(event.position())
        ):
            return
        if event.button() == Qt.MouseButton.RightButton and self.recording is not None and self.recording.listens:
            self._point(event.position())
            return
        self._grip = self._pressed = event.position()

    def _drag(self, event: QMouseEvent) -> None:
        """The figures turn; a clip, or with another button anything, is moved."""
        if self._stage.pointer is not None:
            self._point(event.position())
            return
        if self.chalk is not None and self.chalk.move(event.position()):
            return
        if self._grip is None:
            return
        moved = event.position() - self._grip
        self._grip = event.position()
        stage = self._stage
        if stage.clip.clip is not None or event.buttons() & _MOVES:
            x, y = moved.x() / stage.width(), moved.y() / stage.height()
            self._desk.closeups.move(stage.key, x, y, self._desk.stages)
            return
        d = self._desk.view.display
        self._desk.view.show(
            azimuth=(d.azimuth - moved.x() * 0.5 + 180) % 360 - 180,
            elevation=float(np.clip(d.elevation + moved.y() * 0.4, -10, 89)),
            camera="free",
        )

    def _release(self, event: QMouseEvent) -> None:
        """What was not dragged was a click."""
        if self._stage.pointer is not None and event.button() == Qt.MouseButton.RightButton:
            self._point(None)
            return
        if (
            event.button() == Qt.MouseButton.LeftButton
            and self.chalk is not None
            and self.chalk.release(event.position())
        ):
            return
        pressed, self._grip, self._pressed = self._pressed, None, None
        near = pressed is not None and (event.position() - pressed).manhattanLength() < _CLICK
        if near and event.button() == Qt.MouseButton.LeftButton:
            self._stage.taken.emit(self._stage.side)

    def _point(self, at: QPointF | None) -> None:
        """Point at a place of the stage, or at nothing any more, for whoever will see the film."""
        stage = self._stage
        stage.pointer = at
        stage.update()
        if self.recording is not None:
            self.recording.point(None if at is None else point_on(stage, at, 0.0))

    def _double(self, event: QMouseEvent) -> None:
        """Everything back: the whole picture, the figures from the side."""
        stage = self._stage
        stage.taken.emit(stage.side)  # its first half was a click
        azimuth, elevation = VIEWS["side"]
        with self._desk.hub.changing():
            self._desk.closeups.whole(stage.key, self._desk.stages)
            if self._desk.view.display.camera == "free":
                self._desk.view.show(azimuth=azimuth, elevation=elevation, camera="side")

    def _nearer(self, factor: float, at: QPointF) -> None:
        """Nearer to where the pointer is."""
        stage = self._stage
        place = at.x() / stage.width(), at.y() / stage.height()
        self._desk.closeups.nearer(stage.key, factor, place, self._desk.stages)
