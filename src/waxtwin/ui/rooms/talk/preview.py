"""What the film will show, at any instant of it, and the talk played with its voices."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QElapsedTimer, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from waxtwin.formats.talk import Talk
from waxtwin.talk.timeline import Placed, placed
from waxtwin.ui.rooms.talk.film_frame import SHAPES, FilmFrames
from waxtwin.ui.rooms.talk.film_stages import FilmPair, FilmStages
from waxtwin.ui.shared.theme import colour

_TICK_MS = 33


class Preview(QWidget):
    """`moved(seconds)` when another instant of the film is shown, `over` when it was played to its end."""

    moved = Signal(float)
    over = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(320, 200)
        self.setAccessibleName("the film as it will be")
        self._stages: FilmStages | None = None
        self._frames: FilmFrames | None = None
        self._talk = Talk()
        self._shape = SHAPES["720"]
        self.scenes: list[Placed] = []
        self.time = 0.0
        self._began = QElapsedTimer()
        self._from = 0.0
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)

    def sizeHint(self) -> QSize:
        return QSize(760, 428)

    def show_pair(self, pair: FilmPair | None) -> None:
        """Another pair, or none."""
        self.let_go()
        if pair is not None:
            self._stages = FilmStages(pair, patient=False)
            for stage in self._stages.stages.values():
                stage.frame_ready.connect(self._came)
        self._renew()

    def show_talk(self, talk: Talk) -> None:
        """Another talk, or the same with other scenes."""
        self._talk = talk
        self.scenes = placed(talk)
        self.go(min(self.time, self.seconds))
        self._renew()

    def _renew(self) -> None:
        """Everything painted anew, as fine as there is room."""
        self._frames = None
        self.update()

    def _came(self, _: int) -> None:
        """A frame of a clip is there that was waited for."""
        if self._frames is not None:
            self._frames.forget()
        self.update()

    @property
    def seconds(self) -> float:
        """How long the film is."""
        return self.scenes[-1].end if self.scenes else 0.0

    @property
    def playing(self) -> bool:
        """Whether it runs."""
        return self._timer.isActive()

    def at(self) -> Placed | None:
        """The scene that is shown."""
        before = [one for one in self.scenes if one.start <= self.time + 1e-6]
        return before[-1] if before else None

    def go(self, time: float) -> None:
        """Show another instant, s of the film."""
        time = min(max(time, 0.0), max(self.seconds - 1e-3, 0.0))
        if time != self.time:
            self.time = time
            self.moved.emit(time)
            self.update()

    def play(self, on: bool) -> None:
        """Run from here, from the start where it is at its end, or stand still."""
        if on and self.scenes:
            if self.time >= self.seconds - 0.05:
                self.go(0.0)
            self._from = self.time
            self._began.start()
            self._timer.start()
        else:
            self._timer.stop()

    def _tick(self) -> None:
        time = self._from + self._began.elapsed() / 1000
        if time >= self.seconds:
            self._timer.stop()
            self.go(self.seconds)
            self.over.emit()
            return
        self.go(time)

    def picture(self) -> QImage | None:
        """What is shown now."""
        scene = self.at()
        if scene is None or self._stages is None:
            return None
        if self._frames is None:
            scale = min(self.width() / self._shape.wide, self.height() / self._shape.tall) * self.devicePixelRatioF()
            fine = max(scale, 0.2)
            self._frames = FilmFrames(self._talk, self._stages, replace(self._shape, fine=fine), burned=True)
        return self._frames.at(scene, self.time)

    def resizeEvent(self, event: object) -> None:
        self._renew()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        picture = self.picture()
        if picture is None:
            painter.fillRect(self.rect(), colour("stage"))
            painter.setPen(colour("stage_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Nothing to be shown yet.")
            return
        size = picture.deviceIndependentSize()
        scale = min(self.width() / size.width(), self.height() / size.height())
        wide, tall = size.width() * scale, size.height() * scale
        corner = QPointF((self.width() - wide) / 2, (self.height() - tall) / 2)
        painter.drawImage(QRectF(corner.x(), corner.y(), wide, tall), picture)

    def let_go(self) -> None:
        """Let go of clips and the timer."""
        self._timer.stop()
        if self._stages is not None:
            self._stages.close()
        self._stages = self._frames = None
