"""The database of a team: PostgreSQL, which any number of programs share; see `Database`."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Collection, Iterator
from contextlib import contextmanager
from pathlib import Path
from time import time
from typing import TYPE_CHECKING

from sqlalchemy import Connection, Engine, create_engine, select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from waxtwin.library.faults import LibraryError, ServerAwayError
from waxtwin.library.private import share
from waxtwin.library.schema import HEAD
from waxtwin.library.team.address import Address
from waxtwin.library.team.faults import fault_of
from waxtwin.library.team.share import trusted
from waxtwin.library.team.tables import TEAM

if TYPE_CHECKING:
    from waxtwin.library.store import Library

CHANNEL = "waxtwin_change"
OLDEST = 13  # the oldest major version of the server that is known to work
_TURN = 0x57617854  # of the journal: one writer at a time
_CLOCK = 120.0  # s by which a clock may be off before it is said


class TeamDatabase:
    """Open until it is closed; connections that were lost are made again by themselves."""

    shared = True

    def __init__(self, address: Address, folder: Path | None = None) -> None:
        """Open the library at an address, its clips in `folder` or else where they were when it was made.

        Raises LibraryError.
        """
        self.address, self.client = address, uuid.uuid4().hex
        self.is_away = False  # set by whoever watches the server: then nobody waits for it
        self._here = threading.local()
        self.engine = engine_for(address)
        try:
            with self.engine.connect() as connection:
                refuse_unfit(connection, address)
                uid, clips, copying = connection.execute(select(TEAM.c.uid, TEAM.c.clips, TEAM.c.copying)).one()
                self.person = str(connection.scalar(text("select session_user")))
                self.read_only = not connection.scalar(text("select has_table_privilege('change', 'insert')"))
                self.notes = clock_notes(connection)
            if copying:
                said = f"this library is still being filled from {copying}; run that copy again"
                raise LibraryError(f"{address}: {said}")
            self.folder = folder or Path(clips)
            trusted(self.folder, uid)
        except BaseException as fault:
            self.engine.dispose()
            if isinstance(fault, DBAPIError):
                raise self.fault_of(fault, f"{address}: the library cannot be opened") from None
            raise

    @property
    def bind(self) -> Engine | Connection:
        """The connection of a larger change that this thread is in, or any. Raises ServerAwayError."""
        if self.is_away:
            raise ServerAwayError(f"{self.address}: the server does not answer")
        return getattr(self._here, "connection", None) or self.engine

    # the journal ----------------------------------------------------------------------------------------------------
    def in_turn(self, session: Session) -> str:
        """Wait for the others that are just writing; within a larger change that is done at its end. The instant is by
        the server's clock: those of the machines differ.
        """
        return str(session.scalar(_NOW if self._within else _NOW_IN_TURN, {"turn": _TURN}))

    def protect(self, path: Path) -> None:
        """For the group that the folder belongs to."""
        share(path)

    def forget_work(self, session: Session, throws: Collection[int]) -> None:
        """What waits, runs or failed of these throws goes, too."""
        session.execute(_FORGET, {"throws": [*throws]})

    def number_of(self, session: Session, _: int) -> int:
        """A new one: whoever has caught up with the old one must hear of it."""
        return int(session.scalar(_NEXT) or 0)

    def noted(self, change: int) -> None:
        """Whoever listens hears of it from the server when the transaction is kept."""
        if self._within:
            self._here.changes.append(change)

    @property
    def _within(self) -> bool:
        return getattr(self._here, "connection", None) is not None

    @contextmanager
    def all_or_nothing(self, _: Library) -> Iterator[None]:
        """One transaction over several changes: the server takes it back when this program is gone.

        Their entries get their numbers at the end, when it is their turn: nobody waits while clips are copied.
        """
        try:
            with self.engine.begin() as connection:
                self._here.connection, self._here.changes = connection, []
                try:
                    yield
                    changes = list(self._here.changes)
                finally:
                    self._here.connection = None
                connection.execute(text("select pg_advisory_xact_lock(:turn)"), {"turn": _TURN})
                for change in changes:
                    connection.execute(_RENUMBER, {"id": change})
        except DBAPIError as fault:
            raise self.fault_of(fault, "The change could not be kept, and nothing was altered") from None

    # the rest -------------------------------------------------------------------------------------------------------
    def fault_of(self, fault: DBAPIError, otherwise: str) -> LibraryError:
        """In one sentence; ServerAwayError where the server does not answer."""
        return fault_of(fault, str(self.address), otherwise)

    def close(self) -> None:
        """Let go of every connection."""
        self.engine.dispose()

    def put_right(self, _: Library) -> None:
        """Nothing is left half-done by others: their transactions were taken back by the server. Files that no row
        names are swept by `waxtwin team check`, which knows that nobody is just bringing them in.
        """

    def vacuum(self) -> None:
        """The server gives deleted rows' room back by itself."""

    def backups(self) -> list[Path]:
        """They are the operator's affair."""
        return []

    def back_up(self) -> Path:
        """Raises LibraryError: see `backups`."""
        raise LibraryError(f"{self.address}: backups of a team's database are made on the server, by whoever runs it")

    def restore(self, _: Path) -> None:
        """Raises LibraryError: see `backups`."""
        self.back_up()

    def drop_backups(self) -> None:
        """They are the operator's affair, who is told so."""


_NEXT = text("select nextval(pg_get_serial_sequence('change', 'id'))")
_FORGET = text(
    "delete from procrastinate_jobs where (args -> 'asked' ->> 'throw')::int = any(:throws) or exists (select 1 from"
    " jsonb_array_elements_text(coalesce(args -> 'asked' -> 'throws', '[]')) t where t::int = any(:throws))"
)
_INSTANT = "to_char(clock_timestamp() at time zone 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS.US\"+00:00\"')"
_NOW = text(f"select {_INSTANT} where :turn > 0")
_NOW_IN_TURN = text(f"with turn as materialized (select pg_advisory_xact_lock(:turn)) select {_INSTANT} from turn")
_RENUMBER = text(
    "update change set id = nextval(pg_get_serial_sequence('change', 'id')) where id = :id"
)  # fmt: skip


def engine_for(address: Address) -> Engine:
    """Connections to an address; none is made yet."""
    return create_engine(
        address.url, connect_args=address.parameters, pool_pre_ping=True, pool_size=4, max_overflow=8,
        pool_timeout=5, hide_parameters=True,
    )  # fmt: skip


def refuse_unfit(connection: Connection, address: Address) -> None:
    """Raises LibraryError where the server or the schema is of a version that this program cannot work with."""
    refuse_old_server(connection, address)
    found = connection.scalar(text("select version_num from alembic_version"))
    if found is None or found < HEAD:
        raise LibraryError(
            f"{address}: this library was made by an older Wax Twin; whoever set it up runs “waxtwin team create” again"
        )
    if found > HEAD:
        raise LibraryError(f"{address}: this library was made by a newer Wax Twin; open it with that version")


def server_major(connection: Connection) -> int:
    """The server's major version."""
    return int(connection.scalar(text("show server_version_num")) or 0) // 10_000


def refuse_old_server(connection: Connection, address: Address) -> None:
    """Raises LibraryError where the server is too old."""
    major = server_major(connection)
    if major < OLDEST:
        raise LibraryError(f"{address}: the server is PostgreSQL {major}; {OLDEST} or newer is needed")


def clock_notes(connection: Connection) -> tuple[str, ...]:
    """What is to be said of this machine's clock beside the server's; nothing where they agree."""
    off = time() - float(connection.scalar(text("select extract(epoch from clock_timestamp())")) or 0.0)
    if abs(off) <= _CLOCK:
        return ()
    way = "ahead of" if off > 0 else "behind"
    return (f"This machine's clock is {abs(off) / 60:.0f} minutes {way} the server's: please set it.",)
