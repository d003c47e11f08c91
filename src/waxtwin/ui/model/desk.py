"""The desk: the pair on it, the clock, the stop that is held, and how things are shown. Knows no Qt.

Views are handed a desk and listen to topics; a topic is told only when something really changed.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from waxtwin.core.alignment import Alignment, align
from waxtwin.core.analysis import Analysis
from waxtwin.core.contrast import Contrast
from waxtwin.core.events import LANDING, ORDER
from waxtwin.core.explain import Explanation
from waxtwin.library.stored import StoredDelivery

if TYPE_CHECKING:
    from waxtwin.library.pairs import Pair

SIDES = ("athlete", "twin")
OTHERS = ("twin2", "twin3")  # further twins: seen and contrasted, but corrected in a pair of their own
RATES = (1.0, 0.25, 0.125)
VIEWS = {"side": (0.0, 4.0), "front": (90.0, 4.0), "rear": (-90.0, 8.0), "top": (0.0, 89.0)}

VIEW_NAMES = {"open side": "side", "closed side": "side", "front": "front", "rear": "rear"}  # of clips, to VIEWS


@dataclass(frozen=True)
class Display:
    """How the pair is shown: what the stages hold, from where (degrees), with which helpers.

    `ghost` lays the other side over each stage, at an origin of the core's ORIGINS or "" for none, scaled to the same
    height if `matched`; `fade` is how much of the other side is seen, 0 to 1, or with `split` how far from the right
    it reaches; `inset` is the landmark that a magnified round follows, or ""; `alone` leaves out all but the
    stages and the seam; `wall` leaves out the athlete where there are several twins.
    """

    shown: str = "both"
    azimuth: float = 0.0
    elevation: float = 4.0
    gauges: bool = True
    mirrored: bool = True
    camera: str = "side"
    trails: bool = False
    ghost: str = ""
    matched: bool = True
    fade: float = 0.5
    split: bool = False
    inset: str = ""
    alone: bool = False
    wall: bool = False


class Desk:
    """State shared by every room. Times are seconds on the athlete's clock unless said otherwise.

    Topics: `pair` other deliveries, `facts` what is known about them, `figures` recomputed results, `throws` results
    over whole sessions, `explanation` where the gap comes from, `kept` the kept pair with its notes, `others` further
    twins or their results, `time`, `alignment`, `display`, `selection`, `landing`, `units`, `play`, `report` what the
    athlete is to see.
    """

    def __init__(self) -> None:
        self._listeners: list[Callable[[str], None]] = []
        self.stored: dict[str, StoredDelivery] = {}
        self.contrast: Contrast | None = None
        self.sessions: Mapping[str, tuple[StoredDelivery, ...]] = {}
        self.throws: Contrast | None = None
        self.whole = True
        self.explanation: Explanation | None = None
        self.kept: Pair | None = None
        self.report: Mapping[str, object] = {}
        self.others: dict[str, StoredDelivery] = {}
        self.other_contrasts: dict[str, Contrast] = {}
        self._other_alignments: dict[str, Alignment] = {}
        self.mode = "one"
        self.anchor = "release"
        self.time = 0.0
        self.stop: str | None = None
        self._twin_held: float | None = None
        self.display = Display()
        self.selected: str | None = None
        self.hovered: str | None = None
        self.landing = "touch"
        self.imperial = False
        self.rate = 0.25
        self.playing = 0
        self._loop: tuple[float, float] | None = None
        self._alignment: Alignment | None = None
        self._span: tuple[Alignment, tuple[float, float]] | None = None

    def listen(self, listener: Callable[[str], None]) -> None:
        """Call `listener(topic)` after every real change."""
        self._listeners.append(listener)

    def tell(self, topic: str) -> None:
        """Tell every listener."""
        for listener in list(self._listeners):
            listener(topic)

    # the pair ------------------------------------------------------------------------------------------------------
    def set_pair(self, athlete: StoredDelivery, twin: StoredDelivery) -> None:
        """Lay another pair on the desk; its results follow by `set_contrast`."""
        self.stored = {"athlete": athlete, "twin": twin}
        self._forget()
        self.selected = self.hovered = None
        self.playing, self._loop = 0, None
        self.tell("pair")

    def _forget(self) -> None:
        """Let go of everything that was worked out for a pair."""
        self.contrast = self.throws = self.explanation = self.kept = self._alignment = None
        self.sessions = {}
        self.others, self.other_contrasts, self._other_alignments = {}, {}, {}
        self.report = {}

    def renew(self, stored: Mapping[str, StoredDelivery]) -> None:
        """The same throws read again: what is known about them may be other than before."""
        if any(self.stored.get(side) is not one for side, one in stored.items()):
            self.stored = {**self.stored, **stored}
            self.tell("facts")

    def take_off(self, side: str) -> None:
        """Take a side's delivery off the desk; what was worked out for the pair goes with it."""
        self.stored = {other: stored for other, stored in self.stored.items() if other != side}
        self._forget()
        self.selected = self.hovered = self.stop = None
        self.playing, self._loop = 0, None
        self.tell("pair")

    def clear(self) -> None:
        """An empty desk."""
        for side in list(self.stored):
            self.take_off(side)

    def set_contrast(self, contrast: Contrast) -> None:
        """Take results for the pair on the desk; the clock goes to landing the first time."""
        first = self.contrast is None
        self.contrast = contrast
        self._alignment = None
        self.tell("figures")
        if first:
            self.hold(LANDING[self.landing] if LANDING[self.landing] in self.stops() else self.first_stop())

    def set_throws(self, sessions: Mapping[str, tuple[StoredDelivery, ...]], contrast: Contrast | None) -> None:
        """Take the sides' whole sessions on the desk, and their contrast once it is known."""
        self.sessions, self.throws = sessions, contrast
        self.tell("throws")

    def set_whole(self, whole: bool) -> None:
        """Figures of every throw of the sessions, or of the two throws on the stages."""
        if whole != self.whole:
            self.whole = whole
            self.tell("throws")

    def set_explanation(self, explanation: Explanation | None) -> None:
        """Take on the desk where the gap comes from."""
        self.explanation = explanation
        self.tell("explanation")

    def set_kept(self, kept: Pair | None) -> None:
        """Take on the desk what is kept about the pair: its name, kind, reason and notes."""
        self.kept = kept
        self.tell("kept")

    def set_report(self, wish: Mapping[str, object]) -> None:
        """What the athlete is to see of this pair, as it is kept."""
        if wish != self.report:
            self.report = wish
            self.tell("report")

    @property
    def kind(self) -> str:
        """What the pair is: "twin", "past" (one athlete before and now) or "peers"."""
        return self.kept.kind if self.kept is not None else "twin"

    def state(self) -> dict[str, object]:
        """How the pair is shown, to be kept and restored."""
        return {
            "mode": self.mode, "anchor": self.anchor, "time": self.time, "stop": self.stop, "landing": self.landing,
            "display": asdict(self.display), "whole": self.whole, "selected": self.selected, "report": self.report,
        }  # fmt: skip

    @property
    def figures(self) -> Contrast | None:
        """The contrast that tables and accounts speak of: whole sessions where there are any and they are wanted."""
        return self.throws if self.whole and self.throws is not None else self.contrast

    def set_others(self, others: Mapping[str, StoredDelivery], contrasts: Mapping[str, Contrast]) -> None:
        """Lay further twins beside the first, {side of OTHERS: throw}, with what is worked out for them so far."""
        self.others, self.other_contrasts, self._other_alignments = dict(others), dict(contrasts), {}
        self.tell("others")

    @property
    def shown_sides(self) -> tuple[str, ...]:
        """Every side that has a stage: athlete, twin, and further twins."""
        return (*SIDES, *self.others)

    def stored_of(self, side: str) -> StoredDelivery | None:
        """The throw on a side, further twins included."""
        return self.stored.get(side) or self.others.get(side)

    @property
    def all_contrasts(self) -> list[Contrast]:
        """The pair's contrast and those with further twins, as far as they are known."""
        return [] if self.contrast is None else [self.contrast, *self.other_contrasts.values()]

    def analysis(self, side: str) -> Analysis | None:
        """The results of one side."""
        if self.contrast is None:
            return None
        if side in OTHERS:
            found = self.other_contrasts.get(side)
            return None if found is None else found.twin
        return self.contrast.athlete if side == "athlete" else self.contrast.twin

    def stops(self) -> list[str]:
        """Stops known on both sides, in order."""
        a, b = self._event_times("athlete"), self._event_times("twin")
        return [name for name in ORDER if name in a and name in b]

    def asked(self) -> dict[str, tuple[str, ...]]:
        """Stops that were found but are not used until somebody sets them, with the sides that ask for them."""
        held = {side: self.analysis(side) for side in SIDES}
        found = {
            stop: tuple(side for side, one in held.items() if one is not None and stop in one.withheld)
            for stop in ORDER
        }
        return {stop: sides for stop, sides in found.items() if sides}

    def first_stop(self) -> str | None:
        stops = self.stops()
        return stops[0] if stops else None

    def _event_times(self, side: str) -> dict[str, float]:
        analysis = self.analysis(side)
        return {} if analysis is None else analysis.event_times

    # the clock -----------------------------------------------------------------------------------------------------
    @property
    def alignment(self) -> Alignment:
        """How the twin's clock hangs on the athlete's."""
        if self._alignment is None:
            self._alignment = align(self._event_times("athlete"), self._event_times("twin"), self.mode, self.anchor)
        return self._alignment

    def alignment_of(self, side: str) -> Alignment:
        """How the clock of a twin, or of a further one, hangs on the athlete's."""
        if side not in OTHERS:
            return self.alignment
        if side not in self._other_alignments:
            times = self._event_times("athlete"), self._event_times(side)
            self._other_alignments[side] = align(*times, self.mode, self.anchor)
        return self._other_alignments[side]

    def time_of(self, side: str) -> float:
        """The instant shown on a side, on that side's own clock."""
        if side in OTHERS:
            times = self._event_times(side)
            held = self.stop is not None and abs(self._event_times("athlete").get(self.stop, -1e9) - self.time) < 1e-9
            return times[self.stop] if held and self.stop in times else self.alignment_of(side).to_twin(self.time)
        if side == "athlete":
            return self.time
        return self._twin_held if self._twin_held is not None else self.alignment.to_twin(self.time)

    def span(self) -> tuple[float, float]:
        """First and last instant that either side can show, on the athlete's clock."""
        if self._span is None or self._span[0] is not self.alignment:
            self._span = (self.alignment, self._find_span())
        return self._span[1]

    def _find_span(self) -> tuple[float, float]:
        spans = []
        for side in SIDES:
            analysis = self.analysis(side)
            if analysis is not None:
                ends = analysis.motion.times[[0, -1]]
                spans.append(ends if side == "athlete" else [self.alignment.to_athlete(float(t)) for t in ends])
        if not spans:
            return 0.0, 1.0
        return float(min(s[0] for s in spans)), float(max(s[1] for s in spans))

    def go(self, time: float) -> None:
        """Move the clock; leaves a held stop."""
        low, high = self.span()
        time = float(np.clip(time, low, high))
        if time == self.time and self._twin_held is None:
            return
        self.time, self._twin_held = time, None
        self.stop = self._nearest_stop(time)
        self.tell("time")

    def step(self, frames: int) -> None:
        """Move by frames of the athlete's track."""
        analysis = self.analysis("athlete")
        if analysis is not None:
            rate = analysis.motion.rate
            self.go((round(self.time * rate) + frames) / rate)

    def hold(self, stop: str | None) -> None:
        """Hold both sides at a stop; with one stop pulled tight, that stop becomes the anchor. A stop that is only
        proposed is looked at where it is proposed.
        """
        if stop is None or stop not in self.stops():
            self._look_at(stop)
            return
        if self.mode == "one" and self.anchor != stop:
            self.anchor = stop
            self._alignment, self._other_alignments = None, {}
            self.tell("alignment")
        self.time = self._event_times("athlete")[stop]
        exact = self._event_times("twin")[stop]
        self._twin_held = None if abs(self.alignment.to_twin(self.time) - exact) < 1e-6 else exact
        self.stop = stop
        self.tell("time")

    def _look_at(self, stop: str | None) -> None:
        """Go to where a stop is proposed, each side to its own proposal where it has one."""
        held = {side: self.analysis(side) for side in SIDES}
        at = {side: one.proposal(stop) for side, one in held.items() if one is not None and stop is not None}
        ours, theirs = (at.get(side) for side in SIDES)
        if ours is None and theirs is None:
            return
        self.time = ours.time if ours is not None else self.alignment.to_athlete(theirs.time)  # type: ignore[union-attr]
        self._twin_held = None if theirs is None else theirs.time
        self.stop = stop
        self.tell("time")

    def pull(self, mode: str) -> None:
        """Choose which stitches are pulled tight: "one", "all" or "clock"."""
        if mode != self.mode:
            self.mode, self._alignment, self._twin_held = mode, None, None
            self._other_alignments = {}
            if mode == "one" and self.stop is not None:
                self.anchor = self.stop
            self.tell("alignment")
            self.tell("time")

    def phase(self) -> tuple[float, float]:
        """The phase between stops that holds the clock, on the athlete's clock."""
        times = self._event_times("athlete")
        marks = [times[s] for s in self.stops()]
        before = [m for m in marks if m <= self.time + 1e-6]
        after = [m for m in marks if m > self.time + 1e-6]
        low, high = self.span()
        return (before[-1] if before else low), (after[0] if after else high)

    def _nearest_stop(self, time: float) -> str | None:
        times = self._event_times("athlete")
        stops = self.stops()
        return min(stops, key=lambda s: abs(times[s] - time)) if stops else None

    # showing -------------------------------------------------------------------------------------------------------
    def show(self, /, **changes: object) -> None:
        """Change how the pair is shown."""
        display = replace(self.display, **changes)  # type: ignore[arg-type]
        if display != self.display:
            self.display = display
            self.tell("display")

    def select(self, measure_id: str | None) -> None:
        """Choose the measure whose gauge is lit."""
        if measure_id != self.selected:
            self.selected = measure_id
            self.tell("selection")

    def hover(self, measure_id: str | None) -> None:
        """Light a measure's gauge as long as the pointer is on its row."""
        if measure_id != self.hovered:
            self.hovered = measure_id
            self.tell("selection")

    @property
    def lit(self) -> str | None:
        """The measure whose gauge is lit: the one under the pointer, else the chosen one."""
        return self.hovered or self.selected

    def set_landing(self, landing: str) -> None:
        """Choose which stop counts as landing for the pair; results must be recomputed."""
        if landing != self.landing:
            self.landing = landing
            self.tell("landing")

    def set_imperial(self, imperial: bool) -> None:
        """Feet, inches and miles an hour, or metric."""
        if imperial != self.imperial:
            self.imperial = imperial
            self.tell("units")

    def play(self, direction: int) -> None:
        """1 forward, -1 backward, 0 stands still."""
        if direction != self.playing:
            self.playing = direction
            self.tell("play")

    def set_rate(self, rate: float) -> None:
        """Playing speed, 1 = real time."""
        if rate != self.rate:
            self.rate = rate
            self.tell("play")

    @property
    def loop(self) -> bool:
        """Whether playing stays within one phase."""
        return self._loop is not None

    def loop_span(self) -> tuple[float, float] | None:
        """The phase that is looped, on the athlete's clock."""
        return self._loop

    def set_loop(self, loop: bool) -> None:
        """Loop the phase that the clock is in now, or play through."""
        if loop != self.loop:
            self._loop = self.phase() if loop else None
            self.tell("play")
