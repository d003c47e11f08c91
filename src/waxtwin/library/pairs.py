"""Kept pairs: which throws were held beside each other, why, how they were shown, and notes pinned to stops."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from math import isfinite
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from waxtwin.core.against_twins import MOST_TWINS
from waxtwin.core.errors import plain
from waxtwin.library.faults import LibraryError
from waxtwin.library.records import DeliveryRow, PairRow
from waxtwin.library.store import Library

TWIN, PAST, PEERS = "twin", "past", "peers"
_LONGEST = 60  # characters of a tied moment's name


@dataclass(frozen=True)
class Note:
    """A note pinned to a stop of one side."""

    stop: str
    side: str
    text: str
    at: str


@dataclass(frozen=True)
class Tie:
    """A moment that somebody tied by eye: seconds of the athlete's throw and of the twin's, by a name of its own."""

    name: str
    athlete: float
    twin: float
    at: str

    @property
    def id(self) -> str:
        """What the clocks know it by, beside the stops."""
        return f"tie {self.at}"


@dataclass(frozen=True)
class Pair:
    """A pair as it was left; `others` further twins' throws, `state` how everything was shown."""

    id: int
    name: str
    athlete: int
    twin: int
    others: tuple[int, ...]
    kind: str
    why: str
    notes: tuple[Note, ...]
    state: Mapping[str, Any] = field(default_factory=dict)
    opened: str = ""
    names: tuple[str, str] = ("", "")
    ties: tuple[Tie, ...] = ()

    @property
    def title(self) -> str:
        """Its name, or who is beside whom."""
        return self.name or f"{self.names[0]} beside {self.names[1]}"


def kind_of(library: Library, athlete: int, twin: int) -> str:
    """What a pair of throws is by itself: of one athlete, or of two."""
    with library.reading() as session:
        rows = [session.get(DeliveryRow, key) for key in (athlete, twin)]
        return PAST if rows[0] and rows[1] and rows[0].athlete_id == rows[1].athlete_id else TWIN


def open_pair(library: Library, athlete: int, twin: int) -> Pair:
    """The kept pair of two throws, made when new; it counts as opened now. Raises LibraryError."""
    kind = kind_of(library, athlete, twin)
    with library.quietly() as session:
        row = _of(session, athlete, twin)
        if row is None:
            row = PairRow(athlete_throw=athlete, twin_throw=twin, kind=kind, others=[], notes=[], state={}, opened="")
            session.add(row)
        row.opened = datetime.now(UTC).isoformat()
        session.flush()
        return _pair(session, row)


def kept_pair(library: Library, athlete: int, twin: int) -> Pair | None:
    """The kept pair of two throws as it is, or None."""
    with library.reading() as session:
        row = _of(session, athlete, twin)
        return None if row is None else _pair(session, row)


def recent(library: Library, count: int = 6) -> list[Pair]:
    """The pairs that were on the desk last, latest first."""
    with library.reading() as session:
        rows = session.scalars(select(PairRow).order_by(PairRow.opened.desc()).limit(count)).all()
        return [_pair(session, row) for row in rows]


def keep_state(library: Library, key: int, state: Mapping[str, Any]) -> None:
    """How a pair is shown, as it is left; nobody undoes that, so it is no entry of the journal."""
    with library.quietly() as session:
        row = session.get(PairRow, key)
        if row is not None:
            row.state = dict(state)


def change_pair(library: Library, key: int, label: str, /, **values: Any) -> None:
    """Change a pair's name, kind, reason or other twins, as one change. Raises LibraryError."""
    with library.change(label) as session:
        row = _row(session, key)
        for name, value in values.items():
            setattr(row, name, value)


def pin_note(library: Library, key: int, stop: str, side: str, text: str) -> None:
    """Pin a note to a stop of a side, as one change. Raises LibraryError."""
    with library.change("Pin a note") as session:
        row = _row(session, key)
        note = {"stop": stop, "side": side, "text": text, "at": datetime.now(UTC).isoformat()}
        row.notes = [*row.notes, note]


def unpin_note(library: Library, key: int, note: Note) -> None:
    """Take a note off again, as one change. Raises LibraryError."""
    with library.change("Take a note off") as session:
        row = _row(session, key)
        row.notes = [one for one in row.notes if (one.get("at"), one.get("text")) != (note.at, note.text)]


def tie_moment(library: Library, key: int, name: str, athlete: float, twin: float) -> None:
    """Tie a moment of both throws, seconds of each, as one change. Raises LibraryError."""
    with library.change("Tie a moment") as session:
        row = _row(session, key)
        tie = {"name": plain(name)[:_LONGEST], "athlete": round(athlete, 5), "twin": round(twin, 5)}
        row.ties = [*row.ties, tie | {"at": datetime.now(UTC).isoformat()}]


def untie_moment(library: Library, key: int, tie: Tie) -> None:
    """Take a tied moment off again, as one change. Raises LibraryError."""
    with library.change("Take a tied moment off") as session:
        row = _row(session, key)
        row.ties = [one for one in row.ties if one.get("at") != tie.at]


def forget_pair(library: Library, key: int) -> None:
    """Take a pair off the list; its throws stay. Raises LibraryError."""
    with library.change("Forget a pair") as session:
        session.delete(_row(session, key))


def _of(session: Session, athlete: int, twin: int) -> PairRow | None:
    wanted = select(PairRow).where(PairRow.athlete_throw == athlete, PairRow.twin_throw == twin).order_by(PairRow.id)
    return session.scalars(wanted).first()


def _row(session: Session, key: int) -> PairRow:
    row = session.get(PairRow, key)
    if row is None:
        raise LibraryError("this pair is not kept any more")
    return row


def _pair(session: Session, row: PairRow) -> Pair:
    throws = [session.get(DeliveryRow, key) for key in (row.athlete_throw, row.twin_throw)]
    names = tuple("" if one is None else one.who for one in throws)
    return Pair(row.id, row.name, row.athlete_throw, row.twin_throw, _keys(row.others), row.kind, row.why,
                tuple(_notes(row.notes)), dict(row.state), row.opened, (names[0], names[1]),
                tuple(_ties(row.ties)))  # fmt: skip


def _keys(others: Sequence[Any]) -> tuple[int, ...]:
    return tuple(int(one) for one in others if isinstance(one, int))[: MOST_TWINS - 1]


def _ties(ties: Sequence[Any]) -> list[Tie]:
    found = []
    for one in ties:
        with suppress(TypeError, ValueError, AttributeError):  # a bundle may bring anything
            at = float(one["athlete"]), float(one["twin"])
            if all(map(isfinite, at)):
                found.append(Tie(plain(str(one.get("name", "")))[:_LONGEST], *at, str(one.get("at", ""))))
    return found


def _notes(notes: Sequence[Any]) -> list[Note]:
    return [Note(*(str(one.get(part, "")) for part in ("stop", "side", "text", "at"))) for one in notes
            if isinstance(one, dict)]  # fmt: skip
