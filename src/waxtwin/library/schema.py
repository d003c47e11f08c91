"""Bringing a library's database into being, and to this program's schema, in one step.

Everything happens in a copy beside it that takes its place once it is whole: a kill at any statement leaves the old
database, or none, or the new one.
"""

from __future__ import annotations

import sqlite3
from contextlib import closing, suppress
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import create_engine

from waxtwin.library.faults import LibraryError
from waxtwin.library.private import make_file, settle

if TYPE_CHECKING:
    from alembic.config import Config

HEAD = "0009"
_NEW = ".new"


def revision_of(path: Path) -> str | None:
    """The schema that a database is of; None for an empty one. Raises sqlite3.Error for one that is not ours."""
    with closing(sqlite3.connect(f"file:{_quoted(path)}?mode=ro", uri=True)) as connection:
        tables = {name for (name,) in connection.execute("select name from sqlite_master where type = 'table'")}
        if "alembic_version" in tables:
            found = next(iter(connection.execute("select version_num from alembic_version")), (None,))[0]
            return None if found is None else str(found)
    if tables:
        raise sqlite3.DatabaseError("the tables are not ours")
    return None


def _quoted(path: Path) -> str:
    from urllib.parse import quote

    return quote(str(path))


def check_ours(path: Path) -> str:
    """The schema of a whole database of ours. Raises LibraryError for anything else."""
    try:
        found = revision_of(path)
        if found is None:
            raise sqlite3.DatabaseError("it is empty")
        with closing(sqlite3.connect(f"file:{_quoted(path)}?mode=ro", uri=True)) as connection:
            if connection.execute("pragma quick_check(1)").fetchone() != ("ok",):
                raise sqlite3.DatabaseError("it is damaged")
    except sqlite3.Error:
        raise LibraryError(f"{path.name}: this is no database of Wax Twin, or it is damaged") from None
    _known(path, found)
    return found


def _known(path: Path, found: str) -> None:
    from alembic.script import ScriptDirectory
    from alembic.util import CommandError

    try:
        ScriptDirectory.from_config(migrations()).get_revision(found)
    except CommandError:
        raise LibraryError(
            f"{path.name}: this library was made by a newer Wax Twin; open it with that version"
        ) from None


def migrations() -> Config:
    """What Alembic has to know: where the schema's versions lie."""
    from alembic.config import Config  # loaded only when it is needed

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return config


def put_in_place(path: Path, source: Path | None) -> None:
    """A database of this program's schema at `path`, made of `source` or, for None, anew.

    What lies at `path` is replaced in one step. Raises sqlite3.Error, OSError, LibraryError.
    """
    made = path.with_name(path.name + _NEW)
    _sweep(path)
    try:
        make_file(made)
        if source is not None:
            with closing(sqlite3.connect(source)) as old, closing(sqlite3.connect(made)) as new:
                old.backup(new)
        if source is None or revision_of(made) != HEAD:
            _upgrade(made)
        with closing(sqlite3.connect(made)) as connection:
            connection.execute("pragma journal_mode = delete")
        settle(made)
        _rest(path)
        made.replace(path)
        settle(path.parent)
    finally:
        _sweep(path)


def _upgrade(path: Path) -> None:
    from alembic import command  # half a second to load, and needed only now

    config = migrations()
    engine = create_engine(f"sqlite:///{path}")
    try:
        with engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
    finally:
        engine.dispose()


def _rest(path: Path) -> None:
    """Write what still lies in a database's log into it, and take the log away: it must not be read into another."""
    if path.is_file() and path.stat().st_size:
        with suppress(sqlite3.Error), closing(sqlite3.connect(path)) as connection:
            connection.execute("pragma wal_checkpoint(truncate)")
            connection.execute("pragma journal_mode = delete")
    for end in ("-wal", "-shm"):
        path.with_name(path.name + end).unlink(missing_ok=True)


def _sweep(path: Path) -> None:
    """Take away what a kill left of a database that was being made."""
    for end in ("", "-wal", "-shm", "-journal"):
        with suppress(OSError):
            path.with_name(path.name + _NEW + end).unlink(missing_ok=True)
