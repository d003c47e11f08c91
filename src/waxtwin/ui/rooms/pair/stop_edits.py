"""Stops in somebody's hands: moved, accepted, rejected, typed, given back; kept at once, recomputed, one undo."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject
from PySide6.QtWidgets import QInputDialog

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.stops import EVENTS
from waxtwin.library.stored import with_events
from waxtwin.ui.model.computing import keep_events, moved
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.context import Context

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.stop_dialog import StopDialog


class StopEditor(QObject):
    """`hold_again` is the stop to hold once the figures are there again."""

    def __init__(self, context: Context) -> None:
        super().__init__(context.window)
        self.desk, self.library, self._window, self._tell = context.desk, context.library, context.window, context.say
        self._recompute = context.pairs.recompute
        self.hold_again: str | None = None
        self.desk.listen(self._hold_again, Topic.FIGURES)
        self.panel: StopDialog | None = None

    def _hold_again(self, topic: Topic) -> None:
        stop, self.hold_again = self.hold_again, None
        if stop is not None:
            self.desk.clock.hold(stop)

    def correct(self, side: str, stop: str, time: float | None) -> None:
        """Set a stop by hand, or give it back to detection: kept at once, recomputed, one undo."""
        delivery = self.desk.pair.stored[side].delivery
        verb = "Move" if time is not None else "Give back"
        events = moved(delivery.events_by_hand, stop, time)
        self._rule(side, stop, verb, events, delivery.rejected - {stop})

    def accept(self, side: str, stop: str) -> None:
        """Vouch for a stop as it was detected: it stays there when the track changes."""
        analysis, delivery = self.desk.pair.analysis(side), self.desk.pair.stored[side].delivery
        proposed = None if analysis is None else analysis.proposal(stop)
        if proposed is not None:
            events = moved(delivery.events_by_hand, stop, proposed.time)
            self._rule(side, stop, "Accept", events, delivery.rejected - {stop})

    def reject(self, side: str, stop: str) -> None:
        """Say that this footage does not show a stop: what hangs on it is not available."""
        delivery = self.desk.pair.stored[side].delivery
        self._rule(side, stop, "Reject", moved(delivery.events_by_hand, stop, None), delivery.rejected | {stop})

    def _rule(self, side: str, stop: str, verb: str, events: Mapping[str, float], rejected: frozenset[str]) -> None:
        stored = self.desk.pair.stored[side]
        library = self.library.store
        if stored.key is None or library is None:
            return
        key = stored.key
        label = f"{verb} “{EVENTS[stop].short}”, {stored.title}"
        try:
            keep_events(library, key, events, label, rejected)
        except WaxTwinError as fault:
            self._tell(Fault(f"{fault} The correction holds until the program is closed."))
        lying = self.desk.pair.stored.items()
        self.desk.pair.renew({side: with_events(one, events, rejected) for side, one in lying if one.key == key})
        self._recompute()

    def show_panel(self) -> None:
        """The held stop on both sides: source, how sure, accept or reject, what was done to it."""
        from waxtwin.ui.rooms.pair.stop_dialog import StopDialog

        if self.panel is None:
            self.panel = StopDialog(self.desk, self.library, self._window)
            self.panel.accepted_stop.connect(self.accept)
            self.panel.rejected_stop.connect(self.reject)
            self.panel.given_back.connect(lambda side, stop: self.correct(side, stop, None))
            self.panel.asked.connect(self.ask_time)
        self.panel.show()
        self.panel.raise_()

    def nudge(self, side: str, frames: int) -> None:
        """Move the held stop by frames of that side's own track, from where it was moved to last."""
        analysis, stop = self.desk.pair.analysis(side), self.desk.clock.stop
        found = None if analysis is None or stop is None else analysis.proposal(stop)
        if analysis is not None and stop is not None and found is not None:
            now = self.desk.pair.stored[side].delivery.events_by_hand.get(stop, found.time)
            first, last = analysis.motion.times[[0, -1]]
            self._set_stop(side, stop, float(np.clip(now + frames / analysis.motion.rate, first, last)))

    def ask_time(self, side: str, stop: str | None = None) -> None:
        """Type a stop's time on a side, in seconds of its own track; the held stop where none is named."""
        analysis, stop = self.desk.pair.analysis(side), stop or self.desk.clock.stop
        if analysis is None or stop is None:
            return
        now = analysis.time(stop)
        words = f"“{EVENTS[stop].short}” of {self.desk.pair.stored[side].title}, in seconds of its own track:"
        first, last = (float(t) for t in analysis.motion.times[[0, -1]])
        time, good = QInputDialog.getDouble(
            self._window, "The time of this stop", words, first if now is None else now, first, last, 4
        )
        if good:
            self._set_stop(side, stop, time)

    def _set_stop(self, side: str, stop: str, time: float) -> None:
        """Correct a stop and hold both sides at it again once the figures are there."""
        self.correct(side, stop, time)
        self.hold_again = stop

    def by_hand(self) -> bool:
        """Whether the held stop was set by hand or accepted on a side."""
        stop = self.desk.clock.stop
        return any(stop in s.delivery.events_by_hand for s in self.desk.pair.stored.values())

    def give_back(self) -> None:
        """Let detection find the held stop again, on the sides where it was set by hand."""
        stop = self.desk.clock.stop
        for side, stored in list(self.desk.pair.stored.items()):
            if stop is not None and stop in stored.delivery.events_by_hand:
                self.correct(side, stop, None)
