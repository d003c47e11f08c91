"""The clock of a pair: the instant shown, the stop that is held, how the two clocks hang together. Knows no Qt."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from waxtwin.core.alignment import MODES, Alignment, align
from waxtwin.core.stops import EVENTS, LANDING
from waxtwin.ui.model.identity import same_objects
from waxtwin.ui.model.pair_state import OTHERS, SIDES, PairState
from waxtwin.ui.model.topics import Hub, Topic

if TYPE_CHECKING:
    from waxtwin.library.pairs import Tie

RATES = (1.0, 0.25, 0.125)
TIE = "tie "  # how the id of a tied moment begins


def _round(time: float, low: float, high: float, *, forward: bool) -> float:
    """An instant, or the other end where it has run over one."""
    return time if low < time < high else low + 1e-4 if forward else high - 1e-4


class Clock:
    """Times are seconds on the athlete's clock unless said otherwise. Tells TIME, ALIGNMENT and PLAY."""

    def __init__(self, pair: PairState, hub: Hub[Topic]) -> None:
        self._pair, self._hub = pair, hub
        self.mode = "one"
        self.anchor = "release"
        self.time = 0.0
        self.stop: str | None = None
        self.tie: Tie | None = None
        self.alone = ""  # the side that moves by itself, or "" for both
        self.rate = 0.25
        self.playing = 0
        self._twin_held: float | None = None
        self._loop: tuple[float, float] | None = None
        self._alignments: dict[str, Alignment] = {}
        self._about: tuple[object, ...] = ()  # what the alignments were worked out from
        self._span: tuple[Alignment, tuple[float, float]] | None = None
        hub.listen(self._follow, Topic.PAIR)

    def _follow(self, topic: Topic) -> None:
        """Other deliveries: nothing is played or held any more."""
        self.playing, self._loop, self.alone, self.tie = 0, None, "", None
        if not self._pair.complete:
            self.stop = None

    # how the clocks hang together ----------------------------------------------------------------------------------
    @property
    def alignment(self) -> Alignment:
        """How the twin's clock hangs on the athlete's."""
        return self.alignment_of("twin")

    def alignment_of(self, side: str) -> Alignment:
        """How the clock of a twin, or of a further one, hangs on the athlete's."""
        pair = self._pair
        about = (*map(pair.analysis, SIDES), pair.other_contrasts, pair.kept, self.mode, self.anchor)
        if not same_objects(self._about, about):
            self._about, self._alignments = about, {}
        if side not in self._alignments:
            times = pair.tied_times("athlete"), pair.tied_times(side)
            self._alignments[side] = align(*times, self.mode, self.anchor)
        return self._alignments[side]

    def pull(self, mode: str) -> None:
        """Choose which stitches are pulled tight: "one", "all" or "clock". Raises ValueError."""
        if mode not in MODES:
            raise ValueError(f"no such way to pull the stitches tight: {mode}")
        if mode != self.mode:
            self.mode, self._twin_held, self.alone = mode, None, ""
            if mode == "one" and self.stop is not None:
                self.anchor = self.stop
            with self._hub.changing():
                self._hub.tell(Topic.ALIGNMENT)
                self._hub.tell(Topic.TIME)

    def hang(self, mode: str, anchor: str) -> None:
        """Hang the clocks as they were left: a mode and the stop that holds them. Raises ValueError."""
        if mode not in MODES or not (anchor in EVENTS or anchor.startswith(TIE)):
            raise ValueError(f"the clocks cannot hang so: {mode}, {anchor}")
        if (mode, anchor) != (self.mode, self.anchor):
            self.mode, self.anchor = mode, anchor
            self._hub.tell(Topic.ALIGNMENT)

    def rehang(self, said: Mapping[str, object]) -> None:
        """Hang the clocks as they were kept; anything malformed stays as it is."""
        mode, anchor = str(said.get("mode")), str(said.get("anchor"))
        known = anchor in EVENTS or anchor.startswith(TIE)
        self.hang(mode if mode in MODES else self.mode, anchor if known else self.anchor)

    # the instant ---------------------------------------------------------------------------------------------------
    def time_of(self, side: str) -> float:
        """The instant shown on a side, on that side's own clock."""
        if side == "athlete":
            return self.time
        if side in OTHERS:
            times = self._pair.event_times(side)
            if self.stop in times and self.is_held:
                return times[self.stop]
            return self.alignment_of(side).to_twin(self.time)
        return self._twin_held if self._twin_held is not None else self.alignment.to_twin(self.time)

    @property
    def is_held(self) -> bool:
        """Whether the athlete's clock stands exactly at the stop."""
        times = self._pair.event_times("athlete")
        return self.stop is not None and abs(times.get(self.stop, -1e9) - self.time) < 1e-9

    def span(self) -> tuple[float, float]:
        """First and last instant that either side can show, on the athlete's clock."""
        if self._span is None or self._span[0] is not self.alignment:
            self._span = (self.alignment, self._find_span())
        return self._span[1]

    def _find_span(self) -> tuple[float, float]:
        spans = []
        for side in SIDES:
            analysis = self._pair.analysis(side)
            if analysis is not None:
                ends = analysis.motion.times[[0, -1]]
                spans.append(ends if side == "athlete" else [self.alignment.to_athlete(float(t)) for t in ends])
        if not spans:
            return 0.0, 1.0
        return float(min(s[0] for s in spans)), float(max(s[1] for s in spans))

    def go(self, time: float) -> None:
        """Move the clock, of one side alone where it was taken; leaves a held stop or tied moment."""
        low, high = self.span()
        time = float(np.clip(time, low, high))
        if self.alone:
            self._move_alone(time if self.alone == "athlete" else self.alignment.to_twin(time))
            return
        if time == self.time and self._twin_held is None:
            return
        self.time, self._twin_held, self.tie = time, None, None
        self.stop = self._nearest_stop(time)
        self._hub.tell(Topic.TIME)

    def _move_alone(self, time: float) -> None:
        """Move the side that was taken to an instant of its own clock; the other one stays where it is."""
        analysis = self._pair.analysis(self.alone)
        if analysis is None:
            return
        first, last = analysis.motion.times[[0, -1]]
        time = float(np.clip(time, first, last))
        if self.alone == "twin":
            self._twin_held = time
        else:
            self._twin_held, self.time = self.time_of("twin"), time
        self.tie = None
        self._hub.tell(Topic.TIME)

    def step(self, frames: int) -> None:
        """Move by frames of the athlete's track, or of the side that was taken."""
        side = self.alone or self._pair.lead_side
        analysis = self._pair.analysis(side)
        if analysis is None:
            return
        rate = analysis.motion.rate
        time = (round(self.time_of(side) * rate) + frames) / rate
        if self.alone:
            self._move_alone(time)
        else:
            self.go(time)

    def advance(self, seconds: float) -> None:
        """Move on while playing: within the looped phase, or from end to end over and over."""
        if self.alone:
            analysis = self._pair.analysis(self.alone)
            if analysis is not None:
                low, high = (float(t) for t in analysis.motion.times[[0, -1]])
                self._move_alone(_round(self.time_of(self.alone) + seconds, low, high, forward=seconds > 0))
            return
        low, high = self.loop_span() or self.span()
        self.go(_round(self.time + seconds, low, high, forward=seconds > 0))

    @property
    def apart(self) -> float | None:
        """The twin's own instant (s of its throw), where it does not hang on the athlete's clock."""
        return self._twin_held

    def stand(self, athlete: float, twin: float) -> None:
        """Show an instant of each side, each on its side's own clock."""
        if (athlete, twin) != (self.time, self._twin_held):
            self.time, self._twin_held, self.tie = athlete, twin, None
            self.stop = self._nearest_stop(athlete)
            self._hub.tell(Topic.TIME)

    # one side, and what is tied ------------------------------------------------------------------------------------
    def take(self, side: str) -> None:
        """Let one side move by itself from where both are, or with "" both again, the twin at its place. Raises
        ValueError.
        """
        if side not in ("", *SIDES):
            raise ValueError(f"no such side: {side}")
        if side == self.alone or self._pair.contrast is None:
            return
        if side:
            self._twin_held = self.time_of("twin")
        else:
            self._twin_held, self.stop = None, self._nearest_stop(self.time)
        self.alone = side
        with self._hub.changing():
            self._hub.tell(Topic.ALONE)
            self._hub.tell(Topic.TIME)

    def toggle(self, side: str) -> None:
        """Let one side move by itself; the same side again moves both."""
        self.take("" if side == self.alone else side)

    def here(self) -> tuple[float, float]:
        """The instants shown, each on its side's own clock."""
        return self.time, self.time_of("twin")

    def hold_tie(self, tie: Tie) -> None:
        """Hold both sides at a tied moment; with one stitch pulled tight, it is this one."""
        with self._hub.changing():
            if self.alone:
                self.alone = ""
                self._hub.tell(Topic.ALONE)
            if self.mode == "one" and self.anchor != tie.id:
                self.anchor = tie.id
                self._hub.tell(Topic.ALIGNMENT)
            self.time, self._twin_held, self.stop, self.tie = tie.athlete, tie.twin, None, tie
            self._hub.tell(Topic.TIME)

    def hold(self, stop: str | None) -> None:
        """Hold both sides at a stop; with one stop pulled tight, that stop becomes the anchor. A stop that is only
        proposed is looked at where it is proposed.
        """
        if self.alone:
            self._hold_alone(stop)
            return
        if stop is None or stop not in self._pair.stops():
            self._look_at(stop)
            return
        self.tie = None
        with self._hub.changing():
            if self.mode == "one" and self.anchor != stop:
                self.anchor = stop
                self._hub.tell(Topic.ALIGNMENT)
            self.time = self._pair.event_times(self._pair.lead_side)[stop]
            exact = self._pair.event_times("twin").get(stop, self.alignment.to_twin(self.time))
            self._twin_held = None if abs(self.alignment.to_twin(self.time) - exact) < 1e-6 else exact
            self.stop = stop
            self._hub.tell(Topic.TIME)

    def _hold_alone(self, stop: str | None) -> None:
        """The side that was taken goes to its own stop, found or proposed."""
        analysis = self._pair.analysis(self.alone)
        event = None if analysis is None or stop is None else analysis.proposal(stop)
        if event is not None:
            self._move_alone(event.time)

    def _look_at(self, stop: str | None) -> None:
        """Go to where a stop is proposed, each side to its own proposal where it has one."""
        held = {side: self._pair.analysis(side) for side in SIDES}
        at = {side: one.proposal(stop) for side, one in held.items() if one is not None and stop is not None}
        ours, theirs = (at.get(side) for side in SIDES)
        if ours is not None:
            self.time = ours.time
        elif theirs is not None:
            self.time = self.alignment.to_athlete(theirs.time)
        else:
            return
        self._twin_held = None if theirs is None else theirs.time
        self.stop, self.tie = stop, None
        self._hub.tell(Topic.TIME)

    def hold_landing(self) -> None:
        """Hold the landing, or the first stop there is; from the first frame where there is none."""
        stops, landing = self._pair.stops(), LANDING[self._pair.landing]
        if stops:
            self.hold(landing if landing in stops else stops[0])
        else:
            self.go(self.span()[0])

    def phase(self) -> tuple[float, float]:
        """The phase between stops that holds the clock, on the athlete's clock."""
        times = self._pair.event_times(self._pair.lead_side)
        marks = [times[s] for s in self._pair.stops()]
        before = [m for m in marks if m <= self.time + 1e-6]
        after = [m for m in marks if m > self.time + 1e-6]
        low, high = self.span()
        return (before[-1] if before else low), (after[0] if after else high)

    def _nearest_stop(self, time: float) -> str | None:
        times, stops = self._pair.event_times(self._pair.lead_side), self._pair.stops()
        return min(stops, key=lambda s: abs(times[s] - time)) if stops else None

    # playing -------------------------------------------------------------------------------------------------------
    def play(self, direction: int) -> None:
        """1 forward, -1 backward, 0 stands still."""
        if direction != self.playing:
            self.playing = direction
            self._hub.tell(Topic.PLAY)

    def set_rate(self, rate: float) -> None:
        """Playing speed, 1 = real time."""
        if rate <= 0:
            raise ValueError(f"no such playing speed: {rate}")
        if rate != self.rate:
            self.rate = rate
            self._hub.tell(Topic.PLAY)

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
            self._hub.tell(Topic.PLAY)
