"""A stage's wax figure: posed at an instant, on its ground, painted ahead while time moves quickly."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtGui import QPainter, QPixmap

from waxtwin.core.estimated import InSpace
from waxtwin.core.measures import MEASURES
from waxtwin.core.motion import Motion
from waxtwin.ui.model.gauges import parts
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.rooms.pair.floor import Floor
from waxtwin.ui.rooms.pair.haste import Haste
from waxtwin.ui.shared.theme import WAX
from waxtwin.ui.shared.wax_figure import Figure, begin_figure, paint_figure, paint_shadow

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.stage import Stage


class StageFigure:
    """What one stage shows of a throw's figure."""

    def __init__(self, stage: Stage, *, patient: bool = False) -> None:
        self._stage, self._desk, self._patient = stage, stage.desk, patient
        self._floor = Floor()
        self._haste = Haste(stage, stage.update)
        if not patient:
            stage.desk.listen(lambda _: self._haste.step(stage.desk.clock.time_of(stage.side)), Topic.TIME)

    def in_space(self) -> InSpace | None:
        """What this throw was estimated to be in space, for a figure to be turned; over a clip it lies as seen."""
        analysis = self._desk.pair.analysis(self._stage.side)
        return None if analysis is None or self._stage.shows_clip else analysis.delivery.in_space

    def motion_of(self, motion: Motion) -> Motion:
        """The motion that the figure shows: as estimated in space, where it is."""
        found = self.in_space()
        return motion if found is None else found.motion_on(motion)

    @property
    def is_still(self) -> bool:
        """Whether there is time to paint it as well as can be."""
        return not self._haste.is_on

    def ground(self, matrix: np.ndarray, motion: Motion) -> QPixmap:
        """What the figure stands on, as a picture of the whole stage through a projection (3, 4)."""
        stage = self._stage
        analysis = self._desk.pair.analysis(stage.side)
        return self._floor.picture(matrix, motion, analysis, stage.size(), stage.devicePixelRatioF())

    def paint(self, painter: QPainter, matrix: np.ndarray, motion: Motion, time: float) -> None:
        """The figure at an instant, its shadow under it where there is no clip."""
        figure = self._at(motion, time)
        if self._stage.clip.clip is None and figure.shaded:
            ground = self._floor.ground(motion, self._desk.pair.analysis(self._stage.side))
            paint_shadow(painter, matrix, figure, ground)
        paint_figure(painter, matrix, figure)

    def begin(self, steps: int = 0) -> None:
        """Begin to paint what the stage is going to show while others are painted: now, or after as many steps like the
        last one; those only while steps follow each other quickly.
        """
        stage, motion = self._stage, self._stage.motion
        wanted = self._desk.view.display.shown != "clip" or not stage.shows_clip
        plain = wanted and not self._desk.closeups.follow and (stage.isVisible() or self._patient)
        if motion is None or motion.is_bare or not plain or (steps and not self._haste.is_on):
            return
        time = self._desk.clock.time_of(stage.side)
        matrix = stage.body_matrix(motion)
        if matrix is not None:
            begin_figure(stage, matrix, self._at(motion, time + steps * self._haste.stride(time)))

    def _at(self, motion: Motion, time: float) -> Figure:
        analysis, lit = self._desk.pair.analysis(self._stage.side), self._desk.view.lit
        assert analysis is not None  # there is a motion
        return Figure.of(
            analysis, self.motion_of(motion), time, WAX[self._stage.side], mirrored=self._stage.looks_left,
            shaded=self.is_still, lit=parts(MEASURES[lit].gauge) if lit else (),
        )  # fmt: skip
