"""The Contrast room: every measure by kind, with band and verdict, and curves over common time."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import (
    QModelIndex,
    Qt,
)
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QSplitter,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.contrast import LEVEL, UNTOLD, Contrast, Row
from waxtwin.core.footing import footing
from waxtwin.core.measures.registry import KINDS
from waxtwin.core.single import Single
from waxtwin.core.stops import EVENTS, ORDER
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.single_wording import told_single
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import (
    SIDE_WORDS,
    sequence,
    told_sets,
    turns_in_order,
    waiting_words,
    whose_bands,
)
from waxtwin.ui.rooms.contrast.rows import STANDINGS, as_csv, as_text
from waxtwin.ui.rooms.contrast.rows_model import BAND, COLUMNS, IN_PICTURE, RowsModel
from waxtwin.ui.rooms.contrast.rows_table import BandDelegate, RowsTable
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.room import Room, on_desk
from waxtwin.ui.shared.widgets import Choice, label

if TYPE_CHECKING:
    from waxtwin.ui.shared.gallery import Gallery


def _to_clipboard(text: str) -> None:
    QApplication.clipboard().setText(text)


class ContrastRoom(Room):
    """Table on the left, plots on the right."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.desk = desk = context.desk
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 18, 26, 14)
        column.setSpacing(10)
        top = FlowLayout(spread=True)
        top.addWidget(label("Contrast", role="title", grow=8))
        self._of = Choice("Figures of", [("one", "these two throws"), ("all", "all throws")],
                          lambda key: desk.pair.set_whole(key == "all"))  # fmt: skip
        top.addWidget(self._of)
        self._kind = Choice("", [("all", "all"), *((k, n.lower()) for k, n in KINDS.items())],
                            lambda kind: self.model.ask(kind=kind))  # fmt: skip
        self._kind.set("all")
        top.addWidget(self._kind)
        column.addLayout(top)
        self._count = label("")
        self._count.setWordWrap(True)
        column.addWidget(self._count)
        self.footing = label("", grow=-0.5)
        self.footing.setWordWrap(True)
        column.addWidget(self.footing)
        self._legend = label("", role="soft", grow=-1)
        column.addWidget(self._legend)
        self._orders = QWidget()
        orders = FlowLayout(self._orders, spacing=14)
        orders.addWidget(label("Fastest turns in order:", role="soft", grow=-0.5))
        self.orders = {side: label("", side=side, grow=-0.5) for side in SIDES}
        for words in self.orders.values():
            orders.addWidget(words)
        column.addWidget(self._orders)
        self.model = RowsModel(desk)
        column.addLayout(self._make_filters())
        self.table: QTableView = RowsTable()
        self.table.setModel(self.model)
        self.table.setItemDelegateForColumn(BAND, BandDelegate(self.table))
        self.table.setShowGrid(False)
        self.table.setWordWrap(False)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(28)
        self.table.setSelectionBehavior(QTableView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QTableView.SelectionMode.SingleSelection)
        self.table.setAccessibleName("measures")
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for i, width in ((1, 74), (2, 74), (3, 76), (4, 96), (5, 150)):
            header.setSectionResizeMode(i, QHeaderView.ResizeMode.Fixed)
            header.resizeSection(i, width)
        self.table.selectionModel().currentRowChanged.connect(self._row_chosen)
        self.model.modelReset.connect(self._spread_headings)
        self._split = QSplitter(Qt.Orientation.Horizontal)
        self._split.setHandleWidth(14)
        self._split.addWidget(self.table)
        self.table.setMinimumWidth(500)
        self._split.setChildrenCollapsible(False)
        column.addWidget(self._split, 1)
        self.gallery: Gallery | None = None
        desk.listen(lambda _: self._offer_school(), Topic.EXPLANATION, Topic.PAIR)
        desk.listen(lambda _: self._say(), Topic.PAIR, Topic.FIGURES, Topic.THROWS, Topic.KEPT, Topic.OTHERS)
        self.table.doubleClicked.connect(lambda _: context.references.explain_measure())
        self.model.fill()
        self._offer_school()
        self._say()

    def showEvent(self, event: QShowEvent) -> None:
        """Curves come with the first look: their library takes a while to load."""
        super().showEvent(event)
        if self.gallery is None:
            from waxtwin.ui.shared.gallery import Gallery

            self.gallery = Gallery(self.desk)
            self.gallery.told.connect(self.context.say)
            self._split.addWidget(self.gallery)
            self._split.setSizes([690, 450])
            self.gallery.setVisible(self.model.single is None)

    def _make_filters(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a measure")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("find a measure")
        self.search.textChanged.connect(lambda words: self.model.ask(words=words))
        self.standing, self.stop = QComboBox(), QComboBox()
        for key, (words, _) in STANDINGS.items():
            self.standing.addItem(words, key)
        self.standing.activated.connect(lambda i: self.model.ask(standing=self.standing.itemData(i)))
        self.stop.addItem("at any stop", None)
        for stop in ORDER:
            self.stop.addItem(f"at {EVENTS[stop].short}", stop)
        self.stop.activated.connect(lambda i: self.model.ask(stop=self.stop.itemData(i)))
        self.school = QComboBox()
        self.school.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.school.setMinimumContentsLength(13)
        self.school.addItem("for any school", False)
        self.school.activated.connect(lambda _: self._ask_school())
        self.by_size = QCheckBox("largest first")
        self.by_size.setToolTip("By the size of the difference against what the footage resolves")
        self.by_size.toggled.connect(lambda on: self.model.ask(by_size=on))
        copy, table = QPushButton("Copy"), QPushButton("Copy CSV")
        copy.setToolTip("The rows shown, as text in the chosen units")
        table.setToolTip("The rows shown, as comma-separated figures in metres, milliseconds and degrees")
        copy.clicked.connect(lambda: _to_clipboard(as_text(self.model.items, self.desk.view.imperial)))
        table.clicked.connect(lambda: _to_clipboard(as_csv(self.model.items)))
        row.addWidget(self.search, 1)
        named = ((self.standing, "standing"), (self.stop, "stop"), (self.school, "school"))
        for widget, name in (*named, (self.by_size, ""), (copy, ""), (table, "")):
            if name:
                widget.setAccessibleName(name)
            row.addWidget(widget)
        return row

    def _ask_school(self) -> None:
        """All measures, or those that the findings of the school are read from."""
        found = self.desk.pair.explanation
        asked = bool(self.school.currentData()) and found is not None
        self.model.ask(only=found.perspective.measures if asked and found is not None else None)

    def _offer_school(self) -> None:
        found = self.desk.pair.explanation
        chosen = bool(self.school.currentData())
        while self.school.count() > 1:
            self.school.removeItem(1)
        if found is not None:
            self.school.addItem(f"that {found.perspective.school.label} acts on", True)
            self.school.setCurrentIndex(int(chosen))
        if chosen:
            self._ask_school()

    def _say(self) -> None:
        several = bool(self.desk.pair.other_contrasts)
        contrast = self.desk.pair.contrast if several else self.desk.pair.figures
        self._of.setVisible(self.desk.pair.throws is not None and not several)
        self._of.set("all" if self.desk.pair.whole else "one")
        for side, words in self.orders.items():
            analysis = self.desk.pair.analysis(side)
            words.setText("" if analysis is None else sequence(analysis))
        seen = [analysis is not None and turns_in_order(analysis) for analysis in map(self.desk.pair.analysis, SIDES)]
        self._orders.setVisible(any(seen))
        stands = None if contrast is None else footing(contrast)
        of_sets = "" if contrast is None else told_sets(contrast, self.desk.pair.sessions)
        self.footing.setText("" if stands is None else f"{stands.sentence} {of_sets}".strip())
        self.footing.setToolTip("" if stands is None else "What limits it most:\n" + "\n".join(stands.limits))
        one, two = SIDE_WORDS[self.desk.pair.kind]
        two = "twins" if several else two.lower()
        rows = () if contrast is None else contrast.rows
        flat = f"    {IN_PICTURE} seen in the picture only" if any(row.planar for row in rows) else ""
        self._legend.setText(f"● {one.lower()}    ■ {two}    │ single throws    ▬ band{whose_bands(rows)}{flat}")
        if self.gallery is not None:
            self.gallery.setVisible(self.model.single is None)  # curves are held against a second delivery's
        if self.model.single is not None:
            self._say_single(self.model.single)
        elif contrast is None:
            self._count.setText(waiting_words(self.desk.pair, "Working…", needs="Contrast"))
        else:
            self._count.setText(self._counted(contrast))

    def _say_single(self, single: Single) -> None:
        """One delivery on its own: against the band, and against the session before."""
        self.footing.setText(told_single(single, self.desk.view.imperial)[0])
        past = "    ■ the session before" if single.shifts else ""
        self._legend.setText(f"● this delivery{past}    ▬ band{whose_bands(single.rows)}")
        other = "twin" if single.side == "athlete" else "athlete"
        self._count.setText(
            f"Only the {single.side} is on the desk; choose the {other} on the Bench to contrast the two"
        )

    def _counted(self, contrast: Contrast) -> str:
        """How many measures differ, are level, cannot be told."""
        known = [row for row in contrast.rows if row.difference is not None]
        if not contrast.athlete.resolved:
            return f"{len(known)} measures; margins are being worked out"
        apart = sum(row.apart for row in known)
        level, vague = (sum(row.verdict == stands for row in known) for stands in (LEVEL, UNTOLD))
        if self.desk.pair.kind == "past":
            return f"{apart} of {len(known)} measures changed, {level} did not, {vague} cannot be told"
        return f"Of {len(known)} measures {apart} differ, {level} are level, {vague} cannot be told"

    def _spread_headings(self) -> None:
        self.table.clearSpans()
        for i, item in enumerate(self.model.items):
            if isinstance(item, str):
                self.table.setSpan(i, 0, 1, COLUMNS)
                self.table.setRowHeight(i, 40)
            else:
                self.table.setRowHeight(i, 28)

    def _row_chosen(self, current: QModelIndex) -> None:
        item = self.model.items[current.row()] if current.isValid() else None
        if isinstance(item, Row):
            self.desk.view.select(item.measure.id)

    def throws_in_sight(self) -> frozenset[int]:
        return on_desk(self.desk)
