"""The rows of a pair as a table."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
)
from PySide6.QtGui import QFont

from waxtwin.core.against_twins import Among, among
from waxtwin.core.contrast import Row
from waxtwin.core.single import Single
from waxtwin.core.single_words import against_band, last_time
from waxtwin.core.standing import resolution
from waxtwin.core.units import figure
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.single_wording import SINGLE_COLUMNS
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import (
    columns_for,
    spread_of,
    stands,
    stands_among,
    told_spread,
)
from waxtwin.ui.rooms.contrast.rows import Wish, arranged
from waxtwin.ui.shared.theme import colour, font

Index = QModelIndex | QPersistentModelIndex

COLUMNS = 6

BAND = 4


IN_PICTURE = "▱"
_HOW_KNOWN = {"planar": f"  {IN_PICTURE}", "estimated": "  (estimated)"}


class RowsModel(QAbstractTableModel):
    """The pair's rows with a heading per kind: an item is a Row or a heading's text."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.items: list[Row | str] = []
        self.among: dict[str, Among] = {}
        self.single: Single | None = None
        self.wish = Wish()
        desk.listen(
            lambda _: self.fill(), Topic.PAIR, Topic.FIGURES, Topic.THROWS, Topic.UNITS, Topic.KEPT, Topic.OTHERS
        )

    def fill(self) -> None:
        """Take the desk's rows again."""
        self.beginResetModel()
        pair = self.desk.pair
        # several twins are held against the throw on the stage, not against its session's mean
        contrast = pair.contrast if pair.other_contrasts else pair.figures
        self.among = among(pair.all_contrasts) if pair.other_contrasts else {}
        self.single = None if pair.complete else pair.single
        found = contrast or self.single
        self.items = [] if found is None else arranged(found.rows, self.wish, pair.landing)
        self.endResetModel()

    def ask(self, /, **changes: object) -> None:
        """Show other rows, or the same in another order."""
        self.wish = replace(self.wish, **changes)  # type: ignore[arg-type]
        self.fill()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.items)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return COLUMNS

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return (SINGLE_COLUMNS if self.single is not None else columns_for(self.desk.pair.kind))[section]
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
        if role == Qt.ItemDataRole.DisplayRole:
            return self._words(item, column)
        if role == Qt.ItemDataRole.ForegroundRole:
            return colour(_ink(item, column))
        if role == Qt.ItemDataRole.FontRole and column == 5 and item.apart:
            return font(0, QFont.Weight.Bold)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(column)
        return _tip(item, self.desk.view.imperial) if role == Qt.ItemDataRole.ToolTipRole else None

    def _words(self, item: Row, column: int) -> str:
        """What stands in a cell."""
        unit, imperial = item.measure.unit, self.desk.view.imperial
        if column == 0:
            return item.measure.label + _HOW_KNOWN.get(item.depth, "")
        if self.single is not None and column in (2, 5):
            return last_time(self.single, item, imperial) if column == 2 else against_band(item, imperial)
        twins = self.among.get(item.measure.id)
        if twins is not None and column in (2, 5):
            return spread_of(twins, unit, imperial) if column == 2 else stands_among(twins)
        if column in (1, 2):
            return figure(item.athlete if column == 1 else item.twin, unit, imperial)
        if column == 3:
            return resolution(item, imperial)
        return stands(item, self.desk.pair.kind, imperial) if column == 5 else ""


def _alignment(column: int) -> Qt.AlignmentFlag:
    side = Qt.AlignmentFlag.AlignLeft if column in (0, BAND) else Qt.AlignmentFlag.AlignRight
    return side | Qt.AlignmentFlag.AlignVCenter


def _ink(row: Row, column: int) -> str:
    if row.difference is None and column != 0:
        return "soft"
    return {1: "athlete", 2: "twin", 3: "soft"}.get(column, "soft" if column == 5 and not row.apart else "ink")


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
