"""First step: who throws, from where it was filmed, at which true rate, which part of it is the throw."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from functools import partial
from typing import Any

from PySide6.QtWidgets import QComboBox, QLineEdit

from waxtwin.core.placing import VIEWS, ClipClock
from waxtwin.core.progress import day
from waxtwin.library.preparing import Preparation, ViewState
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.rooms.prepare.step_page import Page, button
from waxtwin.ui.shared.file_dialogs import ask_one
from waxtwin.ui.shared.quantity import Length, Speed
from waxtwin.ui.shared.widgets import label, number

_ASK = "not said"
_CLIPS = "Clips (*.mp4 *.mov *.mkv *.avi *.webm *.m4v *.ts);;All files (*)"


class ClipPage(Page):
    """Facts of the clip."""

    step = "clip"

    def build(self) -> None:
        self.prepare = button(
            "Prepare it",
            self.flow.prepare_it,
            main=True,
            hint="Finds the pitcher, landmarks, view, scale and stops, and shows what is left to ask",
        )
        self.column.addWidget(self.prepare)
        self.heading("Who throws")
        self.name = QLineEdit()
        self.name.setPlaceholderText("name")
        self.name.setAccessibleName("athlete's name")
        self.throws = QComboBox()
        self.throws.addItems(["right-handed", "left-handed"])
        self.throws.setAccessibleName("throwing hand")
        self.tall = Length(0.89, 2.50, empty="height?", tall=True)
        self.tall.setAccessibleName("standing height")
        self.column.addWidget(self.name)
        self.row(self.throws, self.tall)
        self.name.editingFinished.connect(self._say_who)
        self.throws.activated.connect(lambda _: self._say_who())
        self.tall.editingFinished.connect(self._say_who)
        self.heading("The clip")
        self.clips = QComboBox()
        self.clips.setAccessibleName("clip of this throw")
        self.clips.activated.connect(lambda i: self.state.choose_view(self.clips.itemData(i)))
        self.row(self.clips, button("Add a clip…", self._add, hint="Another clip of the same throw, from another side"))
        self.facts = self.words()
        self.view = QComboBox()
        self.view.setAccessibleName("filmed from")
        self.view.addItem(_ASK)
        self.view.addItems(VIEWS[:-1])
        self.view.addItem("other")
        self.view.activated.connect(self._say_view)
        self.row(label("Filmed from", role="soft"), self.view)
        self.suggestion = button("", self._take_suggestion)
        self.suggestion.hide()
        self.column.addWidget(self.suggestion)
        self.rate = number(0, 20000, decimals=1, suffix=" frames/s", empty="as it plays")
        self.rate.setAccessibleName("taken at, frames a second")
        self.rate.editingFinished.connect(self._say_rate)
        self.row(label("Taken at", role="soft"), self.rate)
        self.likely = button("", self._take_rate)
        self.likely.hide()
        self.column.addWidget(self.likely)
        self.fields = button(
            "Take its fields apart",
            self.flow.take_fields_apart,
            hint="Each picture holds two instants, line by line: a copy of the clip shows each as a picture of its own",
        )
        self.column.addWidget(self.fields)
        self.heading("What is known of the throw")
        self.speed = Speed(0, 60, empty="ball speed?")
        self.speed.setAccessibleName("ball speed")
        self.speed.editingFinished.connect(self._say_speed)
        for box in (self.tall, self.speed):
            box.misread.connect(lambda said: self.flow.told.emit(Fault(said)))
        self.pitch, self.recorded, self.notes = QLineEdit(), QLineEdit(), QLineEdit()
        for line, words, field in (
            (self.pitch, "pitch", "pitch"), (self.recorded, "year-month-day", "recorded"),
            (self.notes, "notes", "notes"),
        ):  # fmt: skip
            line.setPlaceholderText(words)
            line.setAccessibleName(words)
            line.editingFinished.connect(partial(self._say_line, line, field))
        self.row(self.speed, self.pitch, self.recorded)
        self.column.addWidget(self.notes)
        self.heading("The throw in it")
        self.row(button("Begin here", self._begin), button("End here", self._end), button("Whole clip", self._whole))
        self.bursts = self.words()
        self.cut = button("Cut into throws", self.flow.cut, main=True)
        self.row(button("Find the throws", self.flow.propose_throws), self.cut)

    def refresh(self) -> None:
        work, view = self.state.work, self.state.view
        self.setEnabled(work is not None)
        if work is None:
            return
        if not self.name.hasFocus():
            self.name.setText(work.athlete.name if work.named else "")
        self.throws.setCurrentIndex(int(work.athlete.throws == "L"))
        if not self.tall.hasFocus():
            self.tall.setValue(work.athlete.height_m or self.tall.minimum())
        said = work.sidecar
        if not self.speed.hasFocus():
            self.speed.setValue(said.ball_speed_mps or 0)
        for line, value in ((self.pitch, said.pitch), (self.recorded, said.recorded), (self.notes, said.notes)):
            if not line.hasFocus():
                line.setText(value or "")
                line.setCursorPosition(0)  # long notes are read from where they begin
        self.bursts.setVisible(bool(self.state.bursts))
        self.cut.setVisible(bool(self.state.bursts))
        self.bursts.setText("Bursts of motion: " + ", ".join(self._told_burst(*one) for one in self.state.bursts))
        self._refresh_clip(work, view)

    def _refresh_clip(self, work: Preparation, view: ViewState | None) -> None:
        self.clips.clear()
        for one in work.views:
            self.clips.addItem(f"{one.name}, {one.view}", one.id)
        self.clips.setCurrentIndex(max(self.clips.findData(self.state.view_id), 0))
        for widget in (self.facts, self.view, self.rate, self.prepare):
            widget.setVisible(view is not None)
        if view is None:
            for offer in (self.suggestion, self.likely, self.fields):
                offer.hide()
            return
        repeats = "" if view.marks is None else view.marks.told_repeats(view.clock.slow)
        self.facts.setText(describe(view.facts, view.capture_fps, repeats))
        self.view.setCurrentIndex(0 if view.view == "other" else max(self.view.findText(view.view), 0))
        self.rate.setValue(view.capture_fps or 0)
        self.fields.setVisible(bool(view.facts.get("woven")))
        self.likely.setVisible(not view.paced)
        if view.likely_fps is not None:
            self.likely.setText(f"It seems slowed: taken at {view.likely_fps:.0f} frames/s. Take it")
        suggested = self.flow.suggested_view()
        self.suggestion.setVisible(suggested is not None and suggested != view.view)
        self.suggestion.setText(f"It looks filmed from: {suggested}. Take it")

    def _told_burst(self, first: float, last: float) -> str:
        view = self.state.view
        clock = ClipClock() if view is None else view.clock
        return f"{clock.to_throw(first):.1f} to {clock.to_throw(last):.1f} s"

    def _say_who(self) -> None:
        height = self.tall.value()
        self.flow.say_who(
            self.name.text(), "RL"[self.throws.currentIndex()], None if height <= self.tall.minimum() else height
        )

    def _say_speed(self) -> None:
        work, said = self.state.work, self.speed.value() or None
        # shown to a hundredth: a finer reading from a file is not replaced by its own rounding
        if work is not None and abs((work.sidecar.ball_speed_mps or 0) - (said or 0)) > 0.006:
            self.flow.set_throw("Ball speed", ball_speed_mps=said)

    def _say_line(self, line: QLineEdit, field: str) -> None:
        work, said = self.state.work, line.text().strip()
        if work is None or said == (getattr(work.sidecar, field) or ""):
            return
        if field == "recorded" and said and not _is_date(said):
            self.flow.told.emit(f"“{said[:30]}” is not a day; write it as year-month-day, such as 2026-11-23.")
            return
        self.flow.set_throw(field.capitalize(), **{field: said if field == "notes" else said or None})

    def _say_view(self) -> None:
        said = self.view.currentText()
        self.flow.set_clip(f"Filmed from: {said}", view="other" if said == _ASK else said)

    def _take_suggestion(self) -> None:
        suggested = self.flow.suggested_view()
        if suggested is not None:
            self.flow.set_clip(f"Filmed from: {suggested}", view=suggested)

    def _say_rate(self) -> None:
        view = self.state.view
        said = self.rate.value() or None
        if view is not None and said != view.capture_fps:
            self.flow.set_clip("State the capture rate", capture_fps=said)

    def _take_rate(self) -> None:
        view = self.state.view
        if view is not None and view.likely_fps is not None:
            self.flow.set_clip("State the capture rate", capture_fps=view.likely_fps)

    def _begin(self) -> None:
        if (view := self.state.view) is not None and self.state.time < view.trim[1]:
            self.flow.trim(self.state.time, view.trim[1])

    def _end(self) -> None:
        if (view := self.state.view) is not None and self.state.time > view.trim[0]:
            self.flow.trim(view.trim[0], self.state.time)

    def _whole(self) -> None:
        self.flow.set_clip("Whole clip", first_s=None, last_s=None)

    def _add(self) -> None:
        chosen = ask_one(self, "Another clip of the same throw", _CLIPS)
        if chosen:
            self.flow.add_clip(chosen)


def _is_date(text: str) -> bool:
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return True


def describe(facts: Mapping[str, Any], taken: float | None = None, repeats: str = "") -> str:
    """A clip's own facts in a line or two, in true time where it is known at how many frames a second it was taken;
    `repeats` says what of it only repeats.
    """  # fmt: skip
    width, height = facts["size"]
    slow = taken / facts["rate"] if taken and facts["rate"] else 1.0
    said = [f"{facts['frames']} frames, {facts['seconds'] / slow:.2f} s, {width} x {height}"]
    if abs(slow - 1) > 0.01:
        said.append(f"taken at {taken:.4g}/s, plays at {facts['rate']:.4g}/s: {slow:.2g} times slowed, times are true")
    else:
        said.append(f"plays at {facts['rate']:.4g}/s")
    if not facts["even"]:
        said.append("uneven frame times, used as they are")
    if repeats:
        said.append(repeats)
    if facts.get("woven"):
        said.append("interlaced: each picture holds two instants")
    if facts["captured"] and facts["captured"] != taken:
        said.append(f"says it was taken at {facts['captured']:.0f}/s")
    if facts.get("filmed"):
        said.append(f"its camera says {day(facts['filmed'], year=True)}")
    if facts["rotation"]:
        said.append("turned upright")
    if not facts["whole"]:
        said.append("its end is damaged")
    return "; ".join(said) + "."
