"""The rows of a pair as a table."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
)
from PySide6.QtGui import QFont

from waxtwin.core.against_twins import Among, among
from waxtwin.core.contrast import Contrast, Row
from waxtwin.core.standing import resolution
from waxtwin.core.units import figure
from waxtwin.ui.model.desk import Desk
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

if TYPE_CHECKING:
    pass


Index = QModelIndex | QPersistentModelIndex

COLUMNS = 6

BAND = 4


class RowsModel(QAbstractTableModel):
    """The pair's rows with a heading per kind: an item is a Row or a heading's text."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.items: list[Row | str] = []
        self.among: dict[str, Among] = {}
        self.wish = Wish()
        desk.listen(
            lambda _: self.fill(), Topic.PAIR, Topic.FIGURES, Topic.THROWS, Topic.UNITS, Topic.KEPT, Topic.OTHERS
        )

    def fill(self) -> None:
        """Take the desk's rows again."""
        self.beginResetModel()
        # several twins are held against the throw on the stage, not against its session's mean
        contrast = self.desk.pair.contrast if self.desk.pair.other_contrasts else self.desk.pair.figures
        self.among = among(self.desk.pair.all_contrasts) if self.desk.pair.other_contrasts else {}
        self.items = [] if contrast is None else arranged(contrast.rows, self.wish, self.desk.pair.landing)
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
            return columns_for(self.desk.pair.kind)[section]
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
            return item.measure.label + ("  (in the picture)" if item.planar else "")
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


def whose(contrast: Contrast | None) -> str:
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
