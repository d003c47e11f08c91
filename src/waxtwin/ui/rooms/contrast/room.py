"""The Contrast room: every measure by kind, with band and verdict, and curves over common time."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    Qt,
    Signal,
)
from PySide6.QtGui import QFont, QPainter, QPen, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QSplitter,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
)

from waxtwin.core.against_twins import Among, among
from waxtwin.core.contrast import LEVEL, UNTOLD, Contrast, Row
from waxtwin.core.events import EVENTS, ORDER
from waxtwin.core.footing import footing
from waxtwin.core.measures.registry import KINDS
from waxtwin.core.standing import resolution
from waxtwin.core.units import figure
from waxtwin.ui.model.desk import SIDES, Desk
from waxtwin.ui.model.wording import (
    SIDE_WORDS,
    columns_for,
    sequence,
    spread_of,
    stands,
    stands_among,
    told_sets,
    told_spread,
)
from waxtwin.ui.rooms.contrast.rows import STANDINGS, Wish, arranged, as_csv, as_text
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.theme import colour, font
from waxtwin.ui.shared.widgets import Choice, Room, label

if TYPE_CHECKING:
    from waxtwin.ui.shared.gallery import Gallery

Index = QModelIndex | QPersistentModelIndex
_COLUMNS = 6
_BAND = 4
_NARROW = 600  # pixels below which the table leaves out its plots


def _to_clipboard(text: str) -> None:
    QApplication.clipboard().setText(text)


class RowsModel(QAbstractTableModel):
    """The pair's rows with a heading per kind: an item is a Row or a heading's text."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.items: list[Row | str] = []
        self.among: dict[str, Among] = {}
        self.wish = Wish()
        desk.listen(
            lambda topic: self.fill() if topic in ("pair", "figures", "throws", "units", "kept", "others") else None
        )

    def fill(self) -> None:
        """Take the desk's rows again."""
        self.beginResetModel()
        # several twins are held against the throw on the stage, not against its session's mean
        contrast = self.desk.contrast if self.desk.other_contrasts else self.desk.figures
        self.among = among(self.desk.all_contrasts) if self.desk.other_contrasts else {}
        self.items = [] if contrast is None else arranged(contrast.rows, self.wish, self.desk.landing)
        self.endResetModel()

    def ask(self, /, **changes: object) -> None:
        """Show other rows, or the same in another order."""
        self.wish = replace(self.wish, **changes)  # type: ignore[arg-type]
        self.fill()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.items)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return _COLUMNS

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return columns_for(self.desk.kind)[section]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(section)
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        if isinstance(self.items[index.row()], str):
            return Qt.ItemFlag.ItemIsEnabled
        return super().flags(index)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        item = self.items[index.row()]
        column = index.column()
        if isinstance(item, str):
            if role == Qt.ItemDataRole.DisplayRole and column == 0:
                return item
            if role == Qt.ItemDataRole.FontRole:
                return font(1.5, QFont.Weight.Bold)
            return None
        if role == Qt.ItemDataRole.ForegroundRole:
            return colour(_ink(item, column))
        if role == Qt.ItemDataRole.FontRole and column == 5 and item.apart:
            return font(0, QFont.Weight.Bold)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(column)
        if role == Qt.ItemDataRole.ToolTipRole:
            return _tip(item, self.desk.imperial)
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        unit, imperial = item.measure.unit, self.desk.imperial
        if column == 0:
            return item.measure.label + ("  (in the picture)" if item.planar else "")
        twins = self.among.get(item.measure.id)
        if twins is not None and column in (2, 5):
            return spread_of(twins, unit, imperial) if column == 2 else stands_among(twins)
        if column in (1, 2):
            return figure(item.athlete if column == 1 else item.twin, unit, imperial)
        if column == 3:
            return resolution(item, imperial)
        return stands(item, self.desk.kind, imperial) if column == 5 else ""


def _alignment(column: int) -> Qt.AlignmentFlag:
    side = Qt.AlignmentFlag.AlignLeft if column in (0, _BAND) else Qt.AlignmentFlag.AlignRight
    return side | Qt.AlignmentFlag.AlignVCenter


def _ink(row: Row, column: int) -> str:
    if row.difference is None and column != 0:
        return "soft"
    return {1: "athlete", 2: "twin", 3: "soft"}.get(column, "soft" if column == 5 and not row.apart else "ink")


def _whose(contrast: Contrast | None) -> str:
    """Whose bands are shown, and whether their sources were checked."""
    bands = [row.band for row in contrast.rows if row.band is not None] if contrast else []
    if not bands:
        return ""
    unchecked = "" if all(band.verified for band in bands) else " (to verify)"
    return f" of {bands[0].population}{unchecked}"


def _tip(row: Row, imperial: bool) -> str:
    lines = [f"{row.measure.text} ({row.measure.sign})"]
    if row.reason:
        lines.append(f"Not available: {row.reason}.")
    if row.throws is not None:
        lines += [told_spread(who, spread, row.measure.unit, imperial)
                  for who, spread in (("Athlete", row.throws.athlete), ("Twin", row.throws.twin))]  # fmt: skip
    if row.band:
        lines.append(f"Band {row.band.told()}.")
    if row.measure.reference:
        lines.append(row.measure.reference)
    return "\n".join(lines)


class BandDelegate(QStyledItemDelegate):
    """A row as a small plot: the band, the athlete, the twin, a tick for each throw of a set, the range of several
    twins.
    """  # fmt: skip

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        super().paint(painter, option, index)
        model = index.model()
        assert isinstance(model, RowsModel)
        row = model.items[index.row()]
        if isinstance(row, str) or row.athlete is None or row.twin is None:
            return
        others = model.among.get(row.measure.id)
        rest = [v for v in others.figures[1:] if v is not None] if others is not None else []
        spans = [] if row.band is None else [("soft", row.band.low, row.band.high, 10.0)]
        if others is not None:
            spans.append(("twin", others.low, others.high, 5.0))
        if not spans:
            return
        box = QRectF(option.rect).adjusted(8, 0, -8, 0)
        throws = {} if row.throws is None else {"twin": row.throws.twin.seen, "athlete": row.throws.athlete.seen}
        ends = (row.athlete, row.twin, *rest, *(v for side in throws.values() for v in side),
                *(end for _, first, last, _ in spans for end in (first, last)))  # fmt: skip
        low, high = min(ends), max(ends)
        pad = max(0.1 * (high - low), 1e-6)
        low, high = low - pad, high + pad

        def x(value: float) -> float:
            return box.left() + (value - low) / (high - low) * box.width()

        y = box.center().y()
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour("hairline"), 1))
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        painter.setPen(Qt.PenStyle.NoPen)
        for name, first, last, thick in spans:
            painter.setBrush(colour(name, 60))
            painter.drawRoundedRect(QRectF(x(first), y - thick / 2, x(last) - x(first), thick), 3, 3)
        for side, figures in throws.items():
            painter.setPen(QPen(colour(side, 150), 1))
            for value in figures:
                painter.drawLine(QPointF(x(value), y - 8), QPointF(x(value), y + 8))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("twin"))
        for value in (row.twin, *rest):
            painter.drawRect(QRectF(x(value) - 4, y - 4, 8, 8))
        painter.setBrush(colour("athlete"))
        painter.drawEllipse(QPointF(x(row.athlete), y), 5, 5)
        painter.restore()


class RowsTable(QTableView):
    """The table of measures; where it is narrow, names and figures come before the small plots."""

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.setColumnHidden(_BAND, self.viewport().width() < _NARROW)
        super().resizeEvent(event)


class ContrastRoom(Room):
    """Table on the left, plots on the right. `told(sentence)` for what the user should read."""

    title = "Contrast"
    told = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 18, 26, 14)
        column.setSpacing(10)
        top = FlowLayout(spread=True)
        top.addWidget(label("Contrast", role="title", grow=8))
        self._of = Choice("Figures of", [("one", "these two throws"), ("all", "all throws")],
                          lambda key: desk.set_whole(key == "all"))  # fmt: skip
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
        orders = FlowLayout(spacing=14)
        orders.addWidget(label("Fastest turns in order:", role="soft", grow=-0.5))
        self.orders = {side: label("", side=side, grow=-0.5) for side in SIDES}
        for words in self.orders.values():
            orders.addWidget(words)
        column.addLayout(orders)
        self.model = RowsModel(desk)
        column.addLayout(self._make_filters())
        self.table: QTableView = RowsTable()
        self.table.setModel(self.model)
        self.table.setItemDelegateForColumn(_BAND, BandDelegate(self.table))
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
        desk.listen(self._told)
        self.model.fill()
        self._say()

    def showEvent(self, event: QShowEvent) -> None:
        """Curves come with the first look: their library takes a while to load."""
        super().showEvent(event)
        if self.gallery is None:
            from waxtwin.ui.shared.gallery import Gallery

            self.gallery = Gallery(self.desk)
            self.gallery.told.connect(self.told)
            self._split.addWidget(self.gallery)
            self._split.setSizes([690, 450])

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
        copy.clicked.connect(lambda: _to_clipboard(as_text(self.model.items, self.desk.imperial)))
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
        found = self.desk.explanation
        asked = bool(self.school.currentData()) and found is not None
        self.model.ask(only=found.perspective.measures if asked and found is not None else None)

    def _offer_school(self) -> None:
        found = self.desk.explanation
        chosen = bool(self.school.currentData())
        while self.school.count() > 1:
            self.school.removeItem(1)
        if found is not None:
            self.school.addItem(f"that {found.perspective.school.label} acts on", True)
            self.school.setCurrentIndex(int(chosen))
        if chosen:
            self._ask_school()

    def _told(self, topic: str) -> None:
        if topic in ("explanation", "pair"):
            self._offer_school()
        if topic in ("pair", "figures", "throws", "kept", "others"):
            self._say()

    def _say(self) -> None:
        several = bool(self.desk.other_contrasts)
        contrast = self.desk.contrast if several else self.desk.figures
        self._of.setVisible(self.desk.throws is not None and not several)
        self._of.set("all" if self.desk.whole else "one")
        for side, words in self.orders.items():
            analysis = self.desk.analysis(side)
            words.setText("" if analysis is None else sequence(analysis))
        stands = None if contrast is None else footing(contrast)
        of_sets = "" if contrast is None else told_sets(contrast, self.desk.sessions)
        self.footing.setText("" if stands is None else f"{stands.sentence} {of_sets}".strip())
        self.footing.setToolTip("" if stands is None else "What limits it most:\n" + "\n".join(stands.limits))
        one, two = SIDE_WORDS[self.desk.kind]
        two = "twins" if several else two.lower()
        self._legend.setText(f"● {one.lower()}    ■ {two}    │ single throws    ▬ band" + _whose(contrast))
        if contrast is None:
            self._count.setText("Working…" if self.desk.stored else "Choose a pair on the Bench first.")
            return
        known = [row for row in contrast.rows if row.difference is not None]
        if not contrast.athlete.resolved:
            self._count.setText(f"{len(known)} measures; margins are being worked out")
            return
        apart = sum(row.apart for row in known)
        level, vague = (sum(row.verdict == stands for row in known) for stands in (LEVEL, UNTOLD))
        if self.desk.kind == "past":
            self._count.setText(f"{apart} of {len(known)} measures changed, {level} did not, {vague} cannot be told")
            return
        self._count.setText(f"Of {len(known)} measures {apart} differ, {level} are level, {vague} cannot be told")

    def _spread_headings(self) -> None:
        self.table.clearSpans()
        for i, item in enumerate(self.model.items):
            if isinstance(item, str):
                self.table.setSpan(i, 0, 1, _COLUMNS)
                self.table.setRowHeight(i, 40)
            else:
                self.table.setRowHeight(i, 28)

    def _row_chosen(self, current: QModelIndex) -> None:
        item = self.model.items[current.row()] if current.isValid() else None
        if isinstance(item, Row):
            self.desk.select(item.measure.id)
