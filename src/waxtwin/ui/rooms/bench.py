"""The Bench: the deliveries of the opened library folder, and the pair chosen from them."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QPushButton, QTableView, QVBoxLayout

from waxtwin.library.folder import Folder, Shelf
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.wording import height, speed
from waxtwin.ui.theme import colour, font, side_colour
from waxtwin.ui.widgets import Cautions, Room, label

_COLUMNS = ("Pitcher", "Throws", "Height", "Ball speed", "Pitch", "Recorded", "Clips", "On the desk")
Index = QModelIndex | QPersistentModelIndex


_FIRST_STEPS = (
    "Bring two deliveries to the bench: the athlete's and the one to hold beside it, the twin.\n\n"
    "Open a folder of tracks with their sidecars, or drop files on this window.\n"
    "To look around first, open the demo: four made-up pitchers of the Saltmarrow Lanterns."
)


class ShelfModel(QAbstractTableModel):
    """The folder's throws as a table."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.shelves: tuple[Shelf, ...] = ()
        desk.listen(self._told)

    def fill(self, shelves: tuple[Shelf, ...]) -> None:
        """Show these throws."""
        self.beginResetModel()
        self.shelves = shelves
        self.endResetModel()

    def _told(self, topic: str) -> None:
        if topic in ("pair", "units") and self.shelves:
            self.dataChanged.emit(self.index(0, 0), self.index(len(self.shelves) - 1, len(_COLUMNS) - 1))

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.shelves)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return len(_COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return _COLUMNS[section]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        return None

    def role_of(self, shelf: Shelf) -> str:
        """ "athlete", "twin" or nothing."""
        sides = [side for side, stored in self.desk.stored.items() if stored.path == shelf.path]
        return " and ".join(sides)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        shelf = self.shelves[index.row()]
        on_desk = self.role_of(shelf)
        if role == Qt.ItemDataRole.ForegroundRole:
            if index.column() in (0, 7) and on_desk in ("athlete", "twin"):
                return side_colour(on_desk)
            return colour("ink" if index.column() == 0 else "soft")
        if role == Qt.ItemDataRole.FontRole and index.column() == 0:
            return font(0.5, font().Weight.DemiBold)
        if role == Qt.ItemDataRole.ToolTipRole:
            return str(shelf.sidecar.notes or shelf.path.name)
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        s, who = shelf.sidecar, shelf.sidecar.athlete
        return (
            who.name or shelf.path.stem,
            "right" if who.throws == "R" else "left",
            height(who.height_m, self.desk.imperial),
            speed(s.ball_speed_mps, self.desk.imperial),
            s.pitch or "–",
            s.recorded or "–",
            ", ".join(v.camera for v in s.views) or "none",
            on_desk,
        )[index.column()]


class BenchRoom(Room):
    """Choose the athlete and the twin. `chosen(side, path)`, `folder_wanted`, `file_wanted`, `demo_wanted`, `done`."""

    title = "Bench"
    chosen = Signal(str, Path)
    folder_wanted = Signal()
    file_wanted = Signal()
    demo_wanted = Signal()
    done = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 18, 26, 18)
        column.setSpacing(12)
        top = QHBoxLayout()
        titles = QVBoxLayout()
        titles.setSpacing(2)
        self._title = label("Bench", role="title", grow=8)
        self._place = label("", role="soft")
        titles.addWidget(self._title)
        titles.addWidget(self._place)
        top.addLayout(titles, 1)
        for text, signal in (("Open a folder…", self.folder_wanted), ("Open a file…", self.file_wanted),
                             ("Open the demo", self.demo_wanted)):  # fmt: skip
            button = QPushButton(text)
            button.clicked.connect(signal)
            top.addWidget(button)
        column.addLayout(top)
        self._hint = label("", role="soft", grow=0.5)
        self._hint.setWordWrap(True)
        column.addWidget(self._hint)
        self.model = ShelfModel(desk)
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setSelectionBehavior(QTableView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QTableView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(False)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(46)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.setAccessibleName("deliveries")
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._sync())
        column.addWidget(self.table, 1)
        self._empty = label(_FIRST_STEPS, grow=2)
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self._empty, 1)
        row = QHBoxLayout()
        row.setSpacing(8)
        self._as = {}
        for side in ("athlete", "twin"):
            button = QPushButton(f"Take as {side}")
            button.clicked.connect(lambda _=False, side=side: self._choose(side))
            self._as[side] = button
            row.addWidget(button)
        row.addSpacing(20)
        self._pair = label("", grow=1)
        row.addWidget(self._pair, 1)
        self._open = QPushButton("See the pair")
        self._open.setProperty("role", "main")
        self._open.clicked.connect(self.done)
        row.addWidget(self._open)
        column.addLayout(row)
        self._faults = label("", role="soft", grow=-0.5)
        self._faults.setWordWrap(True)
        column.addWidget(self._faults)
        column.addWidget(Cautions())
        desk.listen(lambda topic: self._sync() if topic in ("pair", "units") else None)
        self.fill(None)

    def fill(self, folder: Folder | None, name: str = "") -> None:
        """Show a folder's throws under its name (or another one), or the empty room."""
        self.model.fill(folder.shelves if folder else ())
        self._place.setText(name or (folder.path.name if folder else "No library folder is open"))
        self.table.setVisible(folder is not None)
        self._empty.setVisible(folder is None)
        hint = ""
        if folder is None:
            pass
        elif not folder.shelves:
            hint = "There is no delivery in this folder. A delivery is a track (.csv, .trc, .json) with its sidecar."
        else:
            hint = "Choose who is looked at and whom to hold beside: select a row, then take it as athlete or twin."
        self._hint.setText(hint)
        self._faults.setText("Not read: " + "  ".join(folder.faults) if folder and folder.faults else "")
        self._sync()

    def select(self, path: Path) -> None:
        """Select a throw's row."""
        for i, shelf in enumerate(self.model.shelves):
            if shelf.path == path:
                self.table.selectRow(i)

    def _selected(self) -> Shelf | None:
        rows = self.table.selectionModel().selectedRows()
        return self.model.shelves[rows[0].row()] if rows else None

    def _choose(self, side: str) -> None:
        shelf = self._selected()
        if shelf is not None:
            self.chosen.emit(side, shelf.path)

    def _sync(self) -> None:
        for button in self._as.values():
            button.setEnabled(self._selected() is not None)
        names = [self.desk.stored[s].title if s in self.desk.stored else f"no {s} yet" for s in ("athlete", "twin")]
        self._pair.setText(f"{names[0]}   beside   {names[1]}")
        self._open.setEnabled(len(self.desk.stored) == 2)
