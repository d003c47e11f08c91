"""Stops in somebody's hands: moved, accepted, rejected, typed, given back; kept at once, recomputed, one undo."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QInputDialog, QMessageBox

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.stops import EVENTS, ORDER, StopsByHand
from waxtwin.library.stored import with_events
from waxtwin.ui.model.computing import keep_events
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import key_of
from waxtwin.ui.shared.context import Context

if TYPE_CHECKING:
    from waxtwin.core.analysis import Analysis
    from waxtwin.ui.rooms.pair.stop_dialog import StopDialog


def _unset(stop: str) -> str:
    return f"“{EVENTS[stop].label}” is not set yet: go to its frame and press Ctrl+{key_of(stop)}."


class StopEditor(QObject):
    """`hold_again` is the stop to hold once the figures are there again; `estimating` whether the next stop that is set
    lies outside the picture.
    """

    estimating_switched = Signal()

    def __init__(self, context: Context) -> None:
        super().__init__(context.window)
        self.desk, self.library, self._window, self._tell = context.desk, context.library, context.window, context.say
        self._recompute = context.pairs.recompute
        self.hold_again: str | None = None
        self.estimating = False
        self.desk.listen(self._hold_again, Topic.FIGURES)
        self.panel: StopDialog | None = None

    def _hold_again(self, topic: Topic) -> None:
        stop, self.hold_again = self.hold_again, None
        if stop is not None:
            self.desk.clock.hold(stop)

    def correct(self, side: str, stop: str, time: float | None) -> None:
        """Set a stop by hand, or give it back to detection: kept at once, recomputed, one undo."""
        said = self._said(side)
        if time is None:
            self._rule("Give back", stop, {side: said.give_back(stop)})
        else:
            self._rule("Move", stop, {side: said.put(stop, time)})

    def accept(self, side: str, stop: str) -> None:
        """Vouch for a stop as it was detected: it stays there when the track changes."""
        analysis = self.desk.pair.analysis(side)
        proposed = None if analysis is None else analysis.proposal(stop)
        if proposed is not None:
            self._rule("Accept", stop, {side: self._said(side).put(stop, proposed.time)})

    def reject(self, side: str, stop: str) -> None:
        """Say that this footage does not show a stop: what hangs on it is not available."""
        self._rule("Reject", stop, {side: self._said(side).reject(stop)})

    def _said(self, side: str) -> StopsByHand:
        return self.desk.pair.stored[side].delivery.by_hand

    def _rule(self, verb: str, stop: str, said: Mapping[str, StopsByHand]) -> None:
        """Keep what was said about a stop on sides, {side: all that is said of its throw}."""
        library, lying = self.library.store, self.desk.pair.stored
        by_key = {key: one for side, one in said.items() if (key := lying[side].key) is not None}
        if not by_key or library is None:
            return
        titles = " and ".join(dict.fromkeys(lying[side].title for side in said))
        try:
            keep_events(library, by_key, f"{verb} “{EVENTS[stop].short}”, {titles}")
        except WaxTwinError as fault:
            self._tell(Fault(f"{fault} The correction holds until the program is closed."))
        self.desk.pair.renew(
            {side: with_events(one, by_key[one.key]) for side, one in lying.items() if one.key in by_key}
        )
        self._recompute()

    # at the frame that is shown ------------------------------------------------------------------------------------
    def hold(self, stop: str) -> None:
        """Hold a stop; one that nobody knows yet is said to be set first."""
        clock, pair = self.desk.clock, self.desk.pair
        clock.play(0)
        clock.hold(stop)
        sides = (clock.alone,) if clock.alone else pair.measured_sides
        if not any(one.proposal(stop) for side in sides if (one := pair.analysis(side)) is not None):
            self._tell(_unset(stop))

    def set_here(self, stop: str) -> None:
        """Set a stop at the frame shown, of the side that was taken or of every side; against the order of what was set
        already only when somebody insists.
        """
        clock, pair = self.desk.clock, self.desk.pair
        clock.play(0)
        times = {side: clock.time_of(side) for side in ((clock.alone,) if clock.alone else pair.measured_sides)}
        against = [words for side, time in times.items() if (words := self._against(side, stop, time))]
        if not against:
            self._set_at(stop, times)
            return
        box = QMessageBox(self._window)
        box.setWindowTitle("Against the order of the stops")
        box.setText(" ".join(against))
        box.setInformativeText("No duration is read between stops in such an order.")
        box.addButton("Set it all the same", QMessageBox.ButtonRole.AcceptRole).clicked.connect(
            lambda: self._set_at(stop, times)
        )
        box.setDefaultButton(box.addButton("Leave it", QMessageBox.ButtonRole.RejectRole))
        self.doubt = box
        box.open()

    def _against(self, side: str, stop: str, time: float) -> str:
        """What speaks against a stop at an instant: another that was set by hand and comes at the wrong side of it."""
        at = ORDER.index(stop)
        for other, when in self._said(side).times.items():
            place = ORDER.index(other)
            if place != at and (time - when) * (place - at) > 0:
                return (
                    f"On the {side}'s side “{EVENTS[stop].short}” would come {abs(time - when) * 1000:.0f} ms "
                    f"{'after' if place > at else 'before'} “{EVENTS[other].short}”."
                )
        return ""

    def _set_at(self, stop: str, times: Mapping[str, float]) -> None:
        estimated, self.estimating = self.estimating, False
        said = {side: self._said(side).put(stop, time, estimated=estimated) for side, time in times.items()}
        self._rule("Estimate" if estimated else "Set", stop, said)
        if not self.desk.clock.alone:
            self.hold_again = stop

    def switch_estimating(self) -> None:
        """The next stop that is set lies outside the picture, or does not after all."""
        self.estimating = not self.estimating
        self.estimating_switched.emit()
        kept = "as estimated: it lies outside the picture" if self.estimating else "as it is seen"
        self._tell(f"The next stop that is set is kept {kept}.")

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
        analysis, stop = self._held(side)
        if analysis is None or stop is None:
            return
        found = analysis.proposal(stop)
        if found is None:
            self._tell(_unset(stop))
            return
        now = self._said(side).times.get(stop, found.time)
        first, last = analysis.motion.times[[0, -1]]
        self._set_stop(side, stop, float(np.clip(now + frames / analysis.motion.rate, first, last)))

    def _held(self, side: str) -> tuple[Analysis | None, str | None]:
        """A side's figures and the stop that is held; which of the two is missing is told."""
        analysis, stop = self.desk.pair.analysis(side), self.desk.clock.stop
        if analysis is None:
            self._tell(f"There is no {side} on the desk.")
        elif stop is None:
            self._tell("Hold a stop first.")
        return analysis, stop

    def ask_time(self, side: str, stop: str | None = None) -> None:
        """Type a stop's time on a side, in seconds of its own track; the held stop where none is named."""
        analysis, stop = (self.desk.pair.analysis(side), stop) if stop else self._held(side)
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
        return any(stop in s.delivery.by_hand.times for s in self.desk.pair.stored.values())

    def give_back(self) -> None:
        """Let detection find the held stop again, on the sides where it was set by hand."""
        stop = self.desk.clock.stop
        for side, stored in list(self.desk.pair.stored.items()):
            if stop is not None and stop in stored.delivery.by_hand.times:
                self.correct(side, stop, None)
