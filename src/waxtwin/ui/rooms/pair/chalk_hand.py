"""What a hand does with chalk on a stage: ends put with the tool in hand, and ends that are there dragged."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF

from waxtwin.core.chalk import Chalk
from waxtwin.ui.rooms.pair.chalk_flow import ChalkFlow
from waxtwin.ui.rooms.pair.chalk_paint import chalk_on_show

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.stage import Stage

_GRAB = 9.0  # px


class ChalkHand:
    """One stage's. `drag` is the mark that is being changed, as it is now, with the number of its end."""

    def __init__(self, stage: Stage, flow: ChalkFlow) -> None:
        self._stage, self._flow, self._board = stage, flow, flow.board
        self.drag: tuple[Chalk, int] | None = None

    def press(self, at: QPointF) -> bool:
        """Whether this is chalk's business: a tool is in hand, or an end lies there."""
        if self._board.tool:
            return True
        place = self._stage.place()
        if place is None:
            return False
        best: tuple[float, Chalk, int] | None = None
        for chalk in chalk_on_show(self._stage):
            for n, end in enumerate(chalk.ends):
                spot = place.spot(end)
                away = _GRAB + 1 if spot is None else float(np.hypot(spot.x() - at.x(), spot.y() - at.y()))
                if away <= _GRAB and (best is None or away < best[0]):
                    best = (away, chalk, n)
        if best is None:
            return False
        self.drag = best[1:]
        self._board.choose(self._stage.side, best[1].id)
        return True

    def move(self, at: QPointF) -> bool:
        """Whether an end is being dragged; it goes along."""
        place = self._stage.place()
        if self.drag is None or place is None:
            return bool(self._board.tool)
        chalk, n = self.drag
        end = place.end_at(at)
        if end is not None:
            ends = tuple(end if k == n else one for k, one in enumerate(chalk.ends))
            self.drag = (
                replace(chalk, ends=ends, clip=self._stage.clip_name if not all(e.landmark for e in ends) else ""),
                n,
            )
            self._stage.update()
        return True

    def release(self, at: QPointF) -> bool:
        """Whether it was chalk's business: an end was dropped, or put with the tool in hand."""
        dragged, self.drag = self.drag, None
        side, place = self._stage.side, self._stage.place()
        if dragged is not None:
            before = self._board.find(side, dragged[0].id)
            if before is not None and before != dragged[0]:
                self._flow.change(side, dragged[0], "Move a mark")
            return True
        if not self._board.tool:
            return False
        if place is not None:
            view = "side" if place.axis == 0 else "front"
            self._flow.click(side, place.end_at(at), self._stage.clip_name, view)
        return True
