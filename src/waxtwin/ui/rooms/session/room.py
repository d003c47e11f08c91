"""The Session room: throws as they happen, from the devices that are there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from waxtwin.ui.rooms.session.flow import NOTHING_YET, SessionFlow
from waxtwin.ui.rooms.session.lines import Line
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.file_dialogs import ask_folder
from waxtwin.ui.shared.room import Room
from waxtwin.ui.shared.theme import colour
from waxtwin.ui.shared.widgets import Cautions, label, offer_people

_COLUMNS = ("Throw", "At", "Ball speed", "Drive plate", "Lead plate", "Clips")
_INTRO = (
    "Connect a radar gun, force plates or a folder in which clips land, or use the stand-ins that come with the "
    "program. Readings are put together by time; one that failed stays a failure. F1 tells what devices have to say."
)
_WAITING = (
    "1   Say who throws and what, and where the devices are. Without any, the stand-ins show how it goes.\n\n"
    "2   Begin. Every throw appears here by itself, with its ball speed, forces and clips.\n\n"
    "3   Type what a device missed. At the end the throws are a set that lies beside the twin, in the log and the plan."
)
PITCHES = ("fastball", "curveball", "slider", "changeup", "other")


class SessionRoom(Room):
    """`begun`, `ended`, `stand_ins_wanted`, `athlete_chosen(id)`, `corrected(row)`, `contrast_wanted`."""

    begun = Signal()
    ended = Signal()
    stand_ins_wanted = Signal()
    athlete_chosen = Signal(int)
    corrected = Signal(int)
    contrast_wanted = Signal()

    def __init__(self, context: Context) -> None:
        super().__init__()
        column, top = self.begin_layout("Session")
        self._fill_top(top)
        row = QHBoxLayout()
        row.setSpacing(16)
        row.addWidget(self._make_devices())
        row.addLayout(self._make_throws(), 1)
        column.addLayout(row, 1)
        column.addWidget(Cautions())
        self.show_running(False)
        self.show_throws((), NOTHING_YET, ready=False)
        self.flow = SessionFlow(context, self)

    def _fill_top(self, top: QHBoxLayout) -> None:
        self.athlete = QComboBox()
        self.athlete.setAccessibleName("who throws")
        self.athlete.setMinimumWidth(220)
        self.athlete.activated.connect(lambda i: self.athlete_chosen.emit(self.athlete.itemData(i)))
        top.addWidget(self.athlete)
        self.pitch = QComboBox()
        self.pitch.setAccessibleName("what is thrown")
        self.pitch.addItems(list(PITCHES))
        top.addWidget(self.pitch)
        top.addStretch(1)
        self.begin = QPushButton("Begin")
        self.begin.setProperty("role", "main")
        self.begin.clicked.connect(self.begun)
        self.end = QPushButton("End the session")
        self.end.clicked.connect(self.ended)
        top.addWidget(self.begin)
        top.addWidget(self.end)

    def _make_devices(self) -> QFrame:
        box = QFrame()
        box.setObjectName("card")
        box.setFixedWidth(330)
        column = QVBoxLayout(box)
        column.setContentsMargins(16, 12, 16, 12)
        column.setSpacing(8)
        column.addWidget(label("Devices", bold=True, grow=1))
        words = label(_INTRO, role="soft", grow=-0.5)
        words.setWordWrap(True)
        column.addWidget(words)
        form = QFormLayout()
        self.radar, self.plates, self.folder = QLineEdit(), QLineEdit(), QLineEdit()
        for line, name, hint in (
            (self.radar, "Radar gun", "127.0.0.1:4001"), (self.plates, "Force plates", "127.0.0.1:4002"),
            (self.folder, "Clips land in", "a folder"),
        ):  # fmt: skip
            line.setPlaceholderText(hint)
            line.setAccessibleName(name)
            form.addRow(name, line)
        column.addLayout(form)
        self.choose = QPushButton("Choose the folder…")
        self.choose.clicked.connect(self._choose)
        column.addWidget(self.choose)
        self.stand_ins = QPushButton("Use the stand-ins")
        self.stand_ins.setToolTip("A made-up radar gun, two force plates and two cameras, for trying out")
        self.stand_ins.clicked.connect(self.stand_ins_wanted)
        column.addWidget(self.stand_ins)
        self.states = label("", grow=-0.5)
        self.states.setWordWrap(True)
        column.addWidget(self.states)
        column.addStretch(1)
        return box

    def _make_throws(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.table = QTableWidget(0, len(_COLUMNS))
        self.table.setHorizontalHeaderLabels(list(_COLUMNS))
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setAccessibleName("throws of the session")
        header = self.table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(len(_COLUMNS) - 1, QHeaderView.ResizeMode.Stretch)
        column.addWidget(self.table, 1)
        self.waiting = label(_WAITING, role="soft", grow=1)
        self.waiting.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.waiting.setWordWrap(True)
        column.addWidget(self.waiting, 1)
        self.summary: QLabel = label("", grow=1)
        self.summary.setWordWrap(True)
        column.addWidget(self.summary)
        row = QHBoxLayout()
        self.correct = QPushButton("Type the ball speed…")
        self.correct.clicked.connect(self._correct)
        row.addWidget(self.correct)
        row.addStretch(1)
        self.contrast = QPushButton("Hold the set beside the twin")
        self.contrast.setToolTip("The throws of this session whose clips were measured, once there is one")
        self.contrast.clicked.connect(self.contrast_wanted)
        row.addWidget(self.contrast)
        column.addLayout(row)
        return column

    # showing -------------------------------------------------------------------------------------------------------
    def show_people(self, people: Mapping[int, str], chosen: int | None) -> None:
        """Who can throw."""
        offer_people(self.athlete, people, chosen)
        self.begin.setEnabled(bool(people))
        self.stand_ins.setEnabled(bool(people) and not self.begin.isHidden())

    def show_running(self, running: bool) -> None:
        """A session that runs cannot change its devices."""
        self.begin.setVisible(not running)
        self.end.setVisible(running)
        for widget in (self.athlete, self.pitch, self.radar, self.plates, self.folder, self.choose, self.stand_ins):
            widget.setEnabled(not running)

    def show_states(self, states: Mapping[str, str]) -> None:
        """How each device stands."""
        signs = {name: "●" if said == "connected" else "▲" for name, said in states.items()}
        self.states.setText("\n".join(f"{signs[name]}  {name}: {said}" for name, said in states.items()))

    def show_ended(self, *, more: bool) -> None:
        """That the session has ended; `more` while clips of it may still come."""
        self.states.setText("The session has ended." + (" Clips that land now are still taken in." if more else ""))

    def show_throws(self, lines: Sequence[Line], summary: str, *, ready: bool) -> None:
        """The throws so far; `ready` when there is a set to be contrasted."""
        if self.table.rowCount() != len(lines):
            self.table.setRowCount(len(lines))
        for n, line in enumerate(lines):
            for k, words in enumerate(line.cells):
                said = f"▲ {words}" if k in line.troubled else words
                item = self.table.item(n, k)
                if item is None:
                    item = QTableWidgetItem()
                    self.table.setItem(n, k, item)
                if item.text() != said:
                    item.setText(said)
                item.setForeground(colour("caution" if k in line.troubled else "ink"))
        self.table.setVisible(bool(lines))
        self.waiting.setVisible(not lines)
        self.summary.setText(summary)
        self.correct.setEnabled(bool(lines))
        self.contrast.setEnabled(ready)

    def _choose(self) -> None:
        chosen = ask_folder(self, "The folder in which clips land")
        if chosen:
            self.folder.setText(str(chosen))

    def _correct(self) -> None:
        row = self.table.currentRow()
        if row < 0:
            row = self.table.rowCount() - 1
        if row >= 0:
            self.corrected.emit(row)

    def let_go(self) -> None:
        self.flow.close()
