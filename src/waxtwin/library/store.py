"""A library on disk: one folder with a database, the clips copied into it, and its backups.

Everything is relative to the folder, so the folder can be moved. One program at a time holds it. Every change is one
transaction with an entry in the journal.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import re
import shutil
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from datetime import datetime, timedelta
from pathlib import Path
from time import time

from sqlalchemy import Engine, create_engine, delete, event, select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from waxtwin.library.erasing import finish_erasing
from waxtwin.library.journal import Change, journalled, latest, prune, turn
from waxtwin.library.layout import BACKUPS, CLIPS, DATABASE
from waxtwin.library.private import below, close, make_file, make_folder, settle
from waxtwin.library.records import ChangeRow, ClipRow, Content, DeliveryRow
from waxtwin.library.schema import HEAD, LibraryError, check_ours, put_in_place, revision_of
from waxtwin.library.small import sweep_small
from waxtwin.library.talks import sweep_voices

BACKUPS_KEPT = 10
_BACKUP_EVERY = timedelta(days=1)
_STAMP = "%Y-%m-%dT%H%M%S"
_NUMBERED = re.compile(r"library-(\d{6})-")
_MARKER = "importing.json"
_LEFT_BY_IMPORTS = ".bundle-"


class LostDatabaseError(LibraryError):
    """The database is gone or empty though there are clips or backups beside it; `backups` are those, newest first."""

    def __init__(self, folder: Path, backups: list[Path]) -> None:
        offer = f"its newest backup is {backups[0].name}" if backups else "there is no backup of it"
        super().__init__(
            f"{folder.name}: the database is missing or empty, though there are clips or backups; {offer}. Nothing was "
            "changed."
        )
        self.folder, self.backups = folder, backups


class Library:
    """An open library. Safe to use from several threads, one transaction at a time each."""

    def __init__(self, folder: Path, *, afresh: bool = False, backup: Path | None = None) -> None:
        """Open the library in `folder`, or make one there; with `backup` as it was then, with `afresh` also where a
        database seems to have been lost. Raises LibraryError, LostDatabaseError.
        """
        self.folder = folder
        self.smoothing = 1.0  # of every throw that is fetched; see Delivery
        self._listeners: list[Callable[[], None]] = []
        try:
            for part in (folder, folder / CLIPS, folder / BACKUPS):
                make_folder(part)
            self._lock = _lock(folder)
        except OSError as fault:
            raise LibraryError(f"{folder}: the library folder cannot be used ({fault.strerror})") from None
        try:
            if backup is not None:
                self._replace_with(backup)
            self._engine = self._open(afresh=afresh)
            self._put_right()
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
            with Session(engine) as session:
                prune(session)
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

    def close(self) -> None:
        """Let go of the folder."""
        self._engine.dispose()
        with suppress(OSError):
            os.close(self._lock)

    # what a kill or a fault left ----------------------------------------------------------------------------------
    def _put_right(self) -> None:
        """Finish what was begun and cut off: an import is taken back, copies without a row go, erasing goes on."""
        marker = self.folder / _MARKER
        if marker.is_file():
            with suppress(ValueError, TypeError, OSError):
                self.take_back_to(int(json.loads(marker.read_text(encoding="utf-8"))))
            marker.unlink(missing_ok=True)
        for left in self.folder.glob(f"{_LEFT_BY_IMPORTS}*"):
            shutil.rmtree(left, ignore_errors=True)
        self._sweep_clips()
        sweep_voices(self)
        sweep_small(self)
        with suppress(LibraryError):  # what is left to do was said when it failed; it is tried at every opening
            finish_erasing(self)

    def _sweep_clips(self) -> None:
        """Delete copies that no row names, nor any change that can be done again."""
        known = self.clip_files()
        for file in below(self.folder / CLIPS):
            if f"{CLIPS}/{file.name}" in known:
                close(file)
            else:
                with suppress(OSError):
                    file.unlink()
        for file in below(self.folder / BACKUPS):
            if file.suffix == ".part":
                file.unlink(missing_ok=True)
            else:
                close(file)

    def clip_files(self) -> set[str]:
        """Every clip file, relative to the folder, that a row names or that undo or redo could bring back."""
        with Session(self._engine) as session:
            known = set(session.scalars(select(ClipRow.file)))
            for rows in session.scalars(select(ChangeRow.rows)):
                for entry in rows:
                    if entry["table"] == ClipRow.__tablename__:
                        known |= {image["file"] for image in (entry["before"], entry["after"]) if image}
        return known

    @contextmanager
    def all_or_nothing(self) -> Iterator[None]:
        """Several changes of which none stays when one fails, or when the program is killed on the way."""
        before = self.next_undo()
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
            self.take_back_to(mark)
            self._sweep_clips()
            raise
        finally:
            marker.unlink(missing_ok=True)

    def take_back_to(self, mark: int) -> None:
        """Undo every change after one, for good: they cannot be done again."""
        while (latest := self.next_undo()) is not None and latest.id > mark:
            self.undo()
        with Session(self._engine) as session, session.begin():
            session.execute(delete(ChangeRow).where(ChangeRow.id > mark))

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
        return backups_in(self.folder)

    def back_up(self) -> Path:
        """Make a copy of the database now. Raises LibraryError."""
        return self._copy(self.folder / DATABASE)

    def restore(self, backup: Path) -> None:
        """Put a backup in the database's place; what was there becomes a backup itself. Raises LibraryError."""
        self._engine.dispose()
        try:
            self._replace_with(backup)
        finally:
            self._engine = self._open()

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

    def vacuum(self) -> None:
        """Give deleted rows' room back, so that nothing of them stays in the file. Raises LibraryError."""
        try:
            with self._engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
                connection.execute(text("VACUUM"))
                connection.execute(text("PRAGMA wal_checkpoint(TRUNCATE)"))
        except DBAPIError as fault:
            raise LibraryError(f"the database could not be written anew ({fault.orig})") from None

    def drop_backups(self) -> None:
        """Delete every backup: what was erased must not live on in them. Raises OSError."""
        for path in self.backups():
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
        raise LibraryError(f"{folder.name}: this library is open in another window of Wax Twin") from None
    (folder / "library.lock").unlink(missing_ok=True)  # of an earlier version
    return handle


def _prepare_connection(connection: sqlite3.Connection, _: object) -> None:
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA synchronous = NORMAL")
    connection.execute("PRAGMA secure_delete = ON")
