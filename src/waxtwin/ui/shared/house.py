"""The measures of the house in the running program: read at the start, kept, taken away, everything worked out anew."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.measures.house import HouseMeasure, register
from waxtwin.core.stops import EVENTS
from waxtwin.library.house import own_house, save_house
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.pair_flow import PairFlow
from waxtwin.ui.shared.widgets import label


class House:
    """`all` are the measures there are."""

    def __init__(self, pairs: PairFlow, say: Callable[[str], object]) -> None:
        self._pairs, self._say = pairs, say
        self.all, said = own_house()
        register(self.all)
        if said:
            say(Fault(said))

    def keep(self, one: HouseMeasure) -> None:
        """Have one more, or another of the same id."""
        self._take([*(old for old in self.all if old.id != one.id), one])

    def remove(self, name: str) -> None:
        """Take one away; bands and rows of it go with it."""
        self._take([one for one in self.all if one.id != name])

    def _take(self, house: Sequence[HouseMeasure]) -> None:
        try:
            save_house(house)
        except WaxTwinError as fault:
            self._say(Fault(fault))
            return
        self.all = list(house)
        self._pairs.measure_anew(lambda: register(self.all))


class HouseDialog(QDialog):
    """The list of the house's measures, from which one can be taken away."""

    def __init__(self, house: House, parent: QWidget) -> None:
        super().__init__(parent)
        self._house = house
        self.setWindowTitle("Measures of the house")
        self.resize(560, 360)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        self.hint = label("", role="soft", wrap=True)
        column.addWidget(self.hint)
        self.list = QListWidget()
        self.list.setAccessibleName("measures of the house")
        self.list.ensurePolished()  # else the items are laid out before they are dressed
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        self.remove = QPushButton("Take away")
        self.remove.clicked.connect(self._remove)
        close = QPushButton("Close")
        close.setDefault(True)
        close.clicked.connect(self.accept)
        row.addWidget(self.remove)
        row.addStretch(1)
        row.addWidget(close)
        column.addLayout(row)
        self._fill()

    def _fill(self) -> None:
        self.list.clear()
        for one in self._house.all:
            self.list.addItem(QListWidgetItem(f"{one.label}, at {EVENTS[one.at].short}: {', '.join(one.points)}"))
        self.list.setCurrentRow(0)
        self.remove.setEnabled(bool(self._house.all))
        self.hint.setText(
            "Made from marks on joints in the Pair room; they stand in Contrast, the log and the bands like any other."
            if self._house.all else
            "There is none yet. Mark a line, an angle or a distance between joints in the Pair room, and press “Keep "
            "as a measure”."
        )  # fmt: skip

    def _remove(self) -> None:
        at = self.list.currentRow()
        if 0 <= at < len(self._house.all):
            self._house.remove(self._house.all[at].id)
            self._fill()
