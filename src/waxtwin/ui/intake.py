"""What comes into the library by the window: files, folders, bundles, what is dropped on it, backups."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QFileDialog, QInputDialog

from waxtwin.library.delivery import is_delivery_file
from waxtwin.ui.model.desk import SIDES

if TYPE_CHECKING:
    from waxtwin.library.bringing import Brought
    from waxtwin.ui.workshop import Workshop

BUNDLE = ".waxtwin"
_FILES = (
    "Throws and bundles (*.csv *.trc *.c3d *.json *.mp4 *.mov *.mkv *.avi *.webm *.m4v *.ts *.waxtwin);;All files (*)"
)


class Intake(QObject):
    """Asks for what is to come in, and says where it goes then."""

    def __init__(self, workshop: Workshop) -> None:
        super().__init__(workshop)
        self.w = workshop

    def ask_library(self) -> None:
        """Choose a library folder, or an empty one to make a library in."""
        chosen = QFileDialog.getExistingDirectory(self.w.frame, "Open a library, or choose a folder for a new one",
                                                  self.w.settings.folder)  # fmt: skip
        if chosen:
            self.w.open_library(Path(chosen))
            self.w.go_to("Bench")

    def ask_folder(self) -> None:
        """Choose a folder to import."""
        chosen = QFileDialog.getExistingDirectory(self.w.frame, "Import every throw in a folder")
        if chosen:
            self.bring([Path(chosen)])

    def ask_file(self, side: str | None, *, link: bool = False) -> None:
        """Choose tracks, sidecars or clips to import, or to link; one can go straight to a side of the desk."""
        chosen, _ = QFileDialog.getOpenFileNames(self.w.frame, "Import throws", "", _FILES)
        if chosen:
            self.bring([Path(name) for name in chosen], side, link=link)

    def bring(self, paths: list[Path], side: str | None = None, *, link: bool = False) -> None:
        """Import; a single throw that is ready goes to `side`, a clip without a track to the Prepare room."""

        def then(found: list[Brought]) -> None:
            keys = [one.key for one in found if one.key is not None]
            unmapped = next((one for one in found if one.unmapped), None)
            if unmapped is not None:
                self.map_markers(unmapped.file)
            if not keys:
                return
            pair = next((one.pair for one in found if one.pair is not None), None)
            if pair is not None:
                self.w.take_pair(*pair)
                self.w.go_to("Pair")
                return
            self.w.bench.select(keys[0])
            ready = {entry.id: entry.ready for entry in self.w.librarian.entries}
            if side is not None and ready.get(keys[0]):
                self.w.take(side, keys[0])
            elif len(keys) == 1 and not ready.get(keys[0]):
                self.w.prepare_throw(keys[0])
            else:
                self.w.go_to("Bench")

        self.w.librarian.bring(paths, link=link, then=then)

    def ask_lab_file(self) -> None:
        """Choose a lab file and say how it is read, also when its markers are known."""
        chosen, _ = QFileDialog.getOpenFileName(self.w.frame, "Import a lab file", "", "Lab files (*.c3d *.trc)")
        if chosen:
            self.map_markers(Path(chosen))

    def map_markers(self, file: Path) -> None:
        """Ask which markers of a lab file make which landmark, then import it so."""
        from waxtwin.ui.dialogs.lab import open_mapping

        self.mapping = open_mapping(self.w.frame, self.w.librarian, self.w.jobs, file)

    def receive(self, path: Path, x: float) -> None:
        """What is dropped is imported; a throw goes to the half it was dropped on, or to the side that is free."""
        if path.is_dir() or path.suffix == BUNDLE:
            self.bring([path])
        elif not is_delivery_file(path):
            self.w.notice.say(f"{path.name}: this is not a file that Wax Twin reads; what is open stays as it is.")
        elif self.w.frame.room is self.w.pair:
            twin = self.w.pair.stages["twin"]
            half = "twin" if x > twin.mapTo(self.w.frame, twin.rect().topLeft()).x() else "athlete"
            free = next((side for side in SIDES if side not in self.w.desk.stored), half)
            self.bring([path], free)
        else:
            self.bring([path])

    def back_up(self) -> None:
        """Make a copy of the library's database now."""
        made: list[Path] = []
        if self.w.librarian.change(lambda library: made.append(library.back_up())):
            self.w.notice.say(f"Backed up as {made[0].name}.")

    def ask_backup(self) -> None:
        """Choose a backup to restore; what is there now becomes a backup itself."""
        library = self.w.librarian.library
        if library is None:
            return
        names = {path.stem.removeprefix("library-"): path for path in library.backups()}
        if not names:
            self.w.notice.say("There is no backup yet.")
            return
        words = "Restore the library as it was; what is there now is backed up first."
        chosen, good = QInputDialog.getItem(self.w.frame, "Restore a backup", words, list(names), 0, False)
        if good:
            self.restore(names[chosen])

    def restore(self, backup: Path) -> None:
        """Put a backup in the library's place."""
        self.w.desk.clear()
        self.w.piece.take(None)
        if self.w.librarian.change(lambda library: library.restore(backup)):
            self.w.notice.say(f"The library is as it was in {backup.name}.")
