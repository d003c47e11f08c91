"""What happens in the window: opening, computing, correcting. The rooms show it, the frame holds them."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtGui import QUndoCommand, QUndoStack
from PySide6.QtWidgets import QFileDialog, QWidget

from waxtwin.core.contrast import Contrast
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.events import EVENTS
from waxtwin.library.delivery import StoredDelivery, is_delivery_file, save_sidecar, with_events
from waxtwin.library.folder import Folder, open_folder
from waxtwin.ui import theme
from waxtwin.ui.commands import install
from waxtwin.ui.frame import Frame
from waxtwin.ui.jobs import Jobs
from waxtwin.ui.menu import commands
from waxtwin.ui.model.desk import SIDES, Desk
from waxtwin.ui.model.pairing import compute, moved, read_delivery
from waxtwin.ui.rooms.bench import BenchRoom
from waxtwin.ui.rooms.contrast import ContrastRoom
from waxtwin.ui.rooms.gap import GapRoom
from waxtwin.ui.rooms.pair import PairRoom
from waxtwin.ui.settings import Settings, save_settings
from waxtwin.ui.widgets import Room

ASSETS = Path(__file__).parent.parent / "assets"
DEMO = ASSETS / "demo"
DEMO_PAIR = ("wren-tollander.csv", "ines-corvane.csv")
_FILES = "Deliveries (*.csv *.trc *.json *.mp4 *.mov *.mkv *.avi *.webm);;All files (*)"


class MoveStop(QUndoCommand):
    """A stop set by hand on one side, or given back to detection."""

    def __init__(self, workshop: Workshop, side: str, stop: str, time: float | None) -> None:
        stored = workshop.desk.stored[side]
        verb = "Move" if time is not None else "Give back"
        super().__init__(f"{verb} “{EVENTS[stop].short}”, {stored.title}")
        self._workshop, self._side, self._path = workshop, side, stored.path
        self._before = dict(stored.delivery.events_by_hand)
        self._after = moved(self._before, stop, time)

    def redo(self) -> None:
        self._workshop.apply_events(self._side, self._path, self._after)

    def undo(self) -> None:
        self._workshop.apply_events(self._side, self._path, self._before)


class Workshop(QObject):
    """The desk, the jobs behind it, undo, and the rooms, in one frame."""

    def __init__(self, frame: Frame, settings: Settings) -> None:
        super().__init__(frame)
        self.frame, self.settings, self.notice = frame, settings, frame.notice
        self.desk = Desk()
        self.desk.imperial = settings.imperial
        self.jobs = Jobs(self)
        self.undo = QUndoStack(self)
        self.folder: Folder | None = None
        self.bench, self.pair = BenchRoom(self.desk), PairRoom(self.desk)
        self.rooms: list[Room] = [self.bench, self.pair, ContrastRoom(self.desk), GapRoom(self.desk)]
        frame.furnish(self.rooms)
        frame.menuBar().clear()
        self.actions = install(frame, commands(self))
        self._connect()
        self.go_to("Bench")

    def _connect(self) -> None:
        self.bench.chosen.connect(self.take)
        self.bench.folder_wanted.connect(self.ask_folder)
        self.bench.file_wanted.connect(lambda: self.ask_file(None))
        self.bench.demo_wanted.connect(self.open_demo)
        self.bench.done.connect(lambda: self.go_to("Pair"))
        self.pair.seam.corrected.connect(self.correct)
        self.jobs.progressed.connect(self._show_progress)
        self.jobs.ended.connect(lambda _: self._hide_progress())
        self.frame.asked.connect(self.go_to)
        self.frame.dropped.connect(self.receive)
        self.frame.busy.cancelled.connect(self.jobs.cancel_all)
        self.frame.closing.connect(self.close)
        self.desk.listen(self._told)

    def close(self) -> None:
        """Let go of clips and threads."""
        self.pair.close_clips()
        self.jobs.close()

    def go_to(self, name: str) -> None:
        """Show a room by its name."""
        if name != "Pair":
            self.desk.play(0)
        self.frame.show_room(next(room for room in self.rooms if room.title == name))
        if name == "Pair":
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
        chosen = QFileDialog.getExistingDirectory(self.frame, "Open library folder", self.settings.folder)
        if chosen:
            self.open_library(Path(chosen))
            self.go_to("Bench")

    def ask_file(self, side: str | None) -> None:
        """Choose a track, sidecar or clip."""
        chosen, _ = QFileDialog.getOpenFileName(self.frame, "Open a delivery", self.settings.folder, _FILES)
        if chosen:
            self.take(side or self._free_side(), Path(chosen))

    def _free_side(self) -> str:
        return "twin" if "athlete" in self.desk.stored and "twin" not in self.desk.stored else "athlete"

    def receive(self, path: Path, x: float) -> None:
        """A dropped folder opens as library; a file goes to the half it was dropped on, or to the side that is free."""
        if path.is_dir():
            self.open_library(path)
            self.go_to("Bench")
        elif not is_delivery_file(path):
            self.notice.say(f"{path.name}: this is not a file that Wax Twin reads; what is open stays as it is.")
        else:
            twin = self.pair.stages["twin"]
            half = "twin" if x > twin.mapTo(self.frame, twin.rect().topLeft()).x() else "athlete"
            self.take(half if len(self.desk.stored) == 2 else self._free_side(), path)

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

    def stop_by_hand(self) -> bool:
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
        self.frame.busy.tell(words.get(name, "reading"), share)

    def _hide_progress(self) -> None:
        if not self.jobs.busy:
            self.frame.busy.hide()

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
        for widget in self.frame.findChildren(QWidget):
            widget.update()
