"""The chalk marks on the stages: which there are, the tool in hand, the one that is chosen. Knows no Qt."""

from __future__ import annotations

from waxtwin.core.chalk import KINDS, Chalk, End
from waxtwin.core.contrast import Contrast
from waxtwin.library.chalk import chalk_of
from waxtwin.library.stored import StoredDelivery
from waxtwin.ui.model.pair_state import PairState
from waxtwin.ui.model.topics import Hub, Topic


class ChalkBoard:
    """`tool` is the kind that is being made, or "", with its ends so far in `begun`; `chosen` is a side and an id.

    Tells CHALK.
    """

    def __init__(self, pair: PairState, hub: Hub[Topic]) -> None:
        self._pair, self._hub = pair, hub
        self.tool = ""
        self.begun: tuple[str, tuple[End, ...]] = ("", ())
        self.chosen: tuple[str, str] | None = None
        self.visible = True
        self._read: dict[str, tuple[StoredDelivery | None, tuple[Chalk, ...]]] = {}
        hub.listen(self._follow, Topic.PAIR)

    def _follow(self, topic: Topic) -> None:
        """Other deliveries: nothing of them is chosen or begun."""
        self.tool, self.begun, self.chosen = "", ("", ()), None

    def of(self, side: str) -> tuple[Chalk, ...]:
        """The marks of a side's throw."""
        stored = self._pair.stored_of(side)
        if side not in self._read or self._read[side][0] is not stored:
            self._read[side] = (stored, chalk_of(stored))
        return self._read[side][1]

    def drawn_on(self, pair: Contrast) -> dict[str, tuple[Chalk, ...]]:
        """The marks that belong on pictures of a pair, {side: marks}; where a session's typical throw is shown instead
        of the one that was marked, only those that go with any body.
        """
        found = {}
        for side, stored in self._pair.stored.items() if self.visible else ():
            same = stored.is_of((pair.athlete if side == "athlete" else pair.twin).delivery)
            found[side] = tuple(one for one in self.of(side) if same or one.for_any_throw)
        return found

    def find(self, side: str, name: str) -> Chalk | None:
        """A mark by its id."""
        return next((one for one in self.of(side) if one.id == name), None)

    @property
    def picked(self) -> tuple[str, Chalk] | None:
        """The side and the mark that are chosen."""
        found = None if self.chosen is None else self.find(*self.chosen)
        return None if self.chosen is None or found is None else (self.chosen[0], found)

    def take(self, tool: str) -> None:
        """Take a tool in hand, or lay it down (""). Raises ValueError."""
        if tool and tool not in KINDS:
            raise ValueError(f"no such mark: {tool}")
        if tool != self.tool or self.begun[1]:
            self.tool, self.begun = tool, ("", ())
            self._hub.tell(Topic.CHALK)

    def put_end(self, side: str, end: End) -> tuple[End, ...] | None:
        """Put an end on a side; all ends once they are there, else None. A click on another side begins anew."""
        ends = (*self.begun[1], end) if self.begun[0] == side else (end,)
        whole = len(ends) == KINDS[self.tool][1]
        self.begun = ("", ()) if whole else (side, ends)
        self._hub.tell(Topic.CHALK)
        return ends if whole else None

    def choose(self, side: str, name: str) -> None:
        """Choose a mark, or none ("")."""
        chosen = (side, name) if name else None
        if chosen != self.chosen:
            self.chosen = chosen
            self._hub.tell(Topic.CHALK)

    def show(self, visible: bool) -> None:
        """All marks seen, or none."""
        if visible != self.visible:
            self.visible = visible
            self._hub.tell(Topic.CHALK)
