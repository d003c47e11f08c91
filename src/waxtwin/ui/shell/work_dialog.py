"""What is being worked on: what waits, runs and failed, by whom, and how long yet."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QDialog, QGridLayout, QLabel, QProgressBar, QPushButton, QScrollArea, QVBoxLayout, QWidget

from waxtwin.library.jobs.queue import FAILED, RUNS, Standing
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
        if any(one.state == RUNS for one in self._queue.standings):
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
        grid = QGridLayout(page)
        grid.setHorizontalSpacing(14)
        grid.setColumnStretch(1, 1)
        for row, one in enumerate(found[:_MOST]):
            self._fill_row(grid, row, one)
        grid.setRowStretch(grid.rowCount(), 1)
        self._area.setWidget(page)

    def _fill_row(self, grid: QGridLayout, row: int, one: Standing) -> None:
        grid.addWidget(label(f"{_SIGNS.get(one.state, '○')}  {one.kind}", bold=one.state == RUNS), row, 0)
        about = one.about + (f"\n{one.says}" if one.says else "")
        grid.addWidget(label(about, role="thread" if one.says else "", wrap=True), row, 1)
        if one.state == RUNS:
            bar = QProgressBar()
            bar.setRange(0, 100)
            bar.setTextVisible(False)
            bar.setFixedWidth(110)
            bar.setAccessibleName(f"{one.kind}, {one.about}")
            grid.addWidget(bar, row, 2)
            words = label("", role="soft")
            grid.addWidget(words, row, 3)
            self._bars[one.id] = bar, words
        else:
            grid.addWidget(label("failed" if one.state == FAILED else "waits", role="soft"), row, 2)
        if one.state == FAILED:
            self._add(grid, row, 4, "Try again", one)
        self._add(grid, row, 5, "Put away" if one.state == FAILED else "Stop", one)

    def _add(self, grid: QGridLayout, row: int, place: int, words: str, one: Standing) -> None:
        button = QPushButton(words)
        do = self._queue.again if words == "Try again" else self._queue.cancel
        button.clicked.connect(lambda: do(one))
        self.buttons[words, one.id] = button
        grid.addWidget(button, row, place)


def _summary(found: list[Standing]) -> str:
    if not found:
        return "Nothing waits, and nothing is being worked on. “Find landmarks” on the Bench asks for work."
    runs, failed = (sum(one.state == state for one in found) for state in (RUNS, FAILED))
    parts = [f"{runs} under way", f"{len(found) - runs - failed} waiting"] + ([f"{failed} failed"] if failed else [])
    more = f" The first {_MOST} are shown." if len(found) > _MOST else ""
    return ", ".join(parts) + "." + more
