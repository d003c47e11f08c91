"""Prepare: one throw from raw clip to trusted track, in the order an analyst goes."""

from __future__ import annotations

from time import monotonic

from PySide6.QtCore import QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout

from waxtwin.ui.rooms.prepare.camera_page import CameraPage
from waxtwin.ui.rooms.prepare.clip_page import ClipPage
from waxtwin.ui.rooms.prepare.flow import PrepareFlow
from waxtwin.ui.rooms.prepare.landmarks_page import LandmarksPage
from waxtwin.ui.rooms.prepare.picture import Picture
from waxtwin.ui.rooms.prepare.ready_page import ReadyPage
from waxtwin.ui.rooms.prepare.state import PrepareState, PrepareTopic
from waxtwin.ui.rooms.prepare.step_page import Page
from waxtwin.ui.rooms.prepare.step_thread import StepThread
from waxtwin.ui.rooms.prepare.stops_page import StopsPage
from waxtwin.ui.rooms.prepare.tape import Tape
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.room import Room
from waxtwin.ui.shared.widgets import label, scrolling

_PAGE_WIDTH = 372


class PrepareRoom(Room):
    """One throw, step by step, beside its picture."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.state = state = PrepareState()
        self.flow = flow = PrepareFlow(state, context.library, context.jobs)
        flow.told.connect(context.say)
        self.picture, self.tape, self.steps = Picture(state), Tape(state), StepThread(state)
        self._stack = QStackedWidget(self)
        self._stack.setFixedWidth(_PAGE_WIDTH)
        self.pages: dict[str, Page] = {}
        for page in (ClipPage, CameraPage, LandmarksPage, StopsPage, ReadyPage):
            area = scrolling(self._stack)
            self.pages[page.step] = made = page(state, flow, area.viewport())
            area.setWidget(made)
            self._stack.addWidget(area)
        self._title = label("Prepare", role="title", grow=5)
        self._athlete = label("", role="soft")
        self._lay_out()
        self.picture.clicked.connect(flow.clicked)
        self.picture.moved.connect(flow.landmarks.put_mark)
        self.tape.trimmed.connect(flow.trim)
        self.steps.chosen.connect(state.go_to_step)
        ready = self.pages["ready"]
        assert isinstance(ready, ReadyPage)
        ready.taken.connect(self._take)
        self._clock = QTimer(self)
        self._clock.setInterval(12)
        self._clock.timeout.connect(self._tick)
        self._started = (0.0, 0.0)
        self._asked = False
        state.listen(self._told)
        state.tell(PrepareTopic.WORK)

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

    def bring(self, key: int) -> None:
        """Bring a throw into the room."""
        self._asked = True
        self.flow.take(key)

    def showEvent(self, event: QShowEvent) -> None:
        """Until a throw is asked for, the room has the one on the desk that was filmed."""
        super().showEvent(event)
        filmed = [one.key for one in self.context.desk.pair.stored.values() if one.key is not None and one.clips]
        if filmed and not self._asked:
            self.flow.take(filmed[0])

    def _take(self, side: str) -> None:
        """Lay the throw on a side of the desk, and go where it goes on."""
        if self.state.work is not None:
            self.context.pairs.take(side, self.state.work.key)
            alone = all(other == side for other in self.context.desk.pair.stored)
            self.context.go_to("Bench" if alone else "Pair")

    def play(self) -> bool:
        """Play the clip from here, or stand still; at its end it begins at the trim's start again."""
        if self._clock.isActive():
            self._clock.stop()
        elif self.state.times.size > 1:
            self._started = (monotonic(), self.state.time)
            self._clock.start()
        return True

    def step(self, frames: int) -> bool:
        self.state.go(self.state.frame + frames)
        return True

    def _tick(self) -> None:
        view = self.state.view
        if view is None or not self.isVisible():
            self._clock.stop()
            return
        began, from_time = self._started
        time = from_time + monotonic() - began
        if time > min(view.trim[1], float(self.state.times[-1])):
            self._started, time = (monotonic(), view.trim[0]), view.trim[0]
        self.state.go_to_time(time)

    def throws_in_sight(self) -> frozenset[int]:
        return frozenset() if self.state.work is None else frozenset({self.state.work.key})

    def let_go(self) -> None:
        self._clock.stop()
        self.picture.close_clip()

    def _told(self, topic: PrepareTopic) -> None:
        if topic in (PrepareTopic.WORK, PrepareTopic.STEP):
            self._stack.setCurrentIndex(list(self.pages).index(self.state.step))
        if topic is PrepareTopic.WORK:
            work = self.state.work
            self._title.setText("Prepare" if work is None else work.title)
            self._athlete.setText("" if work is None else work.athlete.name if work.named else "nobody named yet")
