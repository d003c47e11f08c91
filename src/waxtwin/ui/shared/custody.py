"""An athlete's data in the user's hands: changed, handed out, erased."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QMessageBox, QWidget

from waxtwin.core.cautions import is_minor
from waxtwin.core.errors import WaxTwinError
from waxtwin.formats.place import file_name
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.work import Runner
from waxtwin.ui.shared.athlete_dialog import AthleteDialog
from waxtwin.ui.shared.file_dialogs import ask_folder, ask_save
from waxtwin.ui.shared.open_library import OpenLibrary

if TYPE_CHECKING:
    from waxtwin.library.store import Library

Facts = dict[str, Any]


class AthleteFile:
    """An athlete's dialog, and what is asked in it carried out."""

    def __init__(self, parent: QWidget, opened: OpenLibrary, jobs: Runner, athlete_id: int, facts: Facts) -> None:
        self._opened, self._jobs, self._id, self._name = opened, jobs, athlete_id, str(facts["name"])
        self.dialog = AthleteDialog(facts, parent)
        self.dialog.kept.connect(self._keep)
        self.dialog.export_wanted.connect(lambda: self._with_agreement(self._write_out))
        self.dialog.bundle_wanted.connect(lambda: self._with_agreement(self._write_bundle))
        self.dialog.erase_wanted.connect(lambda: confirm_erasing(self.dialog, opened, athlete_id, self.dialog.reject))

    def _keep(self, changed: Facts) -> None:
        from waxtwin.library.privacy import set_athlete_facts

        done = self._opened.change(lambda library: set_athlete_facts(library, self._id, changed))
        if done and is_minor(changed["born"], date.today()) and not changed["consent_on"]:
            words = f"{changed['name']} is under age: note when a guardian agreed to filming and keeping."
            self._opened.told.emit(words)

    def _with_agreement(self, go_on: Callable[[Library], None]) -> None:
        """Go on where nothing speaks against it, or somebody says so."""
        from waxtwin.library.privacy import not_agreed, throws_of

        library = self._opened.store
        if library is not None:
            against = not_agreed(library, throws_of(library, self._id), date.today())
            ask_agreed(self.dialog, against, lambda: go_on(library))

    def _write_out(self, library: Library) -> None:
        from waxtwin.library.privacy import export_athlete

        chosen = ask_folder(self.dialog, "Choose a folder to write everything into")
        if chosen:
            self._jobs.start(
                "export", lambda: export_athlete(library, self._id, chosen),
                lambda folder: self._opened.told.emit(
                    Success(f"Everything about {self._name} was written to {folder}.")
                ),
                self._opened.told.emit,
            )  # fmt: skip

    def _write_bundle(self, library: Library) -> None:
        from waxtwin.library.bundles import bundle_athlete

        chosen = ask_save(self.dialog, "Save as", f"{file_name(self._name)}.waxtwin", "Bundles (*.waxtwin)")
        if chosen:
            said = Success(f"Written: {chosen.name}.")
            self._jobs.start(
                "write bundle", lambda: bundle_athlete(library, self._id, chosen),
                lambda _: self._opened.told.emit(said), self._opened.told.emit,
            )  # fmt: skip


def open_athlete(parent: QWidget, opened: OpenLibrary, jobs: Runner, athlete_id: int) -> AthleteFile | None:
    """Open the athlete's dialog; None where there is no such athlete any more, which is told."""
    from waxtwin.library.privacy import athlete_facts

    if opened.store is None:
        return None
    try:
        facts = athlete_facts(opened.store, athlete_id)
    except WaxTwinError as fault:
        opened.told.emit(Fault(fault))
        return None
    made = AthleteFile(parent, opened, jobs, athlete_id, facts)
    made.dialog.open()
    return made


def confirm_erasing(
    parent: QWidget, opened: OpenLibrary, athlete_id: int, done: Callable[[], object] = lambda: None
) -> None:
    """Ask once more, then erase an athlete for good."""
    from waxtwin.library.erasing import erase
    from waxtwin.library.privacy import athlete_facts

    library = opened.store
    if library is None:
        return
    try:
        facts = athlete_facts(library, athlete_id)
    except WaxTwinError as fault:
        opened.told.emit(Fault(fault))
        return

    def carry_out() -> None:
        said = Success(f"Everything about {facts['name']} is erased.")
        opened.change_many(lambda library: erase(library, athlete_id), then=lambda: opened.told.emit(said))
        done()

    box = QMessageBox(parent)
    box.setWindowTitle("Erase for good")
    box.setText(f"Erase {facts['name']} with {facts['throws_kept']} throws, their clips, tracks and notes?")
    box.setInformativeText(
        "This cannot be undone. Blends with these throws, the list of changes and the backups go too, so that nothing "
        "stays in them; linked clips outside the library are yours to delete."
    )
    _open(box, "Erase", QMessageBox.ButtonRole.DestructiveRole, carry_out)


def ask_agreed(parent: QWidget, said: Sequence[str], go_on: Callable[[], object]) -> QMessageBox | None:
    """Before a likeness leaves the library: ask where something speaks against it, else go on at once."""
    if not said:
        go_on()
        return None
    box = QMessageBox(parent)
    box.setWindowTitle("Before it is saved outside")
    box.setText(" ".join(said))
    box.setInformativeText("What is saved shows these people. Save it all the same?")
    _open(box, "Save", QMessageBox.ButtonRole.AcceptRole, go_on)
    return box


def _open(box: QMessageBox, words: str, role: QMessageBox.ButtonRole, do: Callable[[], object]) -> None:
    """Ask, with one button that does it and one that leaves it."""
    box.addButton(words, role).clicked.connect(do)
    box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
    box.open()
