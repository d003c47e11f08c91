"""The ten stops of the throws on the stages, to be set where they are seen."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QGridLayout, QLabel, QToolButton, QVBoxLayout, QWidget

from waxtwin.core.stops import DETECTED, ESTIMATED, EVENTS, ORDER
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import key_of
from waxtwin.ui.rooms.pair.stop_edits import StopEditor
from waxtwin.ui.shared.theme import font
from waxtwin.ui.shared.widgets import label

_TIME = 46  # px: a time with its sign


class HandStops(QWidget):
    """A row a stop: hold it, what is known of it on each side, and set it at the frame shown."""

    def __init__(self, desk: Desk, edits: StopEditor) -> None:
        super().__init__()
        self.desk, self._edits = desk, edits
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 4, 0)
        column.setSpacing(4)
        self._words = label("", role="soft", grow=-1)
        self._words.setWordWrap(True)
        column.addWidget(self._words)
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(1)
        grid.setColumnStretch(0, 1)
        self.holds: dict[str, QToolButton] = {}
        self.sets: dict[str, QToolButton] = {}
        self.times: dict[tuple[str, str], QLabel] = {}
        for n, stop in enumerate(ORDER):
            self._add_row(grid, n, stop)
        column.addLayout(grid)
        self.outside = QCheckBox("the next one is outside the picture: estimated")
        self.outside.setFont(font(-1.0))
        self.outside.clicked.connect(edits.switch_estimating)
        column.addWidget(self.outside)
        edits.estimating_switched.connect(self._fill)
        desk.listen(lambda _: self._fill(), Topic.PAIR, Topic.FIGURES, Topic.ALONE, Topic.TIME)

    def _add_row(self, grid: QGridLayout, n: int, stop: str) -> None:
        hold, put = QToolButton(), QToolButton()
        hold.setText(f"{key_of(stop)}  {EVENTS[stop].short}")
        hold.setToolTip(f"{EVENTS[stop].definition}\nHold it ({key_of(stop)})")
        hold.setProperty("role", "line")
        put.setProperty("role", "small")
        hold.setCheckable(True)
        hold.clicked.connect(partial(self._hold, stop))
        put.setText("here")
        put.setToolTip(f"Set it at the frame shown (Ctrl+{key_of(stop)})")
        put.setAccessibleName(f"set {EVENTS[stop].label} at the frame shown")
        put.clicked.connect(partial(self._edits.set_here, stop))
        self.holds[stop], self.sets[stop] = hold, put
        grid.addWidget(hold, n, 0, Qt.AlignmentFlag.AlignLeft)
        for k, side in enumerate(SIDES, start=1):
            self.times[side, stop] = time = label("", side=side, grow=-1)
            time.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            time.setMinimumWidth(_TIME)
            grid.addWidget(time, n, k)
        grid.addWidget(put, n, len(SIDES) + 1)

    def _hold(self, stop: str) -> None:
        self._edits.hold(stop)
        self._fill()

    def _fill(self) -> None:
        pair, clock = self.desk.pair, self.desk.clock
        if not pair.is_bare:
            return
        self._words.setText(
            f"“here” takes the frame of the {clock.alone}." if clock.alone else
            "Click a stage and only that side moves. “here” takes its frame, or those of both while both move."
        )  # fmt: skip
        for stop in ORDER:
            self.holds[stop].setChecked(stop == clock.stop)
            for side in SIDES:
                self.times[side, stop].setText(self._told(side, stop))
        self.outside.setChecked(self._edits.estimating)

    def _told(self, side: str, stop: str) -> str:
        """When a stop is on a side, with a sign where it is estimated or only proposed."""
        analysis = self.desk.pair.analysis(side)
        event = None if analysis is None else analysis.proposal(stop)
        if event is None:
            return "–" if side in self.desk.pair.stored else ""
        sign = {ESTIMATED: "≈ ", DETECTED: "◇ "}.get(event.source, "")
        return f"{sign}{event.time:.3f}".replace("-", "−")
