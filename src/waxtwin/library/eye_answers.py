"""Answers to eye checks, kept with their throws."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from waxtwin.core.eye import EyeAnswer, EyeCheck
from waxtwin.core.stops import EVENTS
from waxtwin.library.eye import KEPT
from waxtwin.library.store import Library
from waxtwin.library.stored import StoredDelivery
from waxtwin.library.throws import delivery_row


def keep_answer(library: Library, key: int, check: EyeCheck, answer: EyeAnswer | None) -> dict[str, Any]:
    """Keep an answer about a throw, or take it back, as one change; returns all of the throw's answers as kept.

    Raises LibraryError.
    """
    with library.change(f"Eye check, {EVENTS[check.at].short}") as session:
        row = delivery_row(session, key)
        kept = {name: one for name, one in dict(row.extra.get(KEPT) or {}).items() if name != check.id}
        if answer is not None:
            kept[check.id] = {"answer": answer.answer, "by": answer.by, "at": answer.at}
        row.extra = {**row.extra, KEPT: kept}
    return kept


def with_answers(stored: StoredDelivery, kept: Mapping[str, Any]) -> StoredDelivery:
    """The throw with these answers about it."""
    from waxtwin.formats.sidecar import EyeSaid

    said = {name: EyeSaid.model_validate(one) for name, one in kept.items()}
    return replace(stored, sidecar=stored.sidecar.model_copy(update={KEPT: said}))
