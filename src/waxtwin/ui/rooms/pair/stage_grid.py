"""The stages in rows: each side's, its second view below where that is wanted, four and more two by two."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtWidgets import QGridLayout, QWidget

from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import OTHERS, SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.rooms.pair.stage import Stage

_ONE_ROW = 3  # stages that still stand side by side
_LEAST = {1: (200, 200), 2: (180, 98)}  # px, by rows


class StageGrid(QWidget):
    """`stages` and `seconds` by side."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.stages = {side: Stage(desk, side) for side in (*SIDES, *OTHERS)}
        self.seconds = {side: Stage(desk, side, second=True) for side in self.stages}
        for group in (self.stages, self.seconds):
            for side, stage in group.items():
                stage.setParent(self)  # also those that have no place yet go with the window
                stage.beside = group["twin" if side == "athlete" else "athlete"]
                stage.beside.frame_ready.connect(stage.update)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(4)
        self._placed: list[list[Stage]] = []
        desk.listen(lambda _: self.arrange(), Topic.PAIR, Topic.DISPLAY, Topic.OTHERS)
        self.arrange()

    def every(self) -> Iterator[Stage]:
        """All stages, on show or not."""
        yield from self.stages.values()
        yield from self.seconds.values()

    def _on_show(self) -> list[Stage]:
        """The first stages that are wanted."""
        pair, display = self.desk.pair, self.desk.view.display
        wall = display.wall and bool(pair.others)
        return [
            stage for side, stage in self.stages.items()
            if side in pair.shown_sides and not (wall and side == "athlete")
            and not (pair.stored and pair.stored_of(side) is None)  # one delivery has all the room
        ]  # fmt: skip

    def _rows(self) -> list[list[Stage]]:
        shown = self._on_show()
        if self.desk.view.display.double:
            return [shown, [self.seconds[stage.side] for stage in shown]]
        if len(shown) <= _ONE_ROW:
            return [shown]
        half = (len(shown) + 1) // 2
        return [shown[:half], shown[half:]]

    def arrange(self) -> None:
        """Put the stages that are on show into their places."""
        rows = self._rows()
        if rows == self._placed:
            return
        self._placed = rows
        wanted = {stage for row in rows for stage in row}
        for stage in self.every():
            self._grid.removeWidget(stage)
            stage.setVisible(stage in wanted)
        across = max(map(len, rows))
        for n in range(self._grid.columnCount()):
            self._grid.setColumnStretch(n, 1 if n < across else 0)
        for n in range(self._grid.rowCount()):
            self._grid.setRowStretch(n, 1 if n < len(rows) else 0)
        for i, row in enumerate(rows):
            self._grid.setRowStretch(i, 1)
            for k, stage in enumerate(row):
                stage.setMinimumSize(*_LEAST[len(rows)])
                self._grid.setColumnStretch(k, 1)
                self._grid.addWidget(stage, i, k)

    def let_go(self) -> None:
        """Let go of every clip."""
        for stage in self.every():
            stage.clip.close()
