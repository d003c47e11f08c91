"""Speeds of a day without footage."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from datetime import date
from pathlib import Path

from PySide6.QtWidgets import QWidget

from waxtwin.core.units import figure
from waxtwin.library.speeds import read_speeds, speed_of
from waxtwin.ui.rooms.plan.day_dialog import DayDialog


class SpeedsDialog(DayDialog):
    """Keeps speeds in m/s; `known(day)` are those typed for a day before."""

    title = "Speeds without footage"
    says = (
        "Readings of a radar gun on a day, also where nothing was filmed. They count in the log's speed beside the "
        "throws that are kept."
    )
    what = "Speeds"
    columns = "Columns “date” and “speed_mps”, “speed_mph”, “speed_kmh” or “speed”; several days at once"
    between = re.compile(r"[;\n]|,(?!\d)|(?<=[\d./hsp]) +(?=\d)")  # a comma between digits is a decimal point

    def __init__(
        self, today: date, known: Callable[[str], Sequence[float]], imperial: bool, parent: QWidget | None = None
    ) -> None:
        super().__init__(today, parent)
        self._known, self._imperial = known, imperial
        self.typed.setPlaceholderText("74 mph; 73.5 mph; 75" if imperial else "33.2; 32.9; 73 mph")
        self.fill()

    def fill(self) -> None:
        self.typed.setPlainText("; ".join(figure(one, "m/s", self._imperial) for one in self._known(self.iso_day)))

    def read(self, said: str, day: str) -> float:
        return speed_of(said, self._imperial)

    def read_file(self, path: Path) -> dict[str, list[float]]:
        return read_speeds(path, self._imperial)
