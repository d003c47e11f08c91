"""The desk: a pair, its clock, and how both are shown, with one place to listen. Knows no Qt."""

from __future__ import annotations

from dataclasses import asdict

from waxtwin.ui.model.chalk_board import ChalkBoard
from waxtwin.ui.model.clock import Clock
from waxtwin.ui.model.closeup import Closeups
from waxtwin.ui.model.display import View
from waxtwin.ui.model.pair_state import PairState
from waxtwin.ui.model.topics import Hub, Topic

SECOND = ", second"  # how the key of a stage ends that shows a throw from a second side


class Desk:
    """What every room looks at."""

    def __init__(self) -> None:
        self.hub: Hub[Topic] = Hub()
        self.pair = PairState(self.hub)  # its own listeners come first: clock and view follow it before any screen does
        self.clock = Clock(self.pair, self.hub)
        self.view = View(self.hub)
        self.closeups = Closeups(self.hub)
        self.chalk = ChalkBoard(self.pair, self.hub)
        self.listen = self.hub.listen

    @property
    def stages(self) -> tuple[str, ...]:
        """The stages on show, each by its key: a side, and its second view where there is one."""
        sides = self.pair.shown_sides
        return (*sides, *(side + SECOND for side in sides)) if self.view.display.double else sides

    def state(self) -> dict[str, object]:
        """How the pair is shown, to be kept and restored."""
        pair, clock = self.pair, self.clock
        return {
            "mode": clock.mode, "anchor": clock.anchor, "time": clock.time, "stop": clock.stop, "landing": pair.landing,
            "display": asdict(self.view.display), "whole": pair.whole, "selected": self.view.selected,
            "report": pair.report, "closeups": self.closeups.state(),
        }  # fmt: skip
