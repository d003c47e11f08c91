"""Stops in somebody's hands: moved, accepted, rejected, typed, given back; kept at once, recomputed, one undo."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QInputDialog, QWidget

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.events import EVENTS
from waxtwin.library.stored import with_events
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.rooms.pair.computing import keep_events, moved
from waxtwin.ui.shared.open_library import OpenLibrary

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.stop_dialog import StopDialog


class StopEditor(QObject):
    """`altered` when the pair's figures have to be worked out again; `hold_again` the stop to hold once they are."""

    altered = Signal()

    def __init__(self, desk: Desk, librarian: OpenLibrary, window: QWidget, tell: Callable[[object], None]) -> None:
        super().__init__(window)
        self.desk, self.librarian, self._window, self._tell = desk, librarian, window, tell
        self.hold_again: str | None = None
        self.panel: StopDialog | None = None

    def correct(self, side: str, stop: str, time: float | None) -> None:
        """Set a stop by hand, or give it back to detection: kept at once, recomputed, one undo."""
        delivery = self.desk.stored[side].delivery
        verb = "Move" if time is not None else "Give back"
        events = moved(delivery.events_by_hand, stop, time)
        self._rule(side, stop, verb, events, delivery.rejected - {stop})

    def accept(self, side: str, stop: str) -> None:
        """Vouch for a stop as it was detected: it stays there when the track changes."""
        analysis, delivery = self.desk.analysis(side), self.desk.stored[side].delivery
        proposed = None if analysis is None else analysis.proposal(stop)
        if proposed is not None:
            events = moved(delivery.events_by_hand, stop, proposed.time)
            self._rule(side, stop, "Accept", events, delivery.rejected - {stop})

    def reject(self, side: str, stop: str) -> None:
        """Say that this footage does not show a stop: what hangs on it is not available."""
        delivery = self.desk.stored[side].delivery
        self._rule(side, stop, "Reject", moved(delivery.events_by_hand, stop, None), delivery.rejected | {stop})

    def _rule(self, side: str, stop: str, verb: str, events: Mapping[str, float], rejected: frozenset[str]) -> None:
        stored = self.desk.stored[side]
        library = self.librarian.library
        if stored.key is None or library is None:
            return
        key = stored.key
        label = f"{verb} “{EVENTS[stop].short}”, {stored.title}"
        try:
            keep_events(library, key, events, label, rejected)
        except WaxTwinError as fault:
            self._tell(Fault(f"{fault} The correction holds until the program is closed."))
        for other, lying in self.desk.stored.items():
            if lying.key == key:
                self.desk.stored[other] = with_events(lying, events, rejected)
        self.altered.emit()

    def show_panel(self) -> None:
        """The held stop on both sides: source, how sure, accept or reject, what was done to it."""
        from waxtwin.ui.rooms.pair.stop_dialog import StopDialog

        if self.panel is None:
            self.panel = StopDialog(self.desk, self.librarian, self._window)
            self.panel.accepted_stop.connect(self.accept)
            self.panel.rejected_stop.connect(self.reject)
            self.panel.given_back.connect(lambda side, stop: self.correct(side, stop, None))
            self.panel.asked.connect(self.ask_time)
        self.panel.show()
        self.panel.raise_()

    def nudge(self, side: str, frames: int) -> None:
        """Move the held stop by frames of that side's own track, from where it was moved to last."""
        analysis, stop = self.desk.analysis(side), self.desk.stop
        found = None if analysis is None or stop is None else analysis.proposal(stop)
        if analysis is not None and stop is not None and found is not None:
            now = self.desk.stored[side].delivery.events_by_hand.get(stop, found.time)
            first, last = analysis.motion.times[[0, -1]]
            self._set_stop(side, stop, float(np.clip(now + frames / analysis.motion.rate, first, last)))

    def ask_time(self, side: str, stop: str | None = None) -> None:
        """Type a stop's time on a side, in seconds of its own track; the held stop where none is named."""
        analysis, stop = self.desk.analysis(side), stop or self.desk.stop
        if analysis is None or stop is None:
            return
        now = analysis.time(stop)
        words = f"“{EVENTS[stop].short}” of {self.desk.stored[side].title}, in seconds of its own track:"
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
        stop = self.desk.stop
        return any(stop in s.delivery.events_by_hand for s in self.desk.stored.values())

    def give_back(self) -> None:
        """Let detection find the held stop again, on the sides where it was set by hand."""
        stop = self.desk.stop
        for side, stored in list(self.desk.stored.items()):
            if stop is not None and stop in stored.delivery.events_by_hand:
                self.correct(side, stop, None)
