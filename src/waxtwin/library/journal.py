"""The journal: every change of a library with its rows before and after, so that each can be undone and done again."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import delete, event, inspect, or_, select, update
from sqlalchemy.orm import Session

from waxtwin.library.records import JOURNALLED, Base, ChangeRow, DeliveryRow, FiguresRow, PairRow, ProfileRow

KEPT = 400  # changes that can be undone; older ones are let go


@dataclass(frozen=True)
class Change:
    """A change as the screens show it; `throws` are the keys of those that it touched."""

    id: int
    label: str
    tables: frozenset[str]
    throws: frozenset[int] = frozenset()


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


@contextmanager
def journalled(session: Session, label: str) -> Iterator[Session]:
    """Commit what is done in the block as one change under a label; nothing at all when it fails."""
    images = _Images(session)
    with session.begin():
        yield session
        session.flush()
        rows = images.rows()
        if rows:
            session.execute(delete(ChangeRow).where(ChangeRow.undone))
            session.add(ChangeRow(at=datetime.now(UTC).isoformat(), label=label, rows=rows))


def latest(session: Session, *, undone: bool) -> Change | None:
    """The change that undo (or redo) would take next."""
    order = ChangeRow.id.asc() if undone else ChangeRow.id.desc()
    row = session.scalars(select(ChangeRow).where(ChangeRow.undone == undone).order_by(order).limit(1)).first()
    if row is None:
        return None
    tables = frozenset(entry["table"] for entry in row.rows)
    return Change(row.id, row.label, tables, frozenset(key for entry in row.rows for key in _throws(entry)))


def _throws(entry: Mapping[str, Any]) -> Iterator[int]:
    """Keys of the throws that a journal entry's row belongs to."""
    if entry["table"] == DeliveryRow.__tablename__:
        yield entry["id"]
    for image in (entry["before"], entry["after"]):
        if image and image.get("delivery_id") is not None:
            yield image["delivery_id"]


def turn(session: Session, *, back: bool) -> Change | None:
    """Undo the latest change, or do the latest undone one again; None when there is none."""
    with session.begin():
        found = latest(session, undone=not back)
        if found is None:
            return None
        row = session.get_one(ChangeRow, found.id)
        for entry in reversed(row.rows) if back else row.rows:
            _restore(session, entry["table"], entry["id"], entry["before" if back else "after"])
        session.execute(update(ChangeRow).where(ChangeRow.id == found.id).values(undone=back))
    session.expire_all()
    return found


def _restore(session: Session, table: str, key: Any, values: dict[str, Any] | None) -> None:
    target = Base.metadata.tables[table]
    if table == DeliveryRow.__tablename__ and values is None:
        # what was kept about a throw without an entry of its own goes with it: pairs, profile, figures
        session.execute(delete(PairRow).where(or_(PairRow.athlete_throw == key, PairRow.twin_throw == key)))
        for kept in (ProfileRow, FiguresRow):
            session.execute(delete(kept).where(kept.delivery_id == key))
    session.execute(target.delete().where(target.c.id == key))
    if values is not None:
        session.execute(target.insert().values(**values))


def prune(session: Session) -> None:
    """Let go of changes beyond the last KEPT."""
    with session.begin():
        oldest = session.scalars(select(ChangeRow.id).order_by(ChangeRow.id.desc()).offset(KEPT).limit(1)).first()
        if oldest is not None:
            session.execute(delete(ChangeRow).where(ChangeRow.id <= oldest))
