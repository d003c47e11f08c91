"""The stages and the seam of a film: the desk's own painters, outside any window, on a desk of their own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from PySide6.QtCore import QPoint, QRect, QSize
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QWidget

from waxtwin.core.contrast import Contrast
from waxtwin.formats.talk import Moment
from waxtwin.library.pairs import Pair
from waxtwin.library.stored import StoredDelivery
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.talk_state import dress, turn_clock
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.rooms.pair.seam import Seam
from waxtwin.ui.rooms.pair.stage import Stage

_BARE = {"shown": "figure", "ghost": ""}  # nobody is recognised, where only figures are wanted


@dataclass(frozen=True)
class FilmPair:
    """What a film shows: throws by side with what was worked out, further twins, and what was kept of the pair.

    With `figures` alone no clip is opened.
    """

    stored: Mapping[str, StoredDelivery]
    contrast: Contrast
    others: Mapping[str, StoredDelivery] = field(default_factory=dict)
    other_contrasts: Mapping[str, Contrast] = field(default_factory=dict)
    kept: Pair | None = None
    imperial: bool = False
    figures: bool = False

    @property
    def own_names(self) -> dict[str, str]:
        """{side: whose throw it is}, the pair's first."""
        return {side: one.title for side, one in (*self.stored.items(), *self.others.items())}


class _Fine(QWidget):
    """Something that is painted `fine` pixels for each of its own."""

    fine = 1.0

    def devicePixelRatioF(self) -> float:
        return self.fine


class _FilmStage(_Fine, Stage):
    pass


class _FilmSeam(_Fine, Seam):
    pass


class FilmStages:
    """Paints a moment of a talk into boxes of a picture; see `Stage` for `patient`."""

    def __init__(self, pair: FilmPair, *, patient: bool = True) -> None:
        self.pair = pair
        self.desk = desk = Desk()
        desk.pair.landing = pair.contrast.athlete.landing
        desk.pair.lay(pair.stored)
        desk.pair.set_contrast(pair.contrast)
        desk.pair.set_kept(pair.kept)
        desk.pair.set_others(pair.others, pair.other_contrasts)
        desk.view.set_imperial(pair.imperial)
        self.stages: dict[str, _FilmStage] = {}
        for second in (False, True):
            for side in desk.pair.shown_sides:
                stage = _FilmStage(desk, side, second=second, patient=patient)
                stage.for_film = True
                self.stages[stage.key] = stage
        for stage in self.stages.values():
            other = "twin" if stage.side == "athlete" else "athlete"
            stage.beside = self.stages[stage.key.replace(stage.side, other)]
        self.seam = _FilmSeam(desk)
        desk.hub.tell(Topic.DISPLAY)  # what the stages are to hold was said before there were any
        self._dressed: Moment | None = None

    def show(self, moment: Moment, at: float) -> bool:
        """Put the desk where a moment is at `at` (s of its scene); False where a stop of it is not known any more."""
        if moment is not self._dressed:
            dress(self.desk, moment)
            if self.pair.figures:
                self.desk.view.show(**_BARE)
            self._dressed = moment
        return turn_clock(self.desk, moment, at)

    @property
    def shown(self) -> tuple[str, ...]:
        """The keys of the stages on show."""
        wall = self.desk.view.display.wall and bool(self.pair.others)
        return tuple(key for key in self.desk.stages if not (wall and self.stages[key].side == SIDES[0]))

    def paint(self, painter: QPainter, boxes: Mapping[str, QRect], seam: QRect, fine: float) -> None:
        """Paint the stages and the seam as they are now, `fine` pixels for each of the painter's units."""
        for key, box in boxes.items():
            _resize(self.stages[key], box.size())
        parts: tuple[_Fine, ...] = (*self.stages.values(), self.seam)
        for one in parts:
            one.fine = fine
        _resize(self.seam, seam.size())
        for side, box in boxes.items():
            _render(painter, self.stages[side], box.topLeft())
        _render(painter, self.seam, seam.topLeft())

    def close(self) -> None:
        """Let go of every clip."""
        for stage in self.stages.values():
            stage.clip.close()


def _resize(widget: QWidget, size: QSize) -> None:
    if widget.size() != size:
        widget.resize(size)


def _render(painter: QPainter, widget: QWidget, at: QPoint) -> None:
    painter.save()
    painter.translate(at)
    painter.setClipRect(QRect(QPoint(0, 0), widget.size()))
    widget.render(painter, QPoint(0, 0))
    painter.restore()
