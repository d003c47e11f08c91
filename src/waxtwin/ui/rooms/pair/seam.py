"""The seam: two time rails held together by stitches, the one control for time.

Scrub on it, click a stitch to hold both sides at that stop, drag a stitch's end to correct an event.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QFont, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from waxtwin.core.stops import EVENTS, LANDING, ORDER
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import key_of, stop_words
from waxtwin.ui.rooms.pair.kept_pictures import KeptPictures
from waxtwin.ui.rooms.pair.seam_axis import SeamAxis, between_neighbours, set_by_hand
from waxtwin.ui.rooms.pair.seam_motion import Pull
from waxtwin.ui.rooms.pair.seam_paint import (
    paint_lozenge,
    paint_phase,
    paint_playhead,
    paint_rail,
    paint_thin_rail,
    paint_tie,
)
from waxtwin.ui.rooms.pair.spoken import speak_seam
from waxtwin.ui.shared.theme import colour, font, side_colour

if TYPE_CHECKING:
    from waxtwin.library.pairs import Tie

_TICK = 0.05  # s between ticks, which show where time is widened
_GRAB, _HEIGHT = 9, 158  # px
_PITCH = 24  # px: how far apart the rails of further twins lie
_PHASES = (("peak_knee", "landing"), ("landing", "release"))


@dataclass
class _Drag:
    side: str
    stop: str
    time: float


class Seam(QWidget):
    """Two rails, athlete above and twin below. `corrected(side, stop, seconds)` when a stitch's end was dragged."""

    corrected = Signal(str, str, float)

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self._drag: _Drag | None = None
        self._scrubbing = False
        self._ringed = False
        self._axis, self._hung, self._pull = SeamAxis(desk), desk.clock.alignment, Pull(self)
        self._stills = KeptPictures("paper", most=8)  # each with another stop held
        self._over: tuple[str, str] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(_HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("seam")
        desk.listen(self._measure, Topic.PAIR, Topic.FIGURES, Topic.ALIGNMENT, Topic.OTHERS)
        shown = (Topic.PAIR, Topic.FIGURES, Topic.OTHERS, Topic.TIME, Topic.ALIGNMENT, Topic.LANDING, Topic.KEPT)
        desk.listen(lambda _: self.update(), *shown)
        desk.listen(lambda _: speak_seam(self), *shown)

    def _measure(self, topic: Topic) -> None:
        """Other stops: another axis; other twins: another height."""
        if topic == Topic.ALIGNMENT:
            self._pull.begin(self._axis, self._hung)
        self._axis, self._hung = SeamAxis(self.desk), self.desk.clock.alignment
        if topic in (Topic.PAIR, Topic.OTHERS):
            self.setMinimumHeight(_HEIGHT + _PITCH * len(self.desk.pair.others))

    # geometry ------------------------------------------------------------------------------------------------------
    def x_of(self, time: float) -> float:
        """Where an instant of the athlete's clock lies, in pixels."""
        return self._pull.of_athlete(self._axis.x_of(time, self.width()), time, self.width())

    def _twin_x(self, time: float) -> float:
        x = self._axis.x_of(self.desk.clock.alignment.to_athlete(time), self.width())
        return self._pull.of_twin(x, time, self.width())

    def time_at(self, x: float) -> float:
        """The instant of the athlete's clock at a pixel."""
        return self._axis.time_at(x, self.width())

    def event_x(self, side: str, stop: str) -> float:
        """Where a stop's stitch ends on a rail, in pixels."""
        time = self._event_time(side, stop)
        return self.x_of(time) if side == "athlete" else self._twin_x(time)

    def rail_y(self, side: str) -> float:
        """The middle of a rail, in pixels."""
        if side == "athlete":
            return 58.0
        twin = self.height() - 40.0 - _PITCH * len(self.desk.pair.others)
        return twin if side == "twin" else twin + 36.0 + _PITCH * (list(self.desk.pair.others).index(side))

    def _event_time(self, side: str, stop: str) -> float:
        if self._drag is not None and (self._drag.side, self._drag.stop) == (side, stop):
            return self._drag.time
        analysis = self.desk.pair.analysis(side)
        event = None if analysis is None else analysis.proposal(stop)
        assert event is not None
        return event.time

    # painting ------------------------------------------------------------------------------------------------------
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.desk.pair.measured_sides:
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
        """Everything but the playheads, painted anew only when it changed: playing must be smooth, also past stops."""
        drag, pair, clock = self._drag, self.desk.pair, self.desk.clock
        results, alignment = pair.contrast or pair.analysis(pair.lead_side), clock.alignment
        state = (clock.stop, pair.landing, self._over, drag and drag.time, clock.tie, pair.ties, self._pull.share)
        of = (results, alignment, *map(pair.analysis, pair.others))
        return self._stills.picture(self.size(), self.devicePixelRatioF(), of, state, self._paint_still)

    def _paint_still(self, painter: QPainter) -> None:
        for side in self.desk.pair.measured_sides:
            self._paint_rail(painter, side)
        for stop in self.desk.pair.stops():
            if self.desk.pair.complete:
                self._paint_stitch(painter, stop)
            else:
                self._paint_ends(painter, stop, stop == self.desk.clock.stop)
        for side, stop in self._loose():
            self._paint_loose(painter, side, stop)
        for tie in self.desk.pair.ties:
            paint_tie(painter, self._tie_ends(tie), tie.name, held=tie == self.desk.clock.tie)
        self._paint_labels(painter)
        self._paint_phases(painter)
        for side in self.desk.pair.others:
            self._paint_thin_rail(painter, side)

    def _paint_rail(self, painter: QPainter, side: str) -> None:
        analysis = self.desk.pair.analysis(side)
        assert analysis is not None
        y = self.rail_y(side)
        ends = [float(t) for t in analysis.motion.times[[0, -1]]]
        x0, x1 = map(self._twin_x if side == "twin" else self.x_of, ends)
        if side == "twin":
            ends = [self.desk.clock.alignment.to_athlete(t) for t in ends]
        ticks = [self.x_of(float(at)) for at in np.arange(np.ceil(ends[0] / _TICK) * _TICK, ends[1], _TICK)]
        paint_rail(painter, (x0, x1), y, side, [self.event_x(side, s) for s in self.desk.pair.stops()], ticks)

    def _paint_thin_rail(self, painter: QPainter, side: str) -> None:
        """A further twin's rail: its stops where they fall on the athlete's clock, with its name."""
        analysis = self.desk.pair.analysis(side)
        if analysis is None:
            return
        align, y = self.desk.clock.alignment_of(side), self.rail_y(side)
        x0, x1 = (self.x_of(align.to_athlete(float(t))) for t in analysis.motion.times[[0, -1]])
        at = {stop: self.x_of(align.to_athlete(analysis.events[stop].time))
              for stop in self.desk.pair.stops() if stop in analysis.events}  # fmt: skip
        dots = [(x, stop == self.desk.clock.stop) for stop, x in at.items()]
        paint_thin_rail(painter, (x0, x1), y, dots, side, self.desk.pair.others[side].title)

    def _paint_stitch(self, painter: QPainter, stop: str) -> None:
        xa, xt = self.event_x("athlete", stop), self.event_x("twin", stop)
        ya, yt = self.rail_y("athlete"), self.rail_y("twin")
        held = stop == self.desk.clock.stop
        path, middle = QPainterPath(QPointF(xa, ya)), (ya + yt) / 2
        path.cubicTo(QPointF(xa, middle), QPointF(xt, middle), QPointF(xt, yt))
        pen = QPen(colour("thread"), 3.0 if held else 1.8)
        if not held:
            pen.setDashPattern([4.5, 2.6])
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        self._paint_ends(painter, stop, held)

    def _paint_ends(self, painter: QPainter, stop: str, held: bool) -> None:
        """Where a stop lies on the rails, filled where somebody set it."""
        thread = colour("thread")
        for side in self.desk.pair.measured_sides:
            analysis, x, y = self.desk.pair.analysis(side), self.event_x(side, stop), self.rail_y(side)
            assert analysis is not None
            event = analysis.events[stop]
            self._paint_interval(painter, side, event.time, event.interval / 1000, y)
            radius = 6.5 if (side, stop) == self._over or held else 5.0
            painter.setPen(QPen(thread, 2))
            painter.setBrush(thread if set_by_hand(analysis, stop) else colour("panel"))
            painter.drawEllipse(QPointF(x, y), radius, radius)

    def _tie_ends(self, tie: Tie) -> tuple[QPointF, QPointF]:
        """Where a tied moment lies on the athlete's and the twin's rail."""
        ours, theirs = self.x_of(tie.athlete), self._twin_x(tie.twin)
        return QPointF(ours, self.rail_y("athlete")), QPointF(theirs, self.rail_y("twin"))

    def _tie_at(self, at: QPointF) -> Tie | None:
        """The tied moment whose thread lies under a point between the rails."""
        ya, yt = self.rail_y("athlete"), self.rail_y("twin")
        if self.desk.pair.contrast is None or not ya - 5 < at.y() < yt + 5:
            return None
        for tie in self.desk.pair.ties:
            one, two = self._tie_ends(tie)
            if abs(one.x() + (two.x() - one.x()) * (at.y() - ya) / (yt - ya) - at.x()) < 6:
                return tie
        return None

    def _loose(self) -> list[tuple[str, str]]:
        """Ends without a stitch: stops that are proposed and not used, or that only one side has."""
        held = {side: self.desk.pair.analysis(side) for side in SIDES}
        stitched = self.desk.pair.stops()
        return [(side, stop) for stop in ORDER if stop not in stitched for side, one in held.items()
                if one is not None and one.proposal(stop) is not None]  # fmt: skip

    def _paint_loose(self, painter: QPainter, side: str, stop: str) -> None:
        """A proposal never looks like a stop that was found, or set."""
        analysis = self.desk.pair.analysis(side)
        assert analysis is not None
        x, y, asked = self.event_x(side, stop), self.rail_y(side), stop in analysis.withheld
        size = 8.0 if (side, stop) == self._over else 7.0
        paint_lozenge(painter, QPointF(x, y), size, asked=asked, by_hand=set_by_hand(analysis, stop))

    def _paint_interval(self, painter: QPainter, side: str, time: float, spread: float, y: float) -> None:
        x_of = self.x_of if side == "athlete" else self._twin_x
        low, high = x_of(time - spread), x_of(time + spread)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("thread", 60))
        painter.drawRoundedRect(QRectF(low, y - 3.5, high - low, 7), 3, 3)

    def _paint_labels(self, painter: QPainter) -> None:
        """Stop names above the athlete's rail, in two rows where they would touch."""
        ends = [-1e9, -1e9]
        y = self.rail_y(self.desk.pair.lead_side)
        stitched, loose = self.desk.pair.stops(), {stop: side for side, stop in reversed(self._loose())}
        for stop in (one for one in ORDER if one in stitched or one in loose):
            held = stop == self.desk.clock.stop
            painter.setFont(font(-1.0, QFont.Weight.Bold if held else QFont.Weight.Normal))
            doubt = stop in loose and not set_by_hand(self.desk.pair.analysis(loose[stop]), stop)
            text = f"{key_of(stop)} {EVENTS[stop].short}{'?' if doubt else ''}"
            width = painter.fontMetrics().horizontalAdvance(text)
            at = self.event_x(loose.get(stop, self.desk.pair.lead_side), stop)
            x = min(max(at - width / 2, 4.0), self.width() - width - 4.0)
            row = 0 if x > ends[0] + 8 else 1
            if row and x <= ends[1] + 8 and not held:
                continue  # a third name would lie over the other two; its end is on the rail
            ends[row] = x + width
            top = y - 31 - 17 * row
            painter.setPen(colour("thread" if held else "caution" if doubt else "soft"))
            painter.drawText(QRectF(x, top, width + 2, 17), Qt.AlignmentFlag.AlignVCenter, text)
            if row:
                painter.setPen(QPen(colour("hairline"), 1))
                painter.drawLine(QPointF(at, top + 17), QPointF(at, y - 10))

    def _paint_phases(self, painter: QPainter) -> None:
        """Under the twin's rail: how much longer or shorter the athlete takes for the phases that matter."""
        y = self.rail_y("twin") + 13
        if not self.desk.pair.complete:
            return
        painter.setFont(font(-1.0))
        landing = LANDING[self.desk.pair.landing]
        for first, last in _PHASES:
            a, b = (landing if s == "landing" else s for s in (first, last))
            if not {a, b} <= set(self.desk.pair.stops()):
                continue
            lengths = [self._event_time(side, b) - self._event_time(side, a) for side in SIDES]
            more = (lengths[0] - lengths[1]) * 1000
            text = f"{EVENTS[a].short} → {EVENTS[b].short}   {more:+.0f} ms".replace("-", "−")
            x0, x1 = self.event_x("twin", a), self.event_x("twin", b)
            paint_phase(painter, (x0, x1), y, text, self.width())

    def _paint_playhead(self, painter: QPainter) -> None:
        for side in self.desk.pair.others:
            if self.desk.pair.analysis(side) is not None:
                x = self.x_of(self.desk.clock.alignment_of(side).to_athlete(self.desk.clock.time_of(side)))
                painter.setPen(QPen(side_colour(side), 2))
                painter.drawLine(QPointF(x, self.rail_y(side) - 8), QPointF(x, self.rail_y(side) + 8))
        for side in self.desk.pair.measured_sides:
            time = self.desk.clock.time_of(side)
            x = self.x_of(time) if side == "athlete" else self._twin_x(time)
            y = self.rail_y(side)
            paint_playhead(painter, QPointF(x, y), side)

    # handling ------------------------------------------------------------------------------------------------------
    def _handle_at(self, at: QPointF) -> tuple[str, str] | None:
        best: tuple[float, tuple[str, str]] | None = None
        for side in self.desk.pair.measured_sides:
            if abs(at.y() - self.rail_y(side)) > _GRAB + 3:
                continue
            for stop in (*self.desk.pair.stops(), *(one for other, one in self._loose() if other == side)):
                away = abs(at.x() - self.event_x(side, stop))
                if away <= _GRAB and (best is None or away < best[0]):
                    best = (away, (side, stop))
        return best[1] if best else None

    def _stitch_at(self, at: QPointF) -> str | None:
        ya, yt = self.rail_y("athlete"), self.rail_y("twin")
        share = (at.y() - ya) / (yt - ya)
        if self.desk.pair.contrast is None or not ya + 12 < at.y() < yt - 12:
            return None
        u = share * share * (3 - 2 * share)
        near = [
            (abs(at.x() - (self.event_x("athlete", s) * (1 - u) + self.event_x("twin", s) * u)), s)
            for s in self.desk.pair.stops()
        ]
        best = min(near, default=(99.0, ""))
        return best[1] if best[0] < 8 else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or not self.desk.pair.measured_sides:
            return
        self.desk.clock.play(0)
        handle = self._handle_at(event.position())
        stitch = self._stitch_at(event.position())
        if handle is not None:
            self._drag = _Drag(*handle, self._event_time(*handle))
            self.desk.clock.hold(handle[1])
        elif stitch is not None:
            self.desk.clock.hold(stitch)
        elif (tie := self._tie_at(event.position())) is not None:
            self.desk.clock.hold_tie(tie)
        else:
            self._scrubbing = True
            self.desk.clock.go(self.time_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag.time = self._allowed(self._drag, event.position().x())
            self.update()
        elif self._scrubbing:
            self.desk.clock.go(self.time_at(event.position().x()))
        else:
            over = self._handle_at(event.position())
            if over != self._over:
                self._over = over
                self.setToolTip(self._words_for(over))
                self.update()
            shape = Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor
            if over is None and (self._stitch_at(event.position()) or self._tie_at(event.position())):
                shape = Qt.CursorShape.PointingHandCursor
            self.setCursor(shape)

    def _allowed(self, drag: _Drag, x: float) -> float:
        """The dragged instant, kept between its neighbours."""
        time = self.time_at(x)
        if drag.side == "twin":
            time = self.desk.clock.alignment.to_twin(time)
        analysis = self.desk.pair.analysis(drag.side)
        return time if analysis is None else between_neighbours(analysis, drag.stop, time)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag, self._scrubbing = self._drag, None, False
        if drag is not None and abs(drag.time - self._event_time(drag.side, drag.stop)) > 1e-4:
            self.corrected.emit(drag.side, drag.stop, drag.time)
        self.update()

    def focusInEvent(self, event: QFocusEvent) -> None:  # the ring is for those who come by keyboard
        self._ringed = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        super().focusInEvent(event)

    def cancel_drag(self) -> bool:
        """Let go of an end that is being dragged; whether there was one."""
        had, self._drag = self._drag is not None, None
        self.update()
        return had

    def _words_for(self, over: tuple[str, str] | None) -> str:
        analysis = None if over is None else self.desk.pair.analysis(over[0])
        return "" if over is None or analysis is None else stop_words(analysis, over[0], over[1])
