"""The chain in one glance: link by link from the athlete's speed to the twin's, the one that loses most marked."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFont, QPainter, QPaintEvent, QPen

from waxtwin.core.ledger import LINKS, Link
from waxtwin.core.units import figure
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.rooms.gap.ledger_picture import LedgerPicture, link_tone, signed
from waxtwin.ui.shared.theme import colour, font

_HEIGHT, _ENDS = 100, 132  # px
_WORDS = 18.0  # px of a line of words
_WIDE = 0.46  # of a link's place: its bar


class ChainStrip(LedgerPicture):
    """Bars that climb from the athlete's speed to the twin's, one a link; nothing without an account."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.setFixedHeight(_HEIGHT)
        self.setAccessibleName("where along the chain speed is lost")

    def paintEvent(self, event: QPaintEvent) -> None:
        ledger = self.ledger
        if ledger is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        levels = ledger.levels
        low, high = min(levels), max(levels)
        top, bottom = _WORDS + 6.0, self.height() - _WORDS - 6.0

        def y(speed: float) -> float:
            return bottom - (speed - low) / max(high - low, 1e-9) * (bottom - top)

        place = (self.width() - 2 * _ENDS) / max(len(ledger.links), 1)
        self._end(painter, "athlete", ledger.athlete, 0.0, y(levels[0]))
        for n, (link, start, stop) in enumerate(zip(ledger.links, levels, levels[1:], strict=False)):
            self._link(painter, link, _ENDS + n * place, place, (y(start), y(stop)), broken=link.id == ledger.broken_at)
        self._end(painter, "twin", ledger.twin, self.width() - _ENDS, y(levels[-1]))
        painter.end()

    def _end(self, painter: QPainter, side: str, speed: float, left: float, at: float) -> None:
        painter.setPen(QPen(colour(side), 2))
        painter.drawLine(QPointF(left, at), QPointF(left + _ENDS, at))
        painter.setFont(font(1, QFont.Weight.Bold))
        painter.setPen(colour(side))
        below = at + 2 + _WORDS < self.height()
        box = QRectF(left, at + 2 if below else at - 2 - _WORDS, _ENDS - 6, _WORDS)
        edge = Qt.AlignmentFlag.AlignLeft if side == "athlete" else Qt.AlignmentFlag.AlignRight
        painter.drawText(box, edge | Qt.AlignmentFlag.AlignVCenter, figure(speed, "m/s", self.desk.view.imperial))

    def _link(
        self, painter: QPainter, link: Link, left: float, place: float, ends: tuple[float, float], *, broken: bool
    ) -> None:
        tone = link_tone(link, broken=broken, loses=ends[1] <= ends[0])
        bar = QRectF(left + place * (1 - _WIDE) / 2, min(ends), place * _WIDE, max(abs(ends[1] - ends[0]), 2.0))
        painter.setPen(QPen(colour("hairline"), 1))
        painter.drawLine(QPointF(left - place * (1 - _WIDE) / 2, ends[0]), QPointF(bar.right(), ends[0]))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(tone)
        painter.drawRoundedRect(bar, 2, 2)
        painter.setFont(font(-1, QFont.Weight.Bold if broken else QFont.Weight.Normal))
        painter.setPen(colour("thread" if broken else "soft"))
        middle = Qt.AlignmentFlag.AlignCenter
        painter.drawText(QRectF(left, self.height() - _WORDS, place, _WORDS), middle, LINKS[link.id])
        painter.setPen(colour("thread" if broken else "soft" if link.is_level else "ink"))
        text = signed(link.contribution, self.desk.view.imperial)
        painter.drawText(QRectF(left, bar.top() - _WORDS, place, _WORDS), middle, text)
