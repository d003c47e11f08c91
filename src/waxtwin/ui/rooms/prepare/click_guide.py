"""Twelve clicks: hips and shoulders on three frames, one after the other, with a drawing of where each joint lies."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from waxtwin.core.estimate_gate_table import OPEN
from waxtwin.core.estimated import InSpace, was_measured
from waxtwin.core.steps import Steps
from waxtwin.library.in_space import Click, clicks_wanted, estimated, keep_in_space_estimate
from waxtwin.ui.model.messages import Success
from waxtwin.ui.shared.theme import colour

if TYPE_CHECKING:
    from waxtwin.ui.rooms.prepare.flow import PrepareFlow

# Where the joints lie in the drawing, in shares of its height, and what to look for.
_PLACES = {
    "throwing_shoulder": (0.34, 0.27), "glove_shoulder": (0.66, 0.27), "drive_hip": (0.42, 0.60),
    "lead_hip": (0.58, 0.60),
}  # fmt: skip
_LOOK = {
    "shoulder": "The middle of the shoulder's ball: two fingers below its top, where the sleeve turns with the arm.",
    "hip": "The middle of the hip joint: where the thigh turns under the pocket, not the belt and not the outline.",
}


def look_for(landmark: str) -> str:
    """Where a joint's middle lies, in words."""
    return _LOOK[landmark.rsplit("_", 1)[-1]]


class ClickGuide:
    """Leads through the clicks and then has the throw estimated in space."""

    def __init__(self, flow: PrepareFlow) -> None:
        self._flow, self.state = flow, flow.state
        self.leading = False

    def wanted(self) -> tuple[Click, ...]:
        """The clicks, done and not; none while landing and release are not known, or the clip is not square from the
        open side.
        """
        view, analysis = self.state.view, self.state.analysis
        if view is None or analysis is None or not was_measured(analysis.motion):
            return ()
        return clicks_wanted(view, analysis.event_times)

    def begin(self) -> None:
        """Go to the first click that is not done."""
        if not self.wanted():
            self._flow.told.emit(
                "Depth is estimated in a clip from the open side, filmed square, once landing and release are known: "
                "set those under Stops. From elsewhere nobody measured how far off it is; a second clip of the throw "
                "shows it."
            )
            return
        self.leading = True
        self.onward()

    def stop(self) -> None:
        """Lead no further."""
        self.leading = False
        self.state.aim_at("look")

    def onward(self) -> None:
        """To the next click; after the last, the estimate."""
        left = [click for click in self.wanted() if not click.done]
        if left:
            self.state.go(left[0].frame)
            self.state.aim_at("mark", left[0].landmark)
        else:
            self.stop()
            self.estimate()

    def said(self) -> str:
        """How far the clicks are, and what they bring."""
        wanted, analysis = self.wanted(), self.state.analysis
        if not wanted:
            return "From a clip square from the open side, once landing and release are known."
        brings = len(OPEN["clicked"])
        kept = analysis.delivery.in_space if analysis is not None else None
        done = sum(click.done for click in wanted)
        if kept is not None:
            return f"Estimated from {kept.why}."
        return f"{done} of {len(wanted)} clicked. They let this clip show up to {brings} measures of depth, estimated."

    def estimate(self) -> None:
        """Have the throw estimated in space, beside what is seen."""
        now, analysis = self._flow.now(), self.state.analysis
        if now is None or analysis is None:
            return
        work, view = now

        def steps() -> Steps[InSpace]:
            return (yield from estimated(work, view, analysis))

        def done(found: InSpace) -> None:
            self._flow.keep(lambda library: keep_in_space_estimate(library, work, found))
            self._flow.told.emit(Success(f"{view.name}: estimated in space, from {found.why}."))

        self._flow.jobs.start("in space", steps, done, self._flow.told.emit)

    def drop(self) -> None:
        """Let the estimate go."""
        now = self._flow.now()
        if now is not None:
            self._flow.keep(lambda library: keep_in_space_estimate(library, now[0], None))


class JointDrawing(QWidget):
    """A figure from the front with the joint that is to be clicked."""

    def __init__(self) -> None:
        super().__init__()
        self.landmark = ""
        self.setFixedHeight(120)
        self.setAccessibleName("where the joint lies")

    def show_joint(self, landmark: str) -> None:
        """Light a joint, or none."""
        self.landmark = landmark if landmark in _PLACES else ""
        self.setVisible(bool(self.landmark))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, 120)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        h = float(self.height())
        left = (self.width() - h) / 2

        def at(x: float, y: float) -> QPointF:
            return QPointF(left + x * h, y * h)

        painter.setPen(QPen(colour("soft"), 2.0))
        painter.drawEllipse(at(0.5, 0.11), 0.07 * h, 0.09 * h)
        outline = ((0.34, 0.24), (0.66, 0.24), (0.62, 0.62), (0.38, 0.62), (0.34, 0.24))
        limbs = (((0.34, 0.27), (0.24, 0.55)), ((0.66, 0.27), (0.76, 0.55)), ((0.42, 0.60), (0.40, 0.96)),
                 ((0.58, 0.60), (0.60, 0.96)))  # fmt: skip
        for (a, b), (c, d) in (*pairwise(outline), *limbs):
            painter.drawLine(at(a, b), at(c, d))
        for name, place in _PLACES.items():
            chosen = name == self.landmark
            painter.setPen(QPen(colour("thread" if chosen else "soft"), 2.5 if chosen else 1.2))
            size = (0.05 if chosen else 0.025) * h
            middle = at(*place)
            painter.drawEllipse(QRectF(middle.x() - size, middle.y() - size, 2 * size, 2 * size))
            if chosen:
                painter.drawLine(middle - QPointF(1.8 * size, 0), middle + QPointF(1.8 * size, 0))
                painter.drawLine(middle - QPointF(0, 1.8 * size), middle + QPointF(0, 1.8 * size))
