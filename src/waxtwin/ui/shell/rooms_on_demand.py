"""The window's rooms, each built when it is first needed: what nobody looks at costs nothing."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from waxtwin.ui import rooms
from waxtwin.ui.rooms import RoomRecord
from waxtwin.ui.shared.room import Room


class RoomsOnDemand(Mapping[str, Room]):
    """Every room by its title; whoever asks for one gets it built, after those that it leans on. `built` has those that
    there are.
    """

    def __init__(self, build: Callable[[RoomRecord], Room]) -> None:
        self._records = {record.title: record for record in rooms.ROOMS}
        self._build = build
        self.built: dict[str, Room] = {}

    def build_first(self) -> None:
        """Build those that the window begins with."""
        for title, record in self._records.items():
            if record.at_once:
                self[title]

    def __getitem__(self, title: str) -> Room:
        if title not in self.built:
            record = self._records[title]
            for other in record.after:
                self[other]
            self.built[title] = self._build(record)
        return self.built[title]

    def __iter__(self) -> Iterator[str]:
        return iter(self._records)

    def __len__(self) -> int:
        return len(self._records)
