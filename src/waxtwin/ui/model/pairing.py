"""Bringing a pair to the desk: what is read, computed and delivered in which order. Knows no Qt."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path

from waxtwin.core.analysis import Analysis, resolve_steps
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.errors import TrackError, WaxTwinError
from waxtwin.library.bands import load_bands
from waxtwin.library.delivery import StoredDelivery, load


def read_delivery(path: Path) -> Iterator[object]:
    """Read one throw; yields it last."""
    yield 0.1
    stored = load(path)
    yield 0.8
    yield stored


def compute(athlete: StoredDelivery, twin: StoredDelivery, landing: str) -> Iterator[object]:
    """Results of a pair: first without resolution, then with it; shares of the work in between."""
    bands = load_bands()
    yield 0.05
    try:
        sides = list(analyse_pair(athlete.delivery, twin.delivery, landing=landing))
    except TrackError as fault:
        raise WaxTwinError(f"{athlete.path.name} or {twin.path.name}: {fault}") from None
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
