"""A throw of the session as its table shows it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Line:
    """A throw as the table shows it; `troubled` cells carry a sign, `key` is its throw in the library."""

    cells: tuple[str, ...]
    troubled: frozenset[int]
    key: int | None
