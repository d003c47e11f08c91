"""What is missing for a team's library to work from this machine, in plain words."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import Connection, inspect, select, text
from sqlalchemy.exc import DBAPIError

from waxtwin.library.faults import LibraryError
from waxtwin.library.layout import CLIPS
from waxtwin.library.team.address import SCHEMA, Address
from waxtwin.library.team.database import TeamDatabase, clock_notes, engine_for, refuse_unfit, server_major
from waxtwin.library.team.faults import fault_of
from waxtwin.library.team.making import ANALYST, ROLES, VIEWER, WORKER
from waxtwin.library.team.share import trusted
from waxtwin.library.team.tables import TEAM

_MAY = {ANALYST: "read and change", WORKER: "work on what waits", VIEWER: "read what is not withheld"}
_NEWEST = 18  # the newest major version that this was tried with
_ABANDONED = 24 * 3600.0  # s: a copy that no row names is swept when it is older
BACKUPS = (
    "Backups of the database are made on the server by whoever runs it (pg_dump, base backups); Wax Twin makes none, "
    "and what was erased for good stays in them until they are deleted."
)


@dataclass(frozen=True)
class Point:
    """One thing that was looked at: `good` True, False, or None for what is only to be known."""

    good: bool | None
    says: str


def check(address: Address, clips: Path | None = None) -> list[Point]:
    """Everything that was looked at, in order; it ends at the first thing without which nothing else can be seen."""
    engine = engine_for(address)
    try:
        with engine.connect() as connection:
            return [*_looked_at(connection, address, clips), Point(None, BACKUPS)]
    except DBAPIError as fault:
        return [Point(False, str(fault_of(fault, str(address), f"{address}: it cannot be looked at")))]
    finally:
        engine.dispose()


def _looked_at(connection: Connection, address: Address, clips: Path | None) -> list[Point]:
    found = [Point(True, f"{address} answers.")]
    major = server_major(connection)
    if major > _NEWEST:
        found.append(Point(None, f"PostgreSQL {major} is newer than any this was tried with."))
    safe = connection.scalar(text("select coalesce((select ssl from pg_stat_ssl where pid = pg_backend_pid()), false)"))
    if not address.is_here:
        found.append(Point(bool(safe), "The connection is encrypted." if safe else "The connection is not encrypted."))
    if not inspect(connection).has_table("team", SCHEMA):
        return [*found, Point(False, "There is no library in it yet, or you may not see it: “waxtwin team create”.")]
    try:
        refuse_unfit(connection, address)
    except LibraryError as fault:
        return [*found, Point(False, str(fault))]
    found.append(Point(True, "The tables are of this program's version."))
    found.append(_role(connection))
    found += [Point(False, note) for note in clock_notes(connection)]
    row = connection.execute(select(TEAM.c.uid, TEAM.c.clips, TEAM.c.copying)).one()
    if row.copying:
        found.append(Point(False, f"It is still being filled from {row.copying}; run that copy again."))
    return [*found, _share(clips or Path(row.clips), row.uid)]


def _role(connection: Connection) -> Point:
    wanted = text("select r from unnest(cast(:roles as text[])) r where pg_has_role(session_user, r, 'member')")
    mine = list(connection.scalars(wanted, {"roles": [*ROLES]}))
    who = connection.scalar(text("select session_user"))
    if not mine:
        return Point(False, f"{who} has none of the roles {', '.join(ROLES)}: “grant {ANALYST} to {who}”.")
    return Point(True, f"{who} may {', '.join(_MAY[role] for role in mine)}.")


def _share(folder: Path, uid: str) -> Point:
    try:
        trusted(folder, uid)
    except LibraryError as fault:
        return Point(False, str(fault))
    if not os.access(folder / CLIPS, os.W_OK):
        return Point(None, f"The clips in {folder} can be read from here, but not written.")
    return Point(True, f"The clips in {folder} can be read and written.")


def sweep(address: Address, clips: Path | None = None) -> int:
    """Delete copies that no row names and nobody can just be bringing in; returns how many. Raises LibraryError."""
    from waxtwin.library.store import Library

    library = Library(TeamDatabase(address, clips))
    try:
        return library.sweep_clips(_ABANDONED)
    finally:
        library.close()
