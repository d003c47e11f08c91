"""Chalk marks made, moved, copied to the other side, taken away: each one change of the library."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from uuid import uuid4

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QInputDialog

from waxtwin.core.chalk import KINDS, Chalk, End, on_other_side, told
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.measures.house import HOUSE, HouseMeasure
from waxtwin.core.measures.house import KINDS as HOUSE_KINDS
from waxtwin.core.stops import EVENTS
from waxtwin.library.chalk import keep_chalk, with_chalk
from waxtwin.library.stored import Clip, StoredDelivery
from waxtwin.ui.model.display import VIEW_NAMES
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.shared.context import Context

SPANS: Mapping[str, str] = {
    "always": "always", "stop": "at this stop", "on": "from here on", "until": "until here", "here": "in this frame",
}  # fmt: skip


class ChalkFlow(QObject):
    """Works on the board's chosen mark, and on the tool in hand."""

    def __init__(self, context: Context) -> None:
        super().__init__(context.window)
        self._context, self.desk, self.board = context, context.desk, context.desk.chalk

    def click(self, side: str, end: End | None, clip: str, view: str) -> None:
        """A click with the tool in hand: an end is put, and with the last one the mark is made."""
        if end is None:
            self._context.say("On a figure, put every end on a joint; on a clip, anywhere.")
            return
        ends = self.board.put_end(side, end)
        if ends is None:
            return
        words = ""
        if self.board.tool == "word":
            words, good = QInputDialog.getText(self._context.window, "A word on the stage", "What it says:")
            words = told(words)
            if not good or not words:
                return
        made = self._made(side, ends, words, clip, view)
        self._keep({side: [*self.board.of(side), made]}, f"Mark: {KINDS[made.kind][0].lower()}")
        self.board.choose(side, made.id)
        self.board.take("")

    def _made(self, side: str, ends: tuple[End, ...], words: str, clip: str, view: str) -> Chalk:
        time = self.desk.clock.time_of(side)
        made = Chalk(uuid4().hex[:12], self.board.tool, ends, time, words, view=view)
        if not made.on_body:
            made = replace(made, clip=clip)
        if made.kind in ("plumb", "level"):
            return self._spanned(side, made, "on")
        if made.on_body:
            return made
        return self._spanned(side, made, "stop" if self._held_stop(side) else "here")

    def _held_stop(self, side: str) -> str:
        """The stop that a side stands at, or ""."""
        stop, analysis = self.desk.clock.stop, self.desk.pair.analysis(side)
        at = None if analysis is None or stop is None else analysis.event_times.get(stop)
        near = (
            analysis is not None
            and at is not None
            and abs(at - self.desk.clock.time_of(side)) < 1 / analysis.motion.rate
        )
        return stop if near and stop is not None else ""

    def _spanned(self, side: str, chalk: Chalk, span: str) -> Chalk:
        time, stop = self.desk.clock.time_of(side), self._held_stop(side)
        ends = {"on": (time, chalk.last), "until": (chalk.first, time), "here": (time, time)}.get(span, (None, None))
        return replace(chalk, stop=stop if span == "stop" else "", first=ends[0], last=ends[1])

    # the chosen mark -----------------------------------------------------------------------------------------------
    def set_span(self, span: str) -> None:
        """When the chosen mark is seen: one of SPANS."""
        picked = self.board.picked
        if picked is None:
            return
        side, chalk = picked
        if span == "stop" and not self._held_stop(side):
            self._context.say("Hold a stop first; the mark then shows whenever that stop is held.")
            return
        self.change(side, self._spanned(side, chalk, span), "Mark shown elsewhere")

    def rename(self) -> None:
        """Give the chosen mark words of its own."""
        picked = self.board.picked
        if picked is None:
            return
        side, chalk = picked
        words, good = QInputDialog.getText(
            self._context.window, "Name this mark", "What it is called:", text=chalk.words
        )
        if good:
            self.change(side, replace(chalk, words=told(words)), "Name a mark")

    def hide(self) -> None:
        """Hide the chosen mark, or show it again."""
        if self.board.picked is not None:
            side, chalk = self.board.picked
            self.change(side, replace(chalk, hidden=not chalk.hidden), "Show a mark" if chalk.hidden else "Hide a mark")

    def keep_measure(self) -> None:
        """Keep the chosen mark as a measure of the house, at its stop or the one that is held."""
        picked = self.board.picked
        if picked is None:
            return
        side, chalk = picked
        stop = chalk.stop or self._held_stop(side)
        if chalk.kind not in HOUSE_KINDS or not chalk.on_body:
            self._context.say("A measure of the house is a line, an angle or a distance with every end on a joint.")
            return
        if not stop:
            self._context.say("Hold the stop at which it is to be measured first.")
            return
        words, good = QInputDialog.getText(
            self._context.window, "Keep as a measure", f"Its name; it is measured at “{EVENTS[stop].label}”:",
            text=told(chalk.title),
        )  # fmt: skip
        if good and told(words):
            name = f"{HOUSE}{uuid4().hex[:8]}"
            points = tuple(end.landmark for end in chalk.ends)
            label = told(words)[:60]
            self._context.house.keep(HouseMeasure(name, label, chalk.kind, points, stop, chalk.view))
            self._context.say(f"“{label}” is measured in every throw from now on: see Contrast.")

    def remove(self) -> None:
        """Take the chosen mark away."""
        if self.board.picked is not None:
            side, chalk = self.board.picked
            self._keep({side: [one for one in self.board.of(side) if one.id != chalk.id]}, "Take a mark away")
            self.board.choose("", "")

    def copy(self) -> None:
        """The same mark on the other side, at the same stop, mirrored for the other hand."""
        picked, pair = self.board.picked, self.desk.pair
        if picked is None or picked[0] not in SIDES or not pair.complete:
            return
        side, chalk = picked
        other = SIDES[1 - SIDES.index(side)]
        stored = {name: pair.stored[name] for name in SIDES}
        clip = _same_view(chalk, stored[side], stored[other])
        if not chalk.on_body and clip is None:
            self._context.say("The other side has no clip, and this mark lies on a picture: put its ends on joints.")
            return
        mirrored = stored[side].delivery.throws != stored[other].delivery.throws
        put = self._same_instant(side, other, chalk.put)
        name = clip.path.name if clip is not None else ""
        made = on_other_side(chalk, uuid4().hex[:12], put=put, clip=name, mirrored=mirrored)
        self._keep({other: [*self.board.of(other), made]}, "The same mark on the other side")
        self.board.choose(other, made.id)

    def _same_instant(self, side: str, other: str, time: float) -> float:
        """The instant of the other side that stands beside one of this side."""
        clock = self.desk.clock
        if abs(time - clock.time_of(side)) < 1e-6:
            return clock.time_of(other)
        return clock.alignment.to_twin(time) if side == "athlete" else clock.alignment.to_athlete(time)

    def change(self, side: str, chalk: Chalk, label: str) -> None:
        """Put a changed mark in its place."""
        self._keep({side: [chalk if one.id == chalk.id else one for one in self.board.of(side)]}, label)

    def _keep(self, marks: Mapping[str, Sequence[Chalk]], label: str) -> None:
        library, lying = self._context.library.store, self.desk.pair.stored
        if not set(marks) <= set(lying):
            self._context.say("A further twin's marks are made and changed in a pair of its own.")
            return
        by_key = {lying[side].key: found for side, found in marks.items() if lying[side].key is not None}
        if library is None or not by_key:
            return
        try:
            kept = keep_chalk(library, {key: found for key, found in by_key.items() if key is not None}, label)
        except WaxTwinError as fault:
            self._context.say(Fault(fault))
            return
        self.desk.pair.renew({side: with_chalk(one, kept[one.key]) for side, one in lying.items() if one.key in kept})


def _same_view(chalk: Chalk, own: StoredDelivery, other: StoredDelivery) -> Clip | None:
    """The other throw's clip that is seen from where the mark's own is, or its first one."""
    view = next((VIEW_NAMES.get(clip.view) for clip in own.clips if clip.path.name == chalk.clip), None)
    alike = [clip for clip in other.clips if VIEW_NAMES.get(clip.view) == view]
    return next(iter([*alike, *other.clips]), None)
