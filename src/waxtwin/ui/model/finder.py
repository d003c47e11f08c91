"""Landmarks found in the background of what lies on the desk without any. Knows no Qt."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from waxtwin.core.steps import Steps
from waxtwin.library.jobs.standing import Asked
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.work import Runner

if TYPE_CHECKING:
    from waxtwin.library.store import Library

JOB = "landmarks beside"
_MOST_FRAMES = 4000  # a long clip is trimmed first, not searched for a quarter of an hour unasked
_MODEL = "heavy"


class Finder:
    """Takes one throw after the other, each once; when somebody stops it, it does not begin again by itself.

    `announce(key)` when a throw is other than before, `say(sentence)` for what there is to be said, `wanted()` whether
    it may begin, `hand_over(kind, asked)` whether somebody else does it.
    """

    def __init__(
        self, desk: Desk, runner: Runner, store: Callable[[], Library | None], *, wanted: Callable[[], bool],
        hand_over: Callable[[str, Asked], bool], announce: Callable[[int], object], say: Callable[[str], object],
    ) -> None:  # fmt: skip
        self._pair, self._runner, self._store = desk.pair, runner, store
        self._wanted, self._announce, self._say = wanted, announce, say
        self._hand_over = hand_over
        self._tried: set[tuple[Path, int]] = set()  # (which library, which throw)
        self._under_way: int | None = None
        self._ended = False  # whether the work came to an end of its own
        desk.listen(self._follow, Topic.PAIR)

    def _bare(self) -> list[int]:
        """Throws on the desk that have no landmarks."""
        throws = self._pair.stored.values()
        return list(dict.fromkeys(one.key for one in throws if one.key is not None and one.delivery.track.is_bare))

    def _follow(self, topic: Topic) -> None:
        if self._under_way is not None and self._under_way not in self._bare():
            self._runner.cancel(JOB)  # what was found of it is kept, and gone on with
        self._next()

    def _next(self) -> None:
        library = self._store()
        if library is None or self._under_way is not None or not self._wanted():
            return
        key = next((one for one in self._bare() if (library.folder, one) not in self._tried), None)
        if key is None:
            return
        self._tried.add((library.folder, key))
        side = next(side for side, one in self._pair.stored.items() if one.key == key)
        stored = self._pair.stored[side]
        if stored.delivery.track.times.size > _MOST_FRAMES:
            self._say(f"{stored.origin} is long: trim it in the Prepare room, and its landmarks can be found there.")
            self._next()
            return
        if self._hand_over("landmarks", {"throw": key, "model": _MODEL}):
            self._next()
            return
        self._under_way, self._ended = key, False

        def steps() -> Steps[list[str]]:
            from waxtwin.library.live_throws import prepare_throw

            return (yield from prepare_throw(library, key, _MODEL, gentle=True))

        def done(notes: list[str]) -> None:
            self._ended = True
            self._announce(key)
            if notes:
                self._say(" ".join(notes))

        def failed(fault: str) -> None:
            self._ended = True
            self._say(fault)

        self._runner.start(JOB, steps, done, failed, over=self._over)

    def _over(self) -> None:
        self._under_way = None
        if self._ended:
            self._next()
