"""Prepare: one throw from raw clip to trusted track, in the order an analyst goes."""

from __future__ import annotations

from time import monotonic

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout

from waxtwin.library.preparing import STEPS
from waxtwin.ui.rooms.prepare.camera_page import CameraPage
from waxtwin.ui.rooms.prepare.clip_page import ClipPage
from waxtwin.ui.rooms.prepare.flow import PrepareFlow
from waxtwin.ui.rooms.prepare.landmarks_page import LandmarksPage
from waxtwin.ui.rooms.prepare.picture import Picture
from waxtwin.ui.rooms.prepare.ready_page import ReadyPage
from waxtwin.ui.rooms.prepare.state import PrepareState
from waxtwin.ui.rooms.prepare.step_page import Page, scrolled
from waxtwin.ui.rooms.prepare.steps import Steps
from waxtwin.ui.rooms.prepare.stops_page import StopsPage
from waxtwin.ui.rooms.prepare.tape import Tape
from waxtwin.ui.shared.widgets import Room, label

_PAGE_WIDTH = 372


class PrepareRoom(Room):
    """`taken(side)` when the throw is to go to the desk."""

    title = "Prepare"
    taken = Signal(str)

    def __init__(self, piece: PrepareState, preparer: PrepareFlow) -> None:
        super().__init__()
        self.piece, self.preparer = piece, preparer
        self.picture, self.tape, self.steps = Picture(piece), Tape(piece), Steps(piece)
        self.pages: dict[str, Page] = {
            page.step: page(piece, preparer) for page in (ClipPage, CameraPage, LandmarksPage, StopsPage, ReadyPage)
        }
        self._stack = QStackedWidget()
        self._stack.setFixedWidth(_PAGE_WIDTH)
        for step in STEPS:
            self._stack.addWidget(scrolled(self.pages[step]))
        self._title = label("Prepare", role="title", grow=5)
        self._athlete = label("", role="soft")
        self._lay_out()
        self.picture.clicked.connect(preparer.clicked)
        self.picture.moved.connect(preparer.put_mark)
        self.tape.trimmed.connect(preparer.trim)
        self.steps.chosen.connect(piece.go_to_step)
        ready = self.pages["ready"]
        assert isinstance(ready, ReadyPage)
        ready.taken.connect(self.taken)
        self._clock = QTimer(self)
        self._clock.setInterval(12)
        self._clock.timeout.connect(self._tick)
        self._started = (0.0, 0.0)
        piece.listen(self._told)
        piece.tell("work")

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.setContentsMargins(24, 14, 18, 4)
        titles = QVBoxLayout()
        titles.setSpacing(0)
        titles.addWidget(self._title)
        titles.addWidget(self._athlete)
        top.addLayout(titles)
        top.addWidget(self.steps, 1)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.picture, 1)
        left.addWidget(self.tape)
        main = QHBoxLayout()
        main.setSpacing(0)
        main.addLayout(left, 1)
        main.addWidget(self._stack)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(top)
        column.addLayout(main, 1)

    def play(self) -> None:
        """Play the clip from here, or stand still; at its end it begins at the trim's start again."""
        if self._clock.isActive():
            self._clock.stop()
        elif self.piece.times.size > 1:
            self._started = (monotonic(), self.piece.time)
            self._clock.start()

    def _tick(self) -> None:
        view = self.piece.view
        if view is None or not self.isVisible():
            self._clock.stop()
            return
        began, from_time = self._started
        time = from_time + monotonic() - began
        if time > min(view.trim[1], float(self.piece.times[-1])):
            self._started, time = (monotonic(), view.trim[0]), view.trim[0]
        self.piece.go_to_time(time)

    def close_clips(self) -> None:
        """Let go of the clip."""
        self._clock.stop()
        self.picture.close_clip()

    def _told(self, topic: str) -> None:
        if topic in ("work", "step"):
            self._stack.setCurrentIndex(list(STEPS).index(self.piece.step))
        if topic == "work":
            work = self.piece.work
            self._title.setText("Prepare" if work is None else work.title)
            self._athlete.setText("" if work is None else work.athlete.name if work.named else "nobody named yet")
