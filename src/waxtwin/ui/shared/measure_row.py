"""A measure in one row: athlete, twin, where the athlete stands; hovering lights its gauge."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QEnterEvent, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from waxtwin.core.contrast import UNTOLD, Row
from waxtwin.core.remedies import helps
from waxtwin.core.standing import resolution, verdict
from waxtwin.core.units import figure
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.shared.theme import colour, font


class MeasureRow(QWidget):
    """One measure at the stop: athlete, twin, difference, verdict. Hover or choose it to light its gauge."""

    explained = Signal()

    def __init__(self, desk: Desk, row: Row) -> None:
        super().__init__()
        self.desk, self.row = desk, row
        self.setFixedHeight(50)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(row.measure.label)
        tip = f"{row.measure.label}: {row.measure.text} ({row.measure.sign})"
        if row.measure.usual:
            tip += f"\nUsually called {row.measure.usual}."
        if row.resolution is not None:
            tip += f"\nMargin: a difference counts beyond {resolution(row, desk.view.imperial)}."
        if row.verdict == UNTOLD and desk.pair.contrast is not None:
            tip += "".join(
                f"\n{advice}" for advice in ("What would help:", *(one.words for one in helps(row, desk.pair.contrast)))
            )
        if row.reason:
            tip += f"\nNot available: {row.reason}."
        if row.planar:
            tip += "\nSeen in the picture plane only."
        if row.estimated:
            tip += "\nEstimated: worked out from one camera and what was clicked, not seen."
        self.setToolTip(tip)

    def sizeHint(self) -> QSize:
        return QSize(240, 50)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        row, imperial = self.row, self.desk.view.imperial
        chosen = self.desk.view.selected == row.measure.id
        if chosen:
            painter.fillRect(self.rect(), colour("rail"))
            painter.fillRect(QRectF(0, 0, 3, self.height()), colour("thread"))
        painter.setPen(QPen(colour("hairline"), 1))
        painter.drawLine(8, self.height() - 1, self.width() - 4, self.height() - 1)
        left, w = 10.0, self.width() - 14.0
        painter.setFont(font(-0.5, QFont.Weight.DemiBold))
        painter.setPen(colour("ink" if row.difference is not None else "soft"))
        spread = f"± {resolution(row, imperial)}" if row.resolution is not None else ""
        room = w - 62 if spread else w
        named = f"{row.measure.label} (estimated)" if row.estimated else row.measure.label
        name = painter.fontMetrics().elidedText(named, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(left, 5, room, 19), Qt.AlignmentFlag.AlignVCenter, name)
        if spread:
            painter.setFont(font(-1.5))
            painter.setPen(colour("soft"))
            painter.drawText(
                QRectF(left, 5, w, 19), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, spread
            )
        middle = Qt.AlignmentFlag.AlignVCenter
        y, h = 24.0, 20.0
        if row.difference is None:
            painter.setFont(font(-1))
            reason = painter.fontMetrics().elidedText(row.reason or "", Qt.TextElideMode.ElideRight, int(w))
            painter.drawText(QRectF(left, y, w, h), middle, reason)
            return
        painter.setFont(font(0))
        painter.setPen(colour("athlete"))
        painter.drawText(QRectF(left, y, 72, h), middle, figure(row.athlete, row.measure.unit, imperial))
        painter.setPen(colour("twin"))
        painter.drawText(QRectF(left + 74, y, 72, h), middle, figure(row.twin, row.measure.unit, imperial))
        level = not row.apart
        painter.setFont(font(0, QFont.Weight.Normal if level else QFont.Weight.Bold))
        painter.setPen(colour("soft" if level else "ink"))
        painter.drawText(
            QRectF(left + 140, y, w - 142, h), middle | Qt.AlignmentFlag.AlignRight, verdict(row, imperial)
        )
        if self.hasFocus():
            painter.setPen(QPen(colour("thread"), 1))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.choose()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.choose()
        else:
            super().keyPressEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.desk.view.select(self.row.measure.id)
        self.explained.emit()

    def enterEvent(self, event: QEnterEvent) -> None:
        self.desk.view.hover(self.row.measure.id)

    def leaveEvent(self, event: QEvent) -> None:
        self.desk.view.hover(None)

    def choose(self) -> None:
        """Light this measure's gauge, or put it out again."""
        self.desk.view.select(None if self.desk.view.selected == self.row.measure.id else self.row.measure.id)
