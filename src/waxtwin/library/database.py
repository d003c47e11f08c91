"""What a library stands on: a file of its own beside the clips, or a server that a team shares."""

from __future__ import annotations

from collections.abc import Collection
from contextlib import AbstractContextManager
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from waxtwin.library.faults import LibraryError

if TYPE_CHECKING:
    from waxtwin.library.store import Library


class Database(Protocol):
    """An open database of this program's schema, and the folder in which what it names lies.

    `person` is who changes are noted of, empty where one person is alone with it; `client` tells the programs that
    share it apart. In one that is `read_only` to this person, nothing can be changed.
    """

    folder: Path
    engine: Engine
    person: str
    client: str
    read_only: bool

    @property
    def shared(self) -> bool:
        """Whether somebody else may change it meanwhile."""
        ...

    @property
    def bind(self) -> Engine | Connection:
        """What a session of this thread works on."""
        ...

    def in_turn(self, session: Session) -> str:
        """Wait until nobody else writes into the journal, so that its entries are numbered as they come about; the
        instant then, ISO in UTC, by the clock that all who share it go by.
        """
        ...

    def protect(self, path: Path) -> None:
        """Let those in who work with the library, and nobody else."""

    def forget_work(self, session: Session, throws: Collection[int]) -> None:
        """Take off what waits to be worked on of throws that are about to be erased."""

    def number_of(self, session: Session, change: int) -> int:
        """The number that a change gets when it is undone or done again: a new one where others must hear of it."""
        ...

    def noted(self, change: int) -> None:
        """An entry was written into the journal, and is kept when the transaction is."""

    def close(self) -> None:
        """Let go of it."""

    def put_right(self, library: Library, /) -> None:
        """Finish or take back what a kill or a fault left half-done."""

    def all_or_nothing(self, library: Library, /) -> AbstractContextManager[None]:
        """Several changes of which none stays when one fails, or when the program is killed on the way."""
        ...

    def vacuum(self) -> None:
        """Give deleted rows' room back. Raises LibraryError."""

    def backups(self) -> list[Path]:
        """Copies of the database, the newest first."""
        ...

    def back_up(self) -> Path:
        """Make a copy of the database now. Raises LibraryError."""
        ...

    def restore(self, backup: Path, /) -> None:
        """Put a backup in the database's place. Raises LibraryError."""

    def drop_backups(self) -> None:
        """Delete every backup. Raises OSError."""

    def fault_of(self, fault: DBAPIError, otherwise: str) -> LibraryError:
        """A fault of the engine in one sentence; `otherwise` begins one that is not known."""
        ...
