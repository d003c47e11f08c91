"""Importing a lab file whose markers somebody has to map."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.formats.tracks import LabSetup, read_raw
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.work import Runner
from waxtwin.ui.shared.open_library import OpenLibrary
from waxtwin.ui.shell.marker_dialog import MappingDialog

if TYPE_CHECKING:
    from waxtwin.library.importing import Brought


def open_mapping(parent: QWidget, opened: OpenLibrary, jobs: Runner, file: Path) -> MappingDialog | None:
    """Show the file's markers and import it the way that is said. A file that cannot be read is told."""
    try:
        raw = read_raw(file)
    except WaxTwinError as fault:
        opened.told.emit(Fault(fault))
        return None
    dialog = MappingDialog(file, raw, "R", parent)

    def bring(setup: LabSetup, throws: str) -> None:
        library = opened.store
        if library is None:
            opened.told.emit("Open a library first, then import the file.")
            return

        def steps() -> Steps[Brought]:
            from waxtwin.formats.sidecar import Lab
            from waxtwin.library.importing import bring_one

            yield 0.1
            return bring_one(library, file, lab=Lab.of(setup), throws=throws)

        def done(_: object) -> None:
            opened.refresh()
            opened.told.emit(Success(f"{file.name} was brought in."))

        jobs.start("import", steps, done, opened.told.emit)

    dialog.kept.connect(bring)
    dialog.open()
    return dialog
