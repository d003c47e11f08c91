"""The tape under the picture: the clip's length, its trim, how far each frame is trusted, its stops, the playhead."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import Marks
from waxtwin.core.repair import find_outliers
from waxtwin.core.stops import EVENTS
from waxtwin.library.preparing import doubtful
from waxtwin.ui.rooms.prepare.state import PrepareState
from waxtwin.ui.shared.theme import colour, font

_EDGE, _HANDLE = 16, 9
_TOP, _BOTTOM = 20, 22


class Tape(QWidget):
    """Scrub on it; drag its two ends to trim. `trimmed(first, last)` in seconds of the clip."""

    trimmed = Signal(float, float)

    def __init__(self, state: PrepareState) -> None:
        super().__init__()
        self.state = state
        self._drag = ""
        self._trim: tuple[float, float] | None = None
        self._strip: tuple[object, np.ndarray, np.ndarray] | None = None
        self.setFixedHeight(86)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setAccessibleName("tape of the clip")
        self.setToolTip("Drag along it to look; drag its ends to trim. High and pale: landmarks are trusted.")
        state.listen(lambda _: self.update())

    def _span(self) -> float:
        return float(self.state.times[-1]) if self.state.times.size > 1 else 1.0

    def _x(self, time: float) -> float:
        return _EDGE + (self.width() - 2 * _EDGE) * time / self._span()

    def time_at(self, x: float) -> float:
        """Seconds of the clip at a place on the tape."""
        return float(np.clip((x - _EDGE) / (self.width() - 2 * _EDGE), 0, 1)) * self._span()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        view = self.state.view
        if view is None or self.state.times.size < 2:
            return
        box = QRectF(_EDGE, _TOP, self.width() - 2 * _EDGE, self.height() - _TOP - _BOTTOM)
        painter.fillRect(box, colour("rail"))
        self._paint_trust(painter, box)
        first, last = self._trim or view.trim
        last = min(last, self._span())
        shade = QColor(colour("paper"))
        shade.setAlpha(190)
        painter.fillRect(QRectF(box.left(), box.top(), self._x(first) - box.left(), box.height()), shade)
        painter.fillRect(QRectF(self._x(last), box.top(), box.right() - self._x(last), box.height()), shade)
        for time in (first, last):
            painter.setPen(QPen(colour("ink"), 2))
            painter.drawLine(QPointF(self._x(time), box.top() - 4), QPointF(self._x(time), box.bottom() + 4))
            painter.setBrush(colour("ink"))
            painter.drawEllipse(QPointF(self._x(time), box.bottom() + 5), 3.5, 3.5)
        self._paint_stops(painter, box)
        x = self._x(self.state.time)
        painter.setPen(QPen(colour("thread"), 2))
        painter.drawLine(QPointF(x, box.top() - 6), QPointF(x, box.bottom() + 3))

    def _paint_trust(self, painter: QPainter, box: QRectF) -> None:
        """Trust as a height over the tape; frames with stray marks carry a tick below it."""
        found = self._trust()
        if found is None:
            return
        times, trust, stray = found
        points = [QPointF(self._x(float(t)), box.bottom() - box.height() * 0.9 * float(v))
                  for t, v in zip(times, trust, strict=True)]  # fmt: skip
        outline = QPolygonF([QPointF(points[0].x(), box.bottom()), *points, QPointF(points[-1].x(), box.bottom())])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("soft", 90))
        painter.drawPolygon(outline)
        painter.setPen(QPen(colour("caution"), 1))
        for t in times[stray]:
            x = self._x(float(t))
            painter.drawLine(QPointF(x, box.bottom() - 7), QPointF(x, box.bottom()))

    def _trust(self) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:
        view = self.state.view
        marks = None if view is None else view.marks
        if view is None or marks is None:
            return None
        key = (marks, self.state.landmark, view.clock.slow)
        if self._strip is None or self._strip[0] != key:
            self._strip = (key, *_trust_in(marks, self.state.landmark, view.clock.slow))
        return marks.times, self._strip[1], self._strip[2]

    def _paint_stops(self, painter: QPainter, box: QRectF) -> None:
        view, analysis = self.state.view, self.state.analysis
        if view is None or analysis is None:
            return
        painter.setFont(font(-2))
        taken = -1e9
        withheld = [one.event for one in analysis.withheld.values()]
        for event in (*analysis.events.values(), *withheld):
            x = self._x(view.clock.to_clip(event.time))
            asked = event in withheld
            painter.setPen(QPen(colour("caution" if asked else "thread"), 1.4,
                                Qt.PenStyle.DotLine if asked else Qt.PenStyle.SolidLine))  # fmt: skip
            painter.drawLine(QPointF(x, box.top() - 3), QPointF(x, box.bottom()))
            words = EVENTS[event.id].short + ("?" if asked else "")
            wide = painter.fontMetrics().horizontalAdvance(words)
            if x - wide / 2 > taken + 6:
                painter.setPen(colour("soft"))
                painter.drawText(QPointF(x - wide / 2, box.top() - 6), words)
                taken = x + wide / 2

    # hand ----------------------------------------------------------------------------------------------------------
    def mousePressEvent(self, event: QMouseEvent) -> None:
        view = self.state.view
        if view is None:
            return
        x = event.position().x()
        ends = {"first": self._x(view.trim[0]), "last": self._x(min(view.trim[1], self._span()))}
        near = min(ends, key=lambda end: abs(ends[end] - x))
        low = event.position().y() > self.height() - _BOTTOM - 6
        self._drag = near if abs(ends[near] - x) < _HANDLE and low else "look"
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        view = self.state.view
        if not self._drag or view is None:
            return
        time = self.time_at(event.position().x())
        if self._drag == "look":
            self.state.go_to_time(time)
            return
        first, last = self._trim or view.trim
        self._trim = (min(time, last - 0.3), last) if self._drag == "first" else (first, max(time, first + 0.3))
        self.state.go_to_time(time)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, trim = self._drag, self._trim
        self._drag, self._trim = "", None
        if drag in ("first", "last") and trim is not None:
            self.trimmed.emit(*trim)
        self.update()


def _trust_in(marks: Marks, landmark: str | None, slow: float) -> tuple[np.ndarray, np.ndarray]:
    """Trust `(frames,)` 0 to 1 in one landmark or in all, and the frames with stray marks `(frames,)`."""
    stray = find_outliers(marks, slow)
    if landmark is None:
        return doubtful(marks), np.asarray(stray.any(axis=1))
    j = INDEX[landmark]
    return np.where(marks.seen[:, j], marks.confidence[:, j], 0.0), np.asarray(stray[:, j])
