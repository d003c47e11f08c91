"""Painting gauges: lines, bends with their angle, and words on a plate."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from waxtwin.core.body import angle_between
from waxtwin.core.camera import project
from waxtwin.ui.model.gauges import Bend, Mark, Stroke
from waxtwin.ui.shared.theme import font

_LIT = "#FF8E7A"


def paint_marks(painter: QPainter, matrix: np.ndarray, found: Sequence[Mark], *, lit: bool) -> None:
    """Paint a gauge's lines and bends through a projection `(3, 4)` into widget pixels."""
    line = QColor(_LIT) if lit else QColor(255, 255, 255, 165)
    for mark in found:
        if not np.isfinite(mark.points).all():
            continue
        flat, _ = project(matrix, mark.points)
        dots = [QPointF(*p) for p in flat]
        if isinstance(mark, Stroke):
            pen = QPen(line, (3.0 if lit else 1.6) * (0.7 if mark.dashed else 1.0))
            if mark.dashed:
                pen.setDashPattern([4, 3])
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            under = QPen(QColor(20, 24, 27, 170 if lit else 110), pen.widthF() + (2.5 if lit else 1.8))
            if mark.dashed and not lit:
                under.setDashPattern([4 * pen.widthF() / under.widthF(), 3 * pen.widthF() / under.widthF()])
            painter.setPen(under)  # so that a line is seen on the wax as well as on the dark
            painter.drawPolyline(dots)
            painter.setPen(pen)
            painter.drawPolyline(dots)
        elif isinstance(mark, Bend):
            _paint_bend(painter, mark.points, dots, line)


def _paint_bend(painter: QPainter, points: np.ndarray, dots: list[QPointF], line: QColor) -> None:
    bend = 180.0 - float(angle_between(points[0] - points[1], points[2] - points[1]))
    r = 15.0
    first = math.degrees(math.atan2(-(dots[0].y() - dots[1].y()), dots[0].x() - dots[1].x()))
    last = math.degrees(math.atan2(-(dots[2].y() - dots[1].y()), dots[2].x() - dots[1].x()))
    sweep = (last - first + 180) % 360 - 180
    painter.setPen(QPen(line, 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawArc(QRectF(dots[1].x() - r, dots[1].y() - r, 2 * r, 2 * r), round(first * 16), round(sweep * 16))
    paint_tag(painter, QPointF(dots[1].x() + 20, dots[1].y() + 5), f"{bend:.0f}°", line)


def paint_tag(painter: QPainter, at: QPointF, text: str, ink: QColor, grow: float = 0) -> None:
    """Paint a word on a dark plate, its left edge at a point; `grow` points larger than the desktop's type."""
    painter.setFont(font(grow, QFont.Weight.DemiBold))
    box = QRectF(painter.fontMetrics().boundingRect(text)).adjusted(-5, -2, 5, 2)
    box.moveTopLeft(at - QPointF(0, box.height() / 2))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(20, 24, 27, 190))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(ink)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
