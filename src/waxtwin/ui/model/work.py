"""What a flow asks of whoever runs its long work. Knows no Qt and no threads."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, TypeVar

from waxtwin.core.steps import Steps

T = TypeVar("T")


def drop(result: object) -> None:
    """Nothing to close."""


def nothing() -> None:
    """Nothing to do at the end."""


class Runner(Protocol):
    """Runs named work, each name once: a newer request replaces the one that is under way."""

    def start(
        self,
        name: str,
        work: Callable[[], Steps[T]],
        done: Callable[[T], object],
        failed: Callable[[str], object],
        *,
        undelivered: Callable[[T], object] = drop,
        over: Callable[[], object] = nothing,
    ) -> None:
        """Run `work()`: its one result goes to `done`, an expected fault's sentence to `failed`. A result that comes
        after the work was cancelled goes to `undelivered`, which lets go of what it holds. `over` is
        called once however it ends.
        """

    def under_way(self) -> list[tuple[str, float, float | None]]:
        """Long work by name, how far it is (0 to 1), and how many seconds it still takes where that can be told."""
        ...

    def cancel(self, name: str) -> None:
        """Stop work at its next step; nothing of it is delivered."""
