"""Making a team's library on a server, or bringing one up to date: schema, roles, rights."""

from __future__ import annotations

import uuid
from pathlib import Path

from procrastinate.schema import SchemaManager
from sqlalchemy import Connection, inspect, select, text, update
from sqlalchemy.exc import DBAPIError

from waxtwin.library.faults import LibraryError
from waxtwin.library.schema import HEAD, migrations
from waxtwin.library.team.address import SCHEMA, Address
from waxtwin.library.team.database import CHANNEL, engine_for, refuse_old_server
from waxtwin.library.team.faults import fault_of
from waxtwin.library.team.share import claim
from waxtwin.library.team.tables import TEAM

ANALYST, VIEWER, WORKER = "waxtwin_analyst", "waxtwin_viewer", "waxtwin_worker"
ROLES = (ANALYST, VIEWER, WORKER)

# What a viewer sees is what is not withheld: nobody under age for whom no guardian agreed, nobody whose date is past.
_SHOWN = """(keep_until is null or keep_until = '' or keep_until >= to_char(current_date, 'YYYY-MM-DD'))
  and (coalesce(consent_on, '') <> '' or coalesce(born, '') = ''
       or born <= to_char(current_date - interval '18 years', 'YYYY-MM-DD'))"""
_OF_ATHLETE = "athlete_id in (select id from athlete)"
_OF_THROW = "delivery_id in (select id from delivery)"
_OF_PAIR = "athlete_throw in (select id from delivery) and twin_throw in (select id from delivery)"
_VISIBLE = {
    "athlete": _SHOWN, "session": _OF_ATHLETE, "delivery": _OF_ATHLETE, "plan": _OF_ATHLETE, "arm_note": _OF_ATHLETE,
    "view": _OF_THROW, "event": _OF_THROW, "tag": _OF_THROW, "profile": _OF_THROW, "figures": _OF_THROW,
    "clip": "id in (select clip_id from view)", "pair": _OF_PAIR, "talk": _OF_PAIR, "task": "true",
    "content": "hash in (select track from delivery union select in_space from delivery"
               " union select marks from view union select steadying from view union select picture from task)",
}  # fmt: skip
_WRITTEN_BY_WORKERS = (
    "athlete", "delivery", "view", "event", "tag", "content", "profile", "figures", "change", "job_note",
    "procrastinate_jobs", "procrastinate_events", "procrastinate_workers", "procrastinate_periodic_defers",
)  # fmt: skip


def create(address: Address, clips: Path) -> str:
    """Make the library, or bring it up to date where it is there; says in one line what was done.

    Raises LibraryError; nothing is changed then.
    """
    engine = engine_for(address)
    try:
        with engine.begin() as connection:
            said = _create(connection, address, clips)
    except DBAPIError as fault:
        raise fault_of(fault, str(address), f"{address}: the library could not be made") from None
    finally:
        engine.dispose()
    return said


def _create(connection: Connection, address: Address, clips: Path) -> str:
    refuse_old_server(connection, address)
    connection.execute(text(f"create schema if not exists {SCHEMA}"))
    there = inspect(connection).has_table("alembic_version", SCHEMA)
    before = connection.scalar(text("select version_num from alembic_version")) if there else None
    if before is not None and before > HEAD:
        raise LibraryError(f"{address}: this library was made by a newer Wax Twin; use that version")
    _upgrade(connection)
    TEAM.create(connection, checkfirst=True)
    _make_queue(connection)
    uid = connection.scalar(select(TEAM.c.uid))
    if uid is None:
        uid = uuid.uuid4().hex
        connection.execute(TEAM.insert().values(id=1, uid=uid, clips=str(clips.absolute())))
    else:
        connection.execute(update(TEAM).values(clips=str(clips.absolute())))
    _grant(connection)
    claim(clips, uid)
    if before is None:
        return f"{address}: a library was made; its clips lie in {clips}"
    return f"{address}: the library is {'up to date' if before == HEAD else 'brought up to date'}"


def _upgrade(connection: Connection) -> None:
    from alembic import command

    config = migrations()
    config.attributes["connection"] = connection
    command.upgrade(config, "head")


def _make_queue(connection: Connection) -> None:
    """The queue's own tables and functions, in its own words, and how far each piece of work is."""
    if not inspect(connection).has_table("procrastinate_jobs", SCHEMA):
        raw = connection.connection.driver_connection
        assert raw is not None
        raw.execute(SchemaManager.get_schema())
    for statement in _NOTES:
        connection.execute(text(statement))


_NOTES = (
    """create table if not exists job_note (
        job bigint primary key references procrastinate_jobs(id) on delete cascade,
        by text not null, share double precision, says text not null, since timestamptz not null
    )""",
    f"""create or replace function tell_change() returns trigger language plpgsql as $$
        begin perform pg_notify('{CHANNEL}', new.client); return new; end $$""",
    "drop trigger if exists tell_change on change",
    """create trigger tell_change after insert or update of undone on change
        for each row execute function tell_change()""",
)


def _grant(connection: Connection) -> None:
    """Roles and what each may do; whoever logs in is made a member of one by the operator."""
    wanted = text("select rolname from pg_roles where rolname = any(:names)")
    known = set(connection.scalars(wanted, {"names": [*ROLES]}))
    for role in ROLES:
        if role not in known:
            connection.execute(text(f"create role {role} nologin"))
    everybody = ", ".join(ROLES)
    for statement in (
        f"grant usage on schema {SCHEMA} to {everybody}",
        f"grant select on all tables in schema {SCHEMA} to {ANALYST}, {WORKER}",
        f"grant insert, update, delete on all tables in schema {SCHEMA} to {ANALYST}",
        f"revoke insert, update, delete on team, alembic_version from {ANALYST}",
        f"grant usage on all sequences in schema {SCHEMA} to {ANALYST}, {WORKER}",
        f"grant insert, update, delete on {', '.join(_WRITTEN_BY_WORKERS)} to {WORKER}",
        f"grant execute on all functions in schema {SCHEMA} to {ANALYST}, {WORKER}",
        f"grant select on {', '.join(_VISIBLE)}, team, alembic_version to {VIEWER}",
    ):
        connection.execute(text(statement))
    for table, shown in _VISIBLE.items():
        for policy in ("work", "view"):
            connection.execute(text(f"drop policy if exists {policy} on {table}"))
        connection.execute(text(f"create policy work on {table} to {ANALYST}, {WORKER} using (true) with check (true)"))
        connection.execute(text(f"create policy view on {table} for select to {VIEWER} using ({shown})"))
        connection.execute(text(f"alter table {table} enable row level security"))
