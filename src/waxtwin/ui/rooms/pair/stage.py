"""A stage: one side of the pair, as clip, wax figure or both, with its gauges."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from waxtwin.core.body import Body
from waxtwin.core.camera import project
from waxtwin.core.ghost import placing
from waxtwin.core.joint_doubt import joint_doubt
from waxtwin.core.landmarks import INDEX
from waxtwin.core.measures import MEASURES
from waxtwin.core.motion import Motion
from waxtwin.figure.moving import body_at, pose_at
from waxtwin.figure.skin import heaviness, placed
from waxtwin.ui.model.desk import SECOND, Desk
from waxtwin.ui.model.display import BESIDE, VIEW_NAMES, VIEWS
from waxtwin.ui.model.gauges import ALWAYS, Stroke, from_rubber, marks
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import rows_at
from waxtwin.ui.rooms.pair.chalk_paint import paint_all_chalk
from waxtwin.ui.rooms.pair.doubt import paint_doubt, paint_halos
from waxtwin.ui.rooms.pair.overlay import Frame, Overlay, Placed
from waxtwin.ui.rooms.pair.pointing import paint_light
from waxtwin.ui.rooms.pair.spoken import speak_stage
from waxtwin.ui.rooms.pair.stage_clip import PatientClip, StageClip
from waxtwin.ui.rooms.pair.stage_figure import StageFigure
from waxtwin.ui.rooms.pair.stage_hands import StageHands
from waxtwin.ui.rooms.pair.stage_inset import paint_inset
from waxtwin.ui.rooms.pair.stage_words import paint_words
from waxtwin.ui.shared.chalk_place import StagePlace
from waxtwin.ui.shared.framing import Framing, solved_matrix
from waxtwin.ui.shared.gauge_paint import paint_marks, paint_tag
from waxtwin.ui.shared.theme import TONES, WAX, colour, side_colour
from waxtwin.ui.shared.wax_figure import figure_matrix

_TRAILS = ("throwing_hand", "head", "pelvis", "lead_knee")

_SHOWN = (
    Topic.PAIR, Topic.FIGURES, Topic.OTHERS, Topic.TIME, Topic.ALIGNMENT, Topic.DISPLAY, Topic.SELECTION, Topic.UNITS,
    Topic.LANDING, Topic.ALONE, Topic.CLOSEUP, Topic.READ_OFF,
    Topic.CHALK, Topic.FACTS,
)  # fmt: skip


class Stage(QWidget):
    """Shows one side of the pair; turn the figure by dragging. `taken(side)` when it was clicked, to move by itself.

    A `patient` one is painted when everything on it is there, as fine as it can be: for pictures that are kept.
    """

    frame_ready = Signal(int)
    taken = Signal(str)

    def __init__(self, desk: Desk, side: str, *, second: bool = False, patient: bool = False) -> None:
        super().__init__()
        self.desk, self.side, self._second = desk, side, second
        self.key = side + SECOND if second else side
        self.beside: Stage | None = None
        self.for_film = False  # whether what only the analyst needs to know is left out
        self.pointer: QPointF | None = None  # where a hand points while somebody speaks
        self.hands = StageHands(self)
        self.clip = PatientClip() if patient else StageClip(self.frame_ready.emit)
        self.figure = StageFigure(self, patient=patient)
        self._middle: tuple[float, float] | None = None  # of the whole picture, in shares, where a landmark is followed
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(f"{self.key} stage")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setToolTip(
            "Click: only this side moves. Wheel: nearer. Drag: turn the figures, or move a clip. Double click: all back"
        )
        self.frame_ready.connect(self.update)
        desk.listen(lambda _: self.clip.close(), Topic.PAIR)
        desk.listen(lambda _: self._choose_clip(), Topic.PAIR, Topic.DISPLAY, Topic.FIGURES, Topic.OTHERS)
        desk.listen(lambda _: self.update(), *_SHOWN)
        desk.listen(lambda _: speak_stage(self), Topic.TIME, Topic.PAIR, Topic.FIGURES, Topic.DISPLAY)

    # state ---------------------------------------------------------------------------------------------------------
    def _choose_clip(self) -> None:
        stored, display = self.desk.pair.stored_of(self.side), self.desk.view.display
        clips = stored.clips if stored else ()
        wanted = [c for c in clips if VIEW_NAMES.get(c.view) == display.camera] or list(clips)
        if self._second:  # another clip than the first stage's, from the side that it asks for if there is one
            others = [c for c in clips if c is not wanted[0]] if display.double else []
            wanted = [c for c in others if VIEW_NAMES.get(c.view) == self.camera] or others
        self.clip.show(wanted[0] if wanted and (display.shown != "figure" or self.is_bare) else None)

    @property
    def camera(self) -> str:
        """From where this stage shows figures, and prefers clips."""
        camera = self.desk.view.display.camera
        return BESIDE.get(camera, "front") if self._second else camera

    @property
    def shows_clip(self) -> bool:
        """Whether a clip is on this stage."""
        return self.clip.is_open

    @property
    def clip_name(self) -> str:
        """The file name of the clip that is seen, or ""."""
        clip = self.clip.clip
        return clip.path.name if clip is not None and self.shows_clip else ""

    @property
    def is_bare(self) -> bool:
        """Whether there is only a clip, and no landmarks yet."""
        motion, stored = self.motion, self.desk.pair.stored_of(self.side)
        return motion.is_bare if motion is not None else stored is not None and stored.delivery.track.is_bare

    @property
    def motion(self) -> Motion | None:
        """The motion on this stage, as far as it is known."""
        analysis = self.desk.pair.analysis(self.side)
        return None if analysis is None else analysis.motion

    @property
    def is_estimated(self) -> bool:
        """Whether the figure shows an estimate in space, not what was seen."""
        return self.figure.in_space() is not None

    @property
    def flips(self) -> bool:
        """Whether the picture is turned over: a left-hander by choice, and any stage by its own."""
        mirrored = self.is_left and self.desk.view.display.mirrored
        return mirrored != self.desk.closeups.of(self.key).turned

    @property
    def is_left(self) -> bool:
        """Whether the pitcher throws with the left hand."""
        stored = self.desk.pair.stored_of(self.side)
        return bool(stored and stored.delivery.throws == "L")

    @property
    def looks_left(self) -> bool:
        """Whether a left-hander is seen."""
        return self.is_left != self.flips

    def _as_shown(self, points: np.ndarray) -> np.ndarray:
        """Canonical points, or turned over where a left-hander is seen."""
        return points * np.array([1.0, -1.0, 1.0]) if self.looks_left else points

    def _nearer(self) -> np.ndarray:
        """Points of the whole picture to points of the stage `(3, 3)`: how near it is looked at."""
        closeup = self.desk.closeups.of(self.key)
        x, y = self._middle or (closeup.x, closeup.y)
        return replace(closeup, x=x, y=y).matrix(self.width(), self.height())

    def _keep_in_middle(self, points: np.ndarray | None, whole: Callable[[], np.ndarray | None]) -> None:
        """Find what lies in the middle, where a landmark is followed; `whole()` projects into the whole picture."""
        self._middle = None
        closeups = self.desk.closeups
        if not closeups.follow or closeups.of(self.key).zoom <= 1.0 or points is None:
            return
        joint, matrix = points[INDEX[closeups.follow]], whole()
        if matrix is not None and np.isfinite(joint).all():
            at, _ = project(matrix, joint)
            seen = closeups.of(self.key).seeing(float(at[0]) / self.width(), float(at[1]) / self.height())
            self._middle = seen.x, seen.y

    # painting ------------------------------------------------------------------------------------------------------
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("stage"))
        motion = self.motion
        if motion is None:
            known = self.desk.pair.stored_of(self.side) is not None
            words = "working…" if known else f"No {self.side} yet. Choose one on the Bench."
            painter.setPen(colour("stage_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            self._paint_band(painter)
            return
        time = self.desk.clock.time_of(self.side)
        matrix: np.ndarray | None = None
        if self.beside is not None:
            self.beside.figure.begin()
        if self.shows_clip and self.clip.fetch(time, self.desk.closeups.of(self.key)):
            if self.clip.late:  # whatever is drawn and written belongs to the frame that is seen
                time = self.clip.seen_time or time
            points = None if motion.is_bare else self._points(motion, time)
            self._keep_in_middle(points, lambda: self._whole_frame().matrix())
            self.draw_frame(painter)
            matrix = self._framing().matrix()
        elif motion.is_bare:
            points = None
        else:
            points = self._points(motion, time)
            self._keep_in_middle(points, lambda: self._whole_figure(motion))
            matrix = self.figure_matrix(motion)
            painter.drawPixmap(0, 0, self.figure.ground(matrix, motion))
        if matrix is not None and points is not None:
            self.paint_bodies(painter, matrix, points, motion, time)
            self.figure.begin(steps=1)
            paint_inset(painter, self, matrix, points, time)
        paint_all_chalk(painter, self)
        paint_words(painter, self, time, points is not None)
        self._paint_band(painter)
        if self.pointer is not None:
            paint_light(painter, self.pointer)

    def place(self) -> StagePlace | None:
        """Where chalk marks lie on this stage now; None where nothing is seen."""
        motion = self.motion
        if motion is None:
            return None
        clip = self.clip.clip if self.shows_clip else None
        time = self.desk.clock.time_of(self.side)
        if clip is not None and self.clip.late:
            time = self.clip.seen_time or time
        framing = None if clip is None else self._framing()
        bare = None if framing is not None or motion.is_bare else self.figure_matrix(motion)
        matrix = bare if framing is None else framing.matrix()
        across = clip.view if clip is not None else self.camera
        axis = 1 if across in ("front", "rear") else 0
        return StagePlace(motion, time, matrix, self._as_shown(np.ones(3)), framing, clip, axis, self.is_left)

    def paint_bodies(
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
            self._paint_own(painter, matrix, points, motion, time, over)
        if over is not None:
            over.paint_edge(painter)
        if display.trails:
            for name in _TRAILS:
                path = Stroke(self._path(name, motion, time))
                paint_marks(painter, matrix, [path], lit=False)
        if self.desk.view.reading:
            body = Body(points, motion.flat)
            paint_marks(painter, matrix, from_rubber(self.desk.view.read_point, body), lit=True)
        elif display.gauges:
            self._paint_gauges(painter, matrix, points, motion, time)

    def _paint_own(
        self, painter: QPainter, matrix: np.ndarray, points: np.ndarray, motion: Motion, time: float,
        over: Overlay | None,
    ) -> None:  # fmt: skip
        """This side's figure, an estimated one before what it might as well be."""
        painter.save()
        painter.setOpacity(0.78 if self.clip.clip is not None else 1.0 if over is None else over.own_opacity)
        if over is not None:
            over.clip_own(painter)
        else:
            found = self.figure.in_space()
            if found is not None:
                paint_doubt(painter, matrix, found, time, self._as_shown)
            paint_halos(painter, matrix, points, joint_doubt(motion, time, found))
        self.figure.paint(painter, matrix, motion, time)
        painter.restore()

    def _overlay(self, points: np.ndarray) -> Overlay | None:
        """The other side at the instant that it shows itself, laid over the body on this stage."""
        other_side = "twin" if self.side == "athlete" else "athlete"  # further twins are laid over the athlete
        under, other = self.desk.pair.analysis(self.side), self.desk.pair.analysis(other_side)
        if under is None or other is None:
            return None
        theirs = body_at(other.motion, self.desk.clock.time_of(other_side))
        display = self.desk.view.display
        scale, shift = placing(theirs, other, self._as_shown(points), under, origin=display.ghost,
                               matched=display.matched)  # fmt: skip
        turned = self._as_shown(np.ones(3))
        bones = placed(pose_at(other.motion, self.desk.clock.time_of(other_side)), scale, shift)
        body = Placed(bones, scale, shift, turned, other.motion.height * scale, WAX[other_side],
                      heaviness(other.delivery.mass, other.motion.height), self.figure.is_still)  # fmt: skip
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
        closeup = self.desk.closeups.of(self.key)
        if not self.clip.fetch(self.desk.clock.time_of(self.side), closeup) or self.clip.image is None:
            return None
        return Frame(self.clip.image, solved_matrix(clip.camera, self.clip.size), view, mirrored=self.is_left)

    def _points(self, motion: Motion, time: float) -> np.ndarray | None:
        """The body `(landmarks, 3)` as shown: canonical, or in its true frame; None outside the track."""
        points = body_at(self.figure.motion_of(motion), time)
        if np.isnan(points).all():
            return None
        return self._as_shown(points)

    def figure_matrix(self, motion: Motion) -> np.ndarray:
        """Projection of the turned figure into this widget, as near as it is looked at."""
        whole = self._whole_figure(motion)
        return whole if self.desk.closeups.of(self.key).zoom == 1.0 else np.asarray(self._nearer() @ whole)

    def body_matrix(self, motion: Motion) -> np.ndarray | None:
        """Projection of whatever body is on this stage: over its clip, where that one's camera is known, or turned."""
        return self._framing().matrix() if self.shows_clip else self.figure_matrix(motion)

    def _whole_figure(self, motion: Motion) -> np.ndarray:
        display = self.desk.view.display
        seen = VIEWS[self.camera] if self._second else (display.azimuth, display.elevation)
        azimuth, elevation = map(math.radians, seen)
        if self.looks_left:
            azimuth = math.pi - azimuth  # the open side of a left-hander is the other one
        return figure_matrix((self.width(), self.height()), motion.height, azimuth, elevation)

    def draw_frame(self, painter: QPainter) -> None:
        """The frame at hand, laid over the stage."""
        if self.clip.image is not None:
            self._framing().draw(painter, self.clip.image)

    def _framing(self) -> Framing:
        """How the clip lies on the stage, as near as it is looked at."""
        return self._whole_frame().nearer(self._nearer())

    def _whole_frame(self) -> Framing:
        motion, clip = self.motion, self.clip.clip
        height, camera = None if motion is None else motion.height, None if clip is None else clip.camera
        box = (self.width(), self.height())
        return Framing.fit(self.clip.size, box, camera, height, flips=self.flips, whole=self.is_bare)

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

    def _paint_band(self, painter: QPainter) -> None:
        tint = QColor(TONES[self.side].rail)
        painter.fillRect(QRectF(0, 0, self.width(), 3), tint)
        alone = self.desk.clock.alone
        if alone and alone != self.side:
            painter.fillRect(self.rect(), QColor(20, 24, 27, 110))
        elif alone:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(tint, 6))
            painter.drawRect(self.rect())
            paint_tag(
                painter, QPointF(12, 52), "only this side moves  ·  Esc for both", side_colour(self.side, soft=True)
            )
