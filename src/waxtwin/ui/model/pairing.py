"""Bringing a pair to the desk: what is read, computed and delivered in which order. Knows no Qt."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING

from waxtwin.core.analysis import Analysis, resolve_steps
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.errors import TrackError, WaxTwinError
from waxtwin.library.bands import load_bands
from waxtwin.library.delivery import StoredDelivery

if TYPE_CHECKING:
    from waxtwin.library.store import Library


def read_delivery(library: Library, key: int) -> Iterator[object]:
    """Read one throw; yields it last."""
    from waxtwin.library.throws import fetch

    yield 0.1
    stored = fetch(library, key)
    yield 0.8
    yield stored


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


def keep_events(library: Library, key: int, events: Mapping[str, float], label: str) -> None:
    """Keep the stops set by hand. Raises WaxTwinError."""
    from waxtwin.library.throws import set_events

    set_events(library, key, events, label)


def compute(athlete: StoredDelivery, twin: StoredDelivery, landing: str) -> Iterator[object]:
    """Results of a pair: first without resolution, then with it; shares of the work in between."""
    bands = load_bands()
    yield 0.05
    try:
        sides = list(analyse_pair(athlete.delivery, twin.delivery, landing=landing))
    except TrackError as fault:
        raise WaxTwinError(f"{athlete.origin} or {twin.origin}: {fault}") from None
    yield 0.15
    yield contrast(sides[0], sides[1], bands)
    for i in range(2):
        for step in resolve_steps(sides[i]):
            if isinstance(step, float):
                yield 0.15 + 0.42 * (i + step)
            else:
                assert isinstance(step, Analysis)
                sides[i] = step
    yield contrast(sides[0], sides[1], bands)


def moved(events: Mapping[str, float], stop: str, time: float | None) -> dict[str, float]:
    """Stops set by hand with one of them moved, or given back to detection."""
    changed = dict(events)
    if time is None:
        changed.pop(stop, None)
    else:
        changed[stop] = time
    return changed
