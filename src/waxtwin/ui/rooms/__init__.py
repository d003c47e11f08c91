"""The rooms in the order of the work: one record each. Rail, menu, keys, help, pictures and tests follow from it."""

from __future__ import annotations

from dataclasses import dataclass
from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxtwin.ui.shared.context import Context
    from waxtwin.ui.shared.room import Room


@dataclass(frozen=True)
class RoomRecord:
    """`id` is its folder here and its page in `assets/help`; `view` its class in the folder's `room`, loaded when it is
    first needed; `pictures` what its `scenes` show; `at_once` where the window begins with it; `after` the titles of
    the rooms that it leans on.
    """  # fmt: skip

    id: str
    title: str
    key: str
    view: str
    pictures: tuple[str, ...]
    folder: str = "waxtwin.ui.rooms"
    at_once: bool = False
    after: tuple[str, ...] = ()

    def make(self, context: Context) -> Room:
        """The room itself."""
        room: Room = getattr(import_module(f"{self.folder}.{self.id}.room"), self.view)(context)
        room.setObjectName(self.id)
        return room


ROOMS = (
    RoomRecord("bench", "Bench", "Alt+1", "BenchRoom", ("bench", "find-a-twin"), at_once=True),
    RoomRecord("prepare", "Prepare", "Alt+2", "PrepareRoom", ("prepare", "prepare-ready")),
    RoomRecord("pair", "Pair", "Alt+3", "PairRoom",
               ("pair", "pair-clips", "pair-over", "pair-several", "pair-dark", "pair-first"), at_once=True),
    RoomRecord("contrast", "Contrast", "Alt+4", "ContrastRoom", ("contrast",)),
    RoomRecord("gap", "Gap", "Alt+5", "GapRoom", ("gap", "gap-borrowed", "gap-what-if")),
    RoomRecord("plan", "Plan", "Alt+6", "PlanRoom", ("plan", "plan-log")),
    RoomRecord("report", "Report", "Alt+7", "ReportRoom", ("report",), after=("Plan",)),
    RoomRecord("talk", "Talk", "Alt+8", "TalkRoom", ("talk",), after=("Plan",)),
    RoomRecord("session", "Session", "Alt+9", "SessionRoom", ("session",)),
)  # fmt: skip
