"""The seam: two time rails held together by stitches, the one control for time.

Scrub on it, click a stitch to hold both sides at that stop, drag a stitch's end to correct an event.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from waxtwin.core.events import DETECTED, EVENTS, LANDING, ORDER
from waxtwin.ui.model.desk import SIDES, Desk
from waxtwin.ui.model.wording import key_of
from waxtwin.ui.shared.theme import AMBER, TEAL, colour, font, side_colour, theme

_LENS = 0.46  # share of the width that the throw itself gets: it is a tenth of the time and half of the work
_MARGIN = 26
_RAIL = 16
_GRAB = 9
_HEIGHT = 158
_THIN, _PITCH = 9, 24  # px: rails of further twins, and how far apart they lie
_PHASES = (("peak_knee", "landing"), ("landing", "release"))


@dataclass
class _Drag:
    side: str
    stop: str
    time: float


def _between(value: float, source: list[float], target: list[float]) -> float:
    """Piecewise linear from `source` to `target`, held at the ends; plain Python, for it is asked very often."""
    for i in range(len(source) - 1):
        if value < source[i + 1]:
            share = max((value - source[i]) / (source[i + 1] - source[i]), 0.0)
            return target[i] + share * (target[i + 1] - target[i])
    return target[-1]


class Seam(QWidget):
    """Two rails, athlete above and twin below. `corrected(side, stop, seconds)` when a stitch's end was dragged."""

    corrected = Signal(str, str, float)

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self._drag: _Drag | None = None
        self._scrubbing = False
        self._ringed = False
        self._axis: tuple[list[float], list[float]] | None = None
        self._axis_width = 0
        self._still: tuple[tuple, tuple, QPixmap] | None = None
        self._over: tuple[str, str] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(_HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("seam")
        desk.listen(self._told)

    def _told(self, topic: str) -> None:
        if topic in ("pair", "figures", "alignment"):
            self._axis = None
        if topic in ("pair", "others"):
            self.setMinimumHeight(_HEIGHT + _PITCH * len(self.desk.others))
            self._still = None
        if topic in ("pair", "figures", "others", "time", "alignment", "landing"):
            self.update()

    # geometry ------------------------------------------------------------------------------------------------------
    def _knots(self) -> tuple[list[float], list[float]]:
        """Times on the athlete's clock and their x: the stretch around the throw is widened."""
        if self._axis is None or self._axis_width != self.width():
            self._axis, self._axis_width = self._lay_axis(), self.width()
        return self._axis

    def _lay_axis(self) -> tuple[list[float], list[float]]:
        low, high = self.desk.span()
        analysis = self.desk.analysis("athlete")
        left, right = _MARGIN, self.width() - _MARGIN
        if analysis is None or not {"foot_contact", "release"} <= set(analysis.events):
            return [low, high], [float(left), float(right)]
        start = max(analysis.events["foot_contact"].time - 0.06, low + 0.01)
        stop = min(analysis.events["release"].time + 0.09, high - 0.01)
        width = right - left
        before = (1 - _LENS) * (start - low) / max((start - low) + (high - stop), 1e-6)
        x = [left + width * share for share in (0.0, before, before + _LENS, 1.0)]
        return [low, start, stop, high], x

    def x_of(self, time: float) -> float:
        """Where an instant of the athlete's clock lies, in pixels."""
        return _between(time, *self._knots())

    def time_at(self, x: float) -> float:
        """The instant of the athlete's clock at a pixel."""
        times, at = self._knots()
        return _between(x, at, times)

    def event_x(self, side: str, stop: str) -> float:
        """Where a stop's stitch ends on a rail, in pixels."""
        time = self._event_time(side, stop)
        return self.x_of(time if side == "athlete" else self.desk.alignment.to_athlete(time))

    def rail_y(self, side: str) -> float:
        """The middle of a rail, in pixels."""
        if side == "athlete":
            return 58.0
        twin = self.height() - 40.0 - _PITCH * len(self.desk.others)
        return twin if side == "twin" else twin + 36.0 + _PITCH * (list(self.desk.others).index(side))

    def _event_time(self, side: str, stop: str) -> float:
        if self._drag is not None and (self._drag.side, self._drag.stop) == (side, stop):
            return self._drag.time
        analysis = self.desk.analysis(side)
        event = None if analysis is None else analysis.proposal(stop)
        assert event is not None
        return event.time

    # painting ------------------------------------------------------------------------------------------------------
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.desk.contrast is None:
            painter.fillRect(self.rect(), colour("paper"))
            painter.setPen(colour("soft"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "The seam appears when a pair is on the desk.")
            return
        painter.drawPixmap(0, 0, self._still_picture())
        self._paint_playhead(painter)
        if self._ringed and self.hasFocus():
            painter.setPen(QPen(colour("thread", 110), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))

    def _still_picture(self) -> QPixmap:
        """Everything but the playheads, painted anew only when it changed: playing must be smooth."""
        drag = self._drag
        results = (self.desk.contrast, self.desk.alignment)  # compared by identity: they are never changed in place
        state = (
            self.desk.stop, self.desk.landing, self.width(), self.height(), self._over, drag and drag.time,
            theme().name,
        )  # fmt: skip
        held = self._still
        if held is None or held[0][0] is not results[0] or held[0][1] is not results[1] or held[1] != state:
            ratio = self.devicePixelRatioF()
            picture = QPixmap(self.size() * ratio)
            picture.setDevicePixelRatio(ratio)
            picture.fill(colour("paper"))
            painter = QPainter(picture)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_still(painter)
            painter.end()
            self._still = (results, state, picture)
            return picture
        return held[2]

    def _paint_still(self, painter: QPainter) -> None:
        for side in SIDES:
            self._paint_rail(painter, side)
        for stop in self.desk.stops():
            self._paint_stitch(painter, stop)
        for side, stop in self._loose():
            self._paint_loose(painter, side, stop)
        self._paint_labels(painter)
        self._paint_phases(painter)
        for side in self.desk.others:
            self._paint_thin_rail(painter, side)

    def _paint_rail(self, painter: QPainter, side: str) -> None:
        analysis = self.desk.analysis(side)
        assert analysis is not None
        y = self.rail_y(side)
        ends = [float(t) for t in analysis.motion.times[[0, -1]]]
        if side == "twin":
            ends = [self.desk.alignment.to_athlete(t) for t in ends]
        x0, x1 = self.x_of(ends[0]), self.x_of(ends[1])
        tint = QColor(AMBER if side == "athlete" else TEAL)
        tint.setAlpha(46)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(tint)
        painter.drawRoundedRect(QRectF(x0, y - _RAIL / 2, x1 - x0, _RAIL), _RAIL / 2, _RAIL / 2)
        # every second phase a little deeper, so that phases read as such
        tint.setAlpha(40)
        painter.setBrush(tint)
        marks = [self.event_x(side, s) for s in self.desk.stops()]
        for a, b in list(pairwise(marks))[::2]:
            if b > a:
                painter.drawRect(QRectF(a, y - _RAIL / 2, b - a, _RAIL))
        # ticks every 50 ms show where time is widened
        ink = colour("ink", 46)
        painter.setPen(QPen(ink, 1))
        clock = np.arange(np.ceil(ends[0] / 0.05) * 0.05, ends[1], 0.05)
        for t in clock:
            x = self.x_of(float(t))
            painter.drawLine(QPointF(x, y + _RAIL / 2 - 3), QPointF(x, y + _RAIL / 2))

    def _paint_thin_rail(self, painter: QPainter, side: str) -> None:
        """A further twin's rail: its stops where they fall on the athlete's clock, with its name."""
        analysis = self.desk.analysis(side)
        if analysis is None:
            return
        align, y = self.desk.alignment_of(side), self.rail_y(side)
        x0, x1 = (self.x_of(align.to_athlete(float(t))) for t in analysis.motion.times[[0, -1]])
        tint = QColor(TEAL)
        tint.setAlpha(60)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(tint)
        painter.drawRoundedRect(QRectF(x0, y - _THIN / 2, x1 - x0, _THIN), _THIN / 2, _THIN / 2)
        for stop in self.desk.stops():
            if stop in analysis.events:
                x = self.x_of(align.to_athlete(analysis.events[stop].time))
                painter.setPen(QPen(colour("thread"), 1.6))
                painter.setBrush(colour("thread" if stop == self.desk.stop else "panel"))
                painter.drawEllipse(QPointF(x, y), 3.6, 3.6)
        painter.setFont(font(-1.5))
        painter.setPen(colour("twin"))
        box = QRectF(_MARGIN + 6, y - 8, 200, 16)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self.desk.others[side].title)

    def _paint_stitch(self, painter: QPainter, stop: str) -> None:
        xa, xt = self.event_x("athlete", stop), self.event_x("twin", stop)
        ya, yt = self.rail_y("athlete"), self.rail_y("twin")
        held = stop == self.desk.stop
        thread = colour("thread")
        path = QPainterPath(QPointF(xa, ya))
        middle = (ya + yt) / 2
        path.cubicTo(QPointF(xa, middle), QPointF(xt, middle), QPointF(xt, yt))
        pen = QPen(thread, 3.0 if held else 1.8)
        if not held:
            pen.setDashPattern([4.5, 2.6])
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        for side, x, y in (("athlete", xa, ya), ("twin", xt, yt)):
            analysis = self.desk.analysis(side)
            assert analysis is not None
            event = analysis.events[stop]
            self._paint_interval(painter, side, event.time, event.interval / 1000, y)
            by_hand = event.source != DETECTED
            radius = 6.5 if (side, stop) == self._over or held else 5.0
            painter.setPen(QPen(thread, 2))
            painter.setBrush(thread if by_hand else colour("panel"))
            painter.drawEllipse(QPointF(x, y), radius, radius)

    def _loose(self) -> list[tuple[str, str]]:
        """Ends without a stitch: stops that are proposed and not used, or that only one side has."""
        held = {side: self.desk.analysis(side) for side in SIDES}
        stitched = self.desk.stops()
        return [(side, stop) for stop in ORDER if stop not in stitched for side, one in held.items()
                if one is not None and one.proposal(stop) is not None]  # fmt: skip

    def _paint_loose(self, painter: QPainter, side: str, stop: str) -> None:
        """A proposal never looks like a stop that was found: an open lozenge, with a question mark when not used."""
        analysis = self.desk.analysis(side)
        assert analysis is not None
        x, y, asked = self.event_x(side, stop), self.rail_y(side), stop in analysis.withheld
        r = 8.0 if (side, stop) == self._over else 7.0
        shape = QPolygonF([QPointF(x, y - r), QPointF(x + r, y), QPointF(x, y + r), QPointF(x - r, y)])
        painter.setPen(QPen(colour("caution" if asked else "thread"), 1.6, Qt.PenStyle.DotLine))
        painter.setBrush(colour("paper"))
        painter.drawPolygon(shape)
        if asked:
            painter.setPen(colour("caution"))
            painter.setFont(font(-2.0, QFont.Weight.Bold))
            painter.drawText(QRectF(x - r, y - r, 2 * r, 2 * r), Qt.AlignmentFlag.AlignCenter, "?")

    def _paint_interval(self, painter: QPainter, side: str, time: float, spread: float, y: float) -> None:
        low, high = time - spread, time + spread
        if side == "twin":
            low, high = self.desk.alignment.to_athlete(low), self.desk.alignment.to_athlete(high)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("thread", 60))
        painter.drawRoundedRect(QRectF(self.x_of(low), y - 3.5, self.x_of(high) - self.x_of(low), 7), 3, 3)

    def _paint_labels(self, painter: QPainter) -> None:
        """Stop names above the athlete's rail, in two rows where they would touch."""
        ends = [-1e9, -1e9]
        y = self.rail_y("athlete")
        stitched, loose = self.desk.stops(), {stop: side for side, stop in reversed(self._loose())}
        for stop in (one for one in ORDER if one in stitched or one in loose):
            held = stop == self.desk.stop
            painter.setFont(font(-1.0, QFont.Weight.Bold if held else QFont.Weight.Normal))
            text = f"{key_of(stop)} {EVENTS[stop].short}{'?' if stop in loose else ''}"
            width = painter.fontMetrics().horizontalAdvance(text)
            at = self.event_x(loose.get(stop, "athlete"), stop)
            x = min(max(at - width / 2, 4.0), self.width() - width - 4.0)
            row = 0 if x > ends[0] + 8 else 1
            ends[row] = x + width
            top = y - 31 - 17 * row
            painter.setPen(colour("thread" if held else "caution" if stop in loose else "soft"))
            painter.drawText(QRectF(x, top, width + 2, 17), Qt.AlignmentFlag.AlignVCenter, text)
            if row:
                painter.setPen(QPen(colour("hairline"), 1))
                painter.drawLine(QPointF(at, top + 17), QPointF(at, y - 10))

    def _paint_phases(self, painter: QPainter) -> None:
        """Under the twin's rail: how much longer or shorter the athlete takes for the phases that matter."""
        y = self.rail_y("twin") + 13
        painter.setFont(font(-1.0))
        landing = LANDING[self.desk.landing]
        for first, last in _PHASES:
            a, b = (landing if s == "landing" else s for s in (first, last))
            if not {a, b} <= set(self.desk.stops()):
                continue
            lengths = [self._event_time(side, b) - self._event_time(side, a) for side in SIDES]
            more = (lengths[0] - lengths[1]) * 1000
            text = f"{EVENTS[a].short} → {EVENTS[b].short}   {more:+.0f} ms".replace("-", "−")
            x0, x1 = self.event_x("twin", a), self.event_x("twin", b)
            painter.setPen(QPen(colour("hairline"), 1))
            painter.drawLine(QPointF(x0 + 3, y), QPointF(x1 - 3, y))
            painter.setPen(colour("soft"))
            width = painter.fontMetrics().horizontalAdvance(text)
            centre = min(max((x0 + x1) / 2, width / 2 + 4), self.width() - width / 2 - 4)
            painter.drawText(QRectF(centre - width / 2 - 3, y + 2, width + 6, 18), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_playhead(self, painter: QPainter) -> None:
        for side in self.desk.others:
            if self.desk.analysis(side) is not None:
                x = self.x_of(self.desk.alignment_of(side).to_athlete(self.desk.time_of(side)))
                painter.setPen(QPen(side_colour("twin"), 2))
                painter.drawLine(QPointF(x, self.rail_y(side) - 8), QPointF(x, self.rail_y(side) + 8))
        for side in SIDES:
            time = self.desk.time_of(side)
            x = self.x_of(time if side == "athlete" else self.desk.alignment.to_athlete(time))
            y = self.rail_y(side)
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

    # handling ------------------------------------------------------------------------------------------------------
    def _handle_at(self, at: QPointF) -> tuple[str, str] | None:
        if self.desk.contrast is None:
            return None
        best: tuple[float, tuple[str, str]] | None = None
        for side in SIDES:
            if abs(at.y() - self.rail_y(side)) > _GRAB + 3:
                continue
            for stop in (*self.desk.stops(), *(one for other, one in self._loose() if other == side)):
                away = abs(at.x() - self.event_x(side, stop))
                if away <= _GRAB and (best is None or away < best[0]):
                    best = (away, (side, stop))
        return best[1] if best else None

    def _stitch_at(self, at: QPointF) -> str | None:
        ya, yt = self.rail_y("athlete"), self.rail_y("twin")
        if self.desk.contrast is None or not ya + 12 < at.y() < yt - 12:
            return None
        share = (at.y() - ya) / (yt - ya)
        u = share * share * (3 - 2 * share)
        near = [
            (abs(at.x() - (self.event_x("athlete", s) * (1 - u) + self.event_x("twin", s) * u)), s)
            for s in self.desk.stops()
        ]
        best = min(near, default=(99.0, ""))
        return best[1] if best[0] < 8 else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self.desk.contrast is None:
            return
        self.desk.play(0)
        handle = self._handle_at(event.position())
        stitch = self._stitch_at(event.position())
        if handle is not None:
            self._drag = _Drag(*handle, self._event_time(*handle))
            self.desk.hold(handle[1])
        elif stitch is not None:
            self.desk.hold(stitch)
        else:
            self._scrubbing = True
            self.desk.go(self.time_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag.time = self._allowed(self._drag, event.position().x())
            self.update()
        elif self._scrubbing:
            self.desk.go(self.time_at(event.position().x()))
        else:
            over = self._handle_at(event.position())
            if over != self._over:
                self._over = over
                self.setToolTip(self._words_for(over))
                self.update()
            shape = Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor
            if over is None and self._stitch_at(event.position()):
                shape = Qt.CursorShape.PointingHandCursor
            self.setCursor(shape)

    def _allowed(self, drag: _Drag, x: float) -> float:
        """The dragged instant, kept between its neighbours."""
        time = self.time_at(x)
        if drag.side == "twin":
            time = self.desk.alignment.to_twin(time)
        analysis = self.desk.analysis(drag.side)
        assert analysis is not None
        i = ORDER.index(drag.stop)
        before = [analysis.events[s].time for s in ORDER[:i] if s in analysis.events]
        after = [analysis.events[s].time for s in ORDER[i + 1 :] if s in analysis.events]
        first, last = (float(t) for t in analysis.motion.times[[0, -1]])
        low = max(before, default=first)
        return float(np.clip(time, low, max(min(after, default=last), low)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag, self._scrubbing = self._drag, None, False
        if drag is not None and abs(drag.time - self._event_time(drag.side, drag.stop)) > 1e-4:
            self.corrected.emit(drag.side, drag.stop, drag.time)
        self.update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        """The ring is for those who come by keyboard."""
        self._ringed = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._drag is not None:
            self._drag = None
            self.update()
            return
        super().keyPressEvent(event)

    def _words_for(self, over: tuple[str, str] | None) -> str:
        if over is None:
            return ""
        analysis = self.desk.analysis(over[0])
        assert analysis is not None
        e = analysis.proposal(over[1])
        assert e is not None
        kind = EVENTS[e.id]
        asked = f"\nNot used, since {analysis.withheld[e.id].why}." if e.id in analysis.withheld else ""
        return (
            f"{kind.label} ({kind.usual}), {over[0]}: {e.time:.3f} s ± {e.interval:.0f} ms, {e.source}.{asked}\n"
            f"{kind.definition}\nDrag to correct."
        )
