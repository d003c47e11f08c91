"""The library's throws as a tree: pitchers, and under each the throws, the newest session first."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QAbstractItemModel, QModelIndex, QObject, QPersistentModelIndex, QSize, Qt
from PySide6.QtGui import QPixmap

from waxtwin.core.progress import day
from waxtwin.core.units import height, speed
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.theme import colour, font, side_colour

if TYPE_CHECKING:
    from waxtwin.library.catalogue import Entry

COLUMNS = ("Pitcher and throw", "Ball speed", "Pitch", "Clips", "Tags", "State")
STATE = 5
SHOWN = (60, 38)  # px of a small picture
SUMMARY = Qt.ItemDataRole.UserRole + 1  # what is said of a pitcher beside the name

Index = QModelIndex | QPersistentModelIndex
_NOWHERE = QModelIndex()
_PITCHER = 0  # internal id of a pitcher's row; a throw's is one more than its pitcher's row


@dataclass(frozen=True)
class Pitcher:
    """A pitcher with the throws that are shown, and which of these begin a session {place in the list: day}."""

    name: str
    throws: tuple[Entry, ...]
    sessions: dict[int, str]

    @classmethod
    def of(cls, throws: Sequence[Entry], new: set[int]) -> Pitcher:
        """One of all throws of a pitcher: what just came in first, then by session, the newest first."""
        ordered = sorted(throws, key=lambda one: (one.id not in new, _latest_first(one.recorded), one.id))
        begins = {}
        for n, one in enumerate(ordered):
            if n == 0 or one.recorded != ordered[n - 1].recorded:
                begins[n] = day(one.recorded, year=True) if one.recorded else "no date"
        return cls(ordered[0].name, tuple(ordered), begins)


def _latest_first(recorded: str | None) -> tuple[int, ...]:
    return tuple(-ord(letter) for letter in recorded) if recorded else (1,)


def _note(pitcher: Pitcher, begin: int, at: int) -> str:
    """The first line of a throw's note, below its name, where the throw before it that day does not say the same."""
    said = pitcher.throws[at].notes.strip()
    known = at > begin and pitcher.throws[at - 1].notes.strip() == said
    return "" if known or not said else "\n" + said.splitlines()[0]


class EntryModel(QAbstractItemModel):
    """Pitchers with their throws; `entries` are all throws that are shown."""

    def __init__(self, desk: Desk, picture: Callable[[int], QPixmap | None] = lambda _: None) -> None:
        super().__init__()
        self.desk, self._picture = desk, picture
        self.entries: list[Entry] = []
        self.pitchers: list[Pitcher] = []
        self._places: dict[int, tuple[int, int]] = {}  # key: row under its pitcher, and the pitcher's
        self._empty = QPixmap(*SHOWN)  # keeps the place of a picture that is on its way
        self._empty.fill(Qt.GlobalColor.transparent)
        self.new: set[int] = set()  # keys of what came in since the program was opened
        desk.listen(self._repaint, Topic.PAIR, Topic.UNITS, Topic.OTHERS)

    def fill(self, entries: list[Entry]) -> None:
        """Show these throws."""
        self.beginResetModel()
        by_athlete: dict[int, list[Entry]] = {}
        for entry in entries:
            by_athlete.setdefault(entry.athlete_id, []).append(entry)
        self.pitchers = [Pitcher.of(throws, self.new) for throws in by_athlete.values()]
        self.entries = [entry for pitcher in self.pitchers for entry in pitcher.throws]
        self._places = {
            entry.id: (k, n) for n, pitcher in enumerate(self.pitchers) for k, entry in enumerate(pitcher.throws)
        }
        self.endResetModel()

    def entry(self, index: Index) -> Entry | None:
        """The throw in a row; None for a pitcher's."""
        if not index.isValid() or index.internalId() == _PITCHER:
            return None
        return self.pitchers[index.internalId() - 1].throws[index.row()]

    def index_of(self, key: int) -> QModelIndex:
        """Where a throw stands; an invalid index for one that is not shown."""
        if key not in self._places:
            return QModelIndex()
        row, pitcher = self._places[key]
        return self.createIndex(row, 0, pitcher + 1)

    def repaint(self, key: int) -> None:
        """A throw's picture is there now."""
        found = self.index_of(key)
        if found.isValid():
            self.dataChanged.emit(found, found, [Qt.ItemDataRole.DecorationRole])

    def _repaint(self, topic: Topic) -> None:
        for n, pitcher in enumerate(self.pitchers):
            top = self.index(n, 0)
            self.dataChanged.emit(top, top)
            last = len(pitcher.throws) - 1
            self.dataChanged.emit(self.index(0, 0, top), self.index(last, len(COLUMNS) - 1, top))

    # what Qt asks --------------------------------------------------------------------------------------------------
    def index(self, row: int, column: int, parent: Index = _NOWHERE) -> QModelIndex:
        if not self.hasIndex(row, column, parent):
            return QModelIndex()
        return self.createIndex(row, column, parent.row() + 1 if parent.isValid() else _PITCHER)

    def parent(self, index: Index = _NOWHERE) -> QModelIndex | QObject:  # type: ignore[override]
        if not index.isValid() or index.internalId() == _PITCHER:
            return QModelIndex()
        return self.createIndex(index.internalId() - 1, 0, _PITCHER)

    def rowCount(self, parent: Index = _NOWHERE) -> int:
        if not parent.isValid():
            return len(self.pitchers)
        whole = parent.internalId() == _PITCHER and parent.column() == 0
        return len(self.pitchers[parent.row()].throws) if whole else 0

    def columnCount(self, parent: Index = _NOWHERE) -> int:
        return len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        held = Qt.ItemFlag.ItemIsEnabled
        return held | Qt.ItemFlag.ItemIsSelectable if self.entry(index) is not None else held

    def side_of(self, entry: Entry) -> str:
        """ "athlete", "twin", both or nothing."""
        sides = [side for side, stored in self.desk.pair.stored.items() if stored.key == entry.id]
        sides += ["twin" for stored in self.desk.pair.others.values() if stored.key == entry.id]
        return " and ".join(sides)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        entry = self.entry(index)
        if entry is None:
            return self._of_pitcher(self.pitchers[index.row()], index.column(), role)
        if role == Qt.ItemDataRole.ForegroundRole:
            on_desk = self.side_of(entry)
            if index.column() in (0, STATE) and on_desk in ("athlete", "twin"):
                return side_colour(on_desk)
            return colour("ink" if index.column() <= 1 else "soft")
        if role == Qt.ItemDataRole.DecorationRole and index.column() == 0:
            return self._picture(entry.id) or self._empty
        if role == Qt.ItemDataRole.ToolTipRole:
            return "\n".join(word for word in (entry.title, entry.origin, entry.notes) if word)
        return self._words(entry, index)[index.column()] if role == Qt.ItemDataRole.DisplayRole else None

    def _of_pitcher(self, pitcher: Pitcher, column: int, role: int) -> object:
        if role == Qt.ItemDataRole.SizeHintRole:
            return QSize(0, 44)
        if column != 0:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return pitcher.name
        if role == Qt.ItemDataRole.FontRole:
            return font(1, font().Weight.DemiBold)
        if role in (SUMMARY, Qt.ItemDataRole.AccessibleDescriptionRole):
            return self._summary(pitcher)
        return None

    def _summary(self, pitcher: Pitcher) -> str:
        first, imperial = pitcher.throws[0], self.desk.view.imperial
        count = len(pitcher.throws)
        hand = f"{'right' if first.throws == 'R' else 'left'}-handed"
        said = [hand if first.named else "nobody named yet", height(first.height_m, imperial)]
        sessions = len({one.recorded for one in pitcher.throws})
        said.append(
            ("1 throw" if count == 1 else f"{count} throws") + (f" in {sessions} sessions" if sessions > 1 else "")
        )
        known = [one.ball_speed_mps for one in pitcher.throws if one.ball_speed_mps is not None]
        if known:
            said.append(f"fastest {speed(max(known), imperial)}")
        return "  ·  ".join(said)

    def _words(self, entry: Entry, index: Index) -> tuple[str, ...]:
        pitcher = self.pitchers[index.internalId() - 1]
        begin = max(n for n in pitcher.sessions if n <= index.row())
        date = pitcher.sessions[begin]
        state = self.side_of(entry) or ("ready" if entry.ready else "to be prepared")
        name = f"{date},  throw {index.row() - begin + 1}{_note(pitcher, begin, index.row())}"
        return (
            name, speed(entry.ball_speed_mps, self.desk.view.imperial),
            entry.pitch or "–", ", ".join(entry.views) or "none", ", ".join(entry.tags) or "–",
            f"new, {state}" if entry.id in self.new else state,
        )  # fmt: skip
