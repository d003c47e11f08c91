"""Bringing a pair to the desk: what is read, computed and delivered in which order. Knows no Qt."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING

from waxtwin.core.analysis import Analysis, resolve_steps
from waxtwin.core.contrast import Contrast, Standards, analyse_alike, analyse_pair, contrast, contrast_sets
from waxtwin.core.errors import TrackError, WaxTwinError
from waxtwin.core.sets import ThrowSet
from waxtwin.core.twins import Shelf
from waxtwin.library.bands import SHIPPED, current_book, load_bands, load_matters, standards_of
from waxtwin.library.stored import StoredDelivery

if TYPE_CHECKING:
    from waxtwin.library.store import Library


def read_delivery(library: Library, key: int) -> Iterator[object]:
    """Read one throw; yields it last."""
    from waxtwin.library.throws import fetch

    yield 0.1
    stored = fetch(library, key)
    yield 0.8
    yield stored


def read_pair(library: Library, keys: Mapping[str, int]) -> Iterator[object]:
    """Read the throws of both sides; yields {side: throw} last."""
    from waxtwin.library.throws import fetch

    found = {}
    for side, key in keys.items():
        yield 0.3
        found[side] = fetch(library, key)
    yield found


def read_again(library: Library, keys: Mapping[str, int]) -> Iterator[object]:
    """Read what lies on the sides again; yields {side: throw, or None for one that is gone}."""
    from waxtwin.library.throws import fetch

    found: dict[str, StoredDelivery | None] = {}
    for side, key in keys.items():
        yield 0.3
        try:
            found[side] = fetch(library, key)
        except WaxTwinError:
            found[side] = None
    yield found


def keep_events(library: Library, key: int, events: Mapping[str, float], label: str, rejected: Collection[str]) -> None:
    """Keep the stops set by hand and those rejected. Raises WaxTwinError."""
    from waxtwin.library.throws import set_events

    set_events(library, key, events, label, rejected)


def compute(athlete: StoredDelivery, twin: StoredDelivery, landing: str, standards: Standards) -> Iterator[object]:
    """Results of a pair: first without resolution, then with it; shares of the work in between."""
    yield 0.05
    try:
        sides = list(analyse_pair(athlete.delivery, twin.delivery, landing=landing))
    except TrackError as fault:
        raise WaxTwinError(f"{athlete.origin} or {twin.origin}: {fault}") from None
    yield 0.15
    yield contrast(sides[0], sides[1], standards)
    for share in _resolve_each(sides, resolve_steps):
        yield 0.15 + 0.84 * share
    yield contrast(sides[0], sides[1], standards)


def _resolve_each(analyses: list[Analysis], steps: Callable[[Analysis], Iterator[float | Analysis]]) -> Iterator[float]:
    """Put each analysis' resolved one in its place, with the share of all of them done after each step."""
    for i, analysis in enumerate(list(analyses)):
        for step in steps(analysis):
            if isinstance(step, Analysis):
                analyses[i] = step
            else:
                yield (i + step) / len(analyses)


def standards_for(population: str) -> tuple[Standards, str]:
    """The chosen population's bands and what matters, and a sentence when the user's own file is damaged and the
    shipped ones serve.
    """
    try:
        return standards_of(current_book(), population), ""
    except WaxTwinError as damaged:
        shipped = Standards(load_bands(SHIPPED, population), load_matters())
        return shipped, f"{damaged} The shipped bands are used until it is mended."


def compute_others(
    athlete: StoredDelivery, others: Mapping[str, StoredDelivery], landing: str, standards: Standards
) -> Iterator[object]:
    """Shares done, then {side: contrast of the athlete with that further twin}."""
    try:
        analyses = analyse_alike([athlete.delivery, *(one.delivery for one in others.values())], landing=landing)
    except TrackError as fault:
        raise WaxTwinError(f"A further twin cannot be measured: {fault}.") from None
    yield from _resolve_each(analyses, partial(resolve_steps, count=_SET_COPIES))
    yield {side: contrast(analyses[0], one, standards) for side, one in zip(others, analyses[1:], strict=True)}


@dataclass(frozen=True)
class Found:
    """What there is to choose a twin from; None for nothing."""

    shelf: Shelf | None


_SET_COPIES = 100  # per throw: the spread between throws is what counts


@dataclass(frozen=True)
class Sessions:
    """The throws of each side's session in their order, `{side: throws}`, and what they give together once known."""

    throws: Mapping[str, tuple[StoredDelivery, ...]]
    contrast: Contrast | None = None


def compute_sets(
    library: Library, pair: Mapping[str, StoredDelivery], landing: str, standards: Standards
) -> Iterator[object]:
    """The sets that a pair's throws belong to: first which throws they are, then the contrast of several."""
    from waxtwin.library.throw_sets import companions

    found: dict[str, tuple[StoredDelivery, ...]] = {}
    for side, stored in pair.items():
        yield 0.02
        found[side] = tuple(sorted((stored, *companions(library, stored)), key=lambda one: one.key or 0))
    yield Sessions(found)
    throws = [*found["athlete"], *found["twin"]]
    keys = [{one.key for one in found[side]} for side in ("athlete", "twin")]
    if len(throws) == 2 or keys[0] & keys[1]:  # two throws of one session: it must not be held against itself
        return
    try:
        analyses = analyse_alike([stored.delivery for stored in throws], landing=landing)
    except TrackError:  # a throw of the session that cannot be measured: the pair on the desk still can
        return
    yield from _resolve_each(analyses, partial(resolve_steps, count=_SET_COPIES))
    count = len(found["athlete"])
    yield Sessions(
        found, contrast_sets(ThrowSet(tuple(analyses[:count])), ThrowSet(tuple(analyses[count:])), standards)
    )


def moved(events: Mapping[str, float], stop: str, time: float | None) -> dict[str, float]:
    """Stops set by hand with one of them moved, or given back to detection."""
    changed = dict(events)
    if time is None:
        changed.pop(stop, None)
    else:
        changed[stop] = time
    return changed
