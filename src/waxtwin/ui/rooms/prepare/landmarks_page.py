"""Third step: landmarks found by the model or clicked, then mended."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QComboBox, QVBoxLayout

from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.core.marks import SOURCES
from waxtwin.core.repair import find_swaps
from waxtwin.ui.rooms.prepare.click_guide import JointDrawing, look_for
from waxtwin.ui.rooms.prepare.state import PrepareTopic
from waxtwin.ui.rooms.prepare.step_page import Page, button, emptied
from waxtwin.ui.shared.widgets import Choice, label

_MOST_SWAPS = 4
_ONWARD = (("stay", "stay"), ("frame", "next frame"), ("stop", "next stop"))
_LEGEND = "Back side round, front side square; a stroke through: set by hand; hollow: doubtful. Drag to correct."


class LandmarksPage(Page):
    """The marks of one clip."""

    step = "landmarks"

    def topics(self) -> frozenset[PrepareTopic]:
        return super().topics() | {PrepareTopic.LANDMARK, PrepareTopic.FRAME}

    def build(self) -> None:
        self.heading("Found by the model")
        self.model_size = Choice("", (("lite", "quick"), ("full", "careful"), ("heavy", "thorough")), self._choose_size)
        self.column.addWidget(self.model_size)
        self.row(
            button("Find landmarks", self.flow.landmarks.find_landmarks, main=True),
            button("Who is in it", self.flow.landmarks.look_for_people),
        )
        self.people = QComboBox()
        self.people.activated.connect(self.flow.landmarks.choose_person)
        self.point = button("Point at the pitcher", lambda: self.state.aim_at("person"))
        self.row(self.people, self.point)
        self.heading("By hand")
        self.landmark = QComboBox()
        self.landmark.addItem("all landmarks", None)
        for name in LANDMARKS:
            self.landmark.addItem(name.replace("_", " "), name)
        self.landmark.activated.connect(self._choose_landmark)
        self.column.addWidget(self.landmark)
        self.here = self.words()
        self.row(
            button("Click in order", lambda: self.state.next_landmark(0 if self.state.landmark else 1),
                   hint="Click one landmark after the other; Alt with arrows and Enter do without a mouse"),
            button("Stop clicking", self.flow.clicks.stop),
        )  # fmt: skip
        self.onward = Choice("After the last", _ONWARD, self._choose_onward)
        self.column.addWidget(self.onward)
        self.one = [
            button("Follow between", self.flow.landmarks.follow, hint="Fill in between the frames set by hand"),
            button("Lock", self.flow.landmarks.lock, hint="Automatic steps leave this landmark alone"),
            button("Clear here", self.flow.landmarks.clear_here),
        ]
        self.row(*self.one)
        self.heading("Twelve clicks for depth")
        self.clicks = self.words()
        self.joint = JointDrawing()
        self.column.addWidget(self.joint)
        self.begin = button(
            "Begin the clicks",
            self.flow.clicks.begin,
            hint="Hips and shoulders on three frames around landing; the lens helps",
        )
        self.estimate = button("Estimate in space", self.flow.clicks.estimate)
        self.drop = button("Drop the estimate", self.flow.clicks.drop)
        self.row(self.begin, self.estimate, self.drop)
        self.heading("Mend")
        self.row(
            button("Drop strays", self.flow.landmarks.drop_strays), button("Fill gaps", self.flow.landmarks.fill_gaps)
        )
        self.swaps = QVBoxLayout()
        self.swaps.setSpacing(4)
        self.column.addLayout(self.swaps)
        self._offered: object = None

    def refresh(self) -> None:
        view = self.state.view
        self.setEnabled(view is not None)
        if view is None:
            return
        self.model_size.set(self.flow.landmarks.model)
        people = self.flow.landmarks.people
        self.people.setVisible(bool(people))
        self.point.setVisible(len(people) > 1)
        if self.people.count() != len(people):
            self.people.clear()
            for n, person in enumerate(people):
                moves = "moves most" if n == 0 else f"seen {len(person.frames)} times"
                self.people.addItem(f"person {n + 1}, {moves}")
        if self.flow.landmarks.person is not None:
            self.people.setCurrentIndex(self.flow.landmarks.person)
        self.onward.set(self.state.onward)
        self.landmark.setCurrentIndex(max(self.landmark.findData(self.state.landmark), 0))
        for one in self.one:
            one.setEnabled(self.state.landmark is not None)
        self.here.setText(self._said_here())
        self._show_clicks()
        self._offer_swaps()

    def _show_clicks(self) -> None:
        """How far the twelve clicks are, and where the joint lies that is asked for."""
        guide, analysis, aim = self.flow.clicks, self.state.analysis, self.state.aim
        asked = aim.target if guide.leading and aim.kind == "mark" else ""
        self.joint.show_joint(asked)
        name = asked.replace("_", " ")
        done = sum(click.done for click in guide.wanted()) if asked else 0
        self.clicks.setText(f"{done + 1}: click the {name}. {look_for(asked)}" if asked else guide.said())
        kept = analysis is not None and analysis.delivery.in_space is not None
        self.begin.setVisible(not kept and not guide.leading)
        self.estimate.setVisible(not kept and not guide.leading)
        self.drop.setVisible(kept)
        for one in (self.begin, self.estimate):
            one.setEnabled(bool(guide.wanted()))

    def _said_here(self) -> str:
        marks, name = self.state.marks, self.state.landmark
        if marks is None or name is None or self.state.frame >= marks.times.size:
            return _LEGEND
        j, k = INDEX[name], self.state.frame
        seen, hand = int(marks.seen[:, j].sum()), int(marks.fixed[:, j].sum())
        here = SOURCES[marks.source[k, j]]
        trust = f", confidence {marks.confidence[k, j]:.0%}" if marks.seen[k, j] else ""
        return f"On this frame: {here}{trust}. On {seen} frames, {hand} of them by hand or locked."

    def _offer_swaps(self) -> None:
        view = self.state.view
        marks = None if view is None else view.marks
        if marks is self._offered:
            return
        self._offered = marks
        emptied(self.swaps)
        if view is None or marks is None:
            return
        found = sorted(find_swaps(marks, view.clock.slow), key=lambda s: s.start - s.stop)[:_MOST_SWAPS]
        for swap in found:
            first, last = marks.times[swap.start], marks.times[swap.stop - 1]
            made = button(
                f"Exchange {swap.group}, {first:.2f} to {last:.2f} s", partial(self.flow.landmarks.exchange, swap)
            )
            self.swaps.addWidget(made)
        if not found:
            self.swaps.addWidget(label("Left and right hold throughout.", role="soft", grow=-0.5))

    def _choose_size(self, size: str) -> None:
        self.flow.landmarks.model = size

    def _choose_onward(self, where: str) -> None:
        self.state.onward = where

    def _choose_landmark(self, index: int) -> None:
        self.state.choose_landmark(self.landmark.itemData(index))
