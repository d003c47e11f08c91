"""A library: rows in a database, and a folder with the clips copied into it. Every change is one transaction with an
entry in the journal.

Everything is relative to the folder, so the folder can be moved. What the rows lie in is told apart nowhere but in the
`Database` behind it.
"""

from __future__ import annotations

import hashlib
import shutil
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager, suppress
from pathlib import Path
from time import time

from sqlalchemy import delete, select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session
from sqlalchemy.orm.exc import StaleDataError

from waxtwin.library.database import Database
from waxtwin.library.erasing import finish_erasing
from waxtwin.library.faults import LibraryError, StaleChangeError
from waxtwin.library.journal import Change, Journal
from waxtwin.library.layout import CLIPS
from waxtwin.library.local import LocalDatabase
from waxtwin.library.private import below
from waxtwin.library.records import ChangeRow, ClipRow, Content, DeliveryRow
from waxtwin.library.small import sweep_small
from waxtwin.library.talks import sweep_voices

_LEFT_BY_IMPORTS = ".bundle-"


class Library:
    """An open library. Safe to use from several threads, one transaction at a time each."""

    def __init__(self, place: Path | Database, *, afresh: bool = False, backup: Path | None = None) -> None:
        """Open the library in a folder, or make one there (see `LocalDatabase`), or the one over a database.

        Raises LibraryError, LostDatabaseError.
        """
        self.database: Database = (
            LocalDatabase(place, afresh=afresh, backup=backup) if isinstance(place, Path) else place
        )
        self.journal = Journal(self.database)
        self.smoothing = 1.0  # of every throw that is fetched; see Delivery
        try:
            if not self.database.read_only:
                with self._session() as session:
                    self.journal.prune(session)
                self._put_right()
        except BaseException:
            self.database.close()
            raise

    @property
    def folder(self) -> Path:
        """Where clips, voices and small pictures lie."""
        return self.database.folder

    def _session(self) -> Session:
        return Session(self.database.bind, expire_on_commit=False, join_transaction_mode="create_savepoint")

    def close(self) -> None:
        """Let go of the database."""
        self.database.close()

    # what a kill or a fault left ----------------------------------------------------------------------------------
    def _put_right(self) -> None:
        """Finish what was begun and cut off: an import is taken back, copies without a row go, erasing goes on."""
        self.database.put_right(self)
        if not self.database.shared:
            for left in self.folder.glob(f"{_LEFT_BY_IMPORTS}*"):
                shutil.rmtree(left, ignore_errors=True)
            sweep_voices(self)
            sweep_small(self)
        with suppress(LibraryError):  # what is left to do was said when it failed; it is tried at every opening
            finish_erasing(self)

    def sweep_clips(self, older_than: float = 0.0) -> int:
        """Delete copies that no row names, nor any change that can be done again, once they are so many seconds old:
        where others work on, somebody may just be bringing one in. Returns how many.
        """
        known, gone = self.clip_files(), 0
        for file in below(self.folder / CLIPS):
            if f"{CLIPS}/{file.name}" in known:
                self.database.protect(file)
                continue
            with suppress(OSError):
                if not older_than or time() - file.stat().st_mtime > older_than:
                    file.unlink()
                    gone += 1
        return gone

    def clip_files(self) -> set[str]:
        """Every clip file, relative to the folder, that a row names or that undo or redo could bring back."""
        with self._session() as session:
            known = set(session.scalars(select(ClipRow.file)))
            for rows in session.scalars(select(ChangeRow.rows)):
                for entry in rows:
                    if entry["table"] == ClipRow.__tablename__:
                        known |= {image["file"] for image in (entry["before"], entry["after"]) if image}
        return known

    def all_or_nothing(self) -> AbstractContextManager[None]:
        """Several changes of which none stays when one fails, or when the program is killed on the way."""
        return self.database.all_or_nothing(self)

    def take_back_to(self, mark: int) -> None:
        """Undo every change after one, for good: they cannot be done again."""
        while (latest := self.next_undo()) is not None and latest.id > mark:
            self.undo()
        with self._session() as session, session.begin():
            session.execute(delete(ChangeRow).where(ChangeRow.id > mark))

    # reading and changing ------------------------------------------------------------------------------------------
    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session for looking only. Raises LibraryError where the database cannot be read."""
        try:
            with self._session() as session:
                yield session
        except DBAPIError as fault:
            raise self.database.fault_of(fault, "The library cannot be read") from fault

    @contextmanager
    def change(self, label: str) -> Iterator[Session]:
        """A transaction that becomes one entry of the journal. Raises LibraryError when it cannot be kept."""
        otherwise = "The change could not be kept, and nothing was altered"
        with self._writing(otherwise) as session, self.journal.entry(session, label):
            yield session

    @contextmanager
    def quietly(self) -> Iterator[Session]:
        """A transaction without an entry in the journal, for what nobody would undo. Raises LibraryError."""
        with self._writing("This could not be kept") as session, session.begin():
            yield session

    @contextmanager
    def _writing(self, otherwise: str) -> Iterator[Session]:
        try:
            with self._session() as session:
                yield session
        except DBAPIError as fault:
            raise self.database.fault_of(fault, otherwise) from fault
        except StaleDataError as fault:
            said = "Somebody changed this at the same moment; your change was not kept: look again."
            raise StaleChangeError(said) from fault

    def catch_up(self) -> list[Change]:
        """What others did since this was last asked, oldest first: from now on it is known here."""
        with self.reading() as session:
            return self.journal.catch_up(session)

    def undo(self) -> Change | None:
        """Take the latest change back; None when there is none. Raises LibraryError."""
        with self._writing("It could not be undone") as session:
            return self.journal.turn(session, back=True)

    def redo(self) -> Change | None:
        """Do the change that was taken back again. Raises LibraryError."""
        with self._writing("It could not be done again") as session:
            return self.journal.turn(session, back=False)

    def next_undo(self) -> Change | None:
        """What undo would take back."""
        with self.reading() as session:
            return self.journal.latest(session, undone=False)

    def next_redo(self) -> Change | None:
        """What redo would do again."""
        with self.reading() as session:
            return self.journal.latest(session, undone=True)

    @property
    def is_new(self) -> bool:
        """Whether nothing was ever brought into it."""
        with self.reading() as session:
            return session.scalars(select(DeliveryRow.id).limit(1)).first() is None and not self.next_undo()

    def forget_changes(self) -> None:
        """Empty the journal: what was done so far can no longer be undone."""
        with self.quietly() as session:
            session.execute(delete(ChangeRow))

    # files ---------------------------------------------------------------------------------------------------------
    def folder_for(self, name: str) -> Path:
        """A folder below the library's, made when it is not there. Raises OSError."""
        folder = self.folder / name
        if not folder.is_dir():
            folder.mkdir(parents=True, exist_ok=True)
            self.database.protect(folder)
        return folder

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
        return self.database.backups()

    def back_up(self) -> Path:
        """Make a copy of the database now. Raises LibraryError."""
        return self.database.back_up()

    def restore(self, backup: Path) -> None:
        """Put a backup in the database's place; what was there becomes a backup itself. Raises LibraryError."""
        self.database.restore(backup)
