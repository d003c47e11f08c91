"""Borrowed motion drawn: a bar for every share of the gap, with how far it could reach; the arm opens on a click."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from waxtwin.core.borrowed import ARM, LABELS, Borrowed, Factor
from waxtwin.core.units import converted
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.shared.theme import colour, font

_SAID = {
    "size": "body and arm length", "tempo": "how long landing to release takes",
    "pelvis_path": "how the hips travel and are stopped", "pelvis_rotation": "how the hips turn",
    "trunk": "how trunk and shoulder ride on the hips", "shoulder": "upper arm on the trunk, layback included",
    "elbow_hand": "forearm and hand", "ball": "ball speed over hand speed",
    "arm": "shoulder, elbow and hand together; click to open",
    "turn": "the trunk rides on the hips: one can make up for the other",
}  # fmt: skip


class Shares(QWidget):
    """The account as bars; to the right the athlete loses, to the left the athlete gains."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.account: Borrowed | None = None
        self.open = False
        self.setMinimumHeight(300)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("borrowed motion")

    def show_account(self, account: Borrowed | None) -> None:
        """Draw this account."""
        self.account = account
        self.setAccessibleDescription(
            "" if account is None else "; ".join(f"{f.label} {f.contribution:+.1f} m/s" for f in account.factors)
        )
        self.update()

    def bars(self) -> list[tuple[Factor, bool]]:
        """The bars on show, and whether each is a part of the one above."""
        if self.account is None:
            return []
        found = []
        for one in self.account.factors:
            found.append((one, False))
            if one.id == ARM and self.open:
                found += [(self.account.singles[name], True) for name in one.parts]
        return found

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = int(event.position().y() / self._step())
        bars = self.bars()
        if 0 <= at < len(bars) and bars[at][0].id == ARM:
            self.toggle()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.toggle()
        else:
            super().keyPressEvent(event)

    def toggle(self) -> None:
        """Open the arm into shoulder and elbow, or close it."""
        self.open = not self.open
        self.update()

    def _step(self) -> float:
        return min(self.height() / max(len(self.bars()), 1), 62.0)

    def paintEvent(self, event: QPaintEvent) -> None:
        bars = self.bars()
        if not bars:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        reach = max(max(abs(one.low), abs(one.high), abs(one.contribution)) for one, _ in bars) or 1.0
        left, right, step = 340.0, self.width() - 170.0, self._step()
        middle = (left + right) / 2

        def x(value: float) -> float:
            return middle + value / reach * (right - left) / 2

        painter.setPen(QPen(colour("hairline"), 1))
        painter.drawLine(QPointF(middle, 0), QPointF(middle, step * len(bars)))
        for i, (one, part) in enumerate(bars):
            self._row(painter, one, i * step, step, (left, right), x, part=part)

    def _row(
        self, painter: QPainter, one: Factor, top: float, step: float, span: tuple[float, float],
        x: Callable[[float], float], *, part: bool,
    ) -> None:  # fmt: skip
        indent = 24.0 if part else 0.0
        centre = Qt.AlignmentFlag.AlignVCenter
        painter.setPen(colour("ink" if one.resolved else "soft"))
        painter.setFont(font(0.5, QFont.Weight.Normal if part else QFont.Weight.DemiBold))
        painter.drawText(QRectF(8 + indent, top, 300, step / 2), Qt.AlignmentFlag.AlignBottom, one.label)
        painter.setFont(font(-1))
        painter.setPen(colour("soft"))
        said = ", ".join(LABELS[name].lower() for name in one.parts) if one.id not in _SAID else _SAID[one.id]
        said = said if one.resolved else f"{said}; not resolved"
        box = QRectF(8 + indent, top + step / 2, span[0] - 20 - indent, step / 2)
        short = painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignTop, short)
        a, b, y = x(0.0), x(one.contribution), top + step / 2
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("athlete" if one.contribution > 0 else "twin", 215 if one.resolved else 80))
        high = step * (0.2 if part else 0.3)
        painter.drawRoundedRect(QRectF(min(a, b), y - high / 2, max(abs(b - a), 2.0), high), 3, 3)
        painter.setPen(QPen(colour("ink", 150), 1.4))
        painter.drawLine(QPointF(x(one.low), y), QPointF(x(one.high), y))
        for edge in (one.low, one.high):
            painter.drawLine(QPointF(x(edge), y - 4), QPointF(x(edge), y + 4))
        imperial = self.desk.view.imperial
        low, value, high_ = (converted(v, "m/s", imperial) for v in (one.low, one.contribution, one.high))
        digits = 1
        painter.setFont(font(0.5, QFont.Weight.Bold if one.resolved else QFont.Weight.Normal))
        painter.setPen(colour("ink" if one.resolved else "soft"))
        text = f"{value[0]:+.{digits}f} {value[1]}".replace("-", "−")
        painter.drawText(QRectF(span[1] + 14, top, 76, step), centre, text)
        painter.setFont(font(-1))
        painter.setPen(colour("soft"))
        text = f"{low[0]:+.{digits}f} to {high_[0]:+.{digits}f}".replace("-", "−")
        painter.drawText(QRectF(span[1] + 92, top, 78, step), centre, text)
