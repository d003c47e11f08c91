"""A stage: one side of the pair, as clip, wax figure or both, with its gauges."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFont,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from waxtwin.core.body import Body
from waxtwin.core.camera import project
from waxtwin.core.ghost import placing
from waxtwin.core.landmarks import INDEX
from waxtwin.core.measures import MEASURES
from waxtwin.core.motion import Motion
from waxtwin.core.stops import EVENTS, LANDING
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.display import VIEW_NAMES, VIEWS
from waxtwin.ui.model.gauges import ALWAYS, Stroke, marks
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import rows_at
from waxtwin.ui.rooms.pair.floor import Floor
from waxtwin.ui.rooms.pair.overlay import Frame, Overlay, Placed
from waxtwin.ui.rooms.pair.stage_clip import StageClip
from waxtwin.ui.shared.framing import Framing, solved_matrix
from waxtwin.ui.shared.gauge_paint import paint_marks, paint_tag
from waxtwin.ui.shared.theme import AMBER, TEAL, WAX, colour, font, side_colour
from waxtwin.ui.shared.wax_figure import figure_matrix, paint_figure

_TRAILS = ("throwing_hand", "head", "pelvis", "lead_knee")
_INSET, _INSET_ZOOM = 82.0, 2.6
_CLICK = 4  # px: a hand that moves less did not drag

_SHOWN = (
    Topic.PAIR, Topic.FIGURES, Topic.OTHERS, Topic.TIME, Topic.ALIGNMENT, Topic.DISPLAY, Topic.SELECTION, Topic.UNITS,
    Topic.LANDING, Topic.ALONE,
)  # fmt: skip


class Stage(QWidget):
    """Shows one side of the pair; turn the figure by dragging. `taken(side)` when it was clicked, to move by itself."""

    frame_ready = Signal(int)
    taken = Signal(str)

    def __init__(self, desk: Desk, side: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.side = desk, side
        self.tone = "athlete" if side == "athlete" else "twin"
        self.beside: Stage | None = None
        self._grip: QPointF | None = None
        self._pressed: QPointF | None = None
        self.clip = StageClip(self.frame_ready.emit)
        self._floor = Floor()
        self.setMinimumSize(200, 240)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(f"{side} stage")
        self.setToolTip("Click: only this side moves. Drag to turn the figures, double-click to turn them back")
        self.frame_ready.connect(self.update)
        desk.listen(lambda _: self.clip.close(), Topic.PAIR)
        desk.listen(lambda _: self._choose_clip(), Topic.PAIR, Topic.DISPLAY, Topic.FIGURES, Topic.OTHERS)
        desk.listen(lambda _: self.update(), *_SHOWN)

    # state ---------------------------------------------------------------------------------------------------------
    def _choose_clip(self) -> None:
        stored, display = self.desk.pair.stored_of(self.side), self.desk.view.display
        clips = stored.clips if stored else ()
        wanted = [c for c in clips if VIEW_NAMES.get(c.view) == display.camera] or list(clips)
        self.clip.show(wanted[0] if wanted and (display.shown != "figure" or self._is_bare()) else None)

    @property
    def shows_clip(self) -> bool:
        """Whether a clip is on this stage."""
        return self.clip.is_open

    def _is_bare(self) -> bool:
        """Whether there is only a clip, and no landmarks yet."""
        stored = self.desk.pair.stored_of(self.side)
        return stored is not None and stored.delivery.track.is_bare

    def _motion(self) -> Motion | None:
        analysis = self.desk.pair.analysis(self.side)
        return None if analysis is None else analysis.motion

    def _flips(self) -> bool:
        """Whether a left-hander is shown mirrored."""
        return self._is_left() and self.desk.view.display.mirrored

    def _as_shown(self, points: np.ndarray) -> np.ndarray:
        """Canonical points, or a left-hander's turned back to the true side."""
        return points * np.array([1.0, -1.0, 1.0]) if self._is_left() and not self._flips() else points

    def _is_left(self) -> bool:
        stored = self.desk.pair.stored_of(self.side)
        return bool(stored and stored.delivery.throws == "L")

    # painting ------------------------------------------------------------------------------------------------------
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("stage"))
        motion = self._motion()
        if motion is None:
            known = self.desk.pair.stored_of(self.side) is not None
            words = "working…" if known else f"No {self.side} yet. Choose one on the Bench."
            painter.setPen(colour("stage_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            self._paint_band(painter)
            return
        time = self.desk.clock.time_of(self.side)
        if self.shows_clip and self._paint_clip(painter, time):
            matrix = self._framing().matrix()
            if self.clip.late:  # whatever is drawn and written belongs to the frame that is seen
                time = self.clip.seen_time or time
            points = self._points(motion, time)
        elif motion.is_bare:
            points = matrix = None
        else:
            points = self._points(motion, time)
            matrix = self.figure_matrix(motion)
            analysis, ratio = self.desk.pair.analysis(self.side), self.devicePixelRatioF()
            painter.drawPixmap(0, 0, self._floor.picture(matrix, motion, analysis, self.size(), ratio))
        if matrix is not None and points is not None:
            self._paint_bodies(painter, matrix, points, motion, time)
            self._paint_inset(painter, matrix, points, motion, time)
        self._paint_words(painter, time, points is not None)
        self._paint_band(painter)

    def _paint_bodies(
        self, painter: QPainter, matrix: np.ndarray, points: np.ndarray, motion: Motion, time: float
    ) -> None:
        """The figure where it is wanted, the other side over it, trails and gauges."""
        display = self.desk.view.display
        over = self._overlay(points) if display.ghost else None
        if over is not None and self.shows_clip:
            over.paint_frame(painter, matrix, self._other_frame())
        if display.shown != "clip" or not self.shows_clip:
            if over is not None:
                over.paint_figure(painter, matrix)
            painter.save()
            painter.setOpacity(0.78 if self.clip.clip is not None else 1.0 if over is None else over.own_opacity)
            if over is not None:
                over.clip_own(painter)
            paint_figure(painter, matrix, points, motion.height, WAX[self.tone])
            painter.restore()
        if over is not None:
            over.paint_edge(painter)
        if display.trails:
            for name in _TRAILS:
                path = Stroke(self._path(name, motion, time))
                paint_marks(painter, matrix, [path], lit=False)
        if display.gauges:
            self._paint_gauges(painter, matrix, points, motion, time)

    def _overlay(self, points: np.ndarray) -> Overlay | None:
        """The other side at the instant that it shows itself, laid over the body on this stage."""
        other_side = "twin" if self.side == "athlete" else "athlete"  # further twins are laid over the athlete
        under, other = self.desk.pair.analysis(self.side), self.desk.pair.analysis(other_side)
        if under is None or other is None:
            return None
        theirs = other.motion.body_at(self.desk.clock.time_of(other_side))
        display = self.desk.view.display
        scale, shift = placing(theirs, other, self._as_shown(points), under, origin=display.ghost,
                               matched=display.matched)  # fmt: skip
        turned = self._as_shown(np.ones(3))
        body = Placed(theirs * scale + shift, scale, shift, turned, other.motion.height * scale, WAX[other_side])
        return Overlay(body, display.fade, display.split, self.width())

    def _other_frame(self) -> Frame | None:
        """The other stage's frame at its own instant, where both clips are seen from the same side."""
        if self.beside is None or self.clip.clip is None:
            return None
        return self.beside.frame_at_hand(VIEW_NAMES.get(self.clip.clip.view, ""))

    def frame_at_hand(self, view: str) -> Frame | None:
        """The frame that belongs to this stage's instant, when its clip is of that view and its camera is solved."""
        clip = self.clip.clip
        if clip is None or not self.shows_clip or clip.camera is None or VIEW_NAMES.get(clip.view) != view:
            return None
        if not self.clip.fetch(self.desk.clock.time_of(self.side)) or self.clip.image is None:
            return None
        return Frame(self.clip.image, solved_matrix(clip.camera, self.clip.size), view, mirrored=self._is_left())

    def _paint_inset(
        self, painter: QPainter, matrix: np.ndarray, points: np.ndarray, motion: Motion, time: float
    ) -> None:
        """A round in the corner that follows a joint and shows it enlarged."""
        name = self.desk.view.display.inset
        joint = points[INDEX[name]] if name else np.full(3, np.nan)
        if np.isnan(joint).any():
            return
        at, _ = project(matrix, joint)
        middle = self._far_corner(QPointF(*at))
        round_ = QPainterPath()
        round_.addEllipse(middle, _INSET, _INSET)
        painter.save()
        painter.setClipPath(round_)
        painter.fillRect(self.rect(), colour("stage"))
        painter.translate(middle)
        painter.scale(_INSET_ZOOM, _INSET_ZOOM)
        painter.translate(-QPointF(*at))
        if self.shows_clip:
            self._draw_frame(painter)
        self._paint_bodies(painter, matrix, points, motion, time)
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(side_colour(self.tone, soft=True), 2))
        painter.drawEllipse(middle, _INSET, _INSET)

    def _far_corner(self, joint: QPointF) -> QPointF:
        """Middle of a round in the corner that is farthest from a joint."""
        room = _INSET + 12
        corners = [QPointF(x, y) for x in (room, self.width() - room) for y in (34 + room, self.height() - room)]
        return max(corners, key=lambda corner: (corner - joint).manhattanLength())

    def _points(self, motion: Motion, time: float) -> np.ndarray | None:
        """The body `(landmarks, 3)` as shown: canonical, or in its true frame; None outside the track."""
        points = motion.body_at(time)
        if np.isnan(points).all():
            return None
        return self._as_shown(points)

    def figure_matrix(self, motion: Motion) -> np.ndarray:
        """Projection of the turned figure into this widget."""
        azimuth, elevation = (
            math.radians(self.desk.view.display.azimuth),
            math.radians(self.desk.view.display.elevation),
        )
        if self._is_left() and not self._flips():
            azimuth = math.pi - azimuth  # the open side of a left-hander is the other one
        return figure_matrix((self.width(), self.height()), motion.height, azimuth, elevation)

    def _paint_clip(self, painter: QPainter, time: float) -> bool:
        """The frame of this instant; False while nothing of the clip is at hand."""
        if not self.clip.fetch(time):
            return False
        self._draw_frame(painter)
        return True

    def _draw_frame(self, painter: QPainter) -> None:
        """The frame at hand, laid over the stage."""
        if self.clip.image is not None:
            self._framing().draw(painter, self.clip.image)

    def _framing(self) -> Framing:
        """How the clip lies on the stage, as the viewer sees it."""
        motion, clip = self._motion(), self.clip.clip
        height, camera = None if motion is None else motion.height, None if clip is None else clip.camera
        box = (self.width(), self.height())
        return Framing.fit(self.clip.size, box, camera, height, flips=self._flips(), whole=self._is_bare())

    def _paint_gauges(
        self, painter: QPainter, matrix: np.ndarray, points: np.ndarray, motion: Motion, time: float
    ) -> None:
        selected = MEASURES[self.desk.view.lit].gauge if self.desk.view.lit else None
        quiet = list(ALWAYS)
        if self.desk.pair.contrast is not None:
            rows = rows_at(self.desk.pair.contrast.rows, self.desk.clock.stop, self.desk.pair.landing)
            quiet += [r.measure.gauge for r in rows if r.apart][:3]
        body = Body(points)
        for gauge in dict.fromkeys(quiet):
            if gauge and gauge != selected:
                paint_marks(painter, matrix, marks(gauge, body), lit=False)
        if selected:
            paint_marks(painter, matrix, marks(selected, body, self._trail(selected, motion, time)), lit=True)

    def _trail(self, gauge: str, motion: Motion, time: float) -> np.ndarray | None:
        if not gauge.startswith("trail:"):
            return None
        return self._path(gauge.removeprefix("trail:"), motion, time)

    def _path(self, name: str, motion: Motion, time: float) -> np.ndarray:
        """Where a landmark was and will be around an instant: `(frames, 3)` as shown."""
        path = motion.body.seen(motion.body.at(name)[0])
        near = np.abs(motion.times - time) < 0.35
        return self._as_shown(path[near & ~np.isnan(path[:, 2])])

    def _paint_words(self, painter: QPainter, time: float, seen: bool) -> None:
        """Which stop, how far from it, the clock, and below what is to be known about what is seen."""
        painter.fillRect(QRectF(0, 0, self.width(), 34), QColor(20, 24, 27, 150))
        painter.setFont(font(0.5, QFont.Weight.DemiBold))
        painter.setPen(side_colour(self.tone, soft=True))
        stored, middle = self.desk.pair.stored_of(self.side), Qt.AlignmentFlag.AlignVCenter
        # narrow stages: the stop stands beside them and on the seam
        text = stored.title if self.desk.pair.others and stored is not None else self._stop_words(time)
        painter.drawText(QRectF(14, 0, self.width() - 84, 34), middle, text)
        painter.setPen(QColor(233, 228, 218, 190))
        painter.setFont(font(-0.5))
        clock = f"{time:.3f} s".replace("-", "−")
        painter.drawText(QRectF(0, 0, self.width() - 14, 34), middle | Qt.AlignmentFlag.AlignRight, clock)
        notes = self._notes(seen)
        if notes:
            paint_tag(painter, QPointF(12, self.height() - 20), "  ·  ".join(notes), QColor("#E9E4DA"))

    def _stop_words(self, time: float) -> str:
        """The held stop and how far the instant is from it."""
        analysis, stop, tie = self.desk.pair.analysis(self.side), self.desk.clock.stop, self.desk.clock.tie
        if tie is not None:
            return tie.name
        if analysis is None or stop is None or stop not in analysis.events:
            return ""
        off = (time - analysis.events[stop].time) * 1000
        name = EVENTS[stop].label + (" (landing)" if stop == LANDING[self.desk.pair.landing] else "")
        return f"{name}   {off:+.0f} ms".replace("-", "−") if abs(off) >= 0.5 else name

    def _notes(self, seen: bool) -> list[str]:
        """What is to be known about what is seen."""
        motion, clip, bare = self._motion(), self.clip.clip, self._is_bare()
        figure = self.desk.view.display.shown == "figure"
        unsolved = self.shows_clip and clip is not None and clip.camera is None
        found = (
            ("fetching the frame…", self.shows_clip and self.clip.late),
            ("no landmarks yet", bare and self.shows_clip),
            (self.clip.fault or "opening the clip…", bare and not self.shows_clip),
            ("outside this track", not seen and not bare),
            ("left-hander, shown mirrored", self._flips()),
            (self.clip.fault or "no clip; wax figure shown", not figure and not self.shows_clip and not bare),
            ("one camera: the figure is flat", motion is not None and motion.flat is not None and not self.shows_clip),
            ("camera not solved: no gauges on this clip", unsolved and not bare),
        )
        return [words for words, holds in found if holds]

    def _paint_band(self, painter: QPainter) -> None:
        tint = QColor(AMBER if self.side == "athlete" else TEAL)
        painter.fillRect(QRectF(0, 0, self.width(), 3), tint)
        alone = self.desk.clock.alone
        if alone and alone != self.side:
            painter.fillRect(self.rect(), QColor(20, 24, 27, 110))
        elif alone:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(tint, 6))
            painter.drawRect(self.rect())
            paint_tag(
                painter, QPointF(12, 52), "only this side moves  ·  Esc for both", side_colour(self.tone, soft=True)
            )

    # turning -------------------------------------------------------------------------------------------------------
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._grip = self._pressed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is None or self.clip.clip is not None:
            return
        moved = event.position() - self._grip
        self._grip = event.position()
        d = self.desk.view.display
        self.desk.view.show(
            azimuth=(d.azimuth - moved.x() * 0.5 + 180) % 360 - 180,
            elevation=float(np.clip(d.elevation + moved.y() * 0.4, -10, 89)),
            camera="free",
        )

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._grip, self._pressed = self._pressed, None, None
        if pressed is not None and (event.position() - pressed).manhattanLength() < _CLICK:
            self.taken.emit(self.side)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.taken.emit(self.side)  # its first half was a click
        azimuth, elevation = VIEWS["side"]
        self.desk.view.show(azimuth=azimuth, elevation=elevation, camera="side")
