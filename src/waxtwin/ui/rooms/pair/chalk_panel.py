"""The chalk: tools, the list of marks with their numbers, and what can be done with the chosen one."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QIcon, QPainter, QPen, QPixmap, QShowEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.chalk import KINDS, Chalk
from waxtwin.core.stops import EVENTS
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.rooms.pair.chalk_flow import SPANS, ChalkFlow
from waxtwin.ui.rooms.pair.stage_grid import StageGrid
from waxtwin.ui.shared.chalk_paint import number_words
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.theme import font, side_colour
from waxtwin.ui.shared.widgets import label

_MARK = Qt.ItemDataRole.UserRole


class ChalkPanel(QWidget):
    """The stages of the grid tell what a mark measures where it is seen."""

    def __init__(self, flow: ChalkFlow, grid: StageGrid) -> None:
        super().__init__()
        self.flow, self._grid, self.desk = flow, grid, flow.desk
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 0, 0, 0)
        column.setSpacing(5)
        column.addWidget(label("Marks", role="title", grow=1.5))
        self._hint = label("", role="soft", grow=-1, wrap=True)
        column.addWidget(self._hint)
        column.addWidget(self._make_tools())
        self.list = QListWidget()
        self.list.setAccessibleName("marks")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.ensurePolished()  # else the items are laid out before they are dressed
        self.list.setFont(font(-0.5))
        self.list.itemClicked.connect(lambda item: flow.board.choose(*item.data(_MARK)))
        self.list.itemDoubleClicked.connect(lambda _: flow.rename())
        column.addWidget(self.list, 1)
        column.addLayout(self._make_row())
        column.addWidget(self._make_buttons())
        self._shown: object = None
        shown = (Topic.CHALK, Topic.PAIR, Topic.FACTS, Topic.FIGURES, Topic.TIME, Topic.ALIGNMENT, Topic.UNITS)
        self.desk.listen(lambda _: self.fill(), *shown)

    def _make_tools(self) -> QWidget:
        made = QWidget()
        row = FlowLayout(made, spacing=3)
        self.tools: dict[str, QToolButton] = {}
        for kind, (words, count) in KINDS.items():
            button = QToolButton()
            button.setText(words.removesuffix(" line").lower())
            button.setToolTip(f"{words}: {count} {'click' if count == 1 else 'clicks'} on a stage")
            button.setAccessibleName(words)
            button.setProperty("role", "small")
            button.setCheckable(True)
            button.clicked.connect(partial(self._take, kind))
            self.tools[kind] = button
            row.addWidget(button)
        return made

    def _take(self, kind: str) -> None:
        """Take a tool in hand; the same again lays it down."""
        self.flow.board.take("" if self.flow.board.tool == kind else kind)

    def _make_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(label("Seen", role="soft", grow=-1))
        self.span = QComboBox()
        self.span.setAccessibleName("when the mark is seen")
        for key, words in SPANS.items():
            self.span.addItem(words, key)
        self.span.activated.connect(lambda i: self.flow.set_span(self.span.itemData(i)))
        row.addWidget(self.span, 1)
        self.visible = QToolButton()
        self.visible.setText("all marks")
        self.visible.setProperty("role", "small")
        self.visible.setCheckable(True)
        self.visible.setToolTip("Show all marks, or none (H)")
        self.visible.clicked.connect(self.flow.board.show)
        row.addWidget(self.visible)
        return row

    def _make_buttons(self) -> QWidget:
        made = QWidget()
        row = FlowLayout(made, spacing=3)
        self.buttons: dict[str, QPushButton] = {}
        for key, words, tip, do in (
            ("copy", "Other side (X)", "The same mark on the other side", self.flow.copy),
            ("name", "Name…", "Words of its own", self.flow.rename),
            ("hide", "Hide", "Hide this mark, or show it again", self.flow.hide),
            (
                "measure",
                "Keep as a measure…",
                "Measure it in every throw: a measure of the house",
                self.flow.keep_measure,
            ),
            ("remove", "Take away", "Take this mark away (Delete)", self.flow.remove),
        ):
            self.buttons[key] = button = QPushButton(words)
            button.setToolTip(tip)
            button.setFont(font(-1.0))
            button.clicked.connect(partial(self._do, do))
            row.addWidget(button)
        return made

    def _do(self, what: Callable[[], object], _checked: bool = False) -> None:
        what()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.fill()

    def fill(self) -> None:
        """Show the marks of both sides with what they measure now."""
        if not self.isVisible():
            return
        board = self.flow.board
        for kind, button in self.tools.items():
            button.setChecked(kind == board.tool)
        self._hint.setText(self._hinted())
        rows = [(side, one.id, self._told(side, one), one.hidden) for side in SIDES for one in board.of(side)]
        state = (rows, board.chosen)
        if state != self._shown:
            self._shown = state
            self._list(rows)
        picked = board.picked
        for one in self.buttons.values():
            one.setEnabled(picked is not None)
        self.buttons["copy"].setEnabled(picked is not None and self.desk.pair.complete)
        self.span.setEnabled(picked is not None)
        self.visible.setChecked(board.visible)
        if picked is not None:
            self.buttons["hide"].setText("Show" if picked[1].hidden else "Hide")
            self.span.setCurrentIndex(list(SPANS).index(_span_of(picked[1])))

    def _list(self, rows: list[tuple[str, str, str, bool]]) -> None:
        self.list.clear()
        for side, name, words, hidden in rows:
            item = QListWidgetItem(words)
            item.setData(_MARK, (side, name))
            item.setIcon(_patch(side, hidden))
            item.setToolTip(f"{side}: {words}")
            self.list.addItem(item)
            if self.flow.board.chosen == (side, name):
                self.list.setCurrentItem(item)

    def _hinted(self) -> str:
        board = self.flow.board
        if not board.tool:
            return "Take a tool and click on a stage; ends stick to joints that are near. Drag an end to move it."
        words, count = KINDS[board.tool]
        left = count - len(board.begun[1])
        return f"{words}: {left} more {'click' if left == 1 else 'clicks'}. Esc lays the tool down."

    def _told(self, side: str, chalk: Chalk) -> str:
        """A mark's name, when it is seen and what it measures now."""
        stages = [self._grid.stages[side], self._grid.seconds[side]]
        stage = next((one for one in stages if chalk.clip and one.clip_name == chalk.clip), stages[0])
        place = stage.place()
        number = "" if place is None else number_words(place.number(chalk), self.desk.view.imperial)
        if chalk.clip and stage.clip_name != chalk.clip:
            number = "on a clip that is not on a stage now"
        where = f" ({EVENTS[chalk.stop].short})" if chalk.stop else ""
        return f"{number + '   ' if number else ''}{chalk.title}{where}{', hidden' if chalk.hidden else ''}"


def _patch(side: str, hidden: bool) -> QIcon:
    """A side's colour, hollow for a mark that is hidden."""
    picture = QPixmap(12, 12)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    ink = side_colour(side)
    painter.setPen(QPen(ink, 2))
    painter.setBrush(Qt.BrushStyle.NoBrush if hidden else ink)
    painter.drawRect(2, 2, 8, 8)
    painter.end()
    return QIcon(picture)


def _span_of(chalk: Chalk) -> str:
    if chalk.stop:
        return "stop"
    if chalk.first is not None and chalk.last is not None:
        return "here"
    return "on" if chalk.first is not None else "until" if chalk.last is not None else "always"
