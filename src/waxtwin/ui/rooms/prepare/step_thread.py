"""The steps of preparing as knots on one thread: tied when done, open while something is left."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from waxtwin.library.preparing import STEPS
from waxtwin.ui.rooms.prepare.state import PrepareState, PrepareTopic
from waxtwin.ui.shared.theme import colour, font

_EDGE = 54


class StepThread(QWidget):
    """`chosen(step)` when a knot is clicked, or reached with the arrow keys."""

    chosen = Signal(str)

    def __init__(self, state: PrepareState) -> None:
        super().__init__()
        self.state = state
        self.setFixedHeight(58)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("steps of preparing")
        state.listen(lambda _: self.update(), PrepareTopic.WORK, PrepareTopic.STEP, PrepareTopic.ANALYSIS)

    def place_of(self, step: str) -> QPointF:
        """Where a step's knot is tied."""
        at = list(STEPS).index(step)
        return QPointF(_EDGE + (self.width() - 2 * _EDGE) * at / (len(STEPS) - 1), 18)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left = self.state.left()
        places = {step: self.place_of(step) for step in STEPS}
        first, last = places["clip"], places["ready"]
        painter.setPen(QPen(colour("hairline"), 2))
        painter.drawLine(first, last)
        for step, at in places.items():
            done = self.state.work is not None and not left[step]
            painter.setPen(QPen(colour("thread"), 2))
            painter.setBrush(colour("thread" if done else "paper"))
            painter.drawEllipse(at, 7, 7)
            if done:
                painter.setPen(QPen(colour("paper"), 1.6))
                painter.drawLine(at + QPointF(-3, 0), at + QPointF(-0.5, 3))
                painter.drawLine(at + QPointF(-0.5, 3), at + QPointF(3.5, -3))
            here = step == self.state.step
            painter.setFont(font(0.5, QFont.Weight.Bold if here else QFont.Weight.Normal))
            painter.setPen(colour("ink" if here else "soft"))
            box = QRectF(at.x() - 70, 28, 140, 26)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, STEPS[step])
            if here:
                painter.setPen(QPen(colour("thread"), 2))
                painter.drawLine(QPointF(at.x() - 18, 54), QPointF(at.x() + 18, 54))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        step = min(STEPS, key=lambda step: abs(self.place_of(step).x() - event.position().x()))
        self.chosen.emit(step)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = list(STEPS)
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if by is None:
            super().keyPressEvent(event)
            return
        self.chosen.emit(steps[min(max(steps.index(self.state.step) + by, 0), len(steps) - 1)])
