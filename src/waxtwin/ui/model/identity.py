"""Whether a result still stands: it does while it was worked out from the very same objects."""

from __future__ import annotations

from collections.abc import Sequence


def same_objects(some: Sequence[object], others: Sequence[object]) -> bool:
    """Whether two rows hold the very same objects; throws and tracks hold arrays and are not compared by value."""
    return len(some) == len(others) and all(one is other for one, other in zip(some, others, strict=True))
