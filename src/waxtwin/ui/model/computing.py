"""What is read and computed for a pair, step by step. Knows no Qt and no desk."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from waxtwin.core.analysis import Analysis, resolve_steps
from waxtwin.core.contrast import Contrast, Standards, analyse_alike, contrast, contrast_sets
from waxtwin.core.errors import TrackError, WaxTwinError
from waxtwin.core.sets import ThrowSet
from waxtwin.core.single import Single, against_bands
from waxtwin.core.steps import Steps, part
from waxtwin.core.stops import StopsByHand
from waxtwin.core.trend import Figures
from waxtwin.library.bands import SHIPPED, current_book, load_bands, load_matters, standards_of
from waxtwin.library.stored import StoredDelivery

if TYPE_CHECKING:
    from waxtwin.library.store import Library

_SET_COPIES = 100  # per throw: the spread between throws is what counts
Sessions = Mapping[str, tuple[StoredDelivery, ...]]


@dataclass(frozen=True)
class Inputs:
    """Everything that a pair's figures hang on: the throws {side: throw}, what counts as landing, bands and matters."""

    stored: Mapping[str, StoredDelivery]
    landing: str
    standards: Standards


def read(library: Library, keys: Mapping[str, int]) -> Steps[dict[str, StoredDelivery]]:
    """Read throws, {side: throw}. Raises WaxTwinError."""
    from waxtwin.library.throws import fetch

    found = {}
    for n, (side, key) in enumerate(keys.items()):
        yield 0.1 + 0.8 * n / len(keys)
        found[side] = fetch(library, key)
    return found


def read_again(library: Library, keys: Mapping[str, int]) -> Steps[dict[str, StoredDelivery | None]]:
    """Read what lies on the sides again, {side: throw, or None for one that is gone}."""
    from waxtwin.library.throws import fetch

    found: dict[str, StoredDelivery | None] = {}
    for side, key in keys.items():
        yield 0.3
        try:
            found[side] = fetch(library, key)
        except WaxTwinError:
            found[side] = None
    return found


def first_figures(inputs: Inputs) -> Steps[Contrast]:
    """The pair without margins. Raises WaxTwinError."""
    one, two = (inputs.stored[side] for side in ("athlete", "twin"))
    yield 0.05
    try:
        athlete, twin = analyse_alike([one.delivery, two.delivery], landing=inputs.landing)
    except TrackError as fault:
        raise WaxTwinError(f"{one.origin} or {two.origin}: {fault}") from None
    return contrast(athlete, twin, inputs.standards)


def single_figures(inputs: Inputs) -> Steps[Single]:
    """The one throw that lies on the desk alone, without margins. Raises WaxTwinError."""
    [(side, stored)] = inputs.stored.items()
    yield 0.05
    try:
        [found] = analyse_alike([stored.delivery], landing=inputs.landing)
    except TrackError as fault:
        raise WaxTwinError(f"{stored.origin}: {fault}") from None
    return against_bands(side, found, inputs.standards)


def resolved_single(first: Single, inputs: Inputs, library: Library | None) -> Steps[Single]:
    """The same with margins, and against the sessions that the athlete threw before. Raises WaxTwinError."""
    [stored] = inputs.stored.values()
    [found] = yield from part(_resolve_each([first.analysis]), 0.0, 0.5)
    earlier: list[Figures] = []
    date = stored.sidecar.recorded or ""
    if library is not None and stored.key is not None and date and not stored.delivery.track.is_bare:
        from waxtwin.library.log import figures_before

        earlier = yield from part(figures_before(library, stored.key, date, inputs.landing), 0.5, 1.0)
    return against_bands(first.side, found, inputs.standards, earlier, date)


def resolved(first: Contrast, standards: Standards) -> Steps[Contrast]:
    """The same pair with margins."""
    athlete, twin = yield from _resolve_each([first.athlete, first.twin])
    return contrast(athlete, twin, standards)


def _resolve_each(analyses: list[Analysis], copies: int | None = None) -> Steps[list[Analysis]]:
    found = []
    for i, analysis in enumerate(analyses):
        steps = resolve_steps(analysis) if copies is None else resolve_steps(analysis, count=copies)
        found.append((yield from part(steps, i / len(analyses), (i + 1) / len(analyses))))
    return found


def contrast_others(inputs: Inputs, others: Mapping[str, StoredDelivery]) -> Steps[dict[str, Contrast]]:
    """{side: the athlete against that further twin}. Raises WaxTwinError."""
    throws = [inputs.stored["athlete"].delivery, *(one.delivery for one in others.values())]
    try:
        analyses = analyse_alike(throws, landing=inputs.landing)
    except TrackError as fault:
        raise WaxTwinError(f"A further twin cannot be measured: {fault}.") from None
    athlete, *twins = yield from _resolve_each(analyses, _SET_COPIES)
    return {side: contrast(athlete, one, inputs.standards) for side, one in zip(others, twins, strict=True)}


def sessions_of(library: Library, stored: Mapping[str, StoredDelivery]) -> Steps[Sessions]:
    """The throws of each side's session in their order."""
    from waxtwin.library.throw_sets import companions

    found: dict[str, tuple[StoredDelivery, ...]] = {}
    for side, one in stored.items():
        yield 0.5
        found[side] = tuple(sorted((one, *companions(library, one)), key=lambda throw: throw.key or 0))
    return found


def contrast_sessions(inputs: Inputs, sessions: Sessions) -> Steps[Contrast | None]:
    """The contrast of several throws a side; None where there is but one each, or they are of one session."""
    athlete, twin = (sessions[side] for side in ("athlete", "twin"))
    # a session must not be held against itself
    if len(athlete) + len(twin) == 2 or {one.key for one in athlete} & {one.key for one in twin}:
        return None
    try:
        analyses = analyse_alike([one.delivery for one in (*athlete, *twin)], landing=inputs.landing)
    except TrackError:  # a throw of the session that cannot be measured: the pair on the desk still can
        return None
    found = yield from _resolve_each(analyses, _SET_COPIES)
    count = len(athlete)
    return contrast_sets(ThrowSet(tuple(found[:count])), ThrowSet(tuple(found[count:])), inputs.standards)


def standards_for(population: str) -> tuple[Standards, str]:
    """The chosen population's bands and what matters, and a sentence when the user's own file is damaged and the
    shipped ones serve.
    """
    try:
        return standards_of(current_book(), population), ""
    except WaxTwinError as damaged:
        shipped = Standards(load_bands(SHIPPED, population), load_matters())
        return shipped, f"{damaged} The shipped bands are used until it is mended."


def keep_events(library: Library, said: Mapping[int, StopsByHand], label: str) -> None:
    """Keep what somebody says about the stops of throws, {key: all of it}. Raises WaxTwinError."""
    from waxtwin.library.throws import set_events

    set_events(library, said, label)
