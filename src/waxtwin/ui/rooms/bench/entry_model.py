"""The library's throws as a table."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt

from waxtwin.core.units import height, speed
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.theme import colour, font, side_colour

if TYPE_CHECKING:
    from waxtwin.library.catalogue import Entry


COLUMNS = ("Pitcher", "Throws", "Height", "Ball speed", "Pitch", "Recorded", "Clips", "Tags", "State")

WIDE = (0, 6, 8)

Index = QModelIndex | QPersistentModelIndex


class EntryModel(QAbstractTableModel):
    """The library's throws as a table."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.entries: list[Entry] = []
        self.new: set[int] = set()  # keys of what came in since the program was opened
        desk.listen(self._repaint, Topic.PAIR, Topic.UNITS, Topic.OTHERS)

    def fill(self, entries: list[Entry]) -> None:
        """Show these throws."""
        self.beginResetModel()
        self.entries = entries
        self.endResetModel()

    def _repaint(self, topic: Topic) -> None:
        if self.entries:
            self.dataChanged.emit(self.index(0, 0), self.index(len(self.entries) - 1, len(COLUMNS) - 1))

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.entries)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        return None

    def side_of(self, entry: Entry) -> str:
        """ "athlete", "twin", both or nothing."""
        sides = [side for side, stored in self.desk.pair.stored.items() if stored.key == entry.id]
        sides += ["twin" for stored in self.desk.pair.others.values() if stored.key == entry.id]
        return " and ".join(sides)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        entry = self.entries[index.row()]
        on_desk = self.side_of(entry)
        if role == Qt.ItemDataRole.ForegroundRole:
            if index.column() in (0, 8) and on_desk in ("athlete", "twin"):
                return side_colour(on_desk)
            return colour("ink" if index.column() == 0 else "soft")
        if role == Qt.ItemDataRole.FontRole and index.column() == 0:
            return font(0.5, font().Weight.DemiBold)
        if role == Qt.ItemDataRole.ToolTipRole:
            return "\n".join(word for word in (entry.title, entry.origin, entry.notes) if word)
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        return (
            entry.name,
            "right" if entry.throws == "R" else "left",
            height(entry.height_m, self.desk.view.imperial),
            speed(entry.ball_speed_mps, self.desk.view.imperial),
            entry.pitch or "–",
            entry.recorded or "–",
            ", ".join(entry.views) or "none",
            ", ".join(entry.tags) or "–",
            ("new, " if entry.id in self.new else "") + (on_desk or ("ready" if entry.ready else "to be prepared")),
        )[index.column()]
