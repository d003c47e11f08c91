"""What is read at the stop that is held, and what is pinned to it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from waxtwin.core.contrast import Row
from waxtwin.core.stops import EVENTS
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import rows_at
from waxtwin.ui.rooms.pair.hand_stops import HandStops
from waxtwin.ui.rooms.pair.stop_edits import StopEditor
from waxtwin.ui.shared.measure_row import MeasureRow
from waxtwin.ui.shared.theme import font
from waxtwin.ui.shared.widgets import label, scrolling

if TYPE_CHECKING:
    from waxtwin.library.pairs import Note


class StopPanel(QWidget):
    """The measures read at the current stop, those that differ most first, and the notes pinned to it.

    `explained` when a measure is to be explained, `unpinned(note)` when a note is to be taken off, `tied` and `untied`
    when the moment shown is to be tied, or the tied one that is held to be taken off.
    """

    explained = Signal()
    unpinned = Signal(object)
    tied = Signal()
    untied = Signal()

    def __init__(self, desk: Desk, edits: StopEditor) -> None:
        super().__init__()
        self.desk = desk
        self._shown: object = None
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 0, 0, 0)
        column.setSpacing(2)
        self._title = label("At this stop", role="title", grow=1.5)
        self._hint = label("", role="soft", grow=-1)
        self._hint.setWordWrap(True)
        self.asked = QPushButton()
        self.asked.setProperty("role", "ask")
        self.asked.clicked.connect(self._see_asked)
        column.addWidget(self._title)
        column.addWidget(self._hint)
        column.addWidget(self.asked)
        self.tie = QPushButton("Tie this moment…")
        self.tie.setProperty("role", "main")
        self.tie.clicked.connect(self.tied)
        self.untie = QPushButton("Take this tied moment off")
        self.untie.clicked.connect(self.untied)
        column.addWidget(self.tie)
        column.addWidget(self.untie)
        self._scroll = scrolling()
        self._scroll.setWidget(QWidget())
        self.by_hand = HandStops(desk, edits)
        self._setting = scrolling()
        self._setting.setWidget(self.by_hand)
        self._setting.hide()
        column.addWidget(self._setting, 4)
        column.addWidget(self._scroll, 1)
        desk.listen(self._light, Topic.SELECTION)
        desk.listen(
            lambda _: self._fill(),
            Topic.PAIR,
            Topic.FIGURES,
            Topic.UNITS,
            Topic.TIME,
            Topic.LANDING,
            Topic.KEPT,
            Topic.ALONE,
        )
        self._fill()

    def _see_asked(self) -> None:
        """On to the next stop that waits for somebody."""
        waiting = list(self.desk.pair.asked())
        if waiting:
            at = waiting.index(self.desk.clock.stop) + 1 if self.desk.clock.stop in waiting else 0
            self.desk.clock.hold(waiting[at % len(waiting)])

    def _fill_asked(self) -> None:
        waiting = self.desk.pair.asked()
        self.asked.setVisible(bool(waiting))
        names = [EVENTS[stop].short + ("" if len(sides) == 2 else f" ({sides[0]})") for stop, sides in waiting.items()]
        more = f" and {len(names) - 1} more" if len(names) > 1 else ""
        self.asked.setText(f"▲ Set by hand: {names[0] if names else ''}{more}")
        self.asked.setToolTip(
            f"Proposed, not certain enough to be used: {', '.join(names)}. Drag its end on the seam, or accept it."
        )

    def rows(self) -> list[MeasureRow]:
        """The rows on show."""
        inner = self._scroll.widget()
        return inner.findChildren(MeasureRow) if inner else []

    def _light(self, topic: Topic) -> None:
        for row in self.rows():
            row.update()

    def _fill(self) -> None:
        contrast, stop = self.desk.pair.contrast, self.desk.clock.stop
        clock = self.desk.clock
        state = (id(contrast), stop, self.desk.view.imperial, self.desk.pair.kept, clock.tie, clock.alone)
        if state == self._shown:
            return
        self._shown = state
        self._fill_asked()
        self.desk.view.hover(None)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 4, 0)
        column.setSpacing(0)
        for note in self.desk.pair.kept.notes if self.desk.pair.kept is not None else ():
            if note.stop == stop:
                column.addWidget(self._note(note))
        rows = rows_at(contrast.rows, stop, self.desk.pair.landing) if contrast and stop else []
        if self.desk.pair.is_bare:  # nothing but durations can be read, and the list of the rest would bury them
            rows = [row for row in rows if row.difference is not None]
        for row in rows:
            made = MeasureRow(self.desk, row)
            made.explained.connect(self.explained)
            column.addWidget(made)
        self._scroll.setVisible(bool(column.count()) or not self.desk.pair.is_bare)  # the list of stops takes its place
        column.addStretch(1)
        self._scroll.setWidget(inner)
        self._setting.setVisible(self.desk.pair.is_bare)
        tie, alone = self.desk.clock.tie, self.desk.clock.alone
        self.tie.setVisible(bool(alone) and self.desk.pair.kept is not None)
        self.untie.setVisible(tie is not None)
        self._title.setText(tie.name if tie else EVENTS[stop].label if stop else "At this stop")
        self._hint.setText(self._hinted(rows))

    def _hinted(self, rows: Sequence[Row]) -> str:
        """One sentence about what is to be seen here, or done."""
        pair, alone = self.desk.pair, self.desk.clock.alone
        other = "twin" if alone == "athlete" else "athlete"
        if pair.contrast is None:
            return self._waiting()
        said = (
            ("First figures; their margins are being worked out.", not pair.contrast.athlete.resolved),
            (f"Only the {alone} moves, the {other} stands still, until both look alike. Esc moves both again.", alone),
            ("Tied by eye: both move together from here, and no measure is read at it.", self.desk.clock.tie),
            ("One throw twice: click a stage and take it to another instant; lay over shows both.", pair.is_one_throw),
            ("No landmarks yet: stops and durations by hand, angles once landmarks are found.", pair.is_bare),
            ("No measure is read at this stop.", not rows),
        )  # fmt: skip
        return next((words for words, holds in said if holds), "athlete · twin · where the athlete stands, ± margin")

    def _waiting(self) -> str:
        """What is missing before there are figures."""
        pair = self.desk.pair
        if not pair.stored:
            return "Choose a pair on the Bench."
        if pair.complete:
            return "Working…"
        return (
            f"Only the {pair.lead_side} is on the desk: look at it here, and choose another on the Bench to contrast."
        )

    def _note(self, note: Note) -> QWidget:
        """A pinned note, with a way to take it off."""
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(8, 4, 0, 4)
        words = label(note.text, side=note.side)
        words.setWordWrap(True)
        words.setFont(font(-0.5))
        off = QToolButton()
        off.setText("✕")
        off.setToolTip("Take this note off")
        off.clicked.connect(lambda: self.unpinned.emit(note))
        row.addWidget(words, 1)
        row.addWidget(off, 0, Qt.AlignmentFlag.AlignTop)
        return made
