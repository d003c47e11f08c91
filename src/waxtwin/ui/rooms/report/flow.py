"""The Report room's work: composing, previewing, and writing what is sent out, all off the interface thread."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from waxtwin.core.analysis import Analysis
from waxtwin.core.contrast import Contrast
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.single import Single
from waxtwin.core.steps import Steps
from waxtwin.formats.place import file_name
from waxtwin.library.eye import load_checks, looked_at
from waxtwin.library.stored import Clip
from waxtwin.report.alone import compose_alone
from waxtwin.report.document import compose
from waxtwin.report.parts import Material, Report, Wish, wish_document, wish_from
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import waiting_words
from waxtwin.ui.model.work import nothing
from waxtwin.ui.rooms.report.page_view import SHEET
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.custody import ask_agreed
from waxtwin.ui.shared.export import Images, page_of, write_clip, write_report
from waxtwin.ui.shared.file_dialogs import ask_folder, ask_save
from waxtwin.ui.shared.footage import clip_for, footage_of
from waxtwin.ui.shared.material import material_of
from waxtwin.ui.shared.pair_images import PairImages, SingleImages

if TYPE_CHECKING:
    import numpy as np

    from waxtwin.ui.rooms.report.room import ReportRoom

_REST_MS = 500  # the preview follows once the hand rests
_NO_STOPS = (
    "There are no landmarks yet, so a report shows the clips' own frames at their stops: set some in the Pair room, on "
    "both sides where there are two."
)
_OF_PAIRS = ("clip", "data", "bundle")  # what there is only of two
_TYPES = {"pdf": "PDF (*.pdf)", "html": "HTML (*.html)", "clip": "Clips (*.mp4)", "bundle": "Bundles (*.waxtwin)"}


class ReportFlow(QObject):
    """Keeps the preview at what is on the desk and in the plan."""

    def __init__(self, context: Context, room: ReportRoom) -> None:
        super().__init__(room)
        self.desk, self.room, self.library, self.jobs = context.desk, room, context.library, context.jobs
        self._board, self._tell = context.plan, context.say
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_REST_MS)
        self._timer.timeout.connect(self.preview)
        room.form.changed.connect(self._edit)
        room.asked.connect(self.ask)
        room.entered.connect(self.preview)
        context.desk.listen(
            lambda _: self._follow(), Topic.PAIR, Topic.FIGURES, Topic.THROWS, Topic.EXPLANATION, Topic.UNITS,
            Topic.REPORT, Topic.KEPT, Topic.FACTS, Topic.CHALK,
        )  # fmt: skip
        self._follow()

    @property
    def wish(self) -> Wish:
        """What the athlete is to see, as it was kept with the pair."""
        return wish_from(self.desk.pair.report, imperial=self.desk.view.imperial)

    def _edit(self, wish: Wish) -> None:
        self.desk.pair.set_report(wish_document(wish))

    def _follow(self) -> None:
        self.room.form.show_wish(self.wish)
        self._state()
        if self.room.isVisible():
            self._timer.start()

    def _alone(self) -> Single | None:
        """The delivery that lies on the desk alone, once its figures have their margins."""
        pair = self.desk.pair
        single = None if pair.complete else pair.single
        return single if single is not None and single.analysis.resolved else None

    def _state(self) -> bool:
        """Say how far it is; whether there is something to report."""
        pair, alone = self.desk.pair, self._alone()
        words = _NO_STOPS if pair.is_bare and not pair.stops() else ""
        if not words and self.material() is None and alone is None:
            words = waiting_words(pair, "Working out where the speed is lost…", needs="A report")
        self.room.show_state(words or self.room.state.text(), ready=not words)
        for kind in _OF_PAIRS if not words else ():
            self.room.buttons[kind].setEnabled(alone is None)
        return not words

    def material(self) -> Material | None:
        """What a report of the desk is made from, or None as long as something is missing."""
        return material_of(self.desk, self._board)

    def compose(self) -> Report | None:
        """The report as it stands."""
        material = self.material()
        return None if material is None else compose(material, self.wish, date.today())

    def _names(self) -> tuple[str, str]:
        """Whose report it is, as they are called."""
        material, alone = self.material(), self._alone()
        if material is not None:
            return material.names
        return ("" if alone is None else alone.analysis.delivery.name), ""

    def _made(self, wish: Wish) -> tuple[Report, Images] | None:
        """The report as wished for, of the pair or of the one delivery, with what paints its pictures."""
        material, alone, chalk = self.material(), self._alone(), self.desk.chalk
        if material is not None:
            report = compose(material, wish, date.today())
            pair, names = material.pair, (report.athlete, report.twin)
            footage = {side: clips for side, clips in self._footage().items() if wish.footage or side in pair.bare}
            near = {side: self.desk.closeups.of(side) for side in SIDES}
            return report, PairImages(pair, names, report.imperial, footage, chalk.drawn_on(pair), near)
        if alone is None:
            return None
        stored = self.desk.pair.stored[alone.side]
        report = compose_alone(
            alone, wish, date.today(), outcome=self._board.state.outcome, born=stored.sidecar.athlete.born,
            looked=looked_at(load_checks()[0], stored, None),
        )  # fmt: skip
        marks = chalk.of(alone.side) if chalk.visible else ()
        clips = self._footage().get(alone.side, ()) if wish.footage or alone.analysis.motion.is_bare else ()
        closeup = self.desk.closeups.of(alone.side)
        return report, SingleImages(alone, report.athlete, report.imperial, marks, clips, closeup)

    def _shown(self) -> dict[str, Analysis]:
        """{side: what the report shows of it}."""
        material, alone = self.material(), self._alone()
        if material is not None:
            return {"athlete": material.pair.athlete, "twin": material.pair.twin}
        return {} if alone is None else {alone.side: alone.analysis}

    def _footage(self) -> dict[str, tuple[Clip, ...]]:
        pair = self.desk.pair
        return footage_of(
            self._shown(), {side: (one, *pair.sessions.get(side, ())) for side, one in pair.stored.items()}
        )

    # preview -------------------------------------------------------------------------------------------------------
    def preview(self) -> None:
        """Make the pages and show them."""
        self._timer.stop()
        made = self._made(self.wish) if self._state() else None
        usual = None if made is None else self._made(replace(self.wish, wording={}))
        if made is None or usual is None:
            return
        report, images = made
        self.room.form.show_usual(usual[0], self._names())
        footage, shown = self._footage(), self._shown()
        named = [(side, name, shown[side].motion.is_bare) for side, name in zip(shown, self._names(), strict=False)]
        filmed = {name: clip_for(footage[side], ()) is not None for side, name, bare in named if not bare}
        self.room.form.tell_footage(filmed, [name for _, name, bare in named if bare])
        self.room.state.setText("making the pages…")

        def work() -> Steps[list[np.ndarray]]:
            from waxtwin.report.pdf import pdf, sheets

            page = yield from page_of(report, images, 0.2)
            data = pdf(page)
            yield 0.9
            return list(sheets(data, SHEET))

        self.jobs.start("preview", work, self._show, self._failed)

    def _show(self, pages: list[np.ndarray]) -> None:
        self.room.state.setText(f"{len(pages)} {'page' if len(pages) == 1 else 'pages'}, as the athlete will see them")
        self.room.show_sheets(pages)

    def _failed(self, sentence: str) -> None:
        self.room.state.setText("")
        self._tell(sentence)

    # sending out ---------------------------------------------------------------------------------------------------
    def ask(self, kind: str) -> None:
        """Ask where to, then write it; what shows a person is thought about first."""
        if kind == "bundle" or self.wish.footage or self.desk.pair.is_bare:
            self.agreed = ask_agreed(self.room, self._not_agreed(), lambda: self._ask_where(kind))
        else:
            self._ask_where(kind)

    def _not_agreed(self) -> list[str]:
        from waxtwin.library.privacy import not_agreed

        library = self.library.store
        keys = [stored.key for stored in self.desk.pair.stored.values() if stored.key is not None]
        return [] if library is None else not_agreed(library, keys, date.today())

    def _ask_where(self, kind: str) -> None:
        made = self._made(self.wish)
        if made is None:
            return
        report = made[0]
        if kind == "data":
            chosen = ask_folder(self.room, "Choose a folder for measures, stops, curves and tracks")
        else:
            suffix = {"clip": "mp4", "bundle": "waxtwin"}.get(kind, kind)
            beside = f" beside {file_name(report.twin)}" if report.twin else ""
            usual = f"{file_name(report.athlete)}{beside}.{suffix}"
            chosen = ask_save(self.room, "Save as", usual, _TYPES[kind])
        if chosen:
            self.save(kind, chosen)

    def save(self, kind: str, path: Path) -> None:
        """Write the report, a clip, data or a bundle; progress and cancel as for everything that takes long."""
        made = self._made(self.wish)
        if made is None:
            return
        report, images = made
        if kind in ("pdf", "html"):
            self._write(kind, lambda: write_report(report, images, path), path)
        elif kind == "bundle":
            self._write(kind, lambda: self._bundle(path), path)
        elif isinstance(images, PairImages) and kind == "clip":
            self._write(kind, lambda: write_clip(report, images, path), path)
        elif isinstance(images, PairImages) and kind == "data":
            pair = images.pair
            self._write(kind, lambda: self._data(pair, path), path, lambda: self._save_plots(pair, path))

    def _write(
        self, kind: str, make: Callable[[], Steps[object]], path: Path, then: Callable[[], object] = nothing
    ) -> None:
        def done(_: object) -> None:
            then()
            self._tell(Success(f"Written: {path.name}."))

        self.jobs.start(f"write {kind}", make, done, self._tell)

    def _save_plots(self, pair: Contrast, folder: Path) -> None:
        """The plots too, where there are any; they are widgets, so they are drawn on this thread."""
        from waxtwin.ui.shared.gallery import save_all

        if pair.bare:
            return
        try:
            for _ in save_all(pair, folder):
                pass
        except WaxTwinError as fault:
            self._tell(Fault(fault))

    def _data(self, pair: Contrast, folder: Path) -> Steps[object]:
        from waxtwin.report.data import renamed, sides_of, write_data

        wish = self.wish
        one, two = (getattr(wish, side) or self.desk.pair.stored[side].title for side in SIDES)
        pair = renamed(pair, (one, two))
        return (yield from write_data(folder, sides_of(pair), pair))

    def _bundle(self, path: Path) -> Steps[None]:
        from waxtwin.library.bundles import bundle_pair

        library, kept = self.library.store, self.desk.pair.kept
        assert library is not None and kept is not None
        yield from bundle_pair(library, kept.id, path)
