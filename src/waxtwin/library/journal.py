"""The journal: every change of a library with its rows before and after, so that each can be undone and done again."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import delete, event, inspect, or_, select, update
from sqlalchemy.orm import Session

from waxtwin.library.database import Database
from waxtwin.library.faults import StaleChangeError
from waxtwin.library.records import JOURNALLED, Base, ChangeRow, DeliveryRow, FiguresRow, PairRow, ProfileRow

KEPT = 400  # changes that can be undone; older ones are let go


@dataclass(frozen=True)
class Change:
    """A change as the screens show it; `throws` are the keys of those that it touched, `person` made it `at` (ISO)."""

    id: int
    label: str
    tables: frozenset[str]
    throws: frozenset[int] = frozenset()
    person: str = ""
    at: str = ""


class _Images:
    """Rows touched in a session, before and after."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._before: dict[tuple[str, Any], dict[str, Any] | None] = {}
        self._touched: dict[tuple[str, Any], Any] = {}
        event.listen(session, "before_flush", self._look)
        event.listen(session, "after_flush", self._name_new)

    def _look(self, session: Session, *_: object) -> None:
        for row in (*session.dirty, *session.deleted):
            if isinstance(row, JOURNALLED):
                key = (row.__tablename__, row.id)
                if key not in self._before and (row in session.deleted or session.is_modified(row)):
                    self._before[key] = _committed(row)
                    self._touched[key] = row
        self._new = [row for row in session.new if isinstance(row, JOURNALLED)]

    def _name_new(self, *_: object) -> None:
        for row in self._new:
            self._before.setdefault((row.__tablename__, row.id), None)
            self._touched[(row.__tablename__, row.id)] = row

    def rows(self) -> list[dict[str, Any]]:
        """One entry per touched row that really differs."""
        found = []
        for (table, key), before in self._before.items():
            row = self._touched[(table, key)]
            state = inspect(row)
            after = None if state.was_deleted or state.deleted else _values(row)
            if before != after:
                found.append({"table": table, "id": key, "before": before, "after": after})
        return found


def _values(row: Any) -> dict[str, Any]:
    return {column.key: getattr(row, column.key) for column in inspect(row).mapper.column_attrs}


def _committed(row: Any) -> dict[str, Any]:
    """The row's values as they lie in the database."""
    state = inspect(row)
    values = {}
    for column in state.mapper.column_attrs:
        history = state.attrs[column.key].history
        values[column.key] = history.deleted[0] if history.deleted else getattr(row, column.key)
    return values


class Journal:
    """The changes of one database, as one person works on it.

    Where others share it, a change of what another program changed after this one last `caught_up` is refused, and so
    is undoing what somebody else changed since. Whoever never catches up is never behind: each change stands on what it
    has just read.
    """

    def __init__(self, database: Database) -> None:
        self._database = database
        self._seen: int | None = None

    @contextmanager
    def entry(self, session: Session, label: str) -> Iterator[None]:
        """Commit what is done in the block as one change under a label; nothing at all when it fails.

        Raises StaleChangeError.
        """
        images = _Images(session)
        with session.begin():
            yield
            session.flush()
            rows = images.rows()
            if rows:
                self._write(session, label, rows)

    def _write(self, session: Session, label: str, rows: list[dict[str, Any]]) -> None:
        who = self._database
        at = who.in_turn(session)
        self._refuse_stale(session, rows)
        session.execute(delete(ChangeRow).where(ChangeRow.undone, ChangeRow.person == who.person))
        row = ChangeRow(at=at, label=label, rows=rows, person=who.person, client=who.client)
        session.add(row)
        session.flush()
        who.noted(row.id)

    # others --------------------------------------------------------------------------------------------------------
    def catch_up(self, session: Session) -> list[Change]:
        """What other programs did since this was last asked, oldest first; from now on nothing of it is unknown."""
        if self._database.read_only:  # the journal knows what is withheld, so it is not shown
            return []
        since = self._seen
        wanted = select(ChangeRow).where(ChangeRow.client != self._database.client).order_by(ChangeRow.id)
        found = [] if since is None else [_change(row) for row in session.scalars(wanted.where(ChangeRow.id > since))]
        last = session.scalars(select(ChangeRow.id).order_by(ChangeRow.id.desc()).limit(1)).first() or 0
        self._seen = max(since or 0, last)
        return found

    def _refuse_stale(self, session: Session, rows: Sequence[Mapping[str, Any]]) -> None:
        if self._seen is None or not self._database.shared:
            return
        other = self._others(session, self._seen, rows)
        if other is not None:
            raise StaleChangeError(f"{_said(other)}; your change was not kept: look again.")

    def _others(self, session: Session, since: int, rows: Sequence[Mapping[str, Any]]) -> ChangeRow | None:
        """The last change after another one, made, undone or done again by another program, of one of these rows."""
        wanted = select(ChangeRow).where(ChangeRow.id > since, ChangeRow.client != self._database.client)
        touched = _touched(rows)
        found = session.scalars(wanted.order_by(ChangeRow.id.desc()))
        return next((row for row in found if touched & _touched(row.rows)), None)

    # undo ----------------------------------------------------------------------------------------------------------
    def latest(self, session: Session, *, undone: bool) -> Change | None:
        """The change of this person's that undo (or redo) would take next."""
        if self._database.read_only:
            return None
        # where others must hear of it, what is undone gets a new number
        order = ChangeRow.id.asc() if undone and not self._database.shared else ChangeRow.id.desc()
        wanted = select(ChangeRow).where(ChangeRow.undone == undone, ChangeRow.person == self._database.person)
        row = session.scalars(wanted.order_by(order).limit(1)).first()
        return None if row is None else _change(row)

    def turn(self, session: Session, *, back: bool) -> Change | None:
        """Undo the latest change, or do the latest undone one again; None when there is none.

        Raises StaleChangeError where somebody else has changed the same since.
        """
        with session.begin():
            self._database.in_turn(session)
            found = self.latest(session, undone=not back)
            if found is None:
                return None
            row = session.get_one(ChangeRow, found.id)
            if self._database.shared:
                other = self._others(session, found.id, row.rows)
                if other is not None and other.person != self._database.person:
                    doing = "undone" if back else "done again"
                    raise StaleChangeError(f"{_said(other)} since, so “{row.label}” cannot be {doing}.")
            for entry in reversed(row.rows) if back else row.rows:
                _restore(session, entry["table"], entry["id"], entry["before" if back else "after"])
            session.execute(
                update(ChangeRow).where(ChangeRow.id == found.id)
                .values(undone=back, client=self._database.client, id=self._database.number_of(session, found.id))
            )  # fmt: skip
        session.expire_all()
        return found

    def prune(self, session: Session) -> None:
        """Let go of this person's changes beyond the last KEPT."""
        mine = ChangeRow.person == self._database.person
        with session.begin():
            wanted = select(ChangeRow.id).where(mine).order_by(ChangeRow.id.desc()).offset(KEPT).limit(1)
            oldest = session.scalars(wanted).first()
            if oldest is not None:
                session.execute(delete(ChangeRow).where(ChangeRow.id <= oldest, mine))


def _change(row: ChangeRow) -> Change:
    tables = frozenset(entry["table"] for entry in row.rows)
    throws = frozenset(key for entry in row.rows for key in _throws(entry))
    return Change(row.id, row.label, tables, throws, row.person, row.at)


def _touched(rows: Sequence[Mapping[str, Any]]) -> set[tuple[str, Any]]:
    return {(entry["table"], entry["id"]) for entry in rows}


def _said(other: ChangeRow) -> str:
    """Who changed it, and when by this machine's clock."""
    when = datetime.fromisoformat(other.at).astimezone()
    day = "" if when.date() == datetime.now().date() else f"{when.day} {when:%b} "
    return f"{other.person or 'Somebody'} changed this at {day}{when:%H:%M}"


def _throws(entry: Mapping[str, Any]) -> Iterator[int]:
    """Keys of the throws that a journal entry's row belongs to."""
    if entry["table"] == DeliveryRow.__tablename__:
        yield entry["id"]
    for image in (entry["before"], entry["after"]):
        if image and image.get("delivery_id") is not None:
            yield image["delivery_id"]


def _restore(session: Session, table: str, key: Any, values: dict[str, Any] | None) -> None:
    target = Base.metadata.tables[table]
    if table == DeliveryRow.__tablename__ and values is None:
        # what was kept about a throw without an entry of its own goes with it: pairs, profile, figures
        session.execute(delete(PairRow).where(or_(PairRow.athlete_throw == key, PairRow.twin_throw == key)))
        for kept in (ProfileRow, FiguresRow):
            session.execute(delete(kept).where(kept.delivery_id == key))
    known = session.scalars(select(target.c.edition).where(target.c.id == key)).first()
    session.execute(target.delete().where(target.c.id == key))
    if values is not None:
        edition = max(known or 0, values.get("edition", 0)) + 1
        session.execute(target.insert().values(**values | {"edition": edition}))
