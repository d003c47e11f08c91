"""What comes into the library by the window: files, folders, bundles, what is dropped on it, backups."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QInputDialog, QMessageBox

from waxtwin.core.errors import shown_name
from waxtwin.formats.place import CLIPS
from waxtwin.formats.tracks import TRACKS, formats
from waxtwin.library.layout import DATABASE
from waxtwin.library.local import LostDatabaseError, backups_in
from waxtwin.library.stored import is_delivery_file
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.shared.file_dialogs import ask_folder, ask_one, ask_open

if TYPE_CHECKING:
    from waxtwin.library.importing import Brought
    from waxtwin.ui.shell.app import App

BUNDLE = ".waxtwin"
_FILES = f"Throws and bundles ({' '.join(f'*{suffix}' for suffix in (*TRACKS, *CLIPS, BUNDLE))});;All files (*)"
_LAB_FILES = f"Lab files ({' '.join(f'*{one.suffix}' for one in formats().values() if one.lab)})"


class Intake(QObject):
    """Asks for what is to come in, and says where it goes then."""

    def __init__(self, app: App) -> None:
        super().__init__(app)
        self.w = app
        self.into_demo = False  # whether somebody said that files are to go into the demo

    def ask_library(self) -> None:
        """Choose a library folder, or an empty one to make a library in."""
        chosen = ask_folder(self.w.window, "Open a library, or choose a folder for a new one")
        if chosen:
            self.w.library.open(chosen)
            self.w.go_to("Bench")

    def ask_team(self) -> None:
        """Join a library that several people share."""
        from waxtwin.ui.shell.team_dialog import TeamDialog

        settings = self.w.settings
        self.team = TeamDialog(settings.team, settings.team_clips, self.w.jobs, self.w.window)
        to_bench = partial(self.w.go_to, "Bench")
        self.team.joined.connect(lambda address, clips: self.w.library.join(address, clips, to_bench))
        self.team.open()

    def ask_folder(self) -> None:
        """Choose a folder to import."""
        chosen = ask_folder(self.w.window, "Import every throw in a folder")
        if chosen:
            self.bring([chosen])

    def ask_file(self, side: str | None, *, link: bool = False) -> None:
        """Choose tracks, sidecars or clips to import, or to link; one can go straight to a side of the desk."""
        chosen = ask_open(self.w.window, "Import throws", _FILES)
        if chosen:
            self.bring(chosen, () if side is None else (side,), link=link)

    def bring(self, paths: Sequence[Path], sides: Sequence[str] = (), *, link: bool = False) -> None:
        """Import; throws are laid on `sides` in their order, a clip for no side goes to the Prepare room. Into the demo
        only when that is said: it is a copy to try things in, and own work would be lost sight of there.
        """
        if self.w.library.is_demo and not self.into_demo:
            self._ask_where(paths, sides, link=link)
            return
        self.w.library.bring(paths, link=link, then=lambda found: self._show(found, sides))

    def _show(self, found: Sequence[Brought], sides: Sequence[str]) -> None:
        """Go to where what was brought is looked at."""
        keys = list(dict.fromkeys(one.key for one in found if one.key is not None))
        unmapped = next((one for one in found if one.unmapped), None)
        if unmapped is not None:
            self.map_markers(unmapped.file)
        if not keys:
            return
        self.w.bench.mark_new([one.key for one in found if one.key is not None and not one.known])
        pair = next((one.pair for one in found if one.pair is not None), None)
        if pair is not None:
            self.w.pairs.take_pair(*pair)
            self.w.go_to("Pair")
            return
        self.w.bench.select(keys[0])
        if sides and len(keys) == len(SIDES):
            self.w.pairs.take_pair(keys[0], keys[1])
            self.w.go_to("Pair")
        elif len(sides) == 1:
            self.w.pairs.take(sides[0], keys[0])
        elif len(keys) == 1 and not self._is_ready(keys[0]):
            self.w.prepare_throw(keys[0])
        else:
            self.w.go_to("Bench")

    def _is_ready(self, key: int) -> bool:
        return any(entry.id == key and entry.ready for entry in self.w.library.entries)

    def _ask_where(self, paths: Sequence[Path], sides: Sequence[str], *, link: bool) -> None:
        """The demo is open: into a library of one's own, which is made with one click, or into the demo."""
        box = QMessageBox(self.w.window)
        box.setWindowTitle("The demo is open")
        box.setText("The demo is a copy to try things in. Bring this into a library of your own?")
        own = self.w.own_library()
        is_there = (own / DATABASE).is_file()
        box.setInformativeText(
            f"Your own library lies in {own} and opens by itself from now on."
            if is_there else f"One is made in {own}, and opens by itself from now on. The demo stays where it is."
        )  # fmt: skip
        mine = box.addButton("Into my library" if is_there else "Make my library", QMessageBox.ButtonRole.AcceptRole)
        demo = box.addButton("Into the demo", QMessageBox.ButtonRole.ActionRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(mine)

        def into_own() -> None:
            self.w.library.open(own, lambda: self.bring(paths, sides, link=link))

        def into_demo() -> None:
            self.into_demo = True
            self.bring(paths, sides, link=link)

        mine.clicked.connect(into_own)
        demo.clicked.connect(into_demo)
        self.where = box
        box.open()

    def show_list(self, found: Sequence[Brought]) -> None:
        """What came of an import, file by file."""
        from waxtwin.ui.shell.imported_dialog import BroughtDialog

        self.list = BroughtDialog(found, self.w.window)
        self.list.open()

    def ask_lab_file(self) -> None:
        """Choose a lab file and say how it is read, also when its markers are known."""
        chosen = ask_one(self.w.window, "Import a lab file", _LAB_FILES)
        if chosen:
            self.map_markers(chosen)

    def map_markers(self, file: Path) -> None:
        """Ask which markers of a lab file make which landmark, then import it so."""
        from waxtwin.ui.shell.lab_import import open_mapping

        self.mapping = open_mapping(self.w.window, self.w.library, self.w.jobs, file)

    def receive(self, paths: Sequence[Path], x: float) -> None:
        """What is dropped is imported. Two clips are laid beside each other; in the Pair room any two throws are, and
        one goes to the half it was dropped on, or to the side that is free.
        """
        good = [path for path in paths if path.is_dir() or path.suffix == BUNDLE or is_delivery_file(path)]
        strange = next((path for path in paths if path not in good), None)
        if strange is not None:
            self.w.notice.say(
                Fault(f"{shown_name(strange)}: this is not a file that Wax Twin reads; what is open stays as it is.")
            )
        if not good:
            return
        throws = [path for path in good if is_delivery_file(path) and path.suffix != BUNDLE]
        clips = [path for path in throws if path.suffix.lower() in CLIPS]
        in_pair = self.w.window.room is self.w.pair
        if len(good) == 2 and (len(clips) == 2 or (in_pair and len(throws) == 2)):
            self.bring(good, SIDES)
        elif in_pair and len(good) == 1 and throws:
            self.bring(good, (self._side_at(x),))
        else:
            self.bring(good)

    def _side_at(self, x: float) -> str:
        """The side that is free, or the one on whose half of the room something was dropped."""
        twin = self.w.pair.stages["twin"]
        half = "twin" if x > twin.mapTo(self.w.window, twin.rect().topLeft()).x() else "athlete"
        return next((side for side in SIDES if side not in self.w.desk.pair.stored), half)

    def offer_backup(self, lost: LostDatabaseError) -> None:
        """A database is gone: put its newest backup in its place, or begin anew; nothing happens by itself."""
        box = QMessageBox(self.w.window)
        box.setWindowTitle("The database is missing")
        box.setText(str(lost))
        restore = box.addButton("Restore the newest backup", QMessageBox.ButtonRole.AcceptRole)
        restore.setEnabled(bool(lost.backups))
        empty = box.addButton("Begin an empty one", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        if lost.backups:
            box.setDefaultButton(restore)
            restore.clicked.connect(lambda: self.w.library.open(lost.folder, backup=lost.backups[0]))
        empty.clicked.connect(lambda: self.w.library.open(lost.folder, afresh=True))
        self.where = box
        box.open()

    def show_overdue(self, late: Sequence[tuple[int, str, str]]) -> None:
        """Whose data should not be kept any longer, to be erased or kept for another year."""
        from waxtwin.library.privacy import prolong
        from waxtwin.ui.shared.custody import confirm_erasing
        from waxtwin.ui.shell.overdue_dialog import OverdueDialog, in_a_year

        dialog = OverdueDialog(late, self.w.window)
        until = in_a_year(date.today())
        dialog.prolonged.connect(lambda key: self.w.library.change(lambda library: prolong(library, key, until), 0))
        dialog.erase_wanted.connect(lambda key: confirm_erasing(dialog, self.w.library, key))
        self.overdue = dialog
        dialog.open()

    def back_up(self) -> None:
        """Make a copy of the library's database now."""
        if self.w.library.team.address:
            self.w.notice.say("Backups of a team's library are made on the server, by whoever runs it.")
            return
        made: list[Path] = []
        self.w.library.change_many(
            lambda library: made.append(library.back_up()), 0,
            lambda: self.w.notice.say(Success(f"Backed up as {made[0].name}.")),
        )  # fmt: skip

    def ask_backup(self) -> None:
        """Choose a backup to restore; what is there now becomes a backup itself. No library need be open."""
        if self.w.library.team.address:
            self.w.notice.say("A team's library is restored on the server, by whoever runs it.")
            return
        store = self.w.library.store
        folder = self.w.own_library() if store is None else store.folder
        names = {path.stem.removeprefix("library-"): path for path in backups_in(folder)}
        if not names:
            self.w.notice.say("There is no backup yet.")
            return
        words = "Restore the library as it was; what is there now is backed up first."
        chosen, good = QInputDialog.getItem(self.w.window, "Restore a backup", words, list(names), 0, False)
        if good:
            self.restore(names[chosen])

    def restore(self, backup: Path) -> None:
        """Put a backup in the library's place."""
        self.w.desk.pair.clear()
        self.w.prepare.state.take(None)
        if self.w.library.store is None:
            said = Success(f"The library is as it was in {backup.name}.")
            self.w.library.open(backup.parent.parent, lambda: self.w.notice.say(said), backup=backup)
            return
        if self.w.library.change(lambda library: library.restore(backup)):
            self.w.notice.say(Success(f"The library is as it was in {backup.name}."))
