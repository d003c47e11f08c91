"""From two throws to an explained pair: read, compute, resolve, contrast sessions and further twins, explain, apply.

Knows no Qt: whoever makes it says who runs its work. Inputs are gathered as a snapshot, computed without shared state
and applied once; a newer request replaces the one under way.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from waxtwin.core.contrast import Contrast, Standards
from waxtwin.core.explain import Perspective, explain_steps
from waxtwin.core.single import Single
from waxtwin.ui.model.computing import (
    Inputs,
    Sessions,
    contrast_others,
    contrast_sessions,
    first_figures,
    read,
    read_again,
    resolved,
    resolved_single,
    sessions_of,
    single_figures,
)
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.identity import same_objects
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.work import Runner

if TYPE_CHECKING:
    from waxtwin.library.store import Library
    from waxtwin.library.stored import StoredDelivery

_HANGS_ON_FIGURES = ("margins", "throws", "sessions", "others", "explain")
_MOST_WARNINGS = 3


class PairFlow:
    """Keeps what is worked out at what lies on the desk."""

    def __init__(
        self,
        desk: Desk,
        runner: Runner,
        store: Callable[[], Library | None],
        *,
        standards: Callable[[], Standards],
        perspective: Callable[[], Perspective],
        say: Callable[[str], object],
    ) -> None:
        self._desk, self._pair, self._runner = desk, desk.pair, runner
        self._store, self._standards, self._perspective, self._say = store, standards, perspective, say
        self.leaving: list[Callable[[], object]] = []  # called before another pair is laid on the desk
        self._contrasted: tuple[object, ...] = ()
        self._stale: set[int] = set()  # throws that were changed and are not yet read again
        self._explained: Contrast | None = None
        desk.listen(lambda _: self.recompute(), Topic.LANDING)
        desk.listen(lambda _: self.contrast_others(), Topic.OTHERS)
        desk.listen(lambda _: self.explain(), Topic.THROWS)

    # reading -------------------------------------------------------------------------------------------------------
    def take(self, side: str, key: int) -> None:
        """Read a throw and lay it on a side of the desk; a fault leaves the desk as it is."""
        self._read({side: key}, f"read {side}")

    def take_pair(self, athlete: int, twin: int) -> None:
        """Read two throws and lay both on the desk at once; a fault leaves the desk as it is."""
        self._read(dict(zip(SIDES, (athlete, twin), strict=True)), "read pair")

    def exchange(self) -> None:
        """Lay the athlete's throw on the twin's side, and the twin's on the athlete's."""
        keys = [one.key for side in SIDES if (one := self._pair.stored.get(side)) is not None]
        if len(keys) == len(SIDES) and keys[0] is not None and keys[1] is not None:
            self.take_pair(keys[1], keys[0])

    def take_instants(self) -> None:
        """Lay one throw on both sides, so that two of its instants can be looked at, or laid over each other."""
        lead = self._pair.stored.get(self._pair.lead_side)
        if lead is not None and lead.key is not None:
            self.take_pair(lead.key, lead.key)

    def _read(self, keys: Mapping[str, int], name: str) -> None:
        library = self._store()
        if library is not None:
            self._runner.start(name, lambda: read(library, keys), self._lay, self._say)

    def _lay(self, stored: Mapping[str, StoredDelivery]) -> None:
        for leave in self.leaving:
            leave()
        self._stop_work()
        self._stale.clear()
        self._pair.lay(stored)
        self.recompute()

    def reread(self, key: int) -> None:
        """Read again what is on the desk after a change of the library: one throw, or all of them (-1)."""
        library = self._store()
        self._stale.add(key)  # what a request asked for that this one replaces is read as well
        keys = {
            side: one.key for side, one in self._pair.stored.items()
            if one.key is not None and self._stale & {-1, one.key}
        }  # fmt: skip
        if library is not None and keys:
            self._runner.start(
                "reload", lambda: read_again(library, keys), lambda found: self._renew(keys, found), self._say
            )
        else:
            self._stale.clear()

    def _renew(self, keys: Mapping[str, int], found: Mapping[str, StoredDelivery | None]) -> None:
        self._stale.clear()
        for side, stored in found.items():
            lying = self._pair.stored.get(side)
            if lying is None or lying.key != keys[side]:  # another throw was laid there meanwhile
                continue
            if stored is None:
                self._pair.take_off(side)
            else:
                self._pair.renew({side: stored})
        self.recompute()

    # computing -----------------------------------------------------------------------------------------------------
    def _stop_work(self) -> None:
        self._explained = None
        for name in _HANGS_ON_FIGURES:
            self._runner.cancel(name)

    def _inputs(self) -> Inputs:
        return Inputs(dict(self._pair.stored), self._pair.landing, self._standards())

    def recompute(self) -> None:
        """Work everything out again for what lies on the desk: a pair, or one delivery alone."""
        if not self._pair.stored:
            return
        inputs = self._inputs()
        self._stop_work()
        if not self._pair.complete:
            self._runner.start(
                "figures", lambda: single_figures(inputs), lambda found: self._apply_single(inputs, found), self._say
            )
            return
        self._runner.start(
            "figures", lambda: first_figures(inputs), lambda first: self._apply_first(inputs, first), self._say
        )

    def measure_anew(self, change: Callable[[], object]) -> None:
        """Change what is measured, with no work under way, and work everything out again."""
        self._stop_work()
        self._runner.cancel("figures")
        change()
        self._contrasted = ()
        self.recompute()

    def _apply_single(self, inputs: Inputs, found: Single) -> None:
        new, library = self._pair.analysis(found.side) is None, self._store()
        with self._desk.hub.changing():
            self._pair.set_single(found)
            if new:
                self._desk.clock.hold_landing()
        self._runner.start(
            "margins", lambda: resolved_single(found, inputs, library), self._pair.set_single, self._say
        )  # fmt: skip

    def _apply_first(self, inputs: Inputs, first: Contrast) -> None:
        new = self._pair.contrast is None
        with self._desk.hub.changing():
            self._pair.set_contrast(first)
            if new:
                self._desk.clock.hold_landing()
        self._runner.start(
            "margins", lambda: resolved(first, inputs.standards), lambda pair: self._apply(inputs, pair), self._say
        )
        if new:
            self._say_warnings(first)

    def _say_warnings(self, pair: Contrast) -> None:
        warnings = [
            f"{self._pair.stored[side].title}: {text}"
            for side, analysis in zip(SIDES, (pair.athlete, pair.twin), strict=True)
            for text in analysis.warnings
        ]
        if warnings:
            self._say("  ".join(warnings[:_MOST_WARNINGS]))

    def _apply(self, inputs: Inputs, pair: Contrast) -> None:
        self._pair.set_contrast(pair)
        self.contrast_others()
        library = self._store()
        if library is None:
            self.explain()
            return
        self._runner.start(
            "throws", lambda: sessions_of(library, inputs.stored), lambda found: self._take_sessions(inputs, found),
            self._say,
        )  # fmt: skip

    def _take_sessions(self, inputs: Inputs, sessions: Sessions) -> None:
        self._pair.set_throws(sessions, None)
        self.explain()
        self._runner.start(
            "sessions", lambda: contrast_sessions(inputs, sessions),
            lambda found: self._pair.set_throws(sessions, found), self._say,
        )  # fmt: skip

    def contrast_others(self) -> None:
        """Hold the athlete against further twins too, once the pair itself has its margins."""
        pair, others = self._pair.contrast, dict(self._pair.others)
        if not others or pair is None or not pair.athlete.resolved:
            return
        inputs = self._inputs()
        asked = (inputs.stored["athlete"], inputs.landing, inputs.standards, *others.values())
        if same_objects(asked, self._contrasted) and set(self._pair.other_contrasts) == set(others):
            return

        def apply(found: dict[str, Contrast]) -> None:
            self._contrasted = asked
            self._pair.set_others(others, found)

        self._runner.start("others", lambda: contrast_others(inputs, others), apply, self._say)

    def explain(self) -> None:
        """Work out where the gap comes from, once the figures that tables speak of have their margins."""
        pair = self._pair.figures
        if pair is None or not pair.athlete.resolved or "athlete" not in self._pair.stored:
            return
        if pair is self._explained:  # a session is announced before it is contrasted
            return
        self._explained = pair
        view = self._perspective()
        self._runner.start("explain", lambda: explain_steps(pair, view), self._pair.set_explanation, self._say)

    def judge_again(self) -> None:
        """Judge what is known from where it is looked at now; nothing is computed again."""
        if self._pair.explanation is not None:
            self._pair.set_explanation(self._pair.explanation.seen_from(self._perspective()))
