"""What a session's log holds: its throws and what each device said about them, as JSON."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from waxtwin.core.readings import LiveThrow, Reading
from waxtwin.library.faults import LibraryError
from waxtwin.library.records import Athlete, ThrowingSession
from waxtwin.library.store import Library
from waxtwin.library.throws import session_on

ARM_SENSOR = "arm sensor"  # a run of the log that holds what a sensor on the arm said, and no throws of its own


def throw_document(throw: LiveThrow, key: int | None) -> dict[str, Any]:
    """A logged throw as JSON."""
    return {
        "at": round(throw.at, 3),
        "delivery": key,
        "readings": [reading_document(one) for one in throw.readings.values()],
    }


def reading_document(one: Reading) -> dict[str, Any]:
    """What a device said as JSON."""
    value = None if one.value is None else round(one.value, 3)
    return {"device": one.device, "at": round(one.at, 3), "state": one.state, "value": value, "note": one.note}


def sessions_of(session: Session, athlete_id: int) -> Iterable[ThrowingSession]:
    """An athlete's days, in order."""
    wanted = select(ThrowingSession).where(ThrowingSession.athlete_id == athlete_id)
    return session.scalars(wanted.order_by(ThrowingSession.date))


def keep_run(
    library: Library, athlete_id: int, what: str, run: str, days: Mapping[str, Sequence[dict[str, Any]]]
) -> None:
    """Keep {ISO day: entries} of a run in the place of what was kept of it on these days, as one change called by
    `what` it is. Raises LibraryError.
    """
    with library.change(f"{what} {', '.join(sorted(days))[:60]}") as session:
        athlete = session.get(Athlete, athlete_id)
        if athlete is None:
            raise LibraryError("this athlete is not in the library any more")
        for day, entries in days.items():
            row = session_on(session, athlete, day)
            assert row is not None
            others = [one for one in row.log if not (isinstance(one, dict) and one.get("run") == run)]
            row.log = [*others, *(one | {"run": run} for one in entries)]
