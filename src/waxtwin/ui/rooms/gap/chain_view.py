"""The chain ledger drawn as steps from the athlete's speed up to the twin's."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen

from waxtwin.core.ledger import LINKS, Ledger, Link
from waxtwin.core.units import converted, figure
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.rooms.gap.ledger_picture import LedgerPicture, link_tone, signed
from waxtwin.ui.shared.theme import colour, font

_SAID = {
    "size": "longer levers move faster at the same turn",
    "tempo": "the whole throw is over sooner",
    "pelvis": "how fast the hips travel, size and tempo taken out",
    "shoulder": "what the trunk adds on top of the pelvis",
    "elbow": "what the upper arm adds on top of the shoulder",
    "wrist": "what the forearm adds on top of the elbow",
    "hand": "what the hand adds on top of the wrist",
    "ball": "how much of the hand's speed the ball leaves with",
}


class Account(LedgerPicture):
    """The ledger drawn as steps from the athlete's speed up to the twin's."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.setMinimumHeight(300)
        self.setAccessibleName("account of the gap")

    def paintEvent(self, event: QPaintEvent) -> None:
        account = self.ledger
        if account is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        running = account.levels
        low, high = min(running), max(running)
        pad = max(0.12 * (high - low), 0.4)
        low, high = low - pad, high + pad
        left, right = 330.0, self.width() - 210.0
        rows = len(account.links) + 2
        step = min(self.height() / rows, 52.0)

        def x(value: float) -> float:
            return left + (value - low) / (high - low) * (right - left)

        self._ends(painter, account, x, step)
        painter.setFont(font(-1))
        painter.setPen(colour("soft"))
        unit = converted(0.0, "m/s", self.desk.view.imperial)[1]
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(right + 14, 0, 130, step), middle, f"{unit}  ± margin")
        painter.drawText(QRectF(right + 104, 0, 100, step), middle | Qt.AlignmentFlag.AlignRight, "share so far")
        top = step
        for link, start, stop in zip(account.links, running, running[1:], strict=False):
            broken = link.id == account.broken_at
            painter.setFont(font(0.5, QFont.Weight.Bold if broken else QFont.Weight.DemiBold))
            painter.setPen(colour("thread" if broken else "ink"))
            painter.drawText(QRectF(10, top, 120, step), Qt.AlignmentFlag.AlignVCenter, LINKS[link.id])
            painter.setFont(font(-1))
            painter.setPen(colour("soft"))
            painter.drawText(
                QRectF(112, top, left - 130, step),
                Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, _SAID[link.id],
            )  # fmt: skip
            self._bar(painter, x(start), x(stop), top, step, link_tone(link, broken=broken, loses=stop >= start))
            self._spread(painter, x, stop, link.resolution, top + step / 2)
            self._figures(painter, link, right, top, step)
            top += step
        painter.end()

    def _ends(self, painter: QPainter, account: Ledger, x: Callable[[float], float], step: float) -> None:
        """The athlete's line above and the twin's below."""
        bottom = step * (len(account.links) + 1)
        for name, value, top in (("athlete", account.athlete, 0.0), ("twin", account.twin, bottom)):
            painter.setPen(QPen(colour(name, 150), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x(value), step * 0.75), QPointF(x(value), bottom + step * 0.25))
            painter.setPen(colour(name))
            painter.setFont(font(2, QFont.Weight.Bold))
            stored = self.desk.pair.stored[name]
            text = figure(value, "m/s", self.desk.view.imperial)
            painter.drawText(QRectF(10, top, 300, step), Qt.AlignmentFlag.AlignVCenter, stored.title)
            painter.drawText(QRectF(x(value) - 90, top, 180, step), Qt.AlignmentFlag.AlignCenter, text)

    def _bar(self, painter: QPainter, a: float, b: float, top: float, step: float, fill: QColor) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(fill)
        rect = QRectF(min(a, b), top + step * 0.26, max(abs(b - a), 2), step * 0.48)
        painter.drawRoundedRect(rect, 3, 3)
        painter.setPen(QPen(colour("hairline"), 1))
        painter.drawLine(QPointF(b, top + step * 0.74), QPointF(b, top + step * 1.26))

    def _spread(
        self, painter: QPainter, x: Callable[[float], float], end: float, resolution: float | None, y: float
    ) -> None:
        if not resolution:
            return
        painter.setPen(QPen(colour("ink", 150), 1.4))
        a, b = x(end - resolution), x(end + resolution)
        painter.drawLine(QPointF(a, y), QPointF(b, y))
        for edge in (a, b):
            painter.drawLine(QPointF(edge, y - 4), QPointF(edge, y + 4))

    def _figures(self, painter: QPainter, link: Link, right: float, top: float, step: float) -> None:
        imperial = self.desk.view.imperial
        painter.setFont(font(0, QFont.Weight.Normal if link.is_level else QFont.Weight.Bold))
        painter.setPen(colour("soft" if link.is_level else "ink"))
        text = signed(link.contribution, imperial)
        if link.resolution and link.resolution > 0.005:
            text += f"  ± {signed(link.resolution, imperial).removeprefix('+')}"
        painter.drawText(QRectF(right + 14, top, 130, step), Qt.AlignmentFlag.AlignVCenter, text)
        if link.ratio is not None:
            painter.setFont(font(-1))
            painter.setPen(colour("soft"))
            painter.drawText(
                QRectF(right + 134, top, 70, step), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                f"{link.ratio:.0%}",
            )  # fmt: skip
