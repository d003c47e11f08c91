"""Which markers of a lab file make which landmark, which way its axes run, which part of it is the throw."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.bursts import bursts
from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import OPTIONAL, anatomical_names
from waxtwin.core.markers import PRESETS, Axes, Recipe, apply, match, propose_axes
from waxtwin.formats.track_format import RawTrack
from waxtwin.formats.tracks import LabSetup
from waxtwin.ui.shared.widgets import label, leave_return_alone, number

_AXES = ("+x", "-x", "+y", "-y", "+z", "-z")
_OWN = "as the names say"


class MappingDialog(QDialog):
    """`kept(setup, throws)` when the file is to be read this way."""

    kept = Signal(object, str)

    def __init__(self, path: Path, raw: RawTrack, throws: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Markers of a lab file")
        self.resize(760, 640)
        self._raw = raw
        names = anatomical_names("R")
        self._parts = [plain for plain, ours in names.items() if ours not in OPTIONAL] + ["head", "nose"]
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        column.addWidget(label(path.name, role="title", grow=3))
        intro = label(
            f"{len(raw.points)} markers, {raw.times.size} frames. Say which markers make each landmark: several are "
            "averaged, so two on either side of a joint give its middle. The last column moves a hip in from the skin: "
            "shares of the pelvis' width to the right, forward, up.",
            role="soft",
        )  # fmt: skip
        intro.setWordWrap(True)
        column.addWidget(intro)
        top = QHBoxLayout()
        self.preset = QComboBox()
        self.preset.addItems([_OWN, *PRESETS])
        self.preset.activated.connect(lambda _: self._take_preset())
        self.throws = QComboBox()
        self.throws.addItems(["right-handed", "left-handed"])
        self.throws.setCurrentIndex(int(throws == "L"))
        self.typed = QLineEdit()
        self.typed.setPlaceholderText("markers: type to see their names")
        self.typed.textChanged.connect(self._show_names)
        top.addWidget(label("Start from", role="soft"))
        for widget in (self.preset, self.throws, self.typed):
            top.addWidget(widget)
        column.addLayout(top)
        self.table = QTableWidget(len(self._parts), 3)
        self.table.setHorizontalHeaderLabels(["Landmark", "Markers, with commas", "Offset"])
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.table.horizontalHeader().setStretchLastSection(False)
        for row, part in enumerate(self._parts):
            item = QTableWidgetItem(part.replace("_", " "))
            item.setFlags(Qt.ItemFlag.ItemIsEnabled)
            self.table.setItem(row, 0, item)
        self.table.itemChanged.connect(lambda _: self._judge())
        column.addWidget(self.table, 1)
        self.names = label("", role="soft", grow=-0.5)
        self.names.setWordWrap(True)
        column.addWidget(self.names)
        column.addLayout(self._make_axes())
        self.said = label("")
        self.said.setWordWrap(True)
        column.addWidget(self.said)
        column.addLayout(self._make_buttons())
        leave_return_alone(self)
        self._fill(match(list(raw.points)))
        self._show_names("")

    def _make_axes(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.forward, self.up = QComboBox(), QComboBox()
        for box in (self.forward, self.up):
            box.addItems(_AXES)
            box.activated.connect(lambda _: self._judge())
        start, end = float(self._raw.times[0]), float(self._raw.times[-1])
        self.first, self.last = number(start, end, suffix=" s"), number(start, end, suffix=" s")
        self.last.setValue(end)
        propose = QPushButton("Find the throw")
        propose.clicked.connect(self._find_throw)
        for widget in (
            label("Toward the plate", role="soft"), self.forward, label("Up", role="soft"), self.up,
            label("From", role="soft"), self.first, label("to", role="soft"), self.last, propose,
        ):  # fmt: skip
            row.addWidget(widget)
        return row

    def _make_buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addStretch(1)
        cancel = QPushButton("Leave it")
        cancel.clicked.connect(self.reject)
        self.keep = QPushButton("Import it so")
        self.keep.setProperty("role", "main")
        self.keep.clicked.connect(self._keep)
        row.addWidget(cancel)
        row.addWidget(self.keep)
        return row

    # showing -------------------------------------------------------------------------------------------------------
    def _take_preset(self) -> None:
        chosen = self.preset.currentText()
        names = list(self._raw.points)
        self._fill(match(names) if chosen == _OWN else match(names, PRESETS[chosen]))

    def _fill(self, recipes: dict[str, Recipe]) -> None:
        ours = {landmark: plain for plain, landmark in anatomical_names(self._throws()).items()}
        plain = {ours.get(name, name): recipe for name, recipe in recipes.items()}
        self.table.blockSignals(True)
        for row, part in enumerate(self._parts):
            recipe = plain.get(part)
            self.table.setItem(row, 1, QTableWidgetItem(", ".join(recipe.markers) if recipe else ""))
            moved = recipe is not None and any(recipe.offset)
            offset = " ".join(f"{v:g}" for v in recipe.offset) if recipe is not None and moved else ""
            self.table.setItem(row, 2, QTableWidgetItem(offset))
        self.table.blockSignals(False)
        axes = propose_axes(apply(self.recipes(), self._raw.points, self._throws())) if self.recipes() else Axes()
        self.forward.setCurrentText(axes.forward)
        self.up.setCurrentText(axes.up)
        self._judge()

    def _show_names(self, typed: str) -> None:
        found = [name for name in self._raw.points if typed.casefold() in name.casefold()]
        self.names.setText("Markers: " + ", ".join(found[:40]) + (" …" if len(found) > 40 else ""))

    def _throws(self) -> str:
        return "RL"[self.throws.currentIndex()]

    def recipes(self) -> dict[str, Recipe]:
        """What the table says, as far as it can be read."""
        found = {}
        for row, part in enumerate(self._parts):
            cells = [self.table.item(row, k) for k in (1, 2)]
            markers = [m.strip() for m in (cells[0].text() if cells[0] else "").split(",") if m.strip()]
            if markers:
                found[part] = Recipe(tuple(markers), _offset(cells[1].text() if cells[1] else ""))
        return found

    def setup(self) -> LabSetup:
        """What the dialog says. Raises TrackError when it does not hold together."""
        recipes = self.recipes()
        axes = Axes(self.forward.currentText(), self.up.currentText())
        axes.matrix()
        apply(recipes, self._raw.points, self._throws())
        part = (round(self.first.value(), 3), round(self.last.value(), 3))
        return LabSetup(recipes, axes, part if self._is_part(part) else None)

    def _is_part(self, part: Sequence[float]) -> bool:
        times = self._raw.times
        return bool(part[0] > times[0] + 0.01 or part[1] < times[-1] - 0.01)

    def _judge(self) -> None:
        try:
            self.setup()
            fault = ""
        except TrackError as problem:
            fault = str(problem)
        given = self.recipes()
        needed = [part for part in self._parts if part not in given and part not in ("nose",)]
        if not fault and needed:
            fault = f"Not given yet: {', '.join(needed[:5]).replace('_', ' ')}" + (
                " and more" if len(needed) > 5 else ""
            )
        self.said.setText(f"▲  {fault}." if fault else "Every landmark is given.")
        self.keep.setEnabled(len(needed) <= 8 and "marker named" not in fault and "same axis" not in fault)

    def _find_throw(self) -> None:
        """Where the fastest marker moves most, with room around it."""
        points = np.stack(list(self._raw.points.values()), axis=1)
        speed = np.zeros(self._raw.times.size)
        speed[1:] = np.nan_to_num(np.linalg.norm(np.diff(points, axis=0), axis=2)).max(axis=1)
        found = bursts(self._raw.times - self._raw.times[0], speed)
        if not found:
            self.said.setText("▲  No burst of motion stands out; set the throw's part by hand.")
            return
        start = float(self._raw.times[0])
        self.first.setValue(start + found[0][0])
        self.last.setValue(start + found[0][1])
        more = f" of {len(found)}; import the file again for the others" if len(found) > 1 else ""
        self.said.setText(f"The first throw{more}.")

    def _keep(self) -> None:
        try:
            self.kept.emit(self.setup(), self._throws())
        except TrackError as fault:
            self.said.setText(f"▲  {fault}.")
            return
        self.accept()


def _offset(text: str) -> tuple[float, float, float]:
    """Three numbers, or none."""
    try:
        x, y, z = (float(word) for word in text.replace(",", " ").split())
    except ValueError:
        return 0.0, 0.0, 0.0
    return x, y, z
