"""Small plots of a pair: peaks by time, speeds up the chain, hips and shoulders from above; and any plot as a file."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from waxtwin.core.analysis import Analysis
from waxtwin.core.contrast import Contrast
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.measures.speeds import TURNS
from waxtwin.core.stops import EVENTS, LANDING
from waxtwin.core.units import converted, figure
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.shared.theme import colour, font

CHAIN = ("pelvis", "throwing_shoulder", "throwing_elbow", "throwing_wrist", "throwing_hand")


@dataclass(frozen=True)
class Line:
    """One line of a plot of dots: what it is, and figure with standard deviation per side; None where unknown."""

    label: str
    values: tuple[float | None, float | None]
    sds: tuple[float | None, float | None]


def _line(contrast: Contrast, measure_id: str, words: str) -> Line:
    sides = (contrast.athlete.measures[measure_id], contrast.twin.measures[measure_id])
    return Line(words, (sides[0].value, sides[1].value), (sides[0].sd, sides[1].sd))


def turns_by_time(contrast: Contrast) -> list[Line]:
    """When each of the four turns is fastest."""
    labels = ("Hips", "Shoulders", "Elbow straightens", "Forearm comes forward")
    return [_line(contrast, f"{turn}_time", words) for turn, words in zip(TURNS, labels, strict=True)]


def chain_speeds(contrast: Contrast) -> list[Line]:
    """Peak speeds from the pelvis up to the hand."""
    labels = ("Pelvis", "Throwing shoulder", "Elbow", "Wrist", "Hand")
    return [_line(contrast, f"peak_speed_{point}", words) for point, words in zip(CHAIN, labels, strict=True)]


class Dots(QWidget):
    """Figures of both sides on one axis, a line per measure, with what they resolve as whiskers."""

    def __init__(self, desk: Desk, lines: list[Line], unit: str, title: str) -> None:
        super().__init__()
        self._desk, self._lines, self._unit, self._title = desk, lines, unit, title
        self.setMinimumSize(300, 220)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("paper"))
        painter.setPen(colour("ink"))
        painter.setFont(font(-0.5))
        factor, unit, _ = converted(1.0, self._unit, self._desk.view.imperial)
        painter.drawText(QRectF(8, 0, self.width() - 16, 24), Qt.AlignmentFlag.AlignVCenter, f"{self._title}, {unit}")
        known = [value * factor for line in self._lines for value in line.values if value is not None]
        if not known:
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "This footage does not show it.")
            return
        low, high = min(known), max(known)
        pad = 0.12 * (high - low) or 1.0
        box = QRectF(14, 34, self.width() - 28, self.height() - 64)
        axis = _Axis(low - pad, high + pad, box)
        axis.paint(painter, zero=self._unit == "ms")
        step = box.height() / len(self._lines)
        last: dict[int, QPointF] = {}
        for i, line in enumerate(self._lines):
            y = box.top() + (i + 0.5) * step
            painter.setPen(colour("soft"))
            painter.setFont(font(-1))
            painter.drawText(QPointF(box.left(), y - step / 2 + 14), line.label)
            for k, side in enumerate(SIDES):
                value = line.values[k]
                if value is None:
                    continue
                at = QPointF(axis.x(value * factor), y + (k - 0.5) * 13 + 7)
                if k in last:
                    painter.setPen(QPen(colour(side, 110), 1.4, Qt.PenStyle.DotLine))
                    painter.drawLine(last[k], at)
                last[k] = at
                spread = 2 * (line.sds[k] or 0.0) * factor
                painter.setPen(QPen(colour(side), 1.4))
                painter.drawLine(QPointF(axis.x(value * factor - spread), at.y()),
                                 QPointF(axis.x(value * factor + spread), at.y()))  # fmt: skip
                _dot(painter, side, at)
                words = figure(value, self._unit, self._desk.view.imperial)
                wide = painter.fontMetrics().horizontalAdvance(words)
                edge = axis.x(value * factor + spread) + 8
                painter.drawText(QPointF(edge if edge + wide < box.right() else
                                         axis.x(value * factor - spread) - wide - 8, at.y() + 4), words)  # fmt: skip


class _Axis:
    """A figure's place along a box."""

    def __init__(self, low: float, high: float, box: QRectF) -> None:
        self.low, self.high, self.box = low, high, box

    def x(self, value: float) -> float:
        return self.box.left() + (value - self.low) / (self.high - self.low) * self.box.width()

    def paint(self, painter: QPainter, *, zero: bool) -> None:
        """Round marks along the foot; a line at landing where the axis is time."""
        rough = (self.high - self.low) / 5
        power = 10.0 ** np.floor(np.log10(rough))
        step = next(power * k for k in (1, 2, 5, 10) if power * k >= rough)
        painter.setFont(font(-1.5))
        for value in np.arange(np.ceil(self.low / step) * step, self.high, step):
            painter.setPen(QPen(colour("hairline"), 1))
            painter.drawLine(QPointF(self.x(value), self.box.top()), QPointF(self.x(value), self.box.bottom()))
            painter.setPen(colour("soft"))
            place = QRectF(self.x(value) - 40, self.box.bottom() + 3, 80, 18)
            painter.drawText(place, Qt.AlignmentFlag.AlignCenter, f"{value:g}".replace("-", "−"))
        if zero and self.low < 0 < self.high:
            painter.setPen(QPen(colour("thread"), 1.4, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(self.x(0), self.box.top()), QPointF(self.x(0), self.box.bottom()))
            painter.drawText(QPointF(self.x(0) + 4, self.box.top() + 10), "landing")


def _dot(painter: QPainter, side: str, at: QPointF) -> None:
    """The athlete's mark is round, the twin's square: never by colour alone."""
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(side))
    if side == "athlete":
        painter.drawEllipse(at, 5, 5)
    else:
        painter.drawRect(QRectF(at.x() - 4.5, at.y() - 4.5, 9, 9))
    painter.restore()


class Dial(QWidget):
    """Hips and shoulders of both sides seen from above at the held stop; the plate lies at the top."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.setMinimumSize(300, 240)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("paper"))
        contrast = self._desk.pair.contrast
        stop = self._desk.clock.stop or (LANDING[contrast.athlete.landing] if contrast else None)
        if contrast is None or stop is None:
            return
        painter.setFont(font(-0.5))
        painter.setPen(colour("ink"))
        title = f"From above, {EVENTS[stop].label.lower()}; the plate is at the top"
        painter.drawText(QRectF(8, 0, self.width() - 16, 24), Qt.AlignmentFlag.AlignVCenter, title)
        half = self.height() / 2 - 12
        reach = min(self.width() / 2 - 24, half - 44)
        for k, (side, analysis) in enumerate(zip(SIDES, (contrast.athlete, contrast.twin), strict=True)):
            middle = QPointF(self.width() / 2, 30 + half * k + (half - 20) / 2)
            self._paint_side(painter, side, analysis, stop, middle, min(reach, (half - 40) / 2))

    def _paint_side(
        self, painter: QPainter, side: str, analysis: Analysis, stop: str, middle: QPointF, reach: float
    ) -> None:
        hips, shoulders = _turned(analysis, stop)
        painter.setPen(QPen(colour("hairline"), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle, reach, reach)
        painter.drawLine(middle - QPointF(0, reach + 5), middle - QPointF(0, reach - 5))
        if hips is None or shoulders is None:
            painter.setPen(colour("soft"))
            painter.drawText(QRectF(middle.x() - 150, middle.y() - 12, 300, 24), Qt.AlignmentFlag.AlignCenter,
                             "not seen by this footage")  # fmt: skip
            return
        wedge = [middle, *(middle + _bearing(angle) * reach * 0.8 for angle in np.linspace(shoulders, hips, 16))]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(side, 45))
        painter.drawPolygon(QPolygonF(wedge))
        for angle, long, style in ((hips, 0.8, Qt.PenStyle.SolidLine), (shoulders, 1.0, Qt.PenStyle.DashLine)):
            painter.setPen(QPen(colour(side), 3 if style == Qt.PenStyle.SolidLine else 2.2, style))
            end = _bearing(angle) * reach * long
            painter.drawLine(middle - end, middle + end)
        painter.setFont(font(-1))
        painter.setPen(colour(side))
        words = (f"hips {hips:.0f}°", f"shoulders {shoulders:.0f}°", f"apart {hips - shoulders:.0f}°")
        for i, word in enumerate(words):
            painter.drawText(QPointF(middle.x() + reach + 16, middle.y() - 14 + 18 * i), word.replace("-", "−"))


def _turned(analysis: Analysis, stop: str) -> tuple[float | None, float | None]:
    """Degrees that hips and shoulders are turned at a stop; None where it is not seen."""
    time = analysis.time(stop)
    if time is None:
        return None, None
    curves = (analysis.motion.pelvis_rotation(), analysis.motion.trunk_rotation())
    found = [float(analysis.motion.sample(curve, np.array([time]))[0]) for curve in curves]
    hips, shoulders = (None if np.isnan(value) else value for value in found)
    return hips, shoulders


def _bearing(turn: float) -> QPointF:
    """Where the front end of a line points that is turned by so many degrees: 0 up to the plate, 90 across."""
    angle = np.radians(turn)
    return QPointF(-float(np.sin(angle)), -float(np.cos(angle)))


def save_picture(widget: QWidget, path: Path, title: str) -> None:
    """A widget as it is shown, as PNG or SVG by the file's ending. Raises WaxTwinError."""
    if path.suffix.lower() == ".svg":
        from PySide6.QtSvg import QSvgGenerator

        out = QSvgGenerator()
        out.setFileName(str(path))
        out.setSize(QSize(widget.width(), widget.height()))
        out.setViewBox(widget.rect())
        out.setTitle(title)
        painter = QPainter()
        if not painter.begin(out):
            raise WaxTwinError(f"{path.name}: the picture cannot be written")
        widget.render(painter, QPointF(0, 0).toPoint())
        painter.end()
    elif not widget.grab().save(str(path)):
        raise WaxTwinError(f"{path.name}: the picture cannot be written; name it with .png or .svg")
