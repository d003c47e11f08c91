"""The plots beside the Contrast table: one at a time, chosen by name, saved as a file."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from waxtwin.core.contrast import Contrast
from waxtwin.core.curves import CURVES, curve_of
from waxtwin.core.errors import WaxTwinError
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.curve_plot import SETS, Curves, HandPath, is_seen, names_of
from waxtwin.ui.shared.file_dialogs import ask_save
from waxtwin.ui.shared.plots import Dial, Dots, chain_speeds, save_picture, turns_by_time
from waxtwin.ui.shared.widgets import Choice, label

_CHOICES = {
    "turn": "Rotation and separation over time", "speed": "Segment speeds over time",
    "bend": "Trunk and knees over time", "own": "The chosen measure over time", "dial": "Hips and shoulders from above",
    "order": "Order of the fastest turns", "chain": "Speeds up the chain", "path": "Path of the hand",
}  # fmt: skip
_UNSEEN = "This footage does not show it."
_OVER_TIME = (*SETS, "own")


class Gallery(QWidget):
    """`told(sentence)` when a plot could not be saved, or there is nothing to draw."""

    told = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.choice, self._by_hand = "turn", False
        self.common = True
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        top = QHBoxLayout()
        self.picker = QComboBox()
        self.picker.setAccessibleName("plot")
        for key, words in _CHOICES.items():
            self.picker.addItem(words, key)
        self.picker.activated.connect(lambda i: self._pick(self.picker.itemData(i)))
        save = QPushButton("Save plot…")
        save.clicked.connect(self._ask)
        top.addWidget(self.picker, 1)
        top.addWidget(save)
        self._column.addLayout(top)
        self._options = QWidget()
        options = QHBoxLayout(self._options)
        options.setContentsMargins(0, 0, 0, 0)
        self.clock = Choice("", (("common", "common time"), ("real", "real time")), self._choose_clock)
        self.clock.set("common")
        self.beside = QComboBox()
        self.beside.setAccessibleName("another curve")
        self.beside.addItem("no other curve", None)
        for curve in CURVES.values():
            self.beside.addItem(curve.label, curve.id)
        self.beside.activated.connect(lambda _: self.draw())
        options.addWidget(self.clock, 0, Qt.AlignmentFlag.AlignLeft)
        options.addWidget(self.beside, 1)
        self._column.addWidget(self._options)
        self.curves = Curves(desk)
        self.plot: QWidget = self.curves
        self._column.addWidget(self.curves, 1)
        self._hint = label("amber, round: athlete    teal, dashed or square: twin", role="soft", grow=-1)
        self._column.addWidget(self._hint)
        desk.listen(lambda _: self._offer(), Topic.PAIR, Topic.FIGURES)
        desk.listen(lambda _: self.draw(), Topic.FIGURES, Topic.UNITS, Topic.PAIR, Topic.LANDING)
        desk.listen(self._follow, Topic.SELECTION, Topic.TIME)
        self._offer()
        self.draw()

    def _offer(self) -> None:
        """Say which plots this footage does not show, and begin with one that it does."""
        contrast = self.desk.pair.contrast
        if contrast is None:
            return
        shown = [key for key in _CHOICES if _is_shown(key, contrast)]
        for key, words in _CHOICES.items():
            at = self.picker.findData(key)
            self.picker.setItemText(at, words if key in shown else f"{words}  (not seen)")
        if self.choice not in shown and not self._by_hand and shown:
            self.choice = shown[0]
            self.picker.setCurrentIndex(self.picker.findData(self.choice))

    def _pick(self, choice: str) -> None:
        self._by_hand = True
        self.choose(choice)

    def choose(self, choice: str) -> None:
        """Show another plot."""
        self.choice = choice
        self.picker.setCurrentIndex(self.picker.findData(choice))
        self.draw()

    def draw(self) -> None:
        """Draw the chosen plot from what is on the desk."""
        over_time = self.choice in _OVER_TIME
        self._options.setVisible(over_time)
        self.beside.setVisible(self.choice == "own")
        if over_time:
            self._show(self.curves)
            names = names_of(self.choice, self.desk.view.selected, self.beside.currentData())
            self.curves.show_curves(names, common=self.common)
            self._hint.setText(self._words_for(names) if self.curves.shown or not names else _UNSEEN)
            return
        contrast = self.desk.pair.contrast
        makers: dict[str, Callable[[], QWidget]] = {
            "dial": lambda: Dial(self.desk), "path": lambda: HandPath(self.desk),
            "order": lambda: Dots(self.desk, turns_by_time(contrast) if contrast else [], "ms", "Fastest at"),
            "chain": lambda: Dots(self.desk, chain_speeds(contrast) if contrast else [], "m/s", "Peak speed"),
        }  # fmt: skip
        self._show(makers[self.choice]())
        solid = "solid: hips, dashed: shoulders" if self.choice == "dial" else "amber: athlete    teal: twin"
        self._hint.setText(solid)

    def _words_for(self, names: tuple[str, ...]) -> str:
        if not names:
            return "Choose a measure in the table that is read off a curve."
        if self.choice == "own" and curve_of(self.desk.view.selected) is None:
            return "The chosen measure is not read off a curve."
        clock = "time runs on the athlete's clock" if self.common else "each in its own time"
        return f"amber: athlete    teal, dashed: twin    {clock}"

    def _show(self, plot: QWidget) -> None:
        if plot is self.plot:
            return
        at = self._column.indexOf(self.plot)
        self._column.takeAt(at)
        self.plot.hide()
        if self.plot is not self.curves:
            self.plot.deleteLater()
        self.plot = plot
        self._column.insertWidget(at, plot, 1)
        plot.show()

    def _choose_clock(self, key: str) -> None:
        self.common = key == "common"
        self.draw()

    def _follow(self, topic: Topic) -> None:
        if topic is Topic.SELECTION and self.choice == "own":
            self.draw()
        elif topic is Topic.TIME and self.choice == "dial":
            self.plot.update()

    def _ask(self) -> None:
        chosen = ask_save(self, "Save the plot", f"{self.choice}.svg", "Pictures (*.svg *.png)")
        if chosen:
            self.save(chosen)

    def save(self, path: Path) -> None:
        """Write the plot as SVG or PNG; a fault is told."""
        try:
            save_picture(self.plot, path, _CHOICES[self.choice])
        except WaxTwinError as fault:
            self.told.emit(Fault(fault))


def _is_shown(choice: str, contrast: Contrast) -> bool:
    """Whether a pair has something to draw in a plot."""
    if choice in SETS:
        return any(is_seen(CURVES[name], contrast) for name in SETS[choice])
    if choice in ("order", "chain"):
        lines = turns_by_time(contrast) if choice == "order" else chain_speeds(contrast)
        return any(value is not None for line in lines for value in line.values)
    return choice != "dial" or any(one.motion.flat is None for one in (contrast.athlete, contrast.twin))


def save_all(pair: Contrast, folder: Path) -> Iterator[Path]:
    """Write every plot of a pair into a folder as SVG, without a window. Raises WaxTwinError."""
    from waxtwin.ui.shared import theme
    from waxtwin.ui.shared.application import application

    if not theme.is_dressed():
        application()
        theme.apply("light")
    desk = Desk()
    desk.pair.set_contrast(pair)
    shown = Gallery(desk)
    shown.resize(900, 620)
    faults: list[str] = []
    shown.told.connect(faults.append)
    for choice in _CHOICES:
        if choice != "own":
            shown.choose(choice)
            path = folder / f"{choice}.svg"
            shown.save(path)
            if faults:
                raise WaxTwinError(faults[0])
            yield path
