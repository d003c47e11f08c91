"""Long work as a generator: each yield is the share done and a place to stop, the result is what it returns."""

from __future__ import annotations

from collections.abc import Callable, Generator
from typing import TypeVar

T = TypeVar("T")
Steps = Generator[float, None, T]


def finish(steps: Steps[T], progress: Callable[[float], object] | None = None) -> T:
    """Work through to the result; `progress` is told every share done (0 to 1)."""
    while True:
        try:
            share = next(steps)
        except StopIteration as end:
            found: T = end.value
            return found
        if progress is not None:
            progress(share)


def part(steps: Steps[T], low: float, high: float) -> Steps[T]:
    """The same work as a part of a larger one: its shares run from `low` to `high`."""
    while True:
        try:
            share = next(steps)
        except StopIteration as end:
            found: T = end.value
            return found
        yield low + (high - low) * share
