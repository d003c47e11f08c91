"""Who is due: everybody on one page, whoever needs attention first; from it into the athlete's log."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QPushButton, QTableWidgetItem, QVBoxLayout, QWidget

from waxtwin.core.due import Standing
from waxtwin.core.progress import day
from waxtwin.ui.shared.theme import colour
from waxtwin.ui.shared.widgets import form_table, label

_COLUMNS = ("Who", "What asks for attention", "Last look", "Next look", "In focus", "Did it move?",
            "Did the speed move?", "The arm")  # fmt: skip
_EVERYBODY = (
    "Everybody with a plan, a note on the arm, or a date until which data is kept; whoever needs attention first."
)
_NOBODY = "Nobody has a plan, a note on the arm, or a date until which data is kept yet."
_WIDE = (1, 4)  # the columns that take the room that is left
_PRESSING = 4  # ranks below are told in the thread's colour
_WHO = Qt.ItemDataRole.UserRole


class DueView(QWidget):
    """`chosen(athlete)` when somebody's log is wanted."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.hint = label("", role="soft")
        self.hint.setWordWrap(True)
        column.addWidget(self.hint)
        self.opens = QPushButton("Open the log")
        self.opens.setEnabled(False)
        self.opens.clicked.connect(self._open)
        self.table = form_table(_COLUMNS, stretch=_WIDE, wrap=True)
        self.table.setAccessibleName("who is due")
        self.table.setSelectionBehavior(self.table.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(self.table.SelectionMode.SingleSelection)
        self.table.verticalHeader().setMinimumSectionSize(38)
        self.table.itemActivated.connect(lambda _: self._open())
        self.table.itemSelectionChanged.connect(lambda: self.opens.setEnabled(self._who() is not None))
        column.addWidget(self.table, 1)
        column.addWidget(self.opens, 0, Qt.AlignmentFlag.AlignLeft)

    def show_all(self, all_: Sequence[Standing], people: int) -> None:
        """Show where everybody stands; `people` is how many the library knows."""
        others = people - len(all_)
        none = f" {others} of {people} have none of these." if others else ""
        self.hint.setText(f"{_EVERYBODY}{none}" if all_ else _NOBODY)
        self.table.setRowCount(0)
        for n, one in enumerate(all_):
            self.table.insertRow(n)
            for k, text in enumerate(_cells(one)):
                cell = QTableWidgetItem(text)
                cell.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
                cell.setData(_WHO, one.athlete)
                cell.setToolTip("\n".join(ask.says for ask in one.asks) if k == 1 else text)
                if k == 1 and one.asks and one.asks[0].rank < _PRESSING:
                    cell.setForeground(colour("thread"))
                self.table.setItem(n, k, cell)

    def _who(self) -> int | None:
        item = self.table.currentItem()
        return None if item is None or not self.table.selectedItems() else int(item.data(_WHO))

    def _open(self) -> None:
        who = self._who()
        if who is not None:
            self.chosen.emit(who)


def _cells(one: Standing) -> tuple[str, ...]:
    plan = one.plan
    moved, speed, arm = (*(answer.signed for answer in one.answers), "", "", "")[:3]
    return (
        one.name, "\n".join(ask.says for ask in one.asks) or "nothing", _day(one.last_look),
        _day(plan.next_look if plan else None), "\n".join(focus.title for focus in plan.focus) if plan else "no plan",
        moved, speed, arm,
    )  # fmt: skip


def _day(said: str | None) -> str:
    return day(said, year=True) if said else "—"
