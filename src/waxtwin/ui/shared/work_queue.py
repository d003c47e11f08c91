"""Long work that nobody waits for, asked of one place: done here, or by a team's workers where there are any."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.library.jobs.standing import RUNS, Asked, Standing
from waxtwin.ui.model.local_queue import HERE, JOB, LocalQueue
from waxtwin.ui.model.wording import progress_words
from waxtwin.ui.model.work import Runner
from waxtwin.ui.shared.open_library import OpenLibrary

if TYPE_CHECKING:
    from waxtwin.library.team.work import TeamQueue


_BY_HAND = -1_000_000  # numbers of what was begun by hand are below it


class WorkQueue(QObject):
    """`changed` when something else stands in it; `said(sentence)` for what there is to be said."""

    changed = Signal()
    said = Signal(object)

    def __init__(self, library: OpenLibrary, jobs: Runner) -> None:
        super().__init__()
        self._library, self._jobs = library, jobs
        self._here = LocalQueue(
            jobs, lambda: library.store, changed=self.changed.emit, announce=library.announce, say=self.said.emit,
            named=library.name_of,
        )  # fmt: skip
        self._by_hand: dict[str, int] = {}
        self._team: TeamQueue | None = None
        self._of_team: list[Standing] = []
        self._has_workers = False
        library.opened.connect(self._begin)

    def close(self) -> None:
        """Let go of the team's queue."""
        if self._team is not None:
            self._team.close()
        self._team, self._of_team, self._has_workers = None, [], False

    def _begin(self) -> None:
        """Another library: what was asked of this machine is dropped, and what was asked of a team stays there."""
        self.close()
        self._here.clear()
        store = self._library.store
        if store is not None and store.database.shared and not store.database.read_only:
            from waxtwin.library.team.work import TeamQueue

            self._team = TeamQueue(store)
            self.refresh()
        self.changed.emit()

    def ask(self, kind: str, *asked: Asked, urgent: bool = False) -> None:
        """Ask for pieces of work of one kind, each once; a team's workers do first what is `urgent`."""
        team = self._team
        if team is None or not self._has_workers:
            for one in asked:
                self._here.ask(kind, one)
            return

        def work() -> Steps[int]:
            yield 0.1
            return sum(team.ask(kind, one, urgent=urgent) for one in asked)

        def done(taken: int) -> None:
            if taken < len(asked):
                self.said.emit("Some of it waits already.")
            self.refresh()

        self._jobs.start("ask for work", work, done, self.said.emit)

    @property
    def has_workers(self) -> bool:
        """Whether a team's workers are there, as far as it was read."""
        return self._team is not None and self._has_workers

    def hand_over(self, kind: str, asked: Asked) -> bool:
        """Ask a team's workers for what somebody looks at, where there are any; False where it is to be done here."""
        if not self.has_workers:
            return False
        self.ask(kind, asked, urgent=True)
        return True

    @property
    def standings(self) -> list[Standing]:
        """What runs, waits and failed: here, and as far as it was read, by the team."""
        return [*self._begun_by_hand(), *self._here.standings(), *self._of_team]

    def _begun_by_hand(self) -> list[Standing]:
        """What was begun elsewhere in the window, and is waited for there: a film, a report, an import."""
        found = []
        for name, share, left in self._jobs.under_way():
            if name != JOB:
                number = self._by_hand.setdefault(name, _BY_HAND - len(self._by_hand))
                found.append(Standing(number, progress_words(name, None), "", RUNS, HERE, share, left))
        return found

    def refresh(self) -> None:
        """Read anew how the team's work stands."""
        team = self._team
        if team is None or self._library.team.is_away:
            return

        def work() -> Steps[tuple[list[Standing], bool]]:
            yield 0.1
            return team.standings(), team.has_workers()

        def done(found: tuple[list[Standing], bool]) -> None:
            if team is self._team and found != (self._of_team, self._has_workers):
                self._of_team, self._has_workers = found
                self.changed.emit()

        self._jobs.start("work list", work, done, lambda _: None)

    def cancel(self, one: Standing) -> None:
        """Stop a piece of work, or put it away."""
        by_hand = next((name for name, number in self._by_hand.items() if number == one.id), "")
        if by_hand:
            self._jobs.cancel(by_hand)
            self.changed.emit()
        elif one.id < 0:
            self._here.cancel(one.id)
        else:
            self._at_team(lambda team: team.cancel(one.id))

    def again(self, one: Standing) -> None:
        """Try once more what failed."""
        if one.id < 0:
            self._here.again(one.id)
        else:
            self._at_team(lambda team: team.again(one.id))

    def _at_team(self, do: Callable[[TeamQueue], object]) -> None:
        if self._team is None:
            return
        try:
            do(self._team)
        except WaxTwinError as fault:
            self.said.emit(str(fault))
        self.refresh()
