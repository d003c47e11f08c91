"""The throw in the Prepare room: which clip, which frame, which landmark, what a click means. Knows no Qt."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum, auto

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.landmarks import INDEX, LANDMARKS, OPTIONAL
from waxtwin.core.marks import Marks
from waxtwin.library.preparing import STEPS, Preparation, ViewState, todo
from waxtwin.ui.model.identity import same_objects
from waxtwin.ui.model.topics import Hub

# The order in which landmarks are clicked: down the throwing side, then the other, as the eye goes.
CLICK_ORDER = tuple(name for name in LANDMARKS if name not in OPTIONAL)
_GRIP = 14.0  # picture pixels, at scale 1, within which a click takes hold of a mark


class PrepareTopic(Enum):
    """What changed in the Prepare room."""

    WORK = auto()  # another throw, or changed data
    FRAME = auto()
    LANDMARK = auto()
    AIM = auto()  # what the next click is for
    STEP = auto()
    ANALYSIS = auto()
    PEOPLE = auto()


@dataclass(frozen=True)
class Aim:
    """What a click in the picture means: `kind` "look", "mark", "origin", "length", "field" or "person"; `target` which
    landmark, end or field point.
    """  # fmt: skip

    kind: str = "look"
    target: str = ""


class PrepareState:
    """State of the Prepare room."""

    def __init__(self) -> None:
        self.hub: Hub[PrepareTopic] = Hub()
        self.listen, self.tell = self.hub.listen, self.hub.tell
        self.work: Preparation | None = None
        self.view_id: int | None = None
        self.step = next(iter(STEPS))
        self.frame = 0
        self.times = np.zeros(0)
        self.landmark: str | None = None
        self.aim = Aim()
        self.analysis: Analysis | None = None
        self.analysis_fault = ""
        self.said: dict[str, str] = {}
        self.bursts: list[tuple[float, float]] = []
        self.chosen_stop: str | None = None
        self.onward = "stay"  # where clicking in order goes on after the last landmark: "stay", "frame" or "stop"
        self._left: tuple[tuple[object, ...], dict[str, list[str]]] | None = None  # asked for at every paint

    # the throw -----------------------------------------------------------------------------------------------------
    def take(self, work: Preparation | None) -> None:
        """Another throw, or the same one after a change."""
        same = work is not None and self.work is not None and work.key == self.work.key
        self.work = work
        if not same:
            self.view_id = work.views[0].id if work is not None and work.views else None
            self.frame, self.times, self.landmark, self.aim = 0, np.zeros(0), None, Aim()
            self.analysis, self.analysis_fault, self.said, self.bursts = None, "", {}, []
            self.step = next(iter(STEPS))
        elif self.view is None and work is not None and work.views:
            self.view_id = work.views[0].id
        self.tell(PrepareTopic.WORK)

    def set_analysis(self, analysis: Analysis | None, fault: str = "") -> None:
        """What the track of this throw gives, or why it gives nothing."""
        self.analysis, self.analysis_fault = analysis, fault
        self.tell(PrepareTopic.ANALYSIS)

    def choose_view(self, view_id: int) -> None:
        """Look at another clip of the throw."""
        if view_id != self.view_id:
            self.view_id, self.frame, self.times = view_id, 0, np.zeros(0)
            self.tell(PrepareTopic.WORK)

    @property
    def view(self) -> ViewState | None:
        """The clip that is looked at."""
        return None if self.work is None else self.work.view(self.view_id)

    @property
    def marks(self) -> Marks | None:
        """The marks of that clip; empty ones while there are none."""
        view = self.view
        if view is None:
            return None
        if view.marks is not None:
            return view.marks
        return Marks.empty(self.times) if self.times.size else None

    def left(self) -> dict[str, list[str]]:
        """What is left to do at each step."""
        if self.work is None:
            return {step: [] for step in STEPS}
        about = (self.work, self.view_id, self.analysis, self.analysis_fault)
        if self._left is None or not same_objects(self._left[0], about):
            left = todo(self.work, self.view)
            if self.analysis is not None:
                left["stops"] += self.analysis.warnings
            if self.analysis_fault:
                left["ready"].append(self.analysis_fault)
            self._left = (about, left)
        return self._left[1]

    # the clip's frames ---------------------------------------------------------------------------------------------
    def set_times(self, times: np.ndarray) -> None:
        """The clip is open: its frame times (s) are known."""
        self.times = times
        view = self.view
        if view is not None and not view.trim[0] <= self.time <= view.trim[1]:
            self.frame = int(np.searchsorted(times, view.trim[0]))
        self.tell(PrepareTopic.FRAME)

    @property
    def time(self) -> float:
        """Seconds of the clip."""
        return float(self.times[self.frame]) if self.frame < self.times.size else 0.0

    def true_time(self, frame: int) -> float:
        """The instant of a frame on the throw's own clock, s: true time, also of a clip that plays slowly."""
        view = self.view
        if view is None or frame >= self.times.size:
            return 0.0
        return float(view.clock.to_throw(float(self.times[frame])))

    def go(self, frame: int) -> None:
        """Show a frame."""
        frame = int(np.clip(frame, 0, max(self.times.size - 1, 0)))
        if frame != self.frame:
            self.frame = frame
            self.tell(PrepareTopic.FRAME)

    def go_to_time(self, time: float) -> None:
        """Show the frame of an instant (s of the clip)."""
        if self.times.size:
            self.go(self._nearest(time))

    def _nearest(self, time: float) -> int:
        """The frame nearest to an instant (s of the clip)."""
        return int(np.argmin(np.abs(self.times - time)))

    # what a click means --------------------------------------------------------------------------------------------
    def go_to_step(self, step: str) -> None:
        """Show a step's page."""
        if step != self.step:
            self.step = step
            self.aim = Aim("mark", self.landmark or CLICK_ORDER[0]) if step == "landmarks" and self.landmark else Aim()
            self.tell(PrepareTopic.STEP)

    def aim_at(self, kind: str, target: str = "") -> None:
        """Say what the next click is for."""
        self.aim = Aim(kind, target)
        if kind == "mark":
            self.landmark = target
        self.tell(PrepareTopic.AIM)

    def choose_landmark(self, name: str | None) -> None:
        """Look at one landmark."""
        if name != self.landmark:
            self.landmark = name
            self.tell(PrepareTopic.LANDMARK)

    def next_landmark(self, by: int = 1) -> None:
        """The next landmark in the order of clicking; after the last, the first one where `onward` says."""
        at = CLICK_ORDER.index(self.landmark) + by if self.landmark in CLICK_ORDER else 0
        if at >= len(CLICK_ORDER):
            self.go(self._frame_onward())
        self.aim_at("mark", CLICK_ORDER[at % len(CLICK_ORDER)])

    def _frame_onward(self) -> int:
        """The frame on which clicking goes on; without stops ahead, the one that is shown."""
        if self.onward == "frame":
            return self.frame + 1
        ahead = [k for k in self.stop_frames() if k > self.frame]
        return min(ahead) if self.onward == "stop" and ahead else self.frame

    def stop_frames(self) -> list[int]:
        """The clip's frames nearest to the stops."""
        view = self.view
        if view is None or self.analysis is None or not self.times.size:
            return []
        return [self._nearest(view.clock.to_clip(event.time)) for event in self.analysis.events.values()]

    def mark_at(self, x: float, y: float, scale: float) -> str | None:
        """The landmark whose mark lies under a point of the picture."""
        marks = self.marks
        if marks is None or self.frame >= marks.times.size:
            return None
        off = np.hypot(*(marks.points[self.frame] - [x, y]).T)
        if np.isnan(off).all():
            return None
        j = int(np.nanargmin(off))
        return LANDMARKS[j] if off[j] * scale <= _GRIP else None

    def point_of(self, name: str) -> tuple[float, float] | None:
        """Where a landmark is marked on this frame."""
        marks = self.marks
        if marks is None or self.frame >= marks.times.size or not marks.seen[self.frame, INDEX[name]]:
            return None
        x, y = marks.points[self.frame, INDEX[name]]
        return float(x), float(y)
