"""How long work stands, whether it is done on this machine or by others."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

Asked = Mapping[str, Any]  # plain values, so that they can be kept and sent
WAITS, RUNS, FAILED = "waits", "runs", "failed"


@dataclass(frozen=True)
class Standing:
    """How a piece of work stands: its number, kind and what it is about; `by` whom it is done, `share` 0 to 1 how far,
    `left_s` how long yet as far as that can be told, `says` why it failed.
    """

    id: int
    kind: str
    about: str
    state: str
    by: str = ""
    share: float | None = None
    left_s: float | None = None
    says: str = ""
