"""The pair on the desk and what was worked out for it. Knows no Qt."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from waxtwin.core.analysis import Analysis
from waxtwin.core.contrast import Contrast
from waxtwin.core.explain import Explanation
from waxtwin.core.single import Single
from waxtwin.core.stops import LANDING, ORDER
from waxtwin.library.stored import StoredDelivery
from waxtwin.ui.model.identity import same_objects
from waxtwin.ui.model.topics import Hub, Topic

if TYPE_CHECKING:
    from waxtwin.library.pairs import Pair, Tie

SIDES = ("athlete", "twin")
OTHERS = ("twin2", "twin3", "twin4")  # further twins: seen and contrasted, but corrected in a pair of their own


def _same(one: Mapping[str, tuple[object, ...]], other: Mapping[str, tuple[object, ...]]) -> bool:
    """Whether the very same things lie on the same sides."""
    return set(one) == set(other) and all(same_objects(found, other[side]) for side, found in one.items())


class PairState:
    """Deliveries by side and their results. Tells PAIR, FACTS, FIGURES, THROWS, EXPLANATION, KEPT, OTHERS, REPORT and
    LANDING.
    """  # fmt: skip

    def __init__(self, hub: Hub[Topic]) -> None:
        self._hub = hub
        self.stored: Mapping[str, StoredDelivery] = {}
        self.landing = "touch"
        self.whole = True
        self._forget()

    def _forget(self) -> None:
        """Let go of everything that was worked out for a pair."""
        self.contrast: Contrast | None = None
        self.single: Single | None = None
        self.throws: Contrast | None = None
        self.explanation: Explanation | None = None
        self.kept: Pair | None = None
        self.sessions: Mapping[str, tuple[StoredDelivery, ...]] = {}
        self.others: Mapping[str, StoredDelivery] = {}
        self.other_contrasts: Mapping[str, Contrast] = {}
        self.report: Mapping[str, object] = {}

    # which deliveries ----------------------------------------------------------------------------------------------
    def lay(self, stored: Mapping[str, StoredDelivery]) -> None:
        """Lay deliveries on sides, {side: throw}; what was worked out before goes. Raises ValueError for no side."""
        if not set(stored) <= set(SIDES):
            raise ValueError(f"no such side: {', '.join(set(stored) - set(SIDES))}")
        self.stored = {side: one for side in SIDES if (one := stored.get(side, self.stored.get(side))) is not None}
        self._forget()
        self._hub.tell(Topic.PAIR)

    def renew(self, stored: Mapping[str, StoredDelivery]) -> None:
        """The same throws read again: what is known about them may be other than before."""
        if any(self.stored.get(side) is not one for side, one in stored.items()):
            self.stored = {**self.stored, **stored}
            self._hub.tell(Topic.FACTS)

    def take_off(self, side: str) -> None:
        """Take a side's delivery off the desk; what was worked out for the pair goes with it."""
        if side in self.stored:
            self.stored = {other: stored for other, stored in self.stored.items() if other != side}
            self._forget()
            self._hub.tell(Topic.PAIR)

    def clear(self) -> None:
        """An empty desk."""
        if self.stored:
            self.stored = {}
            self._forget()
            self._hub.tell(Topic.PAIR)

    @property
    def complete(self) -> bool:
        """Whether both sides are taken."""
        return len(self.stored) == len(SIDES)

    @property
    def shown_sides(self) -> tuple[str, ...]:
        """Every side that has a stage: athlete, twin, and further twins."""
        return (*SIDES, *self.others)

    @property
    def is_one_throw(self) -> bool:
        """Whether both sides are the same throw: two of its instants are looked at, and nothing is contrasted."""
        keys = {one.key for one in self.stored.values()}
        return self.complete and len(keys) == 1 and None not in keys

    @property
    def is_bare(self) -> bool:
        """Whether a side has a clip and no landmarks yet."""
        return any(one.delivery.track.is_bare for one in self.stored.values())

    def stored_of(self, side: str) -> StoredDelivery | None:
        """The throw on a side, further twins included."""
        return self.stored.get(side) or self.others.get(side)

    # what was worked out -------------------------------------------------------------------------------------------
    def set_contrast(self, contrast: Contrast) -> None:
        """Results for the pair."""
        if contrast is not self.contrast:
            self.contrast = contrast
            self._hub.tell(Topic.FIGURES)

    def set_single(self, single: Single) -> None:
        """Results for a delivery that lies on the desk alone."""
        self.single = single
        self._hub.tell(Topic.FIGURES)

    def set_throws(self, sessions: Mapping[str, tuple[StoredDelivery, ...]], contrast: Contrast | None) -> None:
        """The sides' whole sessions, and their contrast once it is known."""
        if not _same(sessions, self.sessions) or contrast is not self.throws:
            self.sessions, self.throws = sessions, contrast
            self._hub.tell(Topic.THROWS)

    def set_whole(self, whole: bool) -> None:
        """Figures of every throw of the sessions, or of the two throws on the stages."""
        if whole != self.whole:
            self.whole = whole
            self._hub.tell(Topic.THROWS)

    def set_explanation(self, explanation: Explanation | None) -> None:
        """Where the gap comes from."""
        if explanation is not self.explanation:
            self.explanation = explanation
            self._hub.tell(Topic.EXPLANATION)

    def set_kept(self, kept: Pair | None) -> None:
        """What is kept about the pair: its name, kind, reason and notes."""
        if kept != self.kept:
            self.kept = kept
            self._hub.tell(Topic.KEPT)

    def set_report(self, wish: Mapping[str, object]) -> None:
        """What the athlete is to see of this pair, as it is kept."""
        if wish != self.report:
            self.report = wish
            self._hub.tell(Topic.REPORT)

    def set_others(self, others: Mapping[str, StoredDelivery], contrasts: Mapping[str, Contrast]) -> None:
        """Further twins beside the first, {side of OTHERS: throw}, with what is worked out for them so far."""
        if others or self.others:
            self.others, self.other_contrasts = dict(others), dict(contrasts)
            self._hub.tell(Topic.OTHERS)

    def set_landing(self, landing: str) -> None:
        """Choose which stop counts as landing for the pair; results must be worked out again. Raises ValueError."""
        if landing not in LANDING:
            raise ValueError(f"no such landing: {landing}")
        if landing != self.landing:
            self.landing = landing
            self._hub.tell(Topic.LANDING)

    # reading -------------------------------------------------------------------------------------------------------
    @property
    def kind(self) -> str:
        """What the pair is: "twin", "past" (one athlete before and now) or "peers"."""
        return self.kept.kind if self.kept is not None else "twin"

    @property
    def figures(self) -> Contrast | None:
        """The contrast that tables and accounts speak of: whole sessions where there are any and they are wanted."""
        if self.is_one_throw:
            return None
        return self.throws if self.whole and self.throws is not None else self.contrast

    @property
    def all_contrasts(self) -> list[Contrast]:
        """The pair's contrast and those with further twins, as far as they are known."""
        return [] if self.contrast is None else [self.contrast, *self.other_contrasts.values()]

    def analysis(self, side: str) -> Analysis | None:
        """The results of one side."""
        if self.contrast is None:
            return self.single.analysis if self.single is not None and self.single.side == side else None
        if side in OTHERS:
            found = self.other_contrasts.get(side)
            return None if found is None else found.twin
        return self.contrast.athlete if side == "athlete" else self.contrast.twin

    def event_times(self, side: str) -> dict[str, float]:
        """A side's stops, s on its own clock."""
        analysis = self.analysis(side)
        return {} if analysis is None else analysis.event_times

    @property
    def ties(self) -> tuple[Tie, ...]:
        """Moments that somebody tied by eye; they hold clocks together and enter no measure."""
        return self.kept.ties if self.kept is not None else ()

    def tied_times(self, side: str) -> dict[str, float]:
        """A side's stops and tied moments, s on its own clock."""
        times = self.event_times(side)
        if side in SIDES and times:
            times = times | {tie.id: tie.athlete if side == "athlete" else tie.twin for tie in self.ties}
        return times

    def stops(self) -> list[str]:
        """Stops known on both sides, or of the one delivery that lies here alone, in order."""
        known = [self.event_times(side) for side in (SIDES if self.complete else self.stored)]
        return [name for name in ORDER if known and all(name in times for times in known)]

    @property
    def lead_side(self) -> str:
        """The side whose clock the desk's is: the athlete's, or the twin's where it lies here alone."""
        return "twin" if "athlete" not in self.stored and "twin" in self.stored else "athlete"

    @property
    def measured_sides(self) -> tuple[str, ...]:
        """Sides that there are results of."""
        return tuple(side for side in SIDES if self.analysis(side) is not None)

    def asked(self) -> dict[str, tuple[str, ...]]:
        """Stops that were found but are not used until somebody sets them, with the sides that ask for them."""
        held = {side: self.analysis(side) for side in SIDES}
        found = {
            stop: tuple(side for side, one in held.items() if one is not None and stop in one.withheld)
            for stop in ORDER
        }
        return {stop: sides for stop, sides in found.items() if sides}
