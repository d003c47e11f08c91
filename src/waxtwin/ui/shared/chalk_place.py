"""Between chalk marks and a stage: where an end lies on it, and what end a place of it is."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF

from waxtwin.core.camera import onto_plane, project
from waxtwin.core.chalk import Chalk, End, Plane, Sum, reckon
from waxtwin.core.motion import Motion
from waxtwin.core.read_off import POINTS
from waxtwin.library.stored import Clip
from waxtwin.ui.shared.framing import Framing, solved_matrix

_SNAP = 14.0  # px: a click that near to a landmark is on it


@dataclass(frozen=True)
class StagePlace:
    """A stage at an instant: `matrix` (3, 4) shows canonical points turned over by `turned` (3,), `framing` the clip
    where one is seen; `axis` is the field axis that runs across the picture (0 from the side, 1 from front or rear).
    """

    motion: Motion
    time: float
    matrix: np.ndarray | None
    turned: np.ndarray
    framing: Framing | None
    clip: Clip | None
    axis: int
    left: bool

    # from ends to the stage ----------------------------------------------------------------------------------------
    def spot(self, end: End) -> QPointF | None:
        """Where an end is seen now."""
        if end.landmark:
            return self._shown(self._on_body(end.landmark, self.time))
        if self.framing is None:
            return None
        w, h = self.framing.frame
        x = (1.0 - end.x if self.framing.flips else end.x) * w
        return QPointF(self.framing.dx + self.framing.scale * x, self.framing.dy + self.framing.scale * end.y * h)

    def _on_body(self, name: str, time: float) -> np.ndarray:
        """A point of the body (3,), the axis that is not seen counted as 0."""
        point = self.motion.pose(np.array([time])).at(name)[0].copy()
        if self.motion.flat is not None:
            point[self.motion.flat] = 0.0
        return np.asarray(point)

    def _shown(self, point: np.ndarray) -> QPointF | None:
        if self.matrix is None or np.isnan(point).any():
            return None
        flat, _ = project(self.matrix, point * self.turned)
        return QPointF(*flat)

    def upright(self, chalk: Chalk) -> tuple[QPointF, QPointF] | None:
        """The ends of a plumb or level line that stays where it was put."""
        end = chalk.ends[0]
        put = self._field(end, chalk.put)
        if put is None or self.matrix is None:
            spot = self.spot(end)
            if spot is None or self.framing is None:
                return None
            far = 4000.0
            away = QPointF(0.0, far) if chalk.kind == "plumb" else QPointF(far, 0.0)
            return spot - away, spot + away
        long = 1.3 * self.motion.height
        ends = []
        for along in (-0.15 * long, long) if chalk.kind == "plumb" else (-long, long):
            point = np.zeros(3)
            point[self.axis], point[2] = (put[0], along) if chalk.kind == "plumb" else (put[0] + along, put[1])
            ends.append(self._shown(point))
        return None if ends[0] is None or ends[1] is None else (ends[0], ends[1])

    # from the stage to ends ----------------------------------------------------------------------------------------
    def end_at(self, at: QPointF) -> End | None:
        """What a place of the stage is: a landmark that is near, a place of the clip, or nothing on a bare figure."""
        near = min(self._near(at), default=(_SNAP + 1, ""))
        if near[0] <= _SNAP:
            return End(near[1])
        if self.framing is None:
            return None
        w, h = self.framing.frame
        x = (at.x() - self.framing.dx) / self.framing.scale / w
        y = (at.y() - self.framing.dy) / self.framing.scale / h
        return End("", round(1.0 - x if self.framing.flips else x, 5), round(y, 5))

    def _near(self, at: QPointF) -> Iterator[tuple[float, str]]:
        for name in POINTS:
            spot = self._shown(self._on_body(name, self.time))
            if spot is not None:
                away = spot - at
                yield float(np.hypot(away.x(), away.y())), name

    # numbers -------------------------------------------------------------------------------------------------------
    def _field(self, end: End, time: float) -> np.ndarray | None:
        """Where an end lies in the plane that is seen (2,), metres; None where nothing gives metres."""
        if end.landmark:
            point = self._on_body(end.landmark, time)
            return point[[self.axis, 2]]
        if self.clip is None or self.clip.camera is None or self.framing is None:
            return None
        w, h = self.framing.frame
        matrix = solved_matrix(self.clip.camera, self.framing.frame)
        point = onto_plane(matrix, np.array([end.x * w, end.y * h]), 1 - self.axis)
        sign = -1.0 if self.left and self.axis == 1 else 1.0
        return np.array([sign * point[self.axis], point[2]])

    def number(self, chalk: Chalk) -> Sum | None:
        """What a mark measures now."""
        motion = self.motion
        if chalk.on_body and motion.flat is None and not motion.is_bare and chalk.kind in ("angle", "distance"):
            points = np.array([self._on_body(end.landmark, self.time) for end in chalk.ends])
            return reckon(chalk, Plane(points, points, motion.height, motion.sight.scaled))
        now = [self._field(end, self.time) for end in chalk.ends]
        if all(one is not None for one in now):
            then = np.array([self._field(end, chalk.put) for end in chalk.ends])
            scaled = self.motion.sight.scaled
            return reckon(chalk, Plane(np.array(now), then, self.motion.height, scaled))
        if self.framing is None or any(end.landmark for end in chalk.ends):
            return None
        w, h = self.framing.frame
        flat = np.array([[end.x * w / h, -end.y] for end in chalk.ends])
        return reckon(chalk, Plane(flat, flat, None))
