"""The window: the rail of rooms, notices, commands, undo, and the jobs behind them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QUndoCommand, QUndoStack
from PySide6.QtWidgets import (
    QButtonGroup,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.contrast import Contrast
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.events import EVENTS, ORDER
from waxtwin.library.delivery import StoredDelivery, is_delivery_file, save_sidecar, with_events
from waxtwin.library.folder import Folder, open_folder
from waxtwin.ui import theme
from waxtwin.ui.commands import Command, install
from waxtwin.ui.jobs import Jobs
from waxtwin.ui.model.desk import SIDES, Desk
from waxtwin.ui.model.pairing import compute, moved, read_delivery
from waxtwin.ui.model.wording import key_of
from waxtwin.ui.rooms.bench import BenchRoom
from waxtwin.ui.rooms.contrast import ContrastRoom
from waxtwin.ui.rooms.gap import GapRoom
from waxtwin.ui.rooms.pair import PairRoom
from waxtwin.ui.settings import Settings, load_settings, save_settings
from waxtwin.ui.widgets import Room, label

ASSETS = Path(__file__).parent.parent / "assets"
DEMO = ASSETS / "demo"
DEMO_PAIR = ("wren-tollander.csv", "ines-corvane.csv")
_FILES = "Deliveries (*.csv *.trc *.json *.mp4 *.mov *.mkv *.avi *.webm);;All files (*)"


class Notice(QFrame):
    """One plain sentence across the top of the room, until it is put away."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 6, 12, 6)
        self._text = label("")
        self._text.setWordWrap(True)
        row.addWidget(self._text, 1)
        close = QPushButton("Put away")
        close.clicked.connect(self.hide)
        row.addWidget(close)
        self.hide()

    def say(self, sentence: str) -> None:
        """Show a sentence."""
        self._text.setText(f"▲  {sentence}")
        self.show()

    @property
    def text(self) -> str:
        """What it says, or nothing."""
        return "" if self.isHidden() else self._text.text()


class MoveStop(QUndoCommand):
    """A stop set by hand on one side, or given back to detection."""

    def __init__(self, window: Window, side: str, stop: str, time: float | None) -> None:
        stored = window.desk.stored[side]
        verb = "Move" if time is not None else "Give back"
        super().__init__(f"{verb} “{EVENTS[stop].short}”, {stored.title}")
        self._window, self._side, self._path = window, side, stored.path
        self._before = dict(stored.delivery.events_by_hand)
        self._after = moved(self._before, stop, time)

    def redo(self) -> None:
        self._window.apply_events(self._side, self._path, self._after)

    def undo(self) -> None:
        self._window.apply_events(self._side, self._path, self._before)


class Window(QMainWindow):
    """The main window."""

    def __init__(self, settings: Settings | None = None) -> None:
        super().__init__()
        self.settings = settings or load_settings()
        self.desk = Desk()
        self.desk.imperial = self.settings.imperial
        self.jobs = Jobs(self)
        self.undo = QUndoStack(self)
        self.folder: Folder | None = None
        self.setWindowTitle("Wax Twin")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.bench, self.pair = BenchRoom(self.desk), PairRoom(self.desk)
        self.rooms: list[Room] = [self.bench, self.pair, ContrastRoom(self.desk), GapRoom(self.desk)]
        self.notice = Notice()
        self._lay_out()
        self.actions_by_id = install(self, self._commands())
        self._connect()
        self.go_to("Bench")

    # laying out ----------------------------------------------------------------------------------------------------
    def _lay_out(self) -> None:
        self._stack = QStackedWidget()
        rail = QWidget()
        rail.setObjectName("rail")
        rail.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        rail.setFixedWidth(96)
        buttons = QVBoxLayout(rail)
        buttons.setContentsMargins(0, 22, 0, 14)
        buttons.setSpacing(6)
        self._group = QButtonGroup(self)
        self._rail: dict[str, QToolButton] = {}
        for room in self.rooms:
            self._stack.addWidget(room)
            button = QToolButton()
            button.setText(room.title)
            button.setCheckable(True)
            button.setFixedWidth(96)
            button.clicked.connect(lambda _=False, name=room.title: self.go_to(name))
            self._group.addButton(button)
            self._rail[room.title] = button
            buttons.addWidget(button)
        buttons.addStretch(1)
        self._busy = QProgressBar()
        self._busy.setTextVisible(False)
        self._busy.setRange(0, 100)
        self._busy_words = label("", role="soft", grow=-1.5)
        self._busy_words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._cancel = QToolButton()
        self._cancel.setText("Cancel")
        self._cancel.setObjectName("cancel")
        self._cancel.clicked.connect(self._cancel_all)
        inner = QVBoxLayout()
        inner.setContentsMargins(10, 0, 10, 0)
        for widget in (self._busy_words, self._busy, self._cancel):
            widget.hide()
            inner.addWidget(widget)
        buttons.addLayout(inner)
        right = QVBoxLayout()
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(0)
        right.addWidget(self.notice)
        right.addWidget(self._stack, 1)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(rail)
        row.addLayout(right, 1)
        centre = QWidget()
        centre.setLayout(row)
        self.setCentralWidget(centre)

    def _connect(self) -> None:
        self.bench.chosen.connect(self.take)
        self.bench.folder_wanted.connect(self.ask_folder)
        self.bench.file_wanted.connect(lambda: self.ask_file(None))
        self.bench.demo_wanted.connect(self.open_demo)
        self.bench.done.connect(lambda: self.go_to("Pair"))
        self.pair.seam.corrected.connect(self.correct)
        self.jobs.progressed.connect(self._show_progress)
        self.jobs.ended.connect(lambda _: self._hide_progress())
        self.desk.listen(self._told)

    def _commands(self) -> list[Command]:
        desk, has_pair = self.desk, lambda: self.desk.contrast is not None
        commands = [
            Command("open_folder", "Open library folder…", "File", self.ask_folder, ("Ctrl+L",)),
            Command("open_file", "Open file…", "File", lambda: self.ask_file(None), ("Ctrl+O",)),
            Command("open_athlete", "Open file as athlete…", "File", lambda: self.ask_file("athlete")),
            Command("open_twin", "Open file as twin…", "File", lambda: self.ask_file("twin")),
            Command("demo", "Open the demo", "File", self.open_demo),
            Command("quit", "Quit", "File", self.close, ("Ctrl+Q",)),
            Command("undo", "Undo", "Edit", self.undo.undo, ("Ctrl+Z",), self.undo.canUndo),
            Command("redo", "Redo", "Edit", self.undo.redo, ("Ctrl+Shift+Z", "Ctrl+Y"), self.undo.canRedo),
            Command("detect", "Give this stop back to detection", "Edit", self.give_back, (), self._stop_by_hand),
            Command("units", "Feet, inches and miles an hour", "View", self.switch_units, ("Ctrl+U",),
                    checked=lambda: desk.imperial),
            Command("dark", "Dark theme", "View", self.switch_theme, ("Ctrl+D",),
                    checked=lambda: theme.theme().name == "dark"),
            Command("gauges", "Gauges", "View", lambda: desk.show(gauges=not desk.display.gauges), ("G",),
                    checked=lambda: desk.display.gauges),
            Command("play", "Play or stand still", "Time", lambda: desk.play(0 if desk.playing else 1), ("Space",),
                    has_pair),
            Command("play_back", "Play backwards", "Time", lambda: desk.play(0 if desk.playing < 0 else -1),
                    ("Shift+Space",), has_pair),
            Command("loop", "Loop this phase", "Time", lambda: desk.set_loop(not desk.loop), ("Ctrl+R",), has_pair,
                    checked=lambda: desk.loop),
            Command("next", "On one frame", "Time", lambda: self._step(1), (".", "Right"), has_pair),
            Command("back", "Back one frame", "Time", lambda: self._step(-1), (",", "Left"), has_pair),
            # with Shift the two keys send another character on most layouts
            Command("next8", "On eight frames", "Time", lambda: self._step(8), ("Shift+.", ">", ":", "Shift+Right"),
                    has_pair),
            Command("back8", "Back eight frames", "Time", lambda: self._step(-8), ("Shift+,", "<", ";", "Shift+Left"),
                    has_pair),
        ]  # fmt: skip
        for stop in ORDER:
            commands.append(
                Command(
                    f"hold_{stop}",
                    f"Hold: {EVENTS[stop].label}",
                    "Stops",
                    self._holder(stop),
                    (key_of(stop),),
                    has_pair,
                )
            )
        for number, room in enumerate(self.rooms, start=1):
            commands.append(
                Command(f"room_{room.title}", room.title, "Rooms", self._opener(room.title), (f"Ctrl+{number}",))
            )
        commands.append(Command("keys", "Keys", "Help", self.show_keys, ("F1",)))
        commands.append(Command("about", "About Wax Twin", "Help", self.show_about))
        return commands

    def _holder(self, stop: str) -> Callable[[], None]:
        def hold() -> None:
            self.desk.play(0)
            self.desk.hold(stop)

        return hold

    def _opener(self, room: str) -> Callable[[], None]:
        return lambda: self.go_to(room)

    def _step(self, frames: int) -> None:
        self.desk.play(0)
        self.desk.step(frames)

    def go_to(self, room: str) -> None:
        """Show a room by its name."""
        if room != "Pair":
            self.desk.play(0)
        for i, candidate in enumerate(self.rooms):
            if candidate.title == room:
                self._stack.setCurrentIndex(i)
        self._rail[room].setChecked(True)
        if room == "Pair":
            self.pair.seam.setFocus()

    # opening -------------------------------------------------------------------------------------------------------
    def open_demo(self) -> None:
        """The shipped library, with its first pair on the desk."""
        self.open_library(DEMO)
        for side, name in zip(SIDES, DEMO_PAIR, strict=True):
            self.take(side, DEMO / name)
        self.go_to("Pair")

    def open_library(self, path: Path) -> None:
        """Show a folder's throws on the Bench."""

        def work() -> Iterator[object]:
            yield open_folder(path)

        self.jobs.start("folder", work, self._take_folder, self.notice.say)

    def _take_folder(self, folder: object) -> None:
        assert isinstance(folder, Folder)
        self.folder = folder
        self.bench.fill(folder, "Saltmarrow Lanterns, winter programme (demo)" if folder.path == DEMO else "")
        if folder.path != DEMO:
            self.settings.folder = str(folder.path)
            save_settings(self.settings)

    def take(self, side: str, path: Path) -> None:
        """Read a throw and lay it on a side of the desk; a fault leaves the desk as it is."""
        self.jobs.start(
            f"read {side}", lambda: read_delivery(path), lambda stored: self._taken(side, stored), self.notice.say
        )

    def _taken(self, side: str, stored: object) -> None:
        assert isinstance(stored, StoredDelivery)
        pair = dict(self.desk.stored)
        pair[side] = stored
        self.undo.clear()
        if len(pair) == 2:
            self.desk.set_pair(pair["athlete"], pair["twin"])
            self._recompute()
        else:
            self.desk.stored = pair
            self.desk.tell("pair")

    def ask_folder(self) -> None:
        """Choose a library folder."""
        chosen = QFileDialog.getExistingDirectory(self, "Open library folder", self.settings.folder)
        if chosen:
            self.open_library(Path(chosen))
            self.go_to("Bench")

    def ask_file(self, side: str | None) -> None:
        """Choose a track, sidecar or clip."""
        chosen, _ = QFileDialog.getOpenFileName(self, "Open a delivery", self.settings.folder, _FILES)
        if chosen:
            self.take(side or self._free_side(), Path(chosen))

    def _free_side(self) -> str:
        return "twin" if "athlete" in self.desk.stored and "twin" not in self.desk.stored else "athlete"

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A folder opens as library; a file goes to the half it was dropped on, or to the side that is free."""
        for url in event.mimeData().urls():
            path = Path(url.toLocalFile())
            if path.is_dir():
                self.open_library(path)
                self.go_to("Bench")
            elif not is_delivery_file(path):
                self.notice.say(f"{path.name}: this is not a file that Wax Twin reads; what is open stays as it is.")
            else:
                full = len(self.desk.stored) == 2
                half = (
                    "twin"
                    if event.position().x()
                    > self.pair.stages["twin"].mapTo(self, self.pair.stages["twin"].rect().topLeft()).x()
                    else "athlete"
                )
                self.take(half if full else self._free_side(), path)
        event.acceptProposedAction()

    # results -------------------------------------------------------------------------------------------------------
    def _recompute(self) -> None:
        athlete, twin, landing = self.desk.stored["athlete"], self.desk.stored["twin"], self.desk.landing
        self.jobs.start("figures", lambda: compute(athlete, twin, landing), self._take_contrast, self.notice.say)

    def _take_contrast(self, contrast: object) -> None:
        assert isinstance(contrast, Contrast)
        first = self.desk.contrast is None
        self.desk.set_contrast(contrast)
        warnings = [
            f"{self.desk.stored[side].title}: {text}"
            for side, analysis in (("athlete", contrast.athlete), ("twin", contrast.twin))
            for text in analysis.warnings
        ]
        if first and warnings:
            self.notice.say("  ".join(warnings[:3]))

    def _told(self, topic: str) -> None:
        if topic == "landing" and len(self.desk.stored) == 2:
            self._recompute()
        elif topic == "units":
            self.settings.imperial = self.desk.imperial
            save_settings(self.settings)

    def correct(self, side: str, stop: str, time: float) -> None:
        """Set a stop by hand; one entry in the undo list."""
        self.undo.push(MoveStop(self, side, stop, time))

    def _stop_by_hand(self) -> bool:
        stop = self.desk.stop
        return any(stop in s.delivery.events_by_hand for s in self.desk.stored.values())

    def give_back(self) -> None:
        """Let detection find the held stop again, on the sides where it was set by hand."""
        stop = self.desk.stop
        for side, stored in self.desk.stored.items():
            if stop is not None and stop in stored.delivery.events_by_hand:
                self.undo.push(MoveStop(self, side, stop, None))

    def apply_events(self, side: str, path: Path, events: dict[str, float]) -> None:
        """Put stops set by hand in force, keep them in the sidecar, recompute."""
        stored = self.desk.stored.get(side)
        if stored is None or stored.path != path:
            return
        self.desk.stored[side] = with_events(stored, events)
        if ASSETS not in path.parents:  # the shipped demo is never altered
            try:
                save_sidecar(self.desk.stored[side])
            except WaxTwinError as fault:
                self.notice.say(f"{fault}; the correction holds until the program is closed.")
        self._recompute()

    # progress ------------------------------------------------------------------------------------------------------
    def _show_progress(self, name: str, share: float) -> None:
        words = {"figures": "working out what\nthe figures resolve" if share > 0.15 else "measuring"}
        self._busy_words.setText(words.get(name, "reading"))
        self._busy.setValue(round(share * 100))
        for widget in (self._busy_words, self._busy, self._cancel):
            widget.show()

    def _hide_progress(self) -> None:
        if not self.jobs.busy:
            for widget in (self._busy_words, self._busy, self._cancel):
                widget.hide()

    def _cancel_all(self) -> None:
        for name in ("folder", "read athlete", "read twin", "figures"):
            self.jobs.cancel(name)

    # switches ------------------------------------------------------------------------------------------------------
    def switch_units(self) -> None:
        """Metric, or feet, inches and miles an hour."""
        self.desk.set_imperial(not self.desk.imperial)

    def switch_theme(self) -> None:
        """Light or dark."""
        self.settings.theme = "light" if theme.theme().name == "dark" else "dark"
        theme.apply(self.settings.theme)
        save_settings(self.settings)
        self.desk.tell("units")
        for widget in self.findChildren(QWidget):
            widget.update()

    def show_keys(self) -> None:
        """The sheet of keys, made from the commands."""
        lines = [
            f"{action.text()}:  {'  or  '.join(k.toString() for k in action.shortcuts() if k.toString() not in '><:;')}"
            for action in self.actions_by_id.values()
            if action.shortcuts()
        ]
        self._tell("Keys", "\n".join(lines))

    def show_about(self) -> None:
        """What this is, and what it stands on."""
        from waxtwin import __version__
        from waxtwin.formats.answers import CAUTIONS

        self._tell(
            "About Wax Twin",
            f"Wax Twin {__version__}, Apache-2.0.\n\nQt for Python (LGPL-3.0), NumPy, SciPy and pyqtgraph (BSD, MIT), "
            "PyAV (BSD; its wheels carry FFmpeg with GPL parts), MediaPipe and its pose model (Apache-2.0), "
            "Manrope (OFL-1.1).\n\n" + "\n".join(CAUTIONS),
        )

    def _tell(self, title: str, text: str) -> None:
        box = QMessageBox(self)
        box.setWindowTitle(title)
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setText(text)
        box.open()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.pair.close_clips()
        self.jobs.close()
        super().closeEvent(event)
