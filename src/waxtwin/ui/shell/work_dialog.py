"""What is being worked on: what waits, runs and failed, by whom, and how long yet."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from waxtwin.library.jobs.standing import FAILED, RUNS, Standing
from waxtwin.ui.model.wording import left_words
from waxtwin.ui.shared.widgets import close_row, label
from waxtwin.ui.shared.work_queue import WorkQueue

_MOST = 60  # rows that are shown
_SIGNS = {FAILED: "▲", RUNS: "●"}


class WorkDialog(QDialog):
    """Follows a queue while it is open."""

    def __init__(self, queue: WorkQueue, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Work under way")
        self.resize(720, 420)
        self._queue = queue
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        self.says = label("", role="soft", wrap=True)
        column.addWidget(self.says)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setAccessibleName("pieces of work")
        column.addWidget(self._area, 1)
        column.addLayout(close_row(self))
        self.buttons: dict[tuple[str, int], QPushButton] = {}
        self._bars: dict[int, tuple[QProgressBar, QLabel]] = {}
        self._shown: list[tuple[int, str]] | None = None
        queue.changed.connect(self.fill)
        self._ticks = QTimer(self)
        self._ticks.timeout.connect(self._tick)
        self._ticks.start(1000)
        queue.refresh()
        self.fill()

    def _tick(self) -> None:
        self._queue.refresh()
        self.fill()

    def fill(self) -> None:
        """Show how everything stands now; rows are made anew only where others are there, so that no press is lost."""
        found = self._queue.standings
        self.says.setText(_summary(found))
        shown = [(one.id, one.state) for one in found]
        if shown != self._shown:
            self._shown = shown
            self._fill_rows(found)
        for one in found:
            if one.id in self._bars:
                bar, words = self._bars[one.id]
                bar.setValue(round(100 * (one.share or 0.0)))
                words.setText(f"{one.by}{left_words(one.left_s)}")

    def _fill_rows(self, found: list[Standing]) -> None:
        page, self.buttons, self._bars = QWidget(), {}, {}
        column = QVBoxLayout(page)
        column.setSpacing(8)
        for one in found[:_MOST]:
            column.addWidget(self._make_card(one))
        column.addStretch(1)
        self._area.setWidget(page)

    def _make_card(self, one: Standing) -> QFrame:
        card = QFrame()
        card.setObjectName("card")
        row = QHBoxLayout(card)
        row.setContentsMargins(14, 8, 14, 8)
        words = QVBoxLayout()
        words.setSpacing(2)
        words.addWidget(label(f"{_SIGNS.get(one.state, '○')}  {one.kind}", bold=one.state == RUNS))
        words.addWidget(label(one.about, role="soft", wrap=True))
        if one.says:
            words.addWidget(label(one.says, role="thread", wrap=True))
        row.addLayout(words, 1)
        row.addLayout(self._make_state(one))
        if one.state == FAILED:
            row.addWidget(self._make_button("Try again", one))
        row.addWidget(self._make_button("Put away" if one.state == FAILED else "Stop", one))
        return card

    def _make_state(self, one: Standing) -> QVBoxLayout:
        state = QVBoxLayout()
        if one.state == RUNS:
            bar, words = QProgressBar(), label("", role="soft")
            bar.setRange(0, 100)
            bar.setTextVisible(False)
            bar.setFixedWidth(200)
            bar.setAccessibleName(f"{one.kind}, {one.about}")
            self._bars[one.id] = bar, words
            state.addWidget(bar)
            state.addWidget(words)
        elif one.state != FAILED:
            state.addWidget(label("waits", role="soft"))
        return state

    def _make_button(self, words: str, one: Standing) -> QPushButton:
        button = QPushButton(words)
        do = self._queue.again if words == "Try again" else self._queue.cancel
        button.clicked.connect(lambda: do(one))
        self.buttons[words, one.id] = button
        return button


def _summary(found: list[Standing]) -> str:
    if not found:
        return "Nothing waits, and nothing is being worked on. “Find landmarks” on the Bench asks for work."
    runs, failed = (sum(one.state == state for one in found) for state in (RUNS, FAILED))
    parts = [f"{runs} under way", f"{len(found) - runs - failed} waiting"] + ([f"{failed} failed"] if failed else [])
    more = f" The first {_MOST} are shown." if len(found) > _MOST else ""
    return ", ".join(parts) + "." + more
