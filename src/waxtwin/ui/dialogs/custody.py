"""An athlete's data in the user's hands: changed, handed out, erased."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from waxtwin.core.cautions import is_minor
from waxtwin.core.errors import WaxTwinError
from waxtwin.formats.place import file_name
from waxtwin.ui.dialogs.athlete import AthleteDialog
from waxtwin.ui.jobs import Jobs
from waxtwin.ui.librarian import Librarian


def open_athlete(parent: QWidget, librarian: Librarian, jobs: Jobs, athlete_id: int) -> AthleteDialog | None:
    """Open the athlete's dialog and carry out what is asked in it."""
    from waxtwin.library.privacy import athlete_facts, erase, export_athlete, set_athlete_facts

    library = librarian.library
    if library is None:
        return None
    try:
        facts = athlete_facts(library, athlete_id)
    except WaxTwinError as fault:
        librarian.told.emit(str(fault))
        return None
    dialog = AthleteDialog(facts, parent)

    def keep(changed: dict) -> None:
        done = librarian.change(lambda library: set_athlete_facts(library, athlete_id, changed))
        if done and is_minor(changed["born"], date.today()) and not changed["consent_on"]:
            librarian.told.emit(f"{changed['name']} is under age: note when a guardian agreed to filming and keeping.")

    def hand_out() -> None:
        chosen = QFileDialog.getExistingDirectory(dialog, "Choose a folder to write everything into")
        if chosen:
            jobs.start(
                "export", lambda: export_athlete(library, athlete_id, Path(chosen)),
                lambda folder: librarian.told.emit(f"Everything about {facts['name']} was written to {folder}."),
                librarian.told.emit,
            )  # fmt: skip

    def bundle() -> None:
        from waxtwin.library.bundles import bundle_athlete

        usual = f"{file_name(facts['name'])}.waxtwin"
        chosen, _ = QFileDialog.getSaveFileName(dialog, "Save as", usual, "Bundles (*.waxtwin)")

        def work() -> Iterator[object]:
            yield from bundle_athlete(library, athlete_id, Path(chosen))
            yield (chosen,)

        if chosen:
            jobs.start("write bundle", work, lambda _: librarian.told.emit(f"Written: {Path(chosen).name}."),
                       librarian.told.emit)  # fmt: skip

    def carry_out() -> None:
        librarian.change(lambda library: erase(library, athlete_id))
        dialog.reject()

    def confirm_erasing() -> None:
        box = QMessageBox(dialog)
        box.setWindowTitle("Erase for good")
        box.setText(f"Erase {facts['name']} with {facts['throws_kept']} throws, their clips, tracks and notes?")
        box.setInformativeText(
            "This cannot be undone. The list of changes and the backups are emptied too, so that nothing stays in "
            "them; linked clips outside the library are yours to delete."
        )
        yes = box.addButton("Erase", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Keep", QMessageBox.ButtonRole.RejectRole)
        yes.clicked.connect(carry_out)
        box.open()

    dialog.kept.connect(keep)
    dialog.export_wanted.connect(hand_out)
    dialog.bundle_wanted.connect(bundle)
    dialog.erase_wanted.connect(confirm_erasing)
    dialog.open()
    return dialog
