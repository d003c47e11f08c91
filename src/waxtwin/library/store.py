"""A library on disk: one folder with a database, the clips copied into it, and its backups.

Everything is relative to the folder, so the folder can be moved. One program at a time holds it. Every change is one
transaction with an entry in the journal.
"""

from __future__ import annotations

import fcntl
import hashlib
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from datetime import datetime, timedelta
from pathlib import Path
from typing import IO

from sqlalchemy import Engine, create_engine, delete, event, select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from waxtwin.core.errors import WaxTwinError
from waxtwin.library.journal import Change, journalled, latest, prune, turn
from waxtwin.library.records import ChangeRow, Content, DeliveryRow

DATABASE, CLIPS, BACKUPS = "library.sqlite", "clips", "backups"
HEAD = "0003"
BACKUPS_KEPT = 10
_BACKUP_EVERY = timedelta(days=1)
_STAMP = "%Y-%m-%dT%H%M%S"


class LibraryError(WaxTwinError):
    """A library cannot be opened or changed; the sentence says what is wrong and what was kept."""


class Library:
    """An open library. Safe to use from several threads, one transaction at a time each."""

    def __init__(self, folder: Path) -> None:
        """Open the library in `folder`, or make one there. Raises LibraryError."""
        self.folder = folder
        self.smoothing = 1.0  # of every throw that is fetched; see Delivery
        self._listeners: list[Callable[[], None]] = []
        try:
            for part in (folder, folder / CLIPS, folder / BACKUPS):
                part.mkdir(parents=True, exist_ok=True)
            self._lock = _lock(folder)
        except OSError as fault:
            raise LibraryError(f"{folder}: the library folder cannot be used ({fault.strerror})") from None
        try:
            self._engine = self._open()
        except BaseException:
            self._lock.close()
            raise

    def _open(self) -> Engine:
        path = self.folder / DATABASE
        try:
            _migrate(path, self._back_up_before)
            engine = create_engine(f"sqlite:///{path}")
            event.listen(engine, "connect", _prepare_connection)
            with Session(engine) as session:
                prune(session)
        except (DBAPIError, sqlite3.Error) as fault:
            raise LibraryError(
                f"{path.name}: this is not a Wax Twin library, or it is damaged; a copy may be in “{BACKUPS}”"
            ) from fault
        self._daily_backup(path)
        return engine

    def close(self) -> None:
        """Let go of the folder."""
        self._engine.dispose()
        self._lock.close()

    # reading and changing ------------------------------------------------------------------------------------------
    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session for looking only."""
        with Session(self._engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def change(self, label: str) -> Iterator[Session]:
        """A transaction that becomes one entry of the journal. Raises LibraryError when it cannot be kept."""
        try:
            with Session(self._engine, expire_on_commit=False) as session, journalled(session, label):
                yield session
        except DBAPIError as fault:
            raise LibraryError(f"The change could not be kept, and nothing was altered ({fault.orig}).") from fault

    @contextmanager
    def quietly(self) -> Iterator[Session]:
        """A transaction without an entry in the journal, for what nobody would undo. Raises LibraryError."""
        try:
            with Session(self._engine, expire_on_commit=False) as session, session.begin():
                yield session
        except DBAPIError as fault:
            raise LibraryError(f"This could not be kept ({fault.orig}).") from fault

    def undo(self) -> Change | None:
        """Take the latest change back; None when there is none."""
        with Session(self._engine) as session:
            return turn(session, back=True)

    def redo(self) -> Change | None:
        """Do the change that was taken back again."""
        with Session(self._engine) as session:
            return turn(session, back=False)

    def next_undo(self) -> Change | None:
        """What undo would take back."""
        with Session(self._engine) as session:
            return latest(session, undone=False)

    def next_redo(self) -> Change | None:
        """What redo would do again."""
        with Session(self._engine) as session:
            return latest(session, undone=True)

    @property
    def is_new(self) -> bool:
        """Whether nothing was ever brought into it."""
        with Session(self._engine) as session:
            return session.scalars(select(DeliveryRow.id).limit(1)).first() is None and not self.next_undo()

    def forget_changes(self) -> None:
        """Empty the journal: what was done so far can no longer be undone."""
        with Session(self._engine) as session, session.begin():
            session.execute(delete(ChangeRow))

    # contents ------------------------------------------------------------------------------------------------------
    def put(self, session: Session, data: bytes) -> str:
        """Keep bytes under their hash, which is returned."""
        digest = hashlib.sha256(data).hexdigest()
        if session.get(Content, digest) is None:
            session.add(Content(hash=digest, data=data))
        return digest

    def get(self, session: Session, digest: str) -> bytes:
        """Bytes under a hash."""
        return session.scalars(select(Content.data).where(Content.hash == digest)).one()

    # backups -------------------------------------------------------------------------------------------------------
    def backups(self) -> list[Path]:
        """Copies of the database, the newest first."""
        return sorted((self.folder / BACKUPS).glob("*.sqlite"), reverse=True)

    def back_up(self) -> Path:
        """Make a copy of the database now. Raises LibraryError."""
        return self._copy(self.folder / DATABASE)

    def restore(self, backup: Path) -> None:
        """Put a backup in the database's place; what was there becomes a backup itself. Raises LibraryError."""
        self._copy(self.folder / DATABASE)
        self._engine.dispose()
        try:
            with closing(sqlite3.connect(backup)) as source, closing(sqlite3.connect(self.folder / DATABASE)) as target:
                source.backup(target)
        except sqlite3.Error as fault:
            raise LibraryError(f"{backup.name}: this backup cannot be read; the library is as it was") from fault
        finally:
            self._engine = self._open()

    def vacuum(self) -> None:
        """Give deleted rows' room back, so that nothing of them stays in the file."""
        with self._engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
            connection.execute(text("VACUUM"))
            connection.execute(text("PRAGMA wal_checkpoint(TRUNCATE)"))

    def drop_backups(self) -> None:
        """Delete every backup: what was erased must not live on in them."""
        for path in self.backups():
            path.unlink(missing_ok=True)

    def _back_up_before(self) -> None:
        if (self.folder / DATABASE).stat().st_size:
            self._copy(self.folder / DATABASE)

    def _daily_backup(self, path: Path) -> None:
        newest = next(iter(self.backups()), None)
        if newest is None or datetime.now() - datetime.fromtimestamp(newest.stat().st_mtime) > _BACKUP_EVERY:
            with suppress(LibraryError):  # a full disk must not keep anyone from opening the library
                self._copy(path)

    def _copy(self, path: Path) -> Path:
        stamp = datetime.now().strftime(_STAMP)
        target = self.folder / BACKUPS / f"library-{stamp}.sqlite"
        for n in range(2, 100):
            if not target.exists():
                break
            target = target.with_name(f"library-{stamp}-{n}.sqlite")
        part = target.with_suffix(".part")
        try:
            with closing(sqlite3.connect(path)) as source, closing(sqlite3.connect(part)) as copy:
                source.backup(copy)
            part.replace(target)
        except (sqlite3.Error, OSError) as fault:
            part.unlink(missing_ok=True)
            raise LibraryError(f"{target.name}: the backup could not be made ({fault})") from fault
        for old in self.backups()[BACKUPS_KEPT:]:
            old.unlink(missing_ok=True)
        return target


def _lock(folder: Path) -> IO[str]:
    file = (folder / "library.lock").open("w")
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        file.close()
        raise LibraryError(f"{folder.name}: this library is open in another window of Wax Twin") from None
    return file


def _prepare_connection(connection: sqlite3.Connection, _: object) -> None:
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA synchronous = NORMAL")
    connection.execute("PRAGMA secure_delete = ON")


def _migrate(path: Path, before: Callable[[], None]) -> None:
    """Bring the database to this program's schema; `before` is called when an older one is about to be changed."""
    with closing(sqlite3.connect(path)) as connection:
        tables = {name for (name,) in connection.execute("select name from sqlite_master where type = 'table'")}
        found = None
        if "alembic_version" in tables:
            found = next(iter(connection.execute("select version_num from alembic_version")), (None,))[0]
        elif tables:
            raise sqlite3.DatabaseError("the tables are not ours")
    if found == HEAD:
        return
    from alembic import command  # half a second to load, and needed only now
    from alembic.config import Config
    from alembic.script import ScriptDirectory
    from alembic.util import CommandError

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    if found is not None:
        try:
            ScriptDirectory.from_config(config).get_revision(found)
        except CommandError:
            raise LibraryError(
                f"{path.name}: this library was made by a newer Wax Twin; open it with that version"
            ) from None
        before()
    engine = create_engine(f"sqlite:///{path}")
    with engine.begin() as connection_:
        config.attributes["connection"] = connection_
        command.upgrade(config, "head")
    engine.dispose()
