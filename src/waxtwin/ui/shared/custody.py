"""An athlete's data in the user's hands: changed, handed out, erased."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date

from PySide6.QtWidgets import QMessageBox, QWidget

from waxtwin.core.cautions import is_minor
from waxtwin.core.errors import WaxTwinError
from waxtwin.formats.place import file_name
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.work import Runner
from waxtwin.ui.shared.athlete_dialog import AthleteDialog
from waxtwin.ui.shared.file_dialogs import ask_folder, ask_save
from waxtwin.ui.shared.open_library import OpenLibrary


def open_athlete(parent: QWidget, opened: OpenLibrary, jobs: Runner, athlete_id: int) -> AthleteDialog | None:
    """Open the athlete's dialog and carry out what is asked in it."""
    from waxtwin.library.privacy import athlete_facts, export_athlete, not_agreed, set_athlete_facts, throws_of

    library = opened.store
    if library is None:
        return None
    try:
        facts = athlete_facts(library, athlete_id)
    except WaxTwinError as fault:
        opened.told.emit(Fault(fault))
        return None
    dialog = AthleteDialog(facts, parent)

    def keep(changed: dict) -> None:
        done = opened.change(lambda library: set_athlete_facts(library, athlete_id, changed))
        if done and is_minor(changed["born"], date.today()) and not changed["consent_on"]:
            opened.told.emit(f"{changed['name']} is under age: note when a guardian agreed to filming and keeping.")

    def hand_out() -> None:
        ask_agreed(dialog, against(), write_out)

    def against() -> list[str]:
        return not_agreed(library, throws_of(library, athlete_id), date.today())

    def write_out() -> None:
        chosen = ask_folder(dialog, "Choose a folder to write everything into")
        if chosen:
            jobs.start(
                "export", lambda: export_athlete(library, athlete_id, chosen),
                lambda folder: opened.told.emit(
                    Success(f"Everything about {facts['name']} was written to {folder}.")
                ),
                opened.told.emit,
            )  # fmt: skip

    def bundle() -> None:
        ask_agreed(dialog, against(), write_bundle)

    def write_bundle() -> None:
        from waxtwin.library.bundles import bundle_athlete

        usual = f"{file_name(facts['name'])}.waxtwin"
        chosen = ask_save(dialog, "Save as", usual, "Bundles (*.waxtwin)")

        if chosen:
            said = Success(f"Written: {chosen.name}.")
            jobs.start(
                "write bundle", lambda: bundle_athlete(library, athlete_id, chosen), lambda _: opened.told.emit(said),
                opened.told.emit,
            )  # fmt: skip

    dialog.kept.connect(keep)
    dialog.export_wanted.connect(hand_out)
    dialog.bundle_wanted.connect(bundle)
    dialog.erase_wanted.connect(lambda: confirm_erasing(dialog, opened, athlete_id, dialog.reject))
    dialog.open()
    return dialog


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
        if opened.change(lambda library: erase(library, athlete_id)):
            opened.told.emit(Success(f"Everything about {facts['name']} is erased."))
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
