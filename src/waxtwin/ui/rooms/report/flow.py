"""The Report room's work: composing, previewing, and writing what is sent out, all off the interface thread."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from waxtwin.core.contrast import Contrast
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.explain import Explanation
from waxtwin.formats.place import file_name
from waxtwin.report.document import Material, Report, Wish, compose, wish_document, wish_from
from waxtwin.ui.model.desk import SIDES, Desk
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.rooms.plan.state import PlanState
from waxtwin.ui.rooms.report.room import SHEET, ReportRoom
from waxtwin.ui.shared.custody import ask_agreed
from waxtwin.ui.shared.export import lit_of, page_of, write_clip, write_report
from waxtwin.ui.shared.file_dialogs import ask_folder, ask_save
from waxtwin.ui.shared.open_library import OpenLibrary
from waxtwin.ui.shared.pair_images import PairImages, clips_for
from waxtwin.ui.shell.jobs import Jobs

if TYPE_CHECKING:
    import numpy as np

_REST_MS = 500  # the preview follows once the hand rests
_TYPES = {"pdf": "PDF (*.pdf)", "html": "HTML (*.html)", "clip": "Clips (*.mp4)", "bundle": "Bundles (*.waxtwin)"}


class ReportFlow(QObject):
    """Keeps the preview at what is on the desk and in the plan."""

    def __init__(
        self, desk: Desk, room: ReportRoom, librarian: OpenLibrary, jobs: Jobs, plan: Callable[[], PlanState],
        tell: Callable[[object], None],
    ) -> None:  # fmt: skip
        super().__init__(room)
        self.desk, self.room, self.librarian, self.jobs = desk, room, librarian, jobs
        self._plan, self._tell = plan, tell
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_REST_MS)
        self._timer.timeout.connect(self.preview)
        room.form.changed.connect(self._edit)
        room.asked.connect(self.ask)
        room.entered.connect(self.preview)
        desk.listen(self._told)

    @property
    def wish(self) -> Wish:
        """What the athlete is to see, as it was kept with the pair."""
        return wish_from(self.desk.report, imperial=self.desk.imperial)

    def _edit(self, wish: Wish) -> None:
        self.desk.set_report(wish_document(wish))

    def _told(self, topic: str) -> None:
        if topic in ("pair", "figures", "throws", "explanation", "units", "report", "kept"):
            self.room.form.show_wish(self.wish)
            self._state()
            if self.room.isVisible():
                self._timer.start()

    def _ready(self) -> tuple[Contrast, Explanation] | None:
        pair, found = self.desk.figures, self.desk.explanation
        return None if pair is None or found is None else (pair, found)

    def _state(self) -> None:
        if not self.desk.stored:
            self.room.show_state("Choose a pair on the Bench first; the demo has one.", ready=False)
        elif self._ready() is None:
            self.room.show_state("Working out where the speed is lost…", ready=False)
        else:
            self.room.show_state(self.room.state.text(), ready=True)

    def material(self) -> Material | None:
        """What a report of the desk is made from, or None as long as something is missing."""
        ready = self._ready()
        if ready is None:
            return None
        state = self._plan()
        kept = self.desk.kept
        return Material(*ready, state.plan, state.tasks, state.outcome, kept.why if kept else "")

    def compose(self) -> Report | None:
        """The report as it stands."""
        material = self.material()
        return None if material is None else compose(material, self.wish, date.today())

    # preview -------------------------------------------------------------------------------------------------------
    def preview(self) -> None:
        """Make the pages and show them."""
        self._timer.stop()
        material = self.material()
        self._state()
        if material is None:
            return
        report = compose(material, self.wish, date.today())
        self.room.form.show_usual(compose(material, replace(self.wish, wording={}), date.today()), material.names)
        self.room.state.setText("making the pages…")
        plates = PairImages(material.pair, (report.athlete, report.twin), report.imperial)

        def work() -> Iterator[object]:
            from waxtwin.report.pdf import pdf, sheets

            page = yield from page_of(report, plates, 0.2)
            data = pdf(page)
            yield 0.9
            yield list(sheets(data, SHEET))

        self.jobs.start("preview", work, self._show, self._failed)

    def _show(self, found: object) -> None:
        assert isinstance(found, list)
        pages: list[np.ndarray] = found
        self.room.state.setText(f"{len(pages)} {'page' if len(pages) == 1 else 'pages'}, as the athlete will see them")
        self.room.show_sheets(pages)

    def _failed(self, sentence: str) -> None:
        self.room.state.setText("")
        self._tell(sentence)

    # sending out ---------------------------------------------------------------------------------------------------
    def ask(self, kind: str) -> None:
        """Ask where to, then write it; what shows a person is thought about first."""
        if kind == "bundle" or self.wish.footage:
            self.agreed = ask_agreed(self.room, self._not_agreed(), lambda: self._ask_where(kind))
        else:
            self._ask_where(kind)

    def _not_agreed(self) -> list[str]:
        from waxtwin.library.privacy import not_agreed

        library = self.librarian.library
        keys = [stored.key for stored in self.desk.stored.values() if stored.key is not None]
        return [] if library is None else not_agreed(library, keys, date.today())

    def _ask_where(self, kind: str) -> None:
        report = self.compose()
        if report is None:
            return
        if kind == "data":
            chosen = ask_folder(self.room, "Choose a folder for measures, stops, curves and tracks")
        else:
            suffix = {"clip": "mp4", "bundle": "waxtwin"}.get(kind, kind)
            usual = f"{file_name(report.athlete)} beside {file_name(report.twin)}.{suffix}"
            chosen = ask_save(self.room, "Save as", usual, _TYPES[kind])
        if chosen:
            self.save(kind, chosen)

    def save(self, kind: str, path: Path) -> None:
        """Write the report, a clip, data or a bundle; progress and cancel as for everything that takes long."""
        material = self.material()
        if material is None:
            return
        report = compose(material, self.wish, date.today())
        clips = clips_for(self.desk.stored, lit_of(report)) if self.wish.footage else {}
        plates = PairImages(material.pair, (report.athlete, report.twin), report.imperial, clips)
        makers: dict[str, Callable[[], Iterator[object]]] = {
            "pdf": lambda: write_report(report, plates, path), "html": lambda: write_report(report, plates, path),
            "clip": lambda: write_clip(report, plates, path), "data": lambda: self._data(material.pair, path),
            "bundle": lambda: self._bundle(path),
        }  # fmt: skip

        def work() -> Iterator[object]:
            yield from makers[kind]()
            yield (path,)

        def done(_: object) -> None:
            if kind == "data":
                self._save_plots(material.pair, path)
            self._tell(Success(f"Written: {path.name}."))

        self.jobs.start(f"write {kind}", work, done, self._tell)

    def _save_plots(self, pair: Contrast, folder: Path) -> None:
        """The plots too; they are widgets, so they are drawn on this thread."""
        from waxtwin.ui.shared.gallery import save_all

        try:
            for _ in save_all(pair, folder):
                pass
        except WaxTwinError as fault:
            self._tell(Fault(fault))

    def _data(self, pair: Contrast, folder: Path) -> Iterator[object]:
        from waxtwin.report.data import renamed, sides_of, write_data

        wish = self.wish
        one, two = (getattr(wish, side) or self.desk.stored[side].title for side in SIDES)
        pair = renamed(pair, (one, two))
        for step in write_data(folder, sides_of(pair), pair):
            if isinstance(step, float):
                yield step

    def _bundle(self, path: Path) -> Iterator[object]:
        from waxtwin.library.bundles import bundle_pair

        library, kept = self.librarian.library, self.desk.kept
        assert library is not None and kept is not None
        yield from bundle_pair(library, kept.id, path)
