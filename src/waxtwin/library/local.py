"""The database of one analyst: an SQLite file in the library's folder, with its backups. One program holds it."""

from __future__ import annotations

import fcntl
import json
import os
import re
import shutil
import sqlite3
from collections.abc import Collection, Iterator
from contextlib import closing, contextmanager, suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from time import time
from typing import TYPE_CHECKING

from sqlalchemy import Engine, create_engine, event, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from waxtwin.library.faults import FolderHeldError, LibraryError
from waxtwin.library.layout import BACKUPS, CLIPS, DATABASE
from waxtwin.library.private import below, close, make_file, make_folder, settle
from waxtwin.library.schema import HEAD, check_ours, put_in_place, revision_of

if TYPE_CHECKING:
    from waxtwin.library.store import Library

BACKUPS_KEPT = 10
_BACKUP_EVERY = timedelta(days=1)
_STAMP = "%Y-%m-%dT%H%M%S"
_NUMBERED = re.compile(r"library-(\d{6})-")
_MARKER = "importing.json"


class LostDatabaseError(LibraryError):
    """The database is gone or empty though there are clips or backups beside it; `backups` are those, newest first."""

    def __init__(self, folder: Path, backups: list[Path]) -> None:
        offer = f"its newest backup is {backups[0].name}" if backups else "there is no backup of it"
        super().__init__(
            f"{folder.name}: the database is missing or empty, though there are clips or backups; {offer}. Nothing was "
            "changed."
        )
        self.folder, self.backups = folder, backups


class LocalDatabase:
    """Held as long as it is open; see `Database`."""

    shared = read_only = False
    person = client = ""

    def __init__(self, folder: Path, *, afresh: bool = False, backup: Path | None = None) -> None:
        """Open the database in `folder`, or make one there; with `backup` as it was then, with `afresh` also where one
        seems to have been lost. Raises LibraryError, LostDatabaseError.
        """
        self.folder = folder
        try:
            for part in (folder, folder / CLIPS, folder / BACKUPS):
                make_folder(part)
            self._lock = _lock(folder)
        except OSError as fault:
            raise LibraryError(f"{folder}: the library folder cannot be used ({fault.strerror})") from None
        try:
            if backup is not None:
                self._replace_with(backup)
            self.engine = self._open(afresh=afresh)
        except BaseException:
            os.close(self._lock)
            raise

    def _open(self, *, afresh: bool = False) -> Engine:
        path = self.folder / DATABASE
        try:
            found = revision_of(path) if path.is_file() and path.stat().st_size else None
            if found is None:
                lost = self.backups() or any(below(self.folder / CLIPS))
                if lost and not afresh:
                    raise LostDatabaseError(self.folder, self.backups())
                put_in_place(path, None)
            elif found != HEAD:
                check_ours(path)
                self._copy(path)
                put_in_place(path, path)
            close(path)
            engine = create_engine(f"sqlite:///{path}")
            event.listen(engine, "connect", _prepare_connection)
            with engine.connect() as connection:
                connection.execute(text("select 1 from change limit 1"))
        except LibraryError:
            raise
        except (DBAPIError, sqlite3.Error) as fault:
            raise LibraryError(
                f"{path.name}: this is not a Wax Twin library, or it is damaged; a copy may be in “{BACKUPS}”"
            ) from fault
        except OSError as fault:
            raise LibraryError(f"{path.name}: the database cannot be written ({fault.strerror})") from None
        self._daily_backup(path)
        return engine

    @property
    def bind(self) -> Engine:
        """What a session works on."""
        return self.engine

    def in_turn(self, _: Session) -> str:
        """Nobody else is there."""
        return datetime.now(UTC).isoformat()

    def protect(self, path: Path) -> None:
        """For its owner alone."""
        close(path)

    def forget_work(self, session: Session, throws: Collection[int]) -> None:
        """Nothing waits in the database."""

    def number_of(self, _: Session, change: int) -> int:
        """The one that it has."""
        return change

    def noted(self, change: int) -> None:
        """There is nobody to tell."""

    def close(self) -> None:
        """Let go of the folder."""
        self.engine.dispose()
        with suppress(OSError):
            os.close(self._lock)

    # what a kill or a fault left ----------------------------------------------------------------------------------
    def put_right(self, library: Library) -> None:
        """Take an import back that was cut off, and sweep what no row names."""
        marker = self.folder / _MARKER
        if marker.is_file():
            with suppress(ValueError, TypeError, OSError):
                library.take_back_to(int(json.loads(marker.read_text(encoding="utf-8"))))
            marker.unlink(missing_ok=True)
        library.sweep_clips()
        for file in below(self.folder / BACKUPS):
            if file.suffix == ".part":
                file.unlink(missing_ok=True)
            else:
                close(file)

    @contextmanager
    def all_or_nothing(self, library: Library) -> Iterator[None]:
        """A marker beside the database says from which change on everything is to be taken back."""
        before = library.next_undo()
        mark = 0 if before is None else before.id
        marker = self.folder / _MARKER
        try:
            marker.write_text(json.dumps(mark), encoding="utf-8")
            settle(marker)
        except OSError as fault:
            raise LibraryError(f"{self.folder.name}: the library cannot be written ({fault.strerror})") from None
        try:
            yield
        except BaseException:
            library.take_back_to(mark)
            library.sweep_clips()
            raise
        finally:
            marker.unlink(missing_ok=True)

    def vacuum(self) -> None:
        """Write the file anew, so that nothing of deleted rows stays in it. Raises LibraryError."""
        try:
            with self.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
                connection.execute(text("VACUUM"))
                connection.execute(text("PRAGMA wal_checkpoint(TRUNCATE)"))
        except DBAPIError as fault:
            raise LibraryError(f"the database could not be written anew ({fault.orig})") from None

    def fault_of(self, fault: DBAPIError, otherwise: str) -> LibraryError:
        """The file's own words behind `otherwise`."""
        return LibraryError(f"{otherwise} ({fault.orig}).")

    # backups -------------------------------------------------------------------------------------------------------
    def backups(self) -> list[Path]:
        """Copies of the database, the newest first."""
        return backups_in(self.folder)

    def back_up(self) -> Path:
        """Make a copy of the database now. Raises LibraryError."""
        return self._copy(self.folder / DATABASE)

    def restore(self, backup: Path) -> None:
        """Put a backup in the database's place; what was there becomes a backup itself. Raises LibraryError."""
        self.engine.dispose()
        try:
            self._replace_with(backup)
        finally:
            self.engine = self._open()

    def _replace_with(self, backup: Path) -> None:
        """Keep what is there now, whatever it is, then put a checked backup in its place in one step."""
        check_ours(backup)
        path = self.folder / DATABASE
        try:
            if path.is_file() and path.stat().st_size:
                self._copy(path, sparing=backup)
            put_in_place(path, backup)
        except (sqlite3.Error, OSError) as fault:
            raise LibraryError(f"{backup.name}: it could not be restored, and nothing was changed ({fault})") from None

    def drop_backups(self) -> None:
        """Delete every backup: what was erased must not live on in them. Raises OSError."""
        for path in [*self.backups(), *(self.folder / BACKUPS).glob("*.part")]:
            path.unlink(missing_ok=True)

    def _daily_backup(self, path: Path) -> None:
        newest = next(iter(self.backups()), None)
        # a clock that was put back must not stop the backups
        if newest is None or abs(time() - newest.stat().st_mtime) > _BACKUP_EVERY.total_seconds():
            with suppress(LibraryError):  # a full disk must not keep anyone from opening the library
                self._copy(path)

    def _copy(self, path: Path, sparing: Path | None = None) -> Path:
        """A backup, numbered, so that their order does not hang on a clock; `sparing` one that must not be let go."""
        number = max((_number(one) for one in self.backups()), default=0) + 1
        target = self.folder / BACKUPS / f"library-{number:06d}-{datetime.now().strftime(_STAMP)}.sqlite"
        part = target.with_suffix(".part")
        try:
            make_file(part)
            try:
                with closing(sqlite3.connect(path)) as source, closing(sqlite3.connect(part)) as copy:
                    source.backup(copy)
            except sqlite3.DatabaseError:
                shutil.copyfile(path, part)  # damaged or not ours: kept byte by byte
            close(part)
            settle(part)
            part.replace(target)
        except (sqlite3.Error, OSError) as fault:
            with suppress(OSError):
                part.unlink(missing_ok=True)
            raise LibraryError(f"{target.name}: the backup could not be made ({fault})") from fault
        for old in self.backups()[BACKUPS_KEPT:]:
            if sparing is None or old.name != sparing.name:
                old.unlink(missing_ok=True)
        return target


def backups_in(folder: Path) -> list[Path]:
    """The backups of the library in a folder, the newest first; it need not be open, nor be there any more."""
    return sorted((folder / BACKUPS).glob("*.sqlite"), key=lambda path: (_number(path), path.name), reverse=True)


def _number(path: Path) -> int:
    found = _NUMBERED.match(path.name)
    return int(found[1]) if found else 0


def _lock(folder: Path) -> int:
    """Hold the folder itself: a lock on a file in it would be gone with the file."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        raise FolderHeldError(f"{folder.name}: this library is open in another window of Wax Twin") from None
    (folder / "library.lock").unlink(missing_ok=True)  # of an earlier version
    return handle


def _prepare_connection(connection: sqlite3.Connection, _: object) -> None:
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA synchronous = NORMAL")
    connection.execute("PRAGMA secure_delete = ON")
