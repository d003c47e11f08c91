"""A chalk mark painted where it lies: its line, its ends, its words and its number."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen, QPolygonF

from waxtwin.core.chalk import Chalk, End, Sum
from waxtwin.core.units import figure
from waxtwin.ui.shared.chalk_place import StagePlace
from waxtwin.ui.shared.gauge_paint import paint_tag
from waxtwin.ui.shared.theme import font

CHALK = QColor("#F7EFC8")
_CHOSEN = QColor("#FF8E7A")
_WING = 11.0  # px: an arrow's


def number_words(number: Sum | None, imperial: bool) -> str:
    """A mark's number as it is told."""
    if number is None:
        return ""
    if number.unit == "picture":
        return f"{number.value:.1f} % of the picture".replace("-", "−")
    words = figure(number.value, number.unit, signed=False)
    return words if number.metres is None else f"{words} · {figure(number.metres, 'm', imperial)}"


def paint_chalk(painter: QPainter, place: StagePlace, chalk: Chalk, *, chosen: bool, imperial: bool) -> None:
    """A mark with its ends, its words and its number; nothing where an end is not seen."""
    spots = [place.spot(end) for end in chalk.ends]
    if any(spot is None for spot in spots):
        return
    dots = [spot for spot in spots if spot is not None]
    ink = _CHOSEN if chosen else CHALK
    _line(painter, place, chalk, dots, ink)
    for dot, end in zip(dots, chalk.ends, strict=True):
        paint_end(painter, dot, end, ink)
    words = "  ".join(one for one in (chalk.words, number_words(place.number(chalk), imperial)) if one)
    if words:
        at = dots[1] if chalk.kind == "angle" else dots[-1]
        painter.setFont(font(0, QFont.Weight.DemiBold))
        room = painter.viewport().width() / painter.device().devicePixelRatioF()
        long = painter.fontMetrics().horizontalAdvance(words) + 16
        paint_tag(painter, QPointF(max(min(at.x() + 12, room - long), 4.0), at.y() - 12), words, ink)


def _line(painter: QPainter, place: StagePlace, chalk: Chalk, dots: list[QPointF], ink: QColor) -> None:
    shapes: list[QPolygonF] = []
    round_: QRectF | None = None
    if chalk.kind in ("plumb", "level"):
        ends = place.upright(chalk)
        shapes = [] if ends is None else [QPolygonF(list(ends))]
    elif chalk.kind == "circle":
        away = dots[1] - dots[0]
        r = math.hypot(away.x(), away.y())
        round_ = QRectF(dots[0].x() - r, dots[0].y() - r, 2 * r, 2 * r)
    elif chalk.kind != "word":
        shapes = [QPolygonF(dots)]
    if chalk.kind == "arrow":
        turn = math.atan2(dots[1].y() - dots[0].y(), dots[1].x() - dots[0].x())
        wings = [dots[1] - QPointF(math.cos(turn + a), math.sin(turn + a)) * _WING for a in (-0.45, 0.45)]
        shapes.append(QPolygonF([wings[0], dots[1], wings[1]]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(QColor(20, 24, 27, 170), 4.6), QPen(ink, 2.2)):
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        for shape in shapes:
            painter.drawPolyline(shape)
        if round_ is not None:
            painter.drawEllipse(round_)


def paint_end(painter: QPainter, dot: QPointF, end: End, ink: QColor) -> None:
    """An end: a square on the body, a round at a place of the picture."""
    painter.setPen(QPen(QColor(20, 24, 27, 190), 1.2))
    painter.setBrush(ink)
    if end.landmark:
        painter.drawRect(QRectF(dot.x() - 3.2, dot.y() - 3.2, 6.4, 6.4))
    else:
        painter.drawEllipse(dot, 3.6, 3.6)
