"""Moving a library from a folder to a team's server and back: exact, checked, and taken up where it was cut off."""

from __future__ import annotations

import hashlib
import json
import shutil
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, Table, func, inspect, select, text, update
from sqlalchemy.dialects import postgresql, sqlite
from sqlalchemy.exc import DBAPIError

from waxtwin.core.steps import Steps
from waxtwin.library.faults import LibraryError
from waxtwin.library.layout import CLIPS, FILMS, SMALL, VOICES
from waxtwin.library.local import LocalDatabase
from waxtwin.library.private import make_folder
from waxtwin.library.records import Base
from waxtwin.library.team.address import SCHEMA, Address
from waxtwin.library.team.database import TeamDatabase, engine_for, refuse_unfit
from waxtwin.library.team.faults import fault_of
from waxtwin.library.team.share import trusted
from waxtwin.library.team.tables import TEAM

_NOTE = "copying.json"
_BATCH = 200  # rows of a statement
_FOLDERS = (CLIPS, VOICES, SMALL, FILMS)


def to_team(source: Path, address: Address, clips: Path | None = None) -> Steps[str]:
    """Copy the library in a folder into an empty one of a team; the same again goes on where it stopped.

    Returns what was copied, in one line. Raises LibraryError.
    """
    local = LocalDatabase(source)
    engine = engine_for(address)
    try:
        share = _begin(engine, address, str(source.absolute()), clips)
        yield from _copied(local.engine, engine, source, share)
        with engine.begin() as connection:
            for table in Base.metadata.sorted_tables:
                _number_on(connection, table)
            connection.execute(update(TEAM).values(copying=None))
        return _counted(engine, source.name, str(address))
    except DBAPIError as fault:
        raise fault_of(fault, str(address), "The copy is not finished; the same again goes on with it") from None
    finally:
        engine.dispose()
        local.close()


def to_folder(address: Address, target: Path, clips: Path | None = None) -> Steps[str]:
    """Copy a team's library into a new folder; the same again goes on where it stopped.

    Returns what was copied, in one line. Raises LibraryError.
    """
    team = TeamDatabase(address, clips)
    note = target / _NOTE
    try:
        going_on = note.is_file() and json.loads(note.read_text(encoding="utf-8")) == {"from": str(address)}
        if not going_on and target.is_dir() and any(target.iterdir()):
            raise LibraryError(f"{target}: there is something in this folder; a library is copied into a new one")
        make_folder(target)
        note.write_text(json.dumps({"from": str(address)}), encoding="utf-8")
        local = LocalDatabase(target, afresh=True)
        try:
            yield from _copied(team.engine, local.engine, team.folder, target)
            said = _counted(local.engine, str(address), target.name)
        finally:
            local.close()
        note.unlink()
        return said
    except (OSError, ValueError) as fault:
        if isinstance(fault, LibraryError):
            raise
        raise LibraryError(f"{target}: the copy is not finished ({fault}); the same again goes on with it") from None
    except DBAPIError as fault:
        raise team.fault_of(fault, "The copy is not finished; the same again goes on with it") from None
    finally:
        team.close()


def _begin(engine: Engine, address: Address, source: str, clips: Path | None) -> Path:
    """Note from where an empty library is being filled, so that nobody joins it meanwhile."""
    with engine.begin() as connection:
        if not inspect(connection).has_table("team", SCHEMA):
            raise LibraryError(f"{address}: there is no library of a team yet; “waxtwin team create” makes one")
        refuse_unfit(connection, address)
        uid, folder, copying = connection.execute(select(TEAM.c.uid, TEAM.c.clips, TEAM.c.copying)).one()
        share = clips or Path(folder)
        trusted(share, uid)
        if copying is None and any(connection.scalar(_count(table)) for table in Base.metadata.sorted_tables):
            raise LibraryError(f"{address}: this library is not empty; a folder is copied into an empty one")
        if copying not in (None, source):
            raise LibraryError(f"{address}: this library is being filled from {copying}; run that copy again")
        connection.execute(update(TEAM).values(copying=source))
    return share


def _copied(source: Engine, target: Engine, folder: Path, into: Path) -> Steps[None]:
    tables = Base.metadata.sorted_tables
    with source.connect() as old:
        for n, table in enumerate(tables):
            yield 0.5 * n / len(tables)
            with target.begin() as new:
                _copy_rows(old, new, table)
                if _digest(old, table) != _digest(new, table):
                    raise LibraryError(f"{folder}: the rows of “{table.name}” differ after copying; nothing was kept")
    files = [(part, file) for part in _FOLDERS for file in _files(folder / part)]
    for n, (part, file) in enumerate(files):
        yield 0.5 + 0.5 * n / len(files)
        _copy_file(file, into / part / file.name)


def _copy_rows(old: Connection, new: Connection, table: Table) -> None:
    """Rows that are not there yet, in order of their keys."""
    keys = list(table.primary_key.columns)
    known = set(map(tuple, new.execute(select(*keys))))
    upsert = postgresql.insert if new.dialect.name == "postgresql" else sqlite.insert
    batch: list[dict[str, Any]] = []
    for row in old.execution_options(yield_per=_BATCH).execute(select(table).order_by(*keys)).mappings():
        if tuple(row[key] for key in keys) in known:
            continue
        batch.append(dict(row))
        if len(batch) == _BATCH:
            new.execute(upsert(table).on_conflict_do_nothing(), batch)
            batch = []
    if batch:
        new.execute(upsert(table).on_conflict_do_nothing(), batch)


def _digest(connection: Connection, table: Table) -> str:
    """A hash over every value of a table, the same on either side."""
    digest = hashlib.sha256()
    keys = list(table.primary_key.columns)
    for row in connection.execution_options(yield_per=_BATCH).execute(select(table).order_by(*keys)):
        digest.update(repr([_plain(value) for value in row]).encode())
    return digest.hexdigest()


def _plain(value: Any) -> Any:
    """Values as text that does not hang on the engine."""
    if isinstance(value, (bytes, memoryview)):
        return hashlib.sha256(value).hexdigest()
    return json.dumps(value, sort_keys=True) if isinstance(value, (dict, list)) else value


def _number_on(connection: Connection, table: Table) -> None:
    """The next new row gets a number that none has."""
    serial = connection.scalar(text("select pg_get_serial_sequence(:table, 'id')"), {"table": table.name}) if (
        "id" in table.columns) else None  # fmt: skip
    if serial:
        last = connection.scalar(select(func.max(table.c.id)))
        connection.execute(text("select setval(:serial, :last, :used)"),
                           {"serial": serial, "last": last or 1, "used": last is not None})  # fmt: skip


def _files(folder: Path) -> Iterator[Path]:
    yield from sorted(path for path in folder.iterdir() if path.is_file()) if folder.is_dir() else ()


def _copy_file(source: Path, target: Path) -> None:
    """Whole and checked, or not at all. Raises LibraryError."""
    part = target.with_name(target.name + ".part")
    try:
        if target.is_file() and _hash(target) == _hash(source):
            return
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(source, part)
        if _hash(part) != _hash(source):
            raise LibraryError(f"{source.name}: the copy of this file is not as it was; nothing was kept of it")
        part.replace(target)
    except OSError as fault:
        raise LibraryError(f"{source.name}: it could not be copied ({fault.strerror})") from None
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)


def _hash(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _count(table: Table) -> Any:
    return select(func.count()).select_from(table)


def _counted(engine: Engine, source: str, target: str) -> str:
    with engine.connect() as connection:
        count = {table.name: connection.scalar(_count(table)) for table in Base.metadata.sorted_tables}
    held = f"{count['delivery']} throws of {count['athlete']} athletes, {count['clip']} clips"
    return f"{source} to {target}: {held}; all checked"
