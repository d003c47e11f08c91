"""The chalk marks of one stage: which are seen now, painted on it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QPainter

from waxtwin.core.chalk import Chalk
from waxtwin.ui.shared.chalk_paint import CHALK, paint_chalk, paint_end

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.stage import Stage


def chalk_on_show(stage: Stage) -> list[Chalk]:
    """The marks that are seen on a stage now, the one that is being dragged as it is now."""
    board, analysis, motion = stage.desk.chalk, stage.desk.pair.analysis(stage.side), stage.motion
    if not board.visible or analysis is None or motion is None:
        return []
    time, stops = stage.desk.clock.time_of(stage.side), analysis.event_times
    dragged = stage.hands.chalk.drag if stage.hands.chalk is not None else None
    marks = [dragged[0] if dragged is not None and dragged[0].id == one.id else one for one in board.of(stage.side)]
    return [one for one in marks if one.seen_in(stage.clip_name, time, stops.get(one.stop), 1.0 / motion.rate)]


def paint_all_chalk(painter: QPainter, stage: Stage) -> None:
    """Everything that is seen of the marks on a stage, and the ends of the one that is begun."""
    board = stage.desk.chalk
    if not board.of(stage.side) and board.begun[0] != stage.side:
        return
    place = stage.place()
    if place is None:
        return
    for chalk in chalk_on_show(stage):
        chosen = board.chosen == (stage.side, chalk.id)
        paint_chalk(painter, place, chalk, chosen=chosen, imperial=stage.desk.view.imperial)
    if board.begun[0] == stage.side:
        for end in board.begun[1]:
            spot = place.spot(end)
            if spot is not None:
                paint_end(painter, spot, end, CHALK)
