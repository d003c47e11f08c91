"""The Bench: the library's throws, found, tagged, brought in, and taken to the desk."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QInputDialog,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QTreeView,
    QVBoxLayout,
    QWidget,
)

from waxtwin.ui.model.topics import Topic
from waxtwin.ui.rooms.bench.entry_model import SHOWN, EntryModel
from waxtwin.ui.rooms.bench.flow import BenchFlow
from waxtwin.ui.rooms.bench.small_pictures import SmallPictures
from waxtwin.ui.rooms.bench.throw_tree import PitcherDelegate, ThrowTree
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.room import Room
from waxtwin.ui.shared.widgets import Cautions, label

if TYPE_CHECKING:
    from waxtwin.library.catalogue import Entry
    from waxtwin.library.pairs import Pair

_PAIR = Qt.ItemDataRole.UserRole

_SHORT = 12  # pitchers: all their throws are shown at once

_FIRST_STEPS = (
    "Bring two deliveries to the Bench: the athlete's and the one to hold beside it, the twin.\n\n"
    "Drop two clips on this window, and they lie beside each other at once. Or import clips from a phone, tracks from "
    "a lab, or a whole folder.\n"
    "To look around first, open the demo: four made-up pitchers of the Saltmarrow Lanterns."
)


class BenchRoom(Room):
    """Choose the athlete and the twin."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context, self.desk, self.library = context, context.desk, context.library
        self.flow = BenchFlow(context, self)
        desk = context.desk
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 18, 26, 18)
        column.setSpacing(10)
        column.addLayout(self._make_top())
        column.addWidget(self._make_recent())
        column.addLayout(self._make_filters())
        self.pictures = SmallPictures(self.library, context.jobs, self.isVisible, self)
        self.model = EntryModel(desk, self.pictures.of)
        self.pictures.came.connect(self.model.repaint)
        self._opened: set[str] = set()  # pitchers whose throws somebody wants to see
        self.table = self._make_table()
        column.addWidget(self.table, 1)
        self._empty = label(_FIRST_STEPS, grow=2)
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._empty.setWordWrap(True)
        self._tour = QPushButton("A tour in one minute, on the demo")
        self._tour.setProperty("role", "main")
        self._tour.clicked.connect(lambda: context.do("tour"))
        self._first = QWidget()
        first = QVBoxLayout(self._first)
        first.setSpacing(22)
        first.addStretch(1)
        first.addWidget(self._empty)
        first.addWidget(self._tour, 0, Qt.AlignmentFlag.AlignHCenter)
        first.addStretch(1)
        column.addWidget(self._first, 1)
        column.addLayout(self._make_row_actions())
        column.addLayout(self._make_pair_row())
        column.addWidget(Cautions())
        desk.listen(lambda _: self._sync(), Topic.PAIR, Topic.FACTS, Topic.UNITS)
        self.library.listed.connect(self.fill)
        context.kept.listed.connect(self._show_recent)
        self.fill()

    def _make_top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        titles = QVBoxLayout()
        titles.setSpacing(2)
        titles.addWidget(label("Bench", role="title", grow=8))
        self._place = label("", role="soft")
        titles.addWidget(self._place)
        row.addLayout(titles, 2)
        flow = FlowLayout(right=True)
        for text, command in (("Import files…", "import_files"), ("Import a folder…", "import_folder"),
                              ("Other library…", "open_library"), ("Open the demo", "demo"),
                              ("Work…", "work")):  # fmt: skip
            button = QPushButton(text)
            button.clicked.connect(lambda _=False, command=command: self.context.do(command))
            flow.addWidget(button)
        row.addLayout(flow, 3)
        return row

    def _make_filters(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find by name, pitch, date, tag, view, note")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("search")
        self.search.textChanged.connect(lambda _: self.fill())
        row.addWidget(self.search, 1)
        self.tag = QComboBox()
        self.tag.setAccessibleName("tag")
        self.state = QComboBox()
        self.state.setAccessibleName("state")
        self.state.addItems(["any state", "ready", "to be prepared"])
        for box in (self.tag, self.state):
            box.activated.connect(lambda _: self.fill())
            row.addWidget(box)
        self._count = label("", role="soft")
        self._count.hide()
        row.addWidget(self._count)
        return row

    def _make_table(self) -> ThrowTree:
        table = ThrowTree()
        table.setModel(self.model)
        table.setItemDelegate(PitcherDelegate(table))
        table.setSelectionMode(QTreeView.SelectionMode.ExtendedSelection)
        table.setIndentation(22)
        table.setIconSize(QSize(*SHOWN))
        header = table.header()
        header.setStretchLastSection(False)
        header.setResizeContentsPrecision(60)  # a long library must not be measured row by row
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        table.setAccessibleName("deliveries")
        table.selectionModel().selectionChanged.connect(lambda *_: self._sync())
        table.doubleClicked.connect(lambda _: self._open_selected())
        table.expanded.connect(lambda index: self._opened.add(self.model.pitchers[index.row()].name))
        table.collapsed.connect(lambda index: self._opened.discard(self.model.pitchers[index.row()].name))
        return table

    def _open_pitchers(self) -> None:
        """Show the throws of whoever was opened, of everybody in a short library or a search, and of what is new."""
        searched = bool(self.search.text()) or self.tag.currentIndex() > 0 or self.state.currentIndex() > 0
        everybody = searched or len(self.model.pitchers) <= _SHORT
        before = set(self._opened)
        self.table.measure(on=False)  # else every pitcher that opens has all of them measured
        for n, pitcher in enumerate(self.model.pitchers):
            at = self.model.index(n, 0)
            self.table.setFirstColumnSpanned(n, self.model.index(-1, -1), True)
            lying = any(self.model.side_of(one) or one.id in self.model.new for one in pitcher.throws)
            self.table.setExpanded(at, everybody or lying or pitcher.name in before)
        self.table.measure(on=self.table.isVisible())
        if searched:
            self._opened = before  # what a search opened is not what somebody opened

    def _make_row_actions(self) -> FlowLayout:
        row = FlowLayout()
        self._as: dict[str, QPushButton] = {}
        for side in ("athlete", "twin"):
            button = QPushButton(f"Take as {side}")
            button.clicked.connect(lambda _=False, side=side: self._choose(side))
            self._as[side] = button
            row.addWidget(button)
        self._another = QPushButton("Add as another twin")
        self._another.setToolTip("Up to four twins beside one athlete")
        self._another.clicked.connect(self._add_twin)
        row.addWidget(self._another)
        self._find = QPushButton("Find a twin…")
        self._find.clicked.connect(self._seek)
        row.addWidget(self._find)
        self._more: dict[str, QPushButton] = {}
        for key, text, do in (
            ("prepare", "Prepare", self._prepare), ("athlete", "Athlete…", self._athlete), ("tag", "Tag…", self._tag),
            ("blend", "Blend…", self._blend), ("landmarks", "Find landmarks", self._landmarks),
            ("remove", "Remove", self._remove),
        ):  # fmt: skip
            button = QPushButton(text)
            button.clicked.connect(do)
            self._more[key] = button
            row.addWidget(button)
        return row

    def _make_recent(self) -> QWidget:
        self._recent = QWidget()
        row = QHBoxLayout(self._recent)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        self.recent = QListWidget()
        self.recent.setAccessibleName("recent pairs")
        self.recent.setFixedHeight(66)
        self.recent.itemActivated.connect(lambda item: self.flow.open_kept(item.data(_PAIR)))
        row.addWidget(label("Recent pairs", role="soft"), 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.recent, 1)
        buttons = QHBoxLayout()
        for text, role, do in (("Open again", "main", self.flow.open_kept), ("Forget", "", self.context.kept.forget)):
            button = QPushButton(text)
            button.setProperty("role", role)
            button.clicked.connect(lambda _=False, do=do: self._with_pair(do))
            buttons.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        row.addLayout(buttons)
        self._recent.hide()
        return self._recent

    def _with_pair(self, do: Callable[[Pair], object]) -> None:
        item = self.recent.currentItem()
        if item is not None:
            do(item.data(_PAIR))

    def _show_recent(self) -> None:
        """The pairs that were on the desk last."""
        from waxtwin.library.pairs import recent

        pairs = [] if self.library.store is None else recent(self.library.store)
        self.recent.clear()
        for pair in pairs:
            beside = "" if pair.name == "" else f"   {pair.names[0]} beside {pair.names[1]}"
            notes = f"   {len(pair.notes)} notes" if len(pair.notes) > 1 else "   1 note" if pair.notes else ""
            item = QListWidgetItem(f"{pair.title}{beside}{notes}")
            item.setData(_PAIR, pair)
            item.setToolTip(pair.why)
            self.recent.addItem(item)
        if pairs:
            self.recent.setCurrentRow(0)
        self._recent.setVisible(bool(pairs))

    def _make_pair_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self._pair = label("", grow=1)
        row.addWidget(self._pair, 1)
        self._open = QPushButton("See the pair")
        self._open.setProperty("role", "main")
        self._open.clicked.connect(self.flow.see_pair)
        row.addWidget(self._open)
        return row

    # showing -------------------------------------------------------------------------------------------------------
    def fill(self) -> None:
        """Show the library's throws, as far as the search lets them through."""
        from waxtwin.library.catalogue import matching

        everything = self.library.entries
        self._fill_tags(everything)
        chosen = self.tag.currentText() if self.tag.currentIndex() > 0 else ""
        ready = (None, True, False)[max(self.state.currentIndex(), 0)]
        kept = self.selected_ids()
        found = matching(everything, self.search.text(), tag=chosen, ready=ready)
        found.sort(key=lambda entry: entry.id not in self.model.new)
        self.model.fill(found)
        self._open_pitchers()
        for key in kept:
            self.select(key, keep=True)
        self._place.setText(self.library.name)
        self._count.setText(f"{len(found)} of {len(everything)}" if len(found) != len(everything) else "")
        self._count.setVisible(bool(self._count.text()))
        self.table.setVisible(bool(everything))
        self._first.setVisible(not everything)
        for widget in (self.search, self.tag, self.state):
            widget.setVisible(bool(everything))
        self._sync()

    def mark_new(self, keys: Sequence[int]) -> None:
        """Mark throws that just came in, and put them first."""
        self.model.new |= set(keys)
        self.fill()

    def _fill_tags(self, entries: list[Entry]) -> None:
        names = ["any tag", *sorted({tag for entry in entries for tag in entry.tags})]
        if names != [self.tag.itemText(i) for i in range(self.tag.count())]:
            chosen = self.tag.currentText()
            self.tag.clear()
            self.tag.addItems(names)
            self.tag.setCurrentIndex(max(self.tag.findText(chosen), 0))

    def select(self, key: int, *, keep: bool = False) -> None:
        """Select a throw's row."""
        at = self.model.index_of(key)
        if not at.isValid():
            return
        if not keep:
            self.table.clearSelection()
        flags = self.table.selectionModel().SelectionFlag
        self.table.selectionModel().select(at, flags.Select | flags.Rows)
        self.table.scrollTo(at)

    def selected_ids(self) -> list[int]:
        """Keys of the selected throws."""
        found = (self.model.entry(index) for index in self.table.selectionModel().selectedRows())
        return [entry.id for entry in found if entry is not None]

    def _one(self) -> int | None:
        chosen = self.selected_ids()
        return chosen[0] if len(chosen) == 1 else None

    def _entry(self, key: int) -> Entry:
        return next(entry for entry in self.model.entries if entry.id == key)

    # doing ---------------------------------------------------------------------------------------------------------
    def _choose(self, side: str) -> None:
        key = self._one()
        if key is not None:
            self.context.pairs.take(side, key)

    def _add_twin(self) -> None:
        key = self._one()
        if key is not None:
            self.context.kept.add_twin(key)

    def _seek(self) -> None:
        key = self._one()
        if key is None and "athlete" in self.desk.pair.stored:
            key = self.desk.pair.stored["athlete"].key
        if key is not None:
            self.flow.find_twin(key)

    def _open_selected(self) -> None:
        key = self._one()
        if key is not None and not self._entry(key).ready:
            self.context.prepare(key)

    def _prepare(self) -> None:
        key = self._one()
        if key is not None:
            self.context.prepare(key)

    def _athlete(self) -> None:
        key = self._one()
        if key is not None:
            self.flow.edit_athlete(self._entry(key).athlete_id)

    def _tag(self) -> None:
        from waxtwin.library.throws import set_tags

        keys = self.selected_ids()
        known = sorted({tag for entry in self.library.entries for tag in entry.tags})
        name, good = QInputDialog.getItem(
            self, "Tag", "A word to find these throws by; a tag that all of them carry is taken off.", known, -1
        )
        if good and name.strip():
            on = not all(name.strip() in self._entry(key).tags for key in keys)
            self.library.change_throws(keys, lambda library: set_tags(library, keys, name, on=on), 0)

    def _blend(self) -> None:
        self.flow.ask_blend(self.selected_ids())

    def _landmarks(self) -> None:
        self.flow.find_landmarks(self._bare(self.selected_ids()))

    def _bare(self, keys: Sequence[int]) -> list[int]:
        """Those of these throws that have a clip and no landmarks."""
        return [one.id for one in self.library.entries if one.id in keys and not one.ready and one.views]

    def _remove(self) -> None:
        from waxtwin.library.throws import remove

        keys = self.selected_ids()
        self.library.change_throws(keys, lambda library: remove(library, keys))

    def _sync(self) -> None:
        chosen = self.selected_ids()
        one = self._entry(chosen[0]) if len(chosen) == 1 else None
        seen = one is not None and one.can_be_seen
        for button in self._as.values():
            button.setEnabled(seen)
            button.setToolTip("" if seen or one is None else "This throw has neither a track nor a clip.")
        self._another.setEnabled(seen and len(self.desk.pair.stored) == 2)
        lying = self.desk.pair.stored.get("athlete")
        measured = lying is not None and not lying.delivery.track.is_bare
        self._find.setEnabled(one.ready if one is not None else not chosen and measured)
        for name, button in self._more.items():
            enough = {
                "tag": bool(chosen), "remove": bool(chosen), "blend": len(chosen) > 1,
                "landmarks": bool(self._bare(chosen)),
            }  # fmt: skip
            button.setEnabled(enough.get(name, len(chosen) == 1))
        names = [
            self.desk.pair.stored[s].title if s in self.desk.pair.stored else f"no {s} yet" for s in ("athlete", "twin")
        ]
        self._pair.setText(f"{names[0]}   beside   {names[1]}")
        self._open.setEnabled(len(self.desk.pair.stored) == 2)
