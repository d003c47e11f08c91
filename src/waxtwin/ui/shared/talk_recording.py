"""Recording a talk: the voice, the states of the desk as they change, and the pointer."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from time import monotonic

from PySide6.QtCore import QObject, QTimer, Signal

from waxtwin.capture.voice import Recorder
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.formats.talk import Moment, Point, Scene, Spoken, Talk
from waxtwin.talk import edits
from waxtwin.talk.cutting import Recording, scenes_of
from waxtwin.talk.sound import TakeWriter, samples, silences
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.talk_state import moment_of
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.work import Runner
from waxtwin.ui.shared.talks import Talks

_TICK_MS = 100
_DRIFT = 0.06  # s that the clock may be off where it was expected while playing
_POINTER = 1 / 30  # s between two places of the pointer
_STATES = (
    Topic.TIME, Topic.ALIGNMENT, Topic.PLAY, Topic.ALONE, Topic.DISPLAY, Topic.CLOSEUP, Topic.SELECTION, Topic.CHALK,
    Topic.PAIR,
)  # fmt: skip


class _Silent:
    """The clock of a recording without a voice."""

    level, clipped, fault = 0.0, 0, ""

    def __init__(self) -> None:
        self._done, self._since, self._begin = 0.0, monotonic(), 0.0
        self.paused = False

    @property
    def seconds(self) -> float:
        return self._done + (0.0 if self.paused else monotonic() - self._since)

    def pause(self) -> float:
        self._done, self.paused = self.seconds, True
        return self._done

    def go_on(self) -> None:
        self._since, self.paused, self._begin = monotonic(), False, self._done

    def discard(self) -> float:
        self.pause()
        self._done = self._begin
        return self._done

    def stop(self) -> float:
        return self.pause()


class TalkRecording(QObject):
    """`changed` when it begins, pauses, goes on or ends; `ticked` ten times a second while it runs; `recorded(count)`
    once scenes were made of it.

    Either everything is recorded, or the voice of one scene alone.
    """

    changed = Signal()
    ticked = Signal()
    recorded = Signal(int)

    def __init__(self, talks: Talks, jobs: Runner, say: Callable[[object], object]) -> None:
        super().__init__(talks)
        self.talks, self.desk, self._jobs, self._tell = talks, talks.desk, jobs, say
        self._recorder: Recorder | _Silent | None = None
        self._file: Path | None = None
        self._scene = ""
        self._moments: list[Moment] = []
        self._points: list[Point] = []
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)
        self.desk.listen(self._note, *_STATES)

    # what it is doing ----------------------------------------------------------------------------------------------
    @property
    def is_on(self) -> bool:
        """Whether a recording is under way, paused or not."""
        return self._recorder is not None

    @property
    def paused(self) -> bool:
        """Whether nothing is recorded for now."""
        return self._recorder is not None and self._recorder.paused

    @property
    def listens(self) -> bool:
        """Whether what is done in the Pair room is recorded now."""
        return self.is_on and not self.paused and not self._scene

    @property
    def seconds(self) -> float:
        """How much there is so far."""
        return 0.0 if self._recorder is None else self._recorder.seconds

    @property
    def level(self) -> float:
        """How loud it is now, 0 to 1."""
        return 0.0 if self._recorder is None else self._recorder.level

    @property
    def clipped(self) -> int:
        """How often it was too loud."""
        return 0 if self._recorder is None else self._recorder.clipped

    @property
    def scene(self) -> str:
        """The id of the scene that is spoken, or "" where everything is recorded."""
        return self._scene

    # doing it ------------------------------------------------------------------------------------------------------
    def start(self, microphone: str, scene: str = "") -> None:
        """Begin, with a microphone or without one (""); a microphone that cannot be used is told."""
        if self.is_on or self.talks.throws is None:
            return
        self._file = None
        try:
            if microphone:
                self._file = self.talks.new_voice()
                self._recorder = Recorder(microphone, TakeWriter(self._file))
            else:
                self._recorder = _Silent()
        except WaxTwinError as fault:
            self._tell(Fault(fault))
            return
        self._scene, self._moments, self._points = scene, [], []
        self._note()
        self._timer.start()
        self.changed.emit()

    def toggle_pause(self) -> None:
        """Pause, or go on from here."""
        if self._recorder is None:
            return
        if self._recorder.paused:
            self._recorder.go_on()
            self._note()
        else:
            self._recorder.pause()
        self.changed.emit()

    def discard(self) -> None:
        """Take back what was recorded since it last went on, and pause."""
        if self._recorder is None:
            return
        left = self._recorder.discard()
        self._moments = [one for one in self._moments if one.at <= left]
        self._points = [one for one in self._points if one.at <= left]
        self.changed.emit()

    def stop(self) -> None:
        """End it; what was recorded becomes scenes, or the take of its scene."""
        recorder, self._recorder = self._recorder, None
        self._timer.stop()
        if recorder is None:
            return
        seconds, file = recorder.stop(), self._file
        if recorder.clipped:
            self._tell(f"It was too loud {recorder.clipped} times; speak a little further from the microphone.")
        if self._scene:
            if file is not None and seconds > 0:
                take = Spoken(file=file.name, end=seconds)
                self.talks.edit("Speak a scene", lambda talk: edits.spoken(talk, self._scene, take))
        elif seconds > 0:
            recording = Recording(tuple(self._moments), tuple(self._points), seconds, "" if file is None else file.name)
            self._cut(recording, file)
        self._scene = ""
        self.changed.emit()

    def _cut(self, recording: Recording, file: Path | None) -> None:
        """Cut it into scenes, which needs the voice looked through."""

        def work() -> Steps[list[Scene]]:
            yield 0.1
            quiet = [] if file is None else silences(samples(file))
            yield 0.9
            return scenes_of(recording, quiet)

        self._jobs.start("cut talk", work, self._keep, self._tell)

    def _keep(self, scenes: list[Scene]) -> None:
        if self.talks.talk is None:
            pair = self.desk.pair
            title = "" if pair.kept is None else pair.kept.title
            self.talks.begin(Talk(title=title, scenes=tuple(scenes)), "Record a talk")
            self.recorded.emit(len(scenes))
            return

        def more(talk: Talk) -> Talk:
            for scene in scenes:
                talk = edits.added(talk, scene.but(id=edits.new_id(talk)))
            return talk

        self.talks.edit("Record scenes", more)
        self.recorded.emit(len(scenes))

    # what is noted -------------------------------------------------------------------------------------------------
    def _note(self, topic: Topic | None = None) -> None:
        """The desk as it is now, where that is not as it was expected to be."""
        if topic is Topic.PAIR and self.is_on:
            self.stop()  # another pair: a talk is about one
            return
        if self._recorder is None or not self.listens:
            return
        now = moment_of(self.desk, self._recorder.seconds if self._moments else 0.0)
        if topic is Topic.TIME and self._expected(now):
            return
        if self._moments and now.model_copy(update={"at": self._moments[-1].at}) == self._moments[-1]:
            return
        if self._moments and now.at - self._moments[-1].at < 1e-3:
            self._moments.pop()
        self._moments.append(now)

    def _expected(self, now: Moment) -> bool:
        """Whether time only goes on as it was already noted to."""
        last = self._moments[-1] if self._moments else None
        if last is None or not last.rate or last.rate != now.rate:
            return False
        events = self.desk.pair.event_times("athlete")
        was, at = last.here.time(events), now.here.time(events)
        return was is not None and at is not None and abs(was + last.rate * (now.at - last.at) - at) < _DRIFT

    def point(self, point: Point | None) -> None:
        """Where the hand points, or None once it does not any more."""
        if self._recorder is None or not self.listens:
            return
        at = self._recorder.seconds
        if point is not None and self._points and self._points[-1].on and at - self._points[-1].at < _POINTER:
            return
        if point is None:
            if self._points and self._points[-1].on:
                self._points.append(self._points[-1].model_copy(update={"at": at, "on": False}))
            return
        self._points.append(point.model_copy(update={"at": at}))

    def _tick(self) -> None:
        if self._recorder is not None and self._recorder.fault:
            self._tell(Fault(self._recorder.fault))
            self.stop()
            return
        self.ticked.emit()
