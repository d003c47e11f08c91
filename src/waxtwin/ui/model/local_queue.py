"""Long work done on this machine, one piece after the other, while somebody does something else. Knows no Qt."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import count
from time import monotonic
from typing import TYPE_CHECKING

from waxtwin.core.steps import Steps
from waxtwin.library.jobs.standing import FAILED, RUNS, WAITS, Asked, Standing
from waxtwin.ui.model.work import Runner

if TYPE_CHECKING:
    from waxtwin.library.store import Library

JOB = "queued work"
HERE = "this machine"


@dataclass
class _Piece:
    """Work that was asked for, and when it began."""

    standing: Standing
    kind: str
    asked: Asked
    began: float = 0.0

    def steps(self, library: Library) -> Steps[list[str]]:
        """Do it, and keep how far it is."""
        from waxtwin.library.jobs.kinds import KINDS

        steps = KINDS[self.kind].run(library, self.asked)
        while True:
            try:
                share = next(steps)
            except StopIteration as end:
                return list(end.value or [])
            self.standing = replace(self.standing, share=share)
            yield share

    def timed(self) -> Standing:
        """How it stands, with how long it will still take at its pace so far."""
        share = self.standing.share
        if not share:
            return self.standing
        return replace(self.standing, left_s=(monotonic() - self.began) * (1 - share) / share)


class LocalQueue:
    """`changed()` when something else stands in it, `announce(key)` when a throw is other than before, `say(sentence)`
    for what there is to be said, `named(key)` what a throw is called.
    """

    def __init__(
        self, runner: Runner, store: Callable[[], Library | None], *, changed: Callable[[], object],
        announce: Callable[[int], object], say: Callable[[str], object], named: Callable[[int], str],
    ) -> None:  # fmt: skip
        self._runner, self._store = runner, store
        self._changed, self._announce, self._say, self._named = changed, announce, say, named
        self._pieces: dict[int, _Piece] = {}
        self._numbers = count(-1, -1)  # below zero: above are a team's

    def ask(self, kind: str, asked: Asked) -> bool:
        """Put a piece of work at the end; False where the same is there already."""
        from waxtwin.library.jobs.kinds import KINDS

        if any((one.kind, one.asked) == (kind, asked) for one in self._pieces.values() if one.standing.state != FAILED):
            return False
        number = next(self._numbers)
        about = self._named(asked["throw"]) if "throw" in asked else ""
        self._pieces[number] = _Piece(Standing(number, KINDS[kind].title, about, WAITS), kind, asked)
        self._changed()
        self._next()
        return True

    def standings(self) -> list[Standing]:
        """What runs, waits and failed."""
        return [one.timed() for one in self._pieces.values()]

    def cancel(self, number: int) -> None:
        """Stop a piece of work, do not begin with it, or put away what failed."""
        piece = self._pieces.get(number)
        if piece is None:  # it has just ended
            return
        if piece.standing.state == RUNS:
            self._runner.cancel(JOB)
        else:
            del self._pieces[number]
            self._changed()

    def again(self, number: int) -> None:
        """Try once more what failed."""
        piece = self._pieces.pop(number, None)
        if piece is not None:
            self.ask(piece.kind, piece.asked)

    def clear(self) -> None:
        """Let go of everything."""
        self._pieces.clear()
        self._runner.cancel(JOB)

    def _next(self) -> None:
        """Begin with the next piece, unless one is under way."""
        states = [one.standing.state for one in self._pieces.values()]
        store = self._store()
        if store is None or RUNS in states or WAITS not in states:
            return
        piece = next(one for one in self._pieces.values() if one.standing.state == WAITS)
        number = piece.standing.id
        piece.standing, piece.began = replace(piece.standing, state=RUNS, by=HERE, share=0.0), monotonic()

        def done(notes: list[str]) -> None:
            self._pieces.pop(number, None)
            if notes:
                self._say(" ".join(notes))
            self._announce(int(piece.asked.get("throw", -1)))

        def failed(fault: str) -> None:
            piece.standing = replace(piece.standing, state=FAILED, says=str(fault), share=None, by="")

        def over() -> None:
            if piece.standing.state == RUNS:  # stopped
                self._pieces.pop(number, None)
            self._changed()
            self._next()

        self._runner.start(JOB, lambda: piece.steps(store), done, failed, over=over)
