"""Follows a team's library while it is open: what others change, whether the server answers, and what waits for it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.library.faults import ServerAwayError
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.work import Runner

if TYPE_CHECKING:
    from waxtwin.library.journal import Change
    from waxtwin.library.store import Library
    from waxtwin.library.team.database import TeamDatabase
    from waxtwin.library.team.watch import Watch
    from waxtwin.ui.shared.open_library import OpenLibrary

_MANY = 12  # throws that were changed: beyond them everything is read anew


class TeamLink(QObject):
    """Idle as long as the open library is nobody else's. `stood(sentence)` says how it stands with the server, with
    what `waits` to be sent.
    """

    stood = Signal(object)
    _heard, _went, _came = Signal(), Signal(), Signal()  # from the thread that listens

    def __init__(self, library: OpenLibrary, jobs: Runner) -> None:
        super().__init__()
        self._library, self._jobs = library, jobs
        self._watch: Watch | None = None
        self._store: Library | None = None
        self._database: TeamDatabase | None = None
        self._missed: list[Change] = []
        self._held: list[tuple[Callable[[Library], object], int]] = []
        self._heard.connect(self.catch_up)
        self._went.connect(self._away)
        self._came.connect(self._back)

    @property
    def address(self) -> str:
        """Where the team's library is; empty for one that is nobody else's."""
        return "" if self._database is None else str(self._database.address)

    @property
    def is_away(self) -> bool:
        """Whether the server does not answer."""
        return self._database is not None and self._database.is_away

    @property
    def waits(self) -> int:
        """Changes that could not be sent yet."""
        return len(self._held)

    def follow(self, store: Library) -> None:
        """Follow another library, where others share it."""
        self.let_go()
        database = store.database
        if not database.shared:
            return
        from waxtwin.library.team.database import TeamDatabase
        from waxtwin.library.team.watch import Watch

        assert isinstance(database, TeamDatabase)
        self._store, self._database = store, database
        self._watch = Watch(database.address, database.client, self._heard.emit, self._went.emit, self._came.emit)
        for note in database.notes:
            self._library.told.emit(Fault(note))

    def let_go(self) -> None:
        """Follow nothing any more; what waited is dropped."""
        if self._watch is not None:
            self._watch.close()
        self._watch = self._store = self._database = None
        self._held.clear()
        self._missed.clear()

    # others --------------------------------------------------------------------------------------------------------
    def catch_up(self) -> None:
        """Read what others changed, and show it."""
        store = self._store
        if store is None or self.is_away:
            return

        def work() -> Steps[None]:
            yield 0.1
            self._missed += store.catch_up()

        def done(_: None) -> None:
            found, self._missed[:] = [*self._missed], []
            if store is self._store and (found or store.database.read_only):
                self._library.refresh(lambda: self._show(found))

        self._jobs.start("team", work, done, lambda _: None)  # that it went away is told by the watch

    def _show(self, found: list[Change]) -> None:
        throws = {key for change in found for key in change.throws}
        anything = not found or len(throws) > _MANY
        for key in (-1,) if anything else throws or (0,):
            self._library.altered.emit(key)

    # the server ----------------------------------------------------------------------------------------------------
    def hold(self, work: Callable[[Library], object], key: int) -> None:
        """Keep a change until the server answers."""
        self._held.append((work, key))
        self.lost()

    def is_of(self, fault: object) -> bool:
        """Whether a fault is that this server did not answer: then how it stands is what has to be told."""
        away = isinstance(fault, ServerAwayError) and self._database is not None
        return away and str(fault).startswith(f"{self.address}:")

    def lost(self, besides: str = "") -> None:
        """Somebody was not answered; whoever watches the server may have a connection that still holds."""
        if self._watch is not None and not self.is_away:
            self._watch.doubt()
        self._away(besides)

    def drop(self) -> None:
        """Let go of what waits."""
        self._held.clear()

    def _away(self, besides: str = "") -> None:
        if self._database is None:
            return
        self._database.is_away = True
        count = f"{self.waits} {'change' if self.waits == 1 else 'changes'}"
        waits = f" {count} of yours will be sent then." if self.waits else ""
        said = "The team's server does not answer. What is on screen stays, and it is tried again by itself."
        self.stood.emit(Fault(f"{said}{waits}{besides}"))

    def _back(self) -> None:
        """Send what waited, in its order; what somebody else changed meanwhile is not overwritten."""
        if self._store is None or self._database is None:
            return
        self._database.is_away = False
        held, self._held[:] = [*self._held], []
        sent, faults = 0, []
        for n, (work, key) in enumerate(held):
            try:
                work(self._store)
            except ServerAwayError:
                self._held += held[n:]
                self.lost()
                return
            except WaxTwinError as fault:
                faults.append(str(fault))
                continue
            sent += 1
            self._library.altered.emit(key)
        said = "The team's server answers again." + (f" Sent: {sent}." if sent else "")
        self.stood.emit(Fault(" ".join([said, *faults])) if faults else Success(said))
        self._library.refresh()
