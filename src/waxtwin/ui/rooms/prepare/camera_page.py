"""Second step: what a length in the picture is worth - nothing, a known length, or a solved camera."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QListWidget, QListWidgetItem, QWidget

from waxtwin.core.camera import yaw_of
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.field import LEAST_POINTS, SIZES, field_points
from waxtwin.core.placing import UNKNOWN_YAW, UNSEEN
from waxtwin.core.units import read_length
from waxtwin.library.preparing import ViewState
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.rooms.prepare.step_page import Page, button
from waxtwin.ui.shared.quantity import Length
from waxtwin.ui.shared.widgets import Choice, label, number

_KINDS = (("body", "the body itself"), ("planar", "known length"), ("solved", "solved camera"))
_WORTH = {
    "body": "The figure's own size is the scale, good to a few hundredths: lengths are shares of the standing height, "
    "and metres once that is typed under Clip. How the camera stands is judged by the stride.",
    "planar": "Click both ends of a known length that lies in the plane of motion: a rod held over the rubber toward "
    "the plate, a tape on the ground. Then the ground under the rubber's front edge.",
    "solved": "Click at least five points of the field whose places are known, some of them far from the rubber or "
    "above the ground. The lens and the place of the camera follow from them.",
}  # fmt: skip


def _coordinate(word: str) -> float:
    """A coordinate in metres, of either sign. Raises ValueError."""
    return -read_length(word[1:]) if word.startswith(("-", "−")) else read_length(word)


class CameraPage(Page):
    """The camera of one clip."""

    step = "camera"

    def build(self) -> None:
        self.heading("What a length is worth")
        self.kind = Choice("", _KINDS, self._choose_kind)
        self.column.addWidget(self.kind)
        self.worth = self.words()
        self.planar = self._make_planar()
        self.solved = self._make_solved()
        self.column.addWidget(self.planar)
        self.column.addWidget(self.solved)
        self.result = label("", grow=-0.5)
        self.result.setWordWrap(True)
        self.column.addWidget(self.result)
        self.forget = button("Forget the clicks", self.flow.camera.forget)
        self.column.addWidget(self.forget)
        self.heading("A camera that moves")
        self.steady = button("Steady it against the background", self.flow.camera.steady)
        self.column.addWidget(self.steady)
        self.steadied = self.words()

    def _make_planar(self) -> QWidget:
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(6)
        self.metres = Length(0.0, 60.0, empty="how long?")
        self.metres.misread.connect(lambda said: self.flow.told.emit(Fault(said)))
        self.metres.editingFinished.connect(
            lambda: self.flow.camera.set_fact("State the known length", metres=self.metres.value())
        )
        self.roll = number(-45, 45, decimals=1, suffix="°")
        self.roll.setToolTip("How far the picture's vertical is turned clockwise from the true one")
        self.roll.editingFinished.connect(lambda: self.flow.camera.set_fact("State the roll", roll=self.roll.value()))
        grid.addWidget(button("Click its ends", lambda: self.state.aim_at("length", "length_from")), 0, 0)
        grid.addWidget(self.metres, 0, 1)
        grid.addWidget(button("Click the rubber's edge", lambda: self.state.aim_at("origin")), 1, 0, 1, 2)
        grid.addWidget(label("Picture turned by", role="soft"), 2, 0)
        grid.addWidget(self.roll, 2, 1)
        return box

    def _make_solved(self) -> QWidget:
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(6)
        self.field = QComboBox()
        for size in SIZES.values():
            self.field.addItem(size.label, size.id)
        self.field.activated.connect(
            lambda i: self.flow.camera.set_fact("Choose the field", field=self.field.itemData(i))
        )
        self.points = QListWidget()
        self.points.setFixedHeight(190)
        self.points.setAccessibleName("points of the field")
        self.points.itemClicked.connect(lambda item: self._aim(item))
        self.points.itemActivated.connect(lambda item: self._aim(item))
        self.other = QLineEdit()
        self.other.setPlaceholderText("other point: name x y z in metres")
        self.other.returnPressed.connect(self._add_other)
        grid.addWidget(self.field, 0, 0)
        grid.addWidget(self.points, 1, 0)
        grid.addWidget(self.other, 2, 0)
        return box

    def refresh(self) -> None:
        view = self.state.view
        self.setEnabled(view is not None)
        if view is None:
            return
        kind = view.clicks.get("scale") or (view.camera.scale if view.camera else "body")
        kind = kind if kind in _WORTH else "body"
        self.kind.set(kind)
        self.worth.setText(_WORTH[kind])
        self.planar.setVisible(kind == "planar")
        self.solved.setVisible(kind == "solved")
        if not self.metres.hasFocus():
            self.metres.setValue(view.clicks.get("metres", 0.0))
        if not self.roll.hasFocus():
            self.roll.setValue(view.clicks.get("roll", 0.0))
        self.field.setCurrentIndex(max(self.field.findData(view.clicks.get("field", "adult")), 0))
        self._fill_points(view.clicks)
        self.result.setText(self._said())
        self.forget.setVisible(bool(view.clicks.get("points")) or view.camera is not None)
        travel = 0.0 if view.steadying is None else float(np.abs(view.steadying[:, :, 2]).max())
        self.steadied.setText(f"Steadied: it moves by up to {travel:.0f} pixels." if travel else "")

    def _fill_points(self, clicks: Mapping[str, Any]) -> None:
        clicked = clicks.get("points", {})
        size = SIZES.get(clicks.get("field", "adult"), SIZES["adult"])
        names = {name: point.label for name, point in field_points(size).items()}
        names |= {name: f"{name} ({', '.join(f'{v:g}' for v in at)})" for name, at in clicks.get("others", {}).items()}
        self.points.clear()
        for name, title in names.items():
            item = QListWidgetItem(("✕  " if name in clicked else "○  ") + title)
            item.setData(Qt.ItemDataRole.UserRole, name)
            self.points.addItem(item)
            if name == self.state.aim.target:
                self.points.setCurrentItem(item)

    def _said(self) -> str:
        view = self.state.view
        fault = self.state.said.get("camera")
        if fault:
            return f"▲  {fault}"
        if view is None:
            return ""
        camera, clicked = view.camera, len(view.clicks.get("points", {}))
        kind = view.clicks.get("scale") or "body"
        if camera is None and view.clicks.get("scale") == "solved" and clicked < LEAST_POINTS:
            return f"{clicked} of at least {LEAST_POINTS} points are clicked."
        if camera is None and kind == "body":
            return self._said_of_body(view)
        if camera is None or camera.scale == "planar":
            known = "" if camera is None else "The length is set. "
            return f"{known}How square the camera stands is not known: {UNKNOWN_YAW:.0f}° either way is assumed."
        said = []
        if camera.error_px is not None:
            said.append(f"Off by {camera.error_px:.1f} pixels at the clicked points")
        if camera.error_m is not None:
            said.append(f"a pixel's slip moves landing by {camera.error_m * 100:.1f} cm")
        if camera.scale == "solved" and view.view in UNSEEN:
            said.append(f"the camera stands {abs(yaw_of(camera.matrix, UNSEEN[view.view])):.1f}° off the {view.view}")
        return "; ".join(said) + "." if said else "The camera is solved."

    def _said_of_body(self, view: ViewState) -> str:
        """What the figure itself says about its camera."""
        marks, work = view.marked, self.state.work
        if marks is None or work is None:
            return "There are no landmarks yet that could give a scale."
        try:
            camera = view.guessed_camera(marks, work.athlete)
        except WaxTwinError as fault:
            return f"▲  {fault}."
        turned = f"it seems to stand {abs(camera.yaw):.0f}° off the {view.view}" if camera.yaw else "taken as square on"
        doubt = UNKNOWN_YAW if camera.yaw_sd is None else camera.yaw_sd
        return f"Scale ± {100 * camera.scale_sd:.0f} %; {turned}, ± {doubt:.0f}°."

    def _choose_kind(self, kind: str) -> None:
        self.flow.camera.set_fact(f"Scale: {dict(_KINDS)[kind]}", scale=kind)

    def _aim(self, item: QListWidgetItem) -> None:
        self.state.aim_at("field", item.data(Qt.ItemDataRole.UserRole))

    def _add_other(self) -> None:
        words = self.other.text().replace(",", " ").split()
        view = self.state.view
        try:
            name, place = " ".join(words[:-3]), [_coordinate(word) for word in words[-3:]]
        except ValueError:
            name, place = "", []
        if view is None or not name or len(place) != 3:
            self.flow.told.emit("Write another point as its name and three lengths, such as: rod top 1.5 0 1.2")
            return
        others = {**view.clicks.get("others", {}), name: place}
        self.other.clear()
        self.flow.camera.set_fact(f"Point {name}", others=others)
