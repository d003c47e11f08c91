"""A measure explained: what it is, how it is worked out, and its gauge on both figures at its stop."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from waxtwin.core.contrast import Row
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.registry import KINDS, spelled_out
from waxtwin.core.standing import resolution, verdict
from waxtwin.core.stops import EVENTS
from waxtwin.core.units import figure
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import stop_of
from waxtwin.ui.shared.posed_figure import PosedFigure
from waxtwin.ui.shared.widgets import label

_SEEN = {
    "3D": "both depth and height: two cameras or a lab", "side": "a camera at the side",
    "front": "a camera in front or behind", "any": "any camera",
}  # fmt: skip


class MeasureCard(QDialog):
    """Stays open beside the window and follows the measure that is chosen or under the pointer."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Tool)
        self.desk = desk
        self.setWindowTitle("About this measure")
        self.setMinimumWidth(560)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 16)
        column.setSpacing(8)
        self.name = label("", role="title", grow=5)
        self.facts = label("", role="soft")
        self.text = label("", grow=1)
        self.text.setWordWrap(True)
        column.addWidget(self.name)
        column.addWidget(self.facts)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.posed = {side: PosedFigure(desk, side) for side in SIDES}
        for posed in self.posed.values():
            row.addWidget(posed, 1)
        column.addLayout(row, 1)
        self.stand = label("", grow=1, bold=True)
        column.addWidget(self.stand)
        column.addWidget(self.text)
        self._lines = QGridLayout()
        self._lines.setHorizontalSpacing(14)
        self._lines.setColumnStretch(1, 1)
        self.said: dict[str, QWidget] = {}
        for n, name in enumerate(("Worked out", "Sign", "Needs", "Band", "Literature")):
            said = label("")
            said.setWordWrap(True)
            self.said[name] = said
            self._lines.addWidget(label(name, role="soft"), n, 0, Qt.AlignmentFlag.AlignTop)
            self._lines.addWidget(said, n, 1)
        column.addLayout(self._lines)
        topics = (Topic.SELECTION, Topic.FIGURES, Topic.THROWS, Topic.PAIR, Topic.UNITS, Topic.LANDING)
        desk.listen(lambda _: self.fill(), *topics)
        self.fill()

    def fill(self) -> None:
        """Explain the measure that is chosen."""
        name = self.desk.view.lit
        if name is None:
            if not self.name.text():
                self.name.setText("No measure is chosen")
                self.text.setText("Choose a row in Contrast or beside the stages, and it is explained here.")
            return
        item = MEASURES[name]
        row = None if self.desk.pair.figures is None else self.desk.pair.figures.row(name)
        stop = EVENTS[stop_of(item, self.desk.pair.landing)].label
        self.name.setText(item.label)
        self.facts.setText(f"{KINDS[item.kind]}  ·  read at: {stop}  ·  {name}")
        self.text.setText(item.text)
        self.stand.setText("" if row is None else _stands(row, self.desk.view.imperial))
        band = None if row is None else row.band
        said = {
            "Worked out": spelled_out(item.formula), "Sign": item.sign or "–",
            "Needs": _SEEN[item.view] + (f"; from the {item.planar} a stand-in in the picture" if item.planar else ""),
            "Band": "none" if band is None else band.told(), "Literature": item.reference or "none",
        }  # fmt: skip
        for key, words in said.items():
            self.said[key].setText(words)  # type: ignore[attr-defined]
        for posed in self.posed.values():
            posed.item = item
            posed.update()


def _stands(row: Row, imperial: bool) -> str:
    unit = row.measure.unit
    if row.difference is None:
        return f"Not available: {row.reason}."
    resolved = "" if row.resolution is None else f", margin ± {resolution(row, imperial)}"
    return (
        f"{figure(row.athlete, unit, imperial)} against {figure(row.twin, unit, imperial)}: "
        f"{verdict(row, imperial)}{resolved}"
    )
