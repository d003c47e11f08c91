"""The practice catalogue: every task with its purpose, how, how much and what to beware of; changed, added, chosen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.findings import Task
from waxtwin.library.plans import new_key
from waxtwin.ui.shared.sequence_strip import SequenceStrip
from waxtwin.ui.shared.widgets import label, leave_return_alone

_KEY = Qt.ItemDataRole.UserRole
_FIELDS = {"purpose": "What it is for", "how": "How it goes", "dose": "How much", "caution": "Beware of"}
_TALL = ("how", "caution")


class CatalogueDialog(QDialog):
    """`kept(key, task)`, `removed(key)` of a task of one's own, `taken(key)` when one is chosen for the plan,
    `picture_wanted()` when a picture or a clip is to stand in the place of what is drawn.
    """

    kept = Signal(str, object)
    picture_wanted = Signal()
    removed = Signal(str)
    taken = Signal(str)

    def __init__(
        self, tasks: Mapping[str, Task], own: frozenset[str], *, choosing: bool, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Practice catalogue")
        self.resize(960, 640)
        self._tasks, self._own, self._key, self._picture = dict(tasks), own, "", b""
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        row = QHBoxLayout()
        row.setSpacing(16)
        left = QVBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a task")
        self.search.setAccessibleName("search")
        self.search.textChanged.connect(lambda _: self._list())
        left.addWidget(self.search)
        self.list = QListWidget()
        self.list.setAccessibleName("practice tasks")
        self.list.ensurePolished()  # else the items are laid out before they are dressed
        self.list.currentItemChanged.connect(lambda item, _: self._show(item))
        left.addWidget(self.list, 1)
        add = QPushButton("New task")
        add.clicked.connect(self.start_new)
        left.addWidget(add)
        row.addLayout(left, 4)
        row.addLayout(self._make_form(), 6)
        column.addLayout(row, 1)
        column.addLayout(self._make_buttons(choosing))
        leave_return_alone(self)
        self.fill(tasks, own)

    def _make_form(self) -> QFormLayout:
        form = QFormLayout()
        form.setVerticalSpacing(8)
        self.title = QLineEdit()
        form.addRow("Name", self.title)
        self.fields: dict[str, QLineEdit | QPlainTextEdit] = {}
        for part, words in _FIELDS.items():
            made: QLineEdit | QPlainTextEdit = QPlainTextEdit() if part in _TALL else QLineEdit()
            if isinstance(made, QPlainTextEdit):
                made.setFixedHeight(84)
            made.setAccessibleName(words)
            self.fields[part] = made
            form.addRow(words, made)
        self.strip = SequenceStrip()
        form.addRow("", self.strip)
        form.addRow("", self._make_picture_row())
        self.said = label("", role="soft")
        self.said.setWordWrap(True)
        form.addRow("", self.said)
        return form

    def _make_picture_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        choose = QPushButton("Own picture or clip…")
        choose.setToolTip("A picture, or four frames of a clip, in the place of the figures")
        choose.clicked.connect(self.picture_wanted)
        row.addWidget(choose)
        self.drawn = QPushButton("The figures again")
        self.drawn.clicked.connect(lambda: self.set_picture(b""))
        row.addWidget(self.drawn)
        row.addStretch(1)
        return row

    def set_picture(self, picture: bytes) -> None:
        """Put a PNG file in the place of the figures, or with none these again; kept with the rest of the task."""
        self._picture = picture
        shown = self._tasks.get(self._key, Task("", "", "", ""))
        self.strip.show_task(replace(shown, picture=picture))
        self.drawn.setEnabled(bool(picture))

    def _make_buttons(self, choosing: bool) -> QHBoxLayout:
        row = QHBoxLayout()
        self.remove = QPushButton("Take away")
        self.remove.clicked.connect(lambda: self.removed.emit(self._key))
        row.addWidget(self.remove)
        row.addStretch(1)
        keep = QPushButton("Keep as changed")
        keep.clicked.connect(self.keep)
        row.addWidget(keep)
        close = QPushButton("Close")
        close.clicked.connect(self.reject)
        row.addWidget(close)
        take = QPushButton("Put into the plan")
        take.setProperty("role", "main")
        take.clicked.connect(self._take)
        take.setVisible(choosing)
        row.addWidget(take)
        return row

    def fill(self, tasks: Mapping[str, Task], own: frozenset[str]) -> None:
        """Show other tasks; the chosen one stays chosen where it still is."""
        self._tasks, self._own = dict(tasks), own
        self._list()

    def _list(self) -> None:
        wanted = self.search.text().casefold().split()
        chosen = self._key
        self.list.clear()
        for key, task in self._tasks.items():
            words = f"{task.title} {task.purpose} {task.how}".casefold()
            if not all(word in words for word in wanted):
                continue
            item = QListWidgetItem(task.title + ("   (own)" if key in self._own else ""))
            item.setData(_KEY, key)
            self.list.addItem(item)
            if key == chosen:
                self.list.setCurrentItem(item)
        if self.list.currentItem() is None and self.list.count():
            self.list.setCurrentRow(0)

    def _show(self, item: QListWidgetItem | None) -> None:
        if item is None:
            return
        self._key = item.data(_KEY)
        self._write(self._tasks[self._key])
        self.remove.setEnabled(self._key in self._own)
        self.said.setText(
            "Changed or made here." if self._key in self._own else "Shipped; a change is kept with this library."
        )

    def _write(self, task: Task) -> None:
        self.title.setText(task.title)
        self.set_picture(task.picture)
        for part, made in self.fields.items():
            text = getattr(task, part)
            made.setPlainText(text) if isinstance(made, QPlainTextEdit) else made.setText(text)

    def start_new(self) -> None:
        """An empty form for a task that is not there yet."""
        self.list.setCurrentRow(-1)
        self._key = ""
        self._write(Task("", "", "", ""))
        self.remove.setEnabled(False)
        self.said.setText("A new task; strength work is set by a qualified coach.")
        self.title.setFocus()

    def keep(self) -> None:
        """Keep the task as it stands in the form."""
        title = self.title.text().strip()
        if not title:
            self.said.setText("Please give the task a name.")
            return
        parts = {part: made.toPlainText() if isinstance(made, QPlainTextEdit) else made.text()
                 for part, made in self.fields.items()}  # fmt: skip
        if not self._key:
            self._key = new_key(self._tasks, title)
            self.search.blockSignals(True)  # what was looked for may not be in the new task
            self.search.clear()
            self.search.blockSignals(False)
        purpose, how, dose, caution = (parts[part].strip() for part in ("purpose", "how", "dose", "caution"))
        self.kept.emit(self._key, Task(title, purpose, how, dose, caution, picture=self._picture))

    def _take(self) -> None:
        if self._key in self._tasks:
            self.taken.emit(self._key)
            self.accept()
