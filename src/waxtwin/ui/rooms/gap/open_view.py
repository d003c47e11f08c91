"""Where no finding stands out: what differs all the same, and what would let this footage say more."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from waxtwin.core.contrast import Row
from waxtwin.core.explain import Explanation
from waxtwin.core.findings import Judgement
from waxtwin.core.measures import MEASURES, Measure
from waxtwin.core.remedies import Advice, advice
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.measure_row import MeasureRow
from waxtwin.ui.shared.posed_figure import PosedFigure
from waxtwin.ui.shared.widgets import label, scrolling

_SHOWN = 12


class OpenView(QWidget):
    """`seen(measure)` is to be shown on the pair, `helped(advice)` to be done where it can be done."""

    seen = Signal(str)
    helped = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self._rows: list[Row] = []
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(18)
        left, right = QVBoxLayout(), QVBoxLayout()
        for column in (left, right):
            column.setSpacing(6)
        left.addWidget(label("What differs", grow=1.5, bold=True))
        self._differs = label("", role="soft", grow=-0.5, wrap=True)
        left.addWidget(self._differs)
        self._list = scrolling()
        left.addWidget(self._list, 1)
        self.says = label("", grow=1.5, bold=True, wrap=True)
        right.addWidget(self.says)
        self._figures = QWidget()
        figures = QHBoxLayout(self._figures)
        figures.setContentsMargins(0, 0, 0, 0)
        figures.setSpacing(6)
        self._posed = [PosedFigure(desk, side) for side in SIDES]
        for posed in self._posed:
            posed.setMinimumSize(180, 120)
            figures.addWidget(posed, 1)
        self._figures.setMaximumHeight(190)
        right.addWidget(self._figures, 2)
        self.see = QPushButton("See it on the pair")
        self.see.clicked.connect(lambda: self.seen.emit(self._shown.id if self._shown else ""))
        line = QHBoxLayout()
        line.addWidget(self.see)
        line.addStretch(1)
        right.addLayout(line)
        self._more = scrolling()
        right.addWidget(self._more, 1)
        row.addLayout(left, 9)
        row.addLayout(right, 13)
        desk.listen(lambda _: self._light(), Topic.SELECTION)

    def show_explanation(self, found: Explanation, beside: Sequence[str]) -> None:
        """Fill both sides from what is known of the pair; `beside` is what else there is to say."""
        pair = self.desk.pair.contrast
        differing = () if pair is None else pair.differing
        self._rows = list(differing[:_SHOWN])
        self.says.setText(_nothing(found.judgement))
        self._differs.setText(
            "More than this footage's margin. That something differs does not make it a fault."
            if self._rows else "Nothing differs by more than this footage's margin."
        )  # fmt: skip
        self._fill(self._list, [
            *(MeasureRow(self.desk, one) for one in self._rows),
            *(label(said, wrap=True, grow=-0.5) for said in beside),
        ])  # fmt: skip
        advised = () if pair is None else advice(found.judgement.open, pair)
        words: list[QWidget] = [label("What would tell more", bold=True)] if advised else []
        self._fill(self._more, [*words, *(_Advised(one, self) for one in advised)])
        self.see.setVisible(bool(self._rows))
        self._figures.setVisible(bool(self._rows) and pair is not None and not pair.bare)
        self._light()

    @property
    def _shown(self) -> Measure | None:
        """The measure that the figures show: what is pointed at or chosen, or what differs most."""
        lit = self.desk.view.lit
        return MEASURES[lit] if lit else self._rows[0].measure if self._rows else None

    def _light(self) -> None:
        for posed in self._posed:
            posed.item = self._shown
            posed.update()

    def _fill(self, place: QScrollArea, widgets: list[QWidget]) -> None:
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(4)
        for widget in widgets:
            column.addWidget(widget)
        column.addStretch(1)
        place.setWidget(inner)


class _Advised(QWidget):
    """Something that would help, what for, and a button where it can be done here."""

    def __init__(self, one: Advice, view: OpenView) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 2)
        row.setSpacing(10)
        count = len(one.asks)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(label(one.remedy.words, wrap=True))
        words.addWidget(label(f"would answer {count} question{'s' if count != 1 else ''}", role="soft", grow=-1))
        row.addLayout(words, 1)
        self.setToolTip("\n".join(one.asks))
        if one.remedy.room:
            go = QPushButton("Do it")
            go.setAccessibleName(f"do it: {one.remedy.words}")
            go.clicked.connect(lambda: view.helped.emit(one))
            row.addWidget(go)


def _nothing(found: Judgement) -> str:
    """What is to be said where no finding stands out."""
    if found.mostly_told:
        return "No finding: nothing differs by more than this footage resolves and practice cares about."
    asked = len(found.told) + len(found.open)
    return f"No finding, but this footage answers only {len(found.told)} of {asked} questions."
