"""The library behind the window: opened, filled, listed, changed, undone. Long work runs as jobs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from time import monotonic, sleep
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from waxtwin import ASSETS
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps, part
from waxtwin.library.faults import FolderHeldError, ServerAwayError, StaleChangeError
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.work import Runner
from waxtwin.ui.shared.team_link import TeamLink

if TYPE_CHECKING:
    from waxtwin.library.catalogue import Entry
    from waxtwin.library.importing import Brought
    from waxtwin.library.journal import Change
    from waxtwin.library.local import LostDatabaseError
    from waxtwin.library.store import Library

    _Opened = tuple[Library, list[Entry]] | LostDatabaseError

DEMO = ASSETS / "demo"
DEMO_NAME = "Demo: Saltmarrow Lanterns, winter programme. Changes are kept, but it is not yours to keep things in."


_MANY = 400  # throws: a longer list takes more than a moment to read
_PATIENCE = 3.0  # s: an opening that was given up, or a window that closes, lets go of its folder
_FEW = 12  # throws: a change of more of them takes more than a moment


def listed(library: Library) -> list[Entry]:
    """The library's throws."""
    from waxtwin.library.catalogue import entries

    with library.reading() as session:
        return entries(session)


def data_folder() -> Path:
    """Where libraries lie unless the user says otherwise."""
    from platformdirs import user_data_path

    return user_data_path("waxtwin")


def demo_folder() -> Path:
    """Where the demo library is made."""
    return data_folder() / "demo"


def _held(folder: Path, *, afresh: bool, backup: Path | None) -> Steps[Library]:
    """The library in a folder, as soon as nobody else holds it."""
    from waxtwin.library.store import Library

    until = monotonic() + _PATIENCE
    while True:
        yield 0.05
        try:
            return Library(folder, afresh=afresh, backup=backup)
        except FolderHeldError:
            if monotonic() > until:
                raise
            sleep(0.05)


def _let_go(found: _Opened) -> None:
    if not isinstance(found, WaxTwinError):
        found[0].close()


@dataclass(frozen=True, eq=False)
class _Opening:
    """A library that is being opened: its folder, None of a team's, and what waits for it."""

    folder: Path | None
    then: list[Callable[[], None]]


class OpenLibrary(QObject):
    """Holds the one open library.

    `opened` after another library is open; `listed` when the throws on the Bench are other ones; `altered(key)` when
    a throw that may be on show was changed, or any of them (-1); `told(sentence)` for what the user should read;
    `brought(list)` after an import; `overdue(list)` of whose data should not be kept any longer; `lost(fault)` when a
    library's database is gone though its clips or backups are there.
    """

    opened = Signal()
    listed = Signal()
    altered = Signal(int)
    told = Signal(object)
    brought = Signal(object)
    overdue = Signal(object)
    lost = Signal(object)

    def __init__(self, jobs: Runner) -> None:
        super().__init__()
        self._jobs = jobs
        self.store: Library | None = None
        self.entries: list[Entry] = []
        self._opening: _Opening | None = None
        self.team = TeamLink(self, jobs)

    @property
    def is_demo(self) -> bool:
        """Whether it is the demo that is open."""
        return self.store is not None and self.store.folder == demo_folder()

    @property
    def name(self) -> str:
        """The library's name as shown."""
        if self.store is None:
            return "No library is open"
        if self.team.address:
            return f"Team: {self.team.address}"
        return DEMO_NAME if self.is_demo else self.store.folder.name

    def close(self) -> None:
        """Let go of the library."""
        self.team.let_go()
        if self.store is not None:
            self.store.close()
        self.store = None

    # opening -------------------------------------------------------------------------------------------------------
    def open(
        self, folder: Path, then: Callable[[], None] = lambda: None, *, backup: Path | None = None,
        afresh: bool = False,
    ) -> None:  # fmt: skip
        """Open a library, or make one in an empty folder, or put a backup in its place; what was open is let go only
        when that works.
        """

        if self.store is not None and self.store.folder == folder:
            then()
            return
        plain = backup is None and not afresh
        if plain and self._opening is not None and self._opening.folder == folder:  # two clips dropped quickly
            self._opening.then.append(then)
            return

        def work() -> Steps[_Opened]:
            from waxtwin.library.importing import bring
            from waxtwin.library.local import LostDatabaseError
            from waxtwin.ui.shared.demo_talk import add_demo_talk

            try:
                library = yield from _held(folder, afresh=afresh, backup=backup)
            except LostDatabaseError as lost:
                return lost
            try:
                yield 0.3
                if folder == demo_folder() and library.is_new:
                    yield from part(bring(library, DEMO), 0.3, 1.0)
                    add_demo_talk(library)
                    library.forget_changes()
                return library, listed(library)
            except BaseException:
                library.close()
                raise

        self._begin(_Opening(folder, [then]), work)

    def _begin(self, opening: _Opening, work: Callable[[], Steps[_Opened]]) -> None:
        def over() -> None:
            if self._opening is opening:  # and not what took its place
                self._opening = None

        self._opening = opening
        take = partial(self._take, opening.then)
        self._jobs.start("library", work, take, self.told.emit, undelivered=_let_go, over=over)

    def _take(self, waiting: list[Callable[[], None]], found: _Opened) -> None:
        if isinstance(found, WaxTwinError):
            self.lost.emit(found)
            return
        self.close()
        self.store, entries = found
        self.team.follow(self.store)
        self._show(entries)
        self.opened.emit()
        self._remind()
        for then in waiting:
            then()

    def join(self, address: str, clips: Path | None, then: Callable[[], None] = lambda: None) -> None:
        """Open a team's library; what was open is let go only when that works."""

        def work() -> Steps[_Opened]:
            from waxtwin.library.store import Library
            from waxtwin.library.team.address import Address
            from waxtwin.library.team.database import TeamDatabase

            yield 0.1
            library = Library(TeamDatabase(Address.of(address), clips))
            library.catch_up()
            return library, listed(library)

        self._begin(_Opening(None, [then]), work)

    def _remind(self) -> None:
        """Say whose data should not be kept any longer."""
        from datetime import date

        from waxtwin.library.privacy import overdue

        assert self.store is not None
        late = overdue(self.store, date.today())
        if late:
            self.overdue.emit(late)

    def refresh(self, then: Callable[[], object] = lambda: None) -> None:
        """List the throws again, then go on; a long list is read off the interface thread."""
        store = self.store
        if self.team.is_away:  # what is listed stays
            then()
            return
        if store is None or len(self.entries) < _MANY:
            self._show([] if store is None else listed(store))
            then()
            return

        def work() -> Steps[list[Entry]]:
            yield 0.1
            return listed(store)

        def done(entries: list[Entry]) -> None:
            if store is self.store:
                self._show(entries)
                then()

        self._jobs.start("list", work, done, self.told.emit)

    def _show(self, entries: list[Entry]) -> None:
        self.entries = entries
        self.listed.emit()

    def find(self, title: str) -> int | None:
        """Key of the throw of a title, or None."""
        return next((entry.id for entry in self.entries if entry.title == title), None)

    @property
    def people(self) -> dict[int, str]:
        """Everybody with a throw in the library, {athlete: name}."""
        return {entry.athlete_id: entry.name for entry in self.entries}

    def name_of(self, key: int) -> str:
        """What a throw is called in a list: whose it is, and of which day."""
        found = next((one for one in self.entries if one.id == key), None)
        return "" if found is None else ", ".join(dict.fromkeys([found.name, found.recorded or found.title]))

    def athlete_of(self, key: int | None) -> int | None:
        """Whose a throw is, or None."""
        return next((entry.athlete_id for entry in self.entries if entry.id == key), None)

    # bringing in ---------------------------------------------------------------------------------------------------
    def bring(
        self, paths: Sequence[Path], *, link: bool = False, then: Callable[[list[Brought]], None] = lambda _: None
    ) -> None:
        """Import files and folders; what came of them is told in one sentence."""
        library = self.store
        if library is None:
            self.open(data_folder() / "library", lambda: self.bring(paths, link=link, then=then))
            return

        def work() -> Steps[list[Brought]]:
            from waxtwin.library.bundles import take

            found: list[Brought] = []
            for n, path in enumerate(paths):
                found += yield from part(take(library, path, link=link), n / len(paths), (n + 1) / len(paths))
            return found

        def done(found: list[Brought]) -> None:
            def go_on() -> None:
                then(found)
                self.brought.emit(found)

            self.refresh(go_on)

        self._jobs.start("import", work, done, self.told.emit)

    def blend(self, keys: Sequence[int], name: str, then: Callable[[int], None] = lambda _: None) -> None:
        """Average throws into a new one of that name."""
        library = self.store
        if library is None:
            return

        def work() -> Steps[int]:
            from waxtwin.library.blending import keep_blend

            return (yield from keep_blend(library, keys, name))

        def done(key: int) -> None:
            self.refresh(lambda: then(key))

        self._jobs.start("blend", work, done, self.told.emit)

    # changing ------------------------------------------------------------------------------------------------------
    def change(self, work: Callable[[Library], object], key: int = -1) -> bool:
        """Do one change of a few rows; a fault is told and leaves everything as it was. Returns whether it was done."""
        if self.store is None:
            return False
        try:
            work(self.store)
        except ServerAwayError:
            self.team.hold(work, key)
            return False
        except StaleChangeError as fault:
            self.told.emit(Fault(fault))
            self.team.catch_up()
            return False
        except WaxTwinError as fault:
            self.told.emit(Fault(fault))
            return False
        self.announce(key)
        return True

    def announce(self, key: int) -> None:
        """What stands in the library is other than before, of one throw or of any (-1): list again, and tell it."""
        self.refresh()
        self.altered.emit(key)

    def change_many(
        self, work: Callable[[Library], object], key: int = -1, then: Callable[[], object] = lambda: None
    ) -> None:
        """Do a change that touches many rows, or copies the database, off the interface thread; then go on."""
        store = self.store
        if store is None:
            return

        def steps() -> Steps[None]:
            yield 0.1
            work(store)

        def done(_: None) -> None:
            if store is self.store:
                self.announce(key)
                then()

        self._jobs.start("change", steps, done, self.told.emit)

    def change_throws(self, keys: Sequence[int], work: Callable[[Library], object], key: int = -1) -> None:
        """Do a change of some throws: at once where they are few."""
        if len(keys) <= _FEW:
            self.change(work, key)
        else:
            self.change_many(work, key)

    def undo(self) -> None:
        """Take the latest change back."""
        self._turn(None if self.store is None else self.store.next_undo(), lambda library: library.undo())

    def redo(self) -> None:
        """Do the change that was taken back again."""
        self._turn(None if self.store is None else self.store.next_redo(), lambda library: library.redo())

    def _turn(self, change: Change | None, work: Callable[[Library], object]) -> None:
        if change is not None:
            self.change_throws(sorted(change.throws), work)

    def undo_label(self) -> str:
        """What undo would take back, or nothing."""
        found = self.store.next_undo() if self.store and not self.team.is_away else None
        return found.label if found else ""

    def redo_label(self) -> str:
        """What redo would do again, or nothing."""
        found = self.store.next_redo() if self.store and not self.team.is_away else None
        return found.label if found else ""


def summary(found: Sequence[Brought]) -> str:
    """What came of an import, when not simply everything went well."""
    new = sum(1 for b in found if b.key is not None and not b.known)
    known = [b.file.name for b in found if b.known]
    faults = [b.fault for b in found if b.fault]
    if not found:
        from waxtwin.formats.tracks import TRACKS

        return f"There is no delivery here: neither a track ({', '.join(TRACKS)}) nor a clip."
    if not known and not faults:
        return Success(f"{new} throws were brought in." if len(found) > 1 else f"{found[0].file.name} was brought in.")
    parts = [f"{new} brought in."] if new else []
    if known:
        names = ", ".join(known[:3]) + (" and more" if len(known) > 3 else "")
        parts.append(f"Already in the library: {names}.")
    if faults:
        more = f"; and {len(faults) - 3} more" if len(faults) > 3 else ""
        parts.append(f"Not taken: {'; '.join(faults[:3])}{more}.")
    return Fault(" ".join(parts)) if faults else " ".join(parts)
