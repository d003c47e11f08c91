"""Importing a lab file whose markers somebody has to map."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from PySide6.QtWidgets import QWidget

from waxtwin.core.errors import WaxTwinError
from waxtwin.formats.registry import LabSetup, read_raw
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.shared.open_library import OpenLibrary
from waxtwin.ui.shell.jobs import Jobs
from waxtwin.ui.shell.marker_dialog import MappingDialog


def open_mapping(parent: QWidget, librarian: OpenLibrary, jobs: Jobs, file: Path) -> MappingDialog | None:
    """Show the file's markers and import it the way that is said. A file that cannot be read is told."""
    try:
        raw = read_raw(file)
    except WaxTwinError as fault:
        librarian.told.emit(Fault(fault))
        return None
    dialog = MappingDialog(file, raw, "R", parent)

    def bring(setup: object, throws: str) -> None:
        assert isinstance(setup, LabSetup)
        library = librarian.library
        if library is None:
            librarian.told.emit("Open a library first, then import the file.")
            return

        def steps() -> Iterator[object]:
            from waxtwin.formats.sidecar import Lab
            from waxtwin.library.importing import bring_one

            yield 0.1
            yield bring_one(library, file, lab=Lab.of(setup), throws=throws)

        def done(_: object) -> None:
            librarian.refresh()
            librarian.told.emit(Success(f"{file.name} was brought in."))

        jobs.start("import", steps, done, librarian.told.emit)

    dialog.kept.connect(bring)
    dialog.open()
    return dialog
