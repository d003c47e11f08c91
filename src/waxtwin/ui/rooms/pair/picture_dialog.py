"""Light, contrast and mirroring of the clips on the stages."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QDialog, QFormLayout, QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from waxtwin.ui.model.closeup import Closeup
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.widgets import label


class PictureDialog(QDialog):
    """Two sliders and a tick a side; what they do is seen at once, and kept with the pair."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Tool)
        self.desk = desk
        self.setWindowTitle("How the clips are shown")
        self.setMinimumWidth(560)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(10)
        sides = QHBoxLayout()
        sides.setSpacing(26)
        self.sliders: dict[tuple[str, str], QSlider] = {}
        self.turned: dict[str, QCheckBox] = {}
        for side in SIDES:
            sides.addLayout(self._make_side(side), 1)
        column.addLayout(sides)
        row = QHBoxLayout()
        row.addStretch(1)
        plain = QPushButton("As they were filmed")
        plain.clicked.connect(self._plain)
        close = QPushButton("Close")
        close.setDefault(True)
        close.clicked.connect(self.close)
        row.addWidget(plain)
        row.addWidget(close)
        column.addLayout(row)
        desk.listen(lambda _: self._fill(), Topic.CLOSEUP)
        self._fill()

    def _make_side(self, side: str) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(label(side, side=side, grow=1, bold=True))
        form = QFormLayout()
        for what, words in (("light", "Light"), ("contrast", "Contrast")):
            self.sliders[side, what] = slider = QSlider(Qt.Orientation.Horizontal)
            slider.setRange(-100, 100)
            slider.setAccessibleName(f"{what} of the {side}'s clip")
            slider.valueChanged.connect(lambda _, side=side: self._change(side))
            form.addRow(words, slider)
        column.addLayout(form)
        self.turned[side] = QCheckBox("mirrored, left for right")
        self.turned[side].clicked.connect(lambda _=False, side=side: self._change(side))
        column.addWidget(self.turned[side])
        return column

    def _change(self, side: str) -> None:
        light, contrast = (self.sliders[side, what].value() / 100 for what in ("light", "contrast"))
        self.desk.closeups.show_clip(side, light=light, contrast=contrast, turned=self.turned[side].isChecked())

    def _plain(self) -> None:
        plain = Closeup()
        for side in SIDES:
            self.desk.closeups.show_clip(side, light=plain.light, contrast=plain.contrast, turned=plain.turned)

    def _fill(self) -> None:
        for side in SIDES:
            closeup = self.desk.closeups.of(side)
            for what, value in (("light", closeup.light), ("contrast", closeup.contrast)):
                slider = self.sliders[side, what]
                slider.blockSignals(True)
                slider.setValue(round(value * 100))
                slider.blockSignals(False)
            self.turned[side].setChecked(closeup.turned)
