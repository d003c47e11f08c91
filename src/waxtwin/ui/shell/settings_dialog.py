"""Everything that is remembered between runs, in one place. A change is used at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.stops import EVENTS, LANDING
from waxtwin.ui.model.settings import TEXT, Settings
from waxtwin.ui.shared.widgets import label

_SMOOTHING = {"stronger": "more than usual, for wavering marks", "usual": "as the footage itself asks for",
              "finer": "less than usual, for clean lab data"}  # fmt: skip


class SettingsDialog(QDialog):
    """`changed(settings)` on every change; `library_wanted` for another library."""

    changed = Signal(object)
    library_wanted = Signal()

    def __init__(
        self, settings: Settings, schools: Mapping[str, str], library: str, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Settings")
        self.setMinimumWidth(560)
        self._settings = replace(settings)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 20)
        column.setSpacing(14)
        form = QFormLayout()
        form.setVerticalSpacing(12)
        self.units = self._choice("imperial", {False: "metres, m/s", True: "feet, inches, miles an hour"})
        self.theme = self._choice("theme", {"light": "light, like paper", "dark": "dark"})
        self.school = self._choice("school", schools)
        stops = {key: f"{EVENTS[stop].label}" for key, stop in LANDING.items()}
        self.landing = self._choice("landing", {"": "as the school has it", **stops})
        self.smoothing = self._choice("smoothing", _SMOOTHING)
        self.analyst = QLineEdit(settings.analyst)
        self.analyst.setPlaceholderText("kept with what is seen by eye")
        self.analyst.editingFinished.connect(lambda: self._set("analyst", self.analyst.text().strip()))
        self.finding = self._choice("finding", {True: "by themselves, while clips are seen", False: "when asked for"})
        self.text = QSlider(Qt.Orientation.Horizontal)
        self.text.setRange(*TEXT)
        self.text.setValue(settings.text)
        self.text.setAccessibleName("size of type")
        self.text.valueChanged.connect(lambda value: self._set("text", value))
        for words, widget in (
            ("Units", self.units), ("Look", self.theme), ("Size of type", self.text), ("School", self.school),
            ("Landing", self.landing), ("Smoothing", self.smoothing), ("Landmarks are found", self.finding),
            ("Your name", self.analyst),
        ):  # fmt: skip
            form.addRow(words, widget)
        place = QHBoxLayout()
        where = label(library or "none is open", role="soft")
        where.setWordWrap(True)
        place.addWidget(where, 1)
        other = QPushButton("Another…")
        other.clicked.connect(self._ask_library)
        place.addWidget(other)
        form.addRow("Library", place)
        column.addLayout(form)
        hint = label("A kept pair keeps the landing it was left with. The library that is open now is opened again "
                     "next time.", role="soft", grow=-0.5)  # fmt: skip
        hint.setWordWrap(True)
        column.addWidget(hint)
        row = QHBoxLayout()
        row.addStretch(1)
        close = QPushButton("Close")
        close.setDefault(True)
        close.clicked.connect(self.accept)
        row.addWidget(close)
        column.addLayout(row)

    def _choice(self, name: str, options: Mapping[Any, str]) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName(name)
        for key, words in options.items():
            box.addItem(words, key)
        box.setCurrentIndex(max(box.findData(getattr(self._settings, name)), 0))
        box.activated.connect(lambda at: self._set(name, box.itemData(at)))
        return box

    def _set(self, name: str, value: Any) -> None:
        self._settings = replace(self._settings, **{name: value})
        self.changed.emit(self._settings)

    def _ask_library(self) -> None:
        self.accept()
        self.library_wanted.emit()
