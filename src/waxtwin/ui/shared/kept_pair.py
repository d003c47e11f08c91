"""The kept pair behind the desk: found or made when two throws lie there, restored as it was left, saved as it goes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from contextlib import suppress
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QInputDialog, QWidget

from waxtwin.core.against_twins import MOST_TWINS
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.measures import MEASURES
from waxtwin.core.stops import EVENTS, LANDING
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.display import read_display
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.pair_flow import PairFlow
from waxtwin.ui.model.pair_state import OTHERS
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.open_library import OpenLibrary

if TYPE_CHECKING:
    from waxtwin.library.pairs import Note, Pair
    from waxtwin.library.store import Library

_REST_MS = 800  # a state is kept once the hand rests
_STATE = (
    Topic.TIME, Topic.ALIGNMENT, Topic.DISPLAY, Topic.SELECTION, Topic.LANDING, Topic.THROWS, Topic.REPORT,
    Topic.CLOSEUP,
)  # fmt: skip


class KeptPair(QObject):
    """`listed` when the kept pairs are other ones, or in another order."""

    listed = Signal()

    def __init__(
        self, desk: Desk, library: OpenLibrary, pairs: PairFlow, window: QWidget, say: Callable[[str], object]
    ) -> None:
        super().__init__(window)
        self.desk, self.library, self._window, self._tell = desk, library, window, say
        pairs.leaving.append(self.save)
        self._why = ""
        self._pending: Mapping[str, Any] | None = None
        self._keys: tuple[int, int] | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_REST_MS)
        self._timer.timeout.connect(self.save)
        self.desk.listen(self._take, Topic.PAIR)
        self.desk.listen(lambda _: self.restore(), Topic.FIGURES)
        self.desk.listen(self._rest, *_STATE)
        self.library.altered.connect(lambda _: self._again())
        self.library.opened.connect(self.listed)

    # following the desk --------------------------------------------------------------------------------------------
    def _rest(self, topic: Topic) -> None:
        """Something about how the pair is shown is other: keep it once the hand rests."""
        if self._pending is None and self.desk.pair.kept is not None:
            self._timer.start()

    def _take(self, topic: Topic) -> None:
        """Find the pair that lies on the desk now, or make it, and show everything as it was left."""
        self._timer.stop()
        stored, library = self.desk.pair.stored, self.library.store
        self._pending, self._keys = None, None
        keys = [one.key for side in ("athlete", "twin") if (one := stored.get(side)) is not None]
        if library is None or library.database.read_only or len(keys) < 2 or keys[0] is None or keys[1] is None:
            self.desk.pair.set_kept(None)
            return
        from waxtwin.library.pairs import change_pair, open_pair

        self._keys = (keys[0], keys[1])
        why, self._why = self._why, ""
        try:
            kept = open_pair(library, *self._keys)
            if why and why != kept.why:
                change_pair(library, kept.id, "Say why this twin", why=why)
                kept = open_pair(library, *self._keys)
        except WaxTwinError as fault:
            self._tell(Fault(fault))
            self.desk.pair.set_kept(None)
            return
        self._restore_display(kept.state)
        self._pending = kept.state
        self.desk.pair.set_kept(kept)
        self._lay_others(kept)
        self.listed.emit()

    def _lay_others(self, kept: Pair) -> None:
        """Lay the pair's further twins on the desk, as far as they still can be read."""
        library = self.library.store
        if library is None or (not kept.others and not self.desk.pair.others):
            return
        from waxtwin.library.throws import fetch

        found = {}
        for side, key in zip(OTHERS, kept.others, strict=False):
            with suppress(WaxTwinError):
                found[side] = fetch(library, key)
        if {s: t.key for s, t in found.items()} != {s: t.key for s, t in self.desk.pair.others.items()}:
            self.desk.pair.set_others(found, {})

    def _restore_display(self, state: Mapping[str, Any]) -> None:
        """What can be shown before the figures are there; anything malformed stays as it is."""
        if state.get("landing") in LANDING:
            self.desk.pair.set_landing(str(state["landing"]))
        self.desk.view.show(**read_display(state.get("display")))
        if isinstance(state.get("closeups"), dict):
            self.desk.closeups.restore(state["closeups"])
        if isinstance(state.get("whole"), bool):
            self.desk.pair.set_whole(state["whole"])
        if isinstance(state.get("report"), dict):
            self.desk.pair.set_report(state["report"])
        self.desk.clock.rehang(state)

    def say_why(self, why: str) -> None:
        """Why the twin of the pair that is about to be laid was chosen."""
        self._why = why

    def restore(self) -> None:
        """Put the clock back where it was left, once the first figures are on the desk."""
        state, self._pending = self._pending, None
        if state is None:
            return
        stop, time, chosen = state.get("stop"), state.get("time"), state.get("selected")
        if isinstance(stop, str) and stop in EVENTS:
            self.desk.clock.hold(stop)
        if isinstance(time, float) and abs(time - self.desk.clock.time) > 1e-4:
            self.desk.clock.go(time)
        if isinstance(chosen, str) and chosen in MEASURES:
            self.desk.view.select(chosen)

    def save(self) -> None:
        """Keep how the pair is shown now."""
        library, kept = self.library.store, self.desk.pair.kept
        self._timer.stop()
        if library is None or kept is None or self.desk.pair.contrast is None:
            return
        from waxtwin.library.pairs import keep_state

        try:
            keep_state(library, kept.id, self.desk.state())
        except WaxTwinError as fault:
            self._tell(Fault(fault))

    def _again(self) -> None:
        """Read the kept pair again after a change of the library, undo included."""
        library = self.library.store
        if library is not None and self._keys is not None and self.desk.pair.kept is not None:
            from waxtwin.library.pairs import kept_pair

            kept = kept_pair(library, *self._keys)
            self.desk.pair.set_kept(kept)
            if kept is not None:
                self._lay_others(kept)
        self.listed.emit()

    # doing ---------------------------------------------------------------------------------------------------------
    def _change(self, work: Callable[[Library, Pair], None]) -> None:
        kept = self.desk.pair.kept
        if kept is not None:
            self.library.change(lambda library: work(library, kept), 0)

    def add_twin(self, key: int) -> None:
        """Lay a further twin beside the pair, at most four twins in all."""
        from waxtwin.library.pairs import change_pair

        kept = self.desk.pair.kept
        if kept is None:
            self._tell("The pair on the desk is not kept, so no further twin can be laid beside it.")
            return
        if key in (kept.athlete, kept.twin, *kept.others):
            self._tell("This throw lies on the desk already.")
            return
        if len(kept.others) >= MOST_TWINS - 1:
            self._tell(f"There are {MOST_TWINS} twins on the desk already; take one off first (menu Pair).")
            return
        others = [*kept.others, key]
        self._change(lambda library, pair: change_pair(library, pair.id, "Add a twin", others=others))

    def only_one_twin(self) -> None:
        """Take the further twins off again."""
        from waxtwin.library.pairs import change_pair

        self._change(lambda library, pair: change_pair(library, pair.id, "Only one twin", others=[]))

    def ask_name(self) -> None:
        """Give the pair a name."""
        from waxtwin.library.pairs import change_pair

        kept = self.desk.pair.kept
        if kept is None:
            return
        name, good = QInputDialog.getText(self._window, "Name this pair", "What it is called:", text=kept.name)
        if good:
            self._change(lambda library, pair: change_pair(library, pair.id, "Name a pair", name=name.strip()))

    def ask_why(self) -> None:
        """Say, or read again, why this twin was chosen."""
        from waxtwin.library.pairs import change_pair

        kept = self.desk.pair.kept
        if kept is None:
            return
        why, good = QInputDialog.getMultiLineText(self._window, "Why this twin", "Why it was chosen:", kept.why)
        if good:
            self._change(lambda library, pair: change_pair(library, pair.id, "Say why this twin", why=why.strip()))

    def switch_peers(self) -> None:
        """Two of equal standing, or athlete and twin."""
        from waxtwin.library.pairs import PEERS, TWIN, change_pair

        kind = TWIN if self.desk.pair.kind == PEERS else PEERS
        self._change(lambda library, pair: change_pair(library, pair.id, "What this pair is", kind=kind))

    def ask_note(self, side: str) -> None:
        """Pin a note to the held stop of a side."""
        stop = self.desk.clock.stop
        if self.desk.pair.kept is None:
            return
        if stop is None:
            self._tell("Hold a stop first: a note is pinned to it.")
            return
        words = f"“{EVENTS[stop].label}”, {self.desk.pair.stored[side].title}:"
        text, good = QInputDialog.getMultiLineText(self._window, "Pin a note to this stop", words)
        if good and text.strip():
            self.pin(stop, side, text.strip())

    def pin(self, stop: str, side: str, text: str) -> None:
        """Pin a note to a stop of a side."""
        from waxtwin.library.pairs import pin_note

        self._change(lambda library, pair: pin_note(library, pair.id, stop, side, text))

    def unpin(self, note: Note) -> None:
        """Take a note off again."""
        from waxtwin.library.pairs import unpin_note

        self._change(lambda library, pair: unpin_note(library, pair.id, note))

    def ask_tie(self) -> None:
        """Tie the moment that both sides show, by a name of its own; both move together from there."""
        kept, clock = self.desk.pair.kept, self.desk.clock
        if kept is None or self.desk.pair.contrast is None:
            return
        words = "What both pitchers do here, such as “knee level with the belt”:"
        name, good = QInputDialog.getText(self._window, "Tie this moment", words, text=f"moment {len(kept.ties) + 1}")
        if good and name.strip():
            self.tie(name.strip(), *clock.here())

    def tie(self, name: str, athlete: float, twin: float) -> None:
        """Tie a moment and hold both sides at it."""
        from waxtwin.library.pairs import tie_moment

        before = len(self.desk.pair.ties)
        self._change(lambda library, pair: tie_moment(library, pair.id, name, athlete, twin))
        if len(self.desk.pair.ties) > before:
            self.desk.clock.hold_tie(self.desk.pair.ties[-1])

    def untie(self) -> None:
        """Take the tied moment that is held off again."""
        from waxtwin.library.pairs import untie_moment

        tie = self.desk.clock.tie
        if tie is not None:
            self._change(lambda library, pair: untie_moment(library, pair.id, tie))
            self.desk.clock.hold_landing()

    def forget(self, pair: Pair) -> None:
        """Take a pair off the list; its throws stay."""
        from waxtwin.library.pairs import forget_pair

        if self.desk.pair.kept is not None and self.desk.pair.kept.id == pair.id:
            self.desk.pair.set_kept(None)
            self._keys = None
        self.library.change(lambda library: forget_pair(library, pair.id), 0)
