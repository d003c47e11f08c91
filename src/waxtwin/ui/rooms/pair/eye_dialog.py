"""The list of eye checks: looked through, changed, added to."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
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

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.eye import MOST, UNSEEN, EyeCheck
from waxtwin.core.stops import EVENTS, ORDER
from waxtwin.library.plans import new_key
from waxtwin.ui.rooms.pair.eye_flow import EyeFlow
from waxtwin.ui.shared.widgets import label, leave_return_alone

_CHECK = Qt.ItemDataRole.UserRole
_UNSEEN = "cannot be seen"


class EyeChecksDialog(QDialog):
    """What is kept here stands in the place of a shipped check, or beside them; answers that were given stay."""

    def __init__(self, flow: EyeFlow, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.flow = flow
        self.setWindowTitle("Eye checks")
        self.resize(860, 520)
        self._now: EyeCheck | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        row = QHBoxLayout()
        row.setSpacing(16)
        left = QVBoxLayout()
        self.list = QListWidget()
        self.list.setAccessibleName("eye checks")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.ensurePolished()  # else the items are laid out before they are dressed
        self.list.currentItemChanged.connect(lambda item, _: self._show(item))
        left.addWidget(self.list, 1)
        add = QPushButton("New check")
        add.clicked.connect(self.start_new)
        left.addWidget(add)
        row.addLayout(left, 5)
        row.addLayout(self._make_form(), 6)
        column.addLayout(row, 1)
        column.addLayout(self._make_buttons())
        leave_return_alone(self)
        self._list("")

    def _make_form(self) -> QFormLayout:
        form = QFormLayout()
        form.setVerticalSpacing(8)
        self.stop = QComboBox()
        for stop in ORDER:
            self.stop.addItem(EVENTS[stop].label, stop)
        self.question, self.look = QLineEdit(), QLineEdit()
        self.answers = QPlainTextEdit()
        self.answers.setFixedHeight(96)
        for widget, words in (
            (self.stop, "At"), (self.question, "Question"), (self.answers, "Answers"), (self.look, "Look at"),
        ):  # fmt: skip
            widget.setAccessibleName(words)
            form.addRow(words, widget)
        self.said = label("", role="soft", wrap=True)
        form.addRow("", self.said)
        return form

    def _make_buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.remove = QPushButton("Take away")
        self.remove.clicked.connect(self._remove)
        self.keep = QPushButton("Keep as changed")
        self.keep.clicked.connect(self._keep)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        row.addWidget(self.remove)
        row.addStretch(1)
        row.addWidget(self.keep)
        row.addWidget(close)
        return row

    def _list(self, chosen: str) -> None:
        self.list.clear()
        for check in self.flow.checks:
            item = QListWidgetItem(f"{EVENTS[check.at].short}: {check.question}{'   (own)' if check.own else ''}")
            item.setData(_CHECK, check)
            self.list.addItem(item)
            if check.id == chosen:
                self.list.setCurrentItem(item)
        if self.list.currentItem() is None and self.list.count():
            self.list.setCurrentRow(0)

    def _show(self, item: QListWidgetItem | None) -> None:
        if item is None:
            return
        self._now = check = item.data(_CHECK)
        self.stop.setCurrentIndex(ORDER.index(check.at))
        self.question.setText(check.question)
        self.look.setText(check.look)
        self.answers.setPlainText("\n".join(words for name, words in check.answers.items() if name != UNSEEN))
        self.remove.setEnabled(check.own)
        self._say("Changed or made here." if check.own else "Shipped; a change is kept for you, not with a library.")

    def _say(self, words: str) -> None:
        self.said.setText(f"{words} One answer a line, two or three; “{_UNSEEN}” is always there.")

    def start_new(self) -> None:
        """An empty form for a check that is not there yet."""
        self.list.setCurrentRow(-1)
        self._now = None
        self.question.clear()
        self.look.clear()
        self.answers.clear()
        self.remove.setEnabled(False)
        self._say("A new check.")
        self.question.setFocus()

    def _keep(self) -> None:
        question = self.question.text().strip()
        words = [line.strip() for line in self.answers.toPlainText().splitlines() if line.strip()]
        if not question or not 1 <= len(words) < MOST or len(set(words)) < len(words):
            self.said.setText(f"Please give a question, and one to {MOST - 1} different answers, one a line.")
            return
        now, known = self._now, [one.id for one in self.flow.checks]
        name = now.id if now is not None else new_key(known, question)
        old = [one for one in now.answers if one != UNSEEN] if now is not None else []
        # an answer keeps its id by its place, so that what was answered and what it feeds stay
        ids = [old[n] if n < len(old) else f"answer_{n + 1}" for n in range(len(words))]
        answers = {**dict(zip(ids, words, strict=True)), UNSEEN: _UNSEEN}
        feeds = tuple(f for f in (now.feeds if now is not None else ()) if set(f.answers) <= set(answers))
        made = EyeCheck(name, self.stop.currentData(), question, answers, self.look.text().strip(), own=True)
        if now is not None:
            made = replace(made, gauge=now.gauge, feeds=feeds, schools=now.schools)
        self._do(lambda: self.flow.keep_check(made), name)

    def _remove(self) -> None:
        if self._now is not None:
            name = self._now.id
            self._do(lambda: self.flow.remove_check(name), name)

    def _do(self, work: Callable[[], object], chosen: str) -> None:
        try:
            work()
        except WaxTwinError as fault:
            self.said.setText(str(fault))
            return
        self._list(chosen)
