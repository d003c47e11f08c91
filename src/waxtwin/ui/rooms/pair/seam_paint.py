"""Single marks of the seam: a proposal's lozenge, a phase's words, a playhead."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPen, QPolygonF

from waxtwin.ui.rooms.pair.seam_axis import MARGIN
from waxtwin.ui.shared.theme import TONES, colour, font, side_colour

_THIN = 9  # px: a further twin's
RAIL = 16  # px: how thick a rail is


def paint_rail(
    painter: QPainter, ends: tuple[float, float], y: float, side: str, stops: Sequence[float], ticks: Sequence[float]
) -> None:
    """A side's rail: every second phase between its stops a little deeper, so that phases read as such, and ticks."""
    tint = QColor(TONES[side].rail)
    tint.setAlpha(46)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(tint)
    painter.drawRoundedRect(QRectF(ends[0], y - RAIL / 2, ends[1] - ends[0], RAIL), RAIL / 2, RAIL / 2)
    tint.setAlpha(40)
    painter.setBrush(tint)
    for a, b in list(pairwise(stops))[::2]:
        if b > a:
            painter.drawRect(QRectF(a, y - RAIL / 2, b - a, RAIL))
    painter.setPen(QPen(colour("ink", 46), 1))
    for x in ticks:
        painter.drawLine(QPointF(x, y + RAIL / 2 - 3), QPointF(x, y + RAIL / 2))


def paint_thin_rail(
    painter: QPainter, ends: tuple[float, float], y: float, dots: Sequence[tuple[float, bool]], side: str, title: str
) -> None:
    """A further twin's rail: its stops where they fall on the athlete's clock, the held one filled, and its name."""
    tint = QColor(TONES[side].rail)
    tint.setAlpha(60)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(tint)
    painter.drawRoundedRect(QRectF(ends[0], y - _THIN / 2, ends[1] - ends[0], _THIN), _THIN / 2, _THIN / 2)
    for x, held in dots:
        painter.setPen(QPen(colour("thread"), 1.6))
        painter.setBrush(colour("thread" if held else "panel"))
        painter.drawEllipse(QPointF(x, y), 3.6, 3.6)
    painter.setFont(font(-1.5))
    painter.setPen(side_colour(side))
    painter.drawText(QRectF(MARGIN + 6, y - 8, 200, 16), Qt.AlignmentFlag.AlignVCenter, title)


def paint_lozenge(painter: QPainter, at: QPointF, r: float, *, asked: bool, by_hand: bool) -> None:
    """A lozenge for an end without a stitch: open for a proposal, with a question mark when it is not used; filled
    where somebody set it.
    """
    x, y = at.x(), at.y()
    line = Qt.PenStyle.SolidLine if by_hand else Qt.PenStyle.DotLine
    painter.setPen(QPen(colour("caution" if asked else "thread"), 1.6, line))
    painter.setBrush(colour("thread" if by_hand else "paper"))
    painter.drawPolygon(QPolygonF([QPointF(x, y - r), QPointF(x + r, y), QPointF(x, y + r), QPointF(x - r, y)]))
    if asked:
        painter.setPen(colour("caution"))
        painter.setFont(font(-2.0, QFont.Weight.Bold))
        painter.drawText(QRectF(x - r, y - r, 2 * r, 2 * r), Qt.AlignmentFlag.AlignCenter, "?")


def paint_tie(painter: QPainter, ends: tuple[QPointF, QPointF], name: str, *, held: bool) -> None:
    """A moment that somebody tied: a plain thread with square ends and its name, unlike any stop that was found."""
    ink = colour("ink", 255 if held else 130)
    painter.setPen(QPen(ink, 2.2 if held else 1.2))
    painter.setBrush(colour("paper"))
    painter.drawLine(*ends)
    for at in ends:
        painter.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
    painter.setFont(font(-2.0, QFont.Weight.Bold if held else QFont.Weight.Normal))
    words = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, 150)
    width = painter.fontMetrics().horizontalAdvance(words) + 8
    middle = (ends[0] + ends[1]) / 2
    box = QRectF(middle.x() - width / 2, middle.y() - 8, width, 16)
    painter.fillRect(box, colour("paper"))
    painter.setPen(ink)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def paint_phase(painter: QPainter, ends: tuple[float, float], y: float, text: str, width: int) -> None:
    """A line between two stops with words below it, kept within the seam's width."""
    painter.setPen(QPen(colour("hairline"), 1))
    painter.drawLine(QPointF(ends[0] + 3, y), QPointF(ends[1] - 3, y))
    painter.setPen(colour("soft"))
    long = painter.fontMetrics().horizontalAdvance(text)
    centre = min(max(sum(ends) / 2, long / 2 + 4), width - long / 2 - 4)
    painter.drawText(QRectF(centre - long / 2 - 3, y + 2, long + 6, 18), Qt.AlignmentFlag.AlignCenter, text)


def paint_playhead(painter: QPainter, at: QPointF, side: str) -> None:
    """Where the clock is on a rail, its tip outward."""
    x, y = at.x(), at.y()
    painter.setPen(QPen(side_colour(side), 2))
    painter.drawLine(QPointF(x, y - 13), QPointF(x, y + 13))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(side_colour(side))
    tip = -1 if side == "athlete" else 1
    shape = QPainterPath(QPointF(x, y + tip * 10))
    shape.lineTo(x - 5, y + tip * 17)
    shape.lineTo(x + 5, y + tip * 17)
    shape.closeSubpath()
    painter.drawPath(shape)
