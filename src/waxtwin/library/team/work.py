"""Work that a team's machines take from each other: asked for by anybody, done by whichever worker is free.

The queue is the server's; a worker that is killed is missed by its heartbeat, and its work goes to another.
"""

from __future__ import annotations

import asyncio
import logging
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from time import monotonic
from typing import Any

import procrastinate
from procrastinate import exceptions
from procrastinate.jobs import Status
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from waxtwin.core.errors import WaxTwinError
from waxtwin.library.faults import LibraryError
from waxtwin.library.jobs.kinds import KINDS, identity, kind_of
from waxtwin.library.jobs.standing import FAILED, RUNS, WAITS, Asked, Standing
from waxtwin.library.records import UNNAMED
from waxtwin.library.store import Library
from waxtwin.library.team.address import Address
from waxtwin.library.team.database import TeamDatabase
from waxtwin.library.team.faults import fault_of

QUEUE = "waxtwin"
_TRIES = 3  # after which work is left with its sentence
_RETRY = procrastinate.RetryStrategy(max_attempts=_TRIES - 1, linear_wait=2)
_PATIENCE = 20.0  # s without a sign of life of a worker after which its work is another's
_TELLS = 1.0  # s between two notes of how far it is
_STATES = {"todo": WAITS, "doing": RUNS, "aborting": RUNS, "failed": FAILED}


def _app(connector: procrastinate.BaseConnector) -> procrastinate.App:
    """The queue with its one task, over a connection."""
    app = procrastinate.App(connector=connector)
    app.task(_run, name="work", queue=QUEUE, pass_context=True, retry=_RETRY)  # type: ignore[call-overload]
    return app


class TeamQueue:
    """What is asked of a team's workers, and how it stands."""

    def __init__(self, library: Library) -> None:
        assert isinstance(library.database, TeamDatabase)
        self._library, self._database = library, library.database
        self._app = _app(
            procrastinate.SyncPsycopgConnector(kwargs=self._database.address.parameters, min_size=0, max_size=2)
        )
        self._app.open()

    def close(self) -> None:
        """Let go of the connections."""
        self._app.close()

    def ask(self, kind: str, asked: Asked, *, urgent: bool = False) -> bool:
        """Ask for work, `urgent` before what waits already; False where the same waits. Raises LibraryError."""
        return _ask(self._app, self._library, kind, asked, 10 if urgent else 0)

    def standings(self) -> list[Standing]:
        """What waits, runs and failed, what runs first. Raises LibraryError."""
        with self._library.reading() as session:
            rows = session.execute(_STANDINGS, {"unnamed": UNNAMED}).all()
        return [_standing(row) for row in rows]

    def has_workers(self) -> bool:
        """Whether anybody is there to take work. Raises LibraryError."""
        with self._library.reading() as session:
            return bool(session.scalar(_ALIVE, {"patience": _PATIENCE}))

    def cancel(self, job: int) -> None:
        """Stop work, or do not begin with it; what failed is put away. Raises LibraryError."""
        with self._library.quietly() as session:
            session.execute(text("delete from procrastinate_jobs where id = :job and status = 'failed'"), {"job": job})
        with suppress(exceptions.ConnectorException):
            self._app.job_manager.cancel_job_by_id(job, abort=True)

    def again(self, job: int) -> None:
        """Try work that failed once more. Raises LibraryError."""
        with self._library.quietly() as session:
            session.execute(
                text("update procrastinate_jobs set status = 'todo', attempts = 0, scheduled_at = null"
                     " where id = :job and status = 'failed'"), {"job": job},
            )  # fmt: skip


_ALIVE = text(
    "select exists (select 1 from procrastinate_workers"
    " where last_heartbeat > clock_timestamp() - make_interval(secs => :patience))"
)
_STANDINGS = text("""
    select j.id, j.args, j.status, n.by, n.share, extract(epoch from clock_timestamp() - n.since) as spent, n.says,
           coalesce(case when a.name = :unnamed then concat_ws(', ', d.title, d.recorded)
                         else a.name || ', ' || coalesce(d.recorded, d.title) end, '') as about
    from procrastinate_jobs j left join job_note n on n.job = j.id
    left join delivery d on d.id = (j.args -> 'asked' ->> 'throw')::int left join athlete a on a.id = d.athlete_id
    where j.status in ('todo', 'doing', 'failed')
    order by j.status <> 'doing', j.status <> 'failed', j.priority desc, j.id
""")


def _standing(row: Any) -> Standing:
    kind, state = str(row.args.get("kind")), _STATES[row.status]
    known = KINDS[kind].title if kind in KINDS else kind
    left = row.share and state == RUNS and float(row.spent) * (1 - row.share) / row.share
    about = row.about or str(row.args.get("asked", {}).get("name", ""))
    return Standing(
        row.id, known, about, state, row.by or "" if state == RUNS else "", row.share if state == RUNS else None,
        float(left) if left else None, row.says or "" if state == FAILED else "",
    )  # fmt: skip


def _ask(app: procrastinate.App, library: Library, kind: str, asked: Asked, priority: int = 0) -> bool:
    same = identity(library, kind_of(kind), asked)
    lock = f"throw {asked['throw']}" if "throw" in asked else same
    task = app.configure_task("work", queue=QUEUE, queueing_lock=same, lock=lock, priority=priority)
    try:
        task.defer(kind=kind, asked=dict(asked))
    except exceptions.AlreadyEnqueued:
        return False
    except exceptions.ConnectorException as fault:
        where = str(library.database.address) if isinstance(library.database, TeamDatabase) else ""
        raise fault_of(fault.__cause__ or fault, where, "The work could not be asked for") from None
    return True


# the worker -----------------------------------------------------------------------------------------------------------
def _run(context: procrastinate.JobContext, kind: str, asked: Asked) -> None:
    """Do a piece of work; what it says stays with it."""
    library, name = context.additional_context["library"], context.worker_name or ""
    job = context.job.id
    assert job is not None
    note = _Note(library, job, name)
    what = kind_of(kind)
    try:
        note.begin()
        steps = what.run(library, asked)
        while True:
            if context.should_abort():
                steps.close()
                raise exceptions.JobAborted
            try:
                note.tell(next(steps))
            except StopIteration:
                break
    except WaxTwinError as fault:
        note.fail(str(fault))
        raise
    for next_kind in what.follows:
        with suppress(WaxTwinError):
            _ask(context.app, library, next_kind, {"throw": asked["throw"]})


class _Note:
    """How far a job is, and why it failed, where everybody sees it."""

    def __init__(self, library: Library, job: int, by: str) -> None:
        self._library, self._job, self._by = library, job, by
        self._told = monotonic()

    def begin(self) -> None:
        self._keep(0.0, "", again=True)

    def tell(self, share: float) -> None:
        if monotonic() - self._told >= _TELLS:
            self._told = monotonic()
            self._keep(share, "")

    def fail(self, says: str) -> None:
        with suppress(WaxTwinError):
            self._keep(None, says)

    def _keep(self, share: float | None, says: str, *, again: bool = False) -> None:
        said = {"job": self._job, "by": self._by, "share": share, "says": says, "again": again}
        with self._library.quietly() as session:
            session.execute(_NOTE, said)


_NOTE = text("""
    insert into job_note (job, by, share, says, since) values (:job, :by, :share, :says, clock_timestamp())
    on conflict (job) do update set by = :by, share = :share, says = :says,
    since = case when :again then clock_timestamp() else job_note.since end
""")


def work(
    address: Address, clips: Path | None, name: str, *, wait: bool = True, patience: float = _PATIENCE,
    processes: int = 1, tell: Callable[[str], object] = print,
) -> None:  # fmt: skip
    """Take work until told to stop, or with `wait` off until there is none; `patience` s without a sign of life of
    another worker make its work anybody's; a clip is looked through in `processes`. Raises LibraryError.
    """
    from waxtwin.capture.pose import missing_model, use_processes

    use_processes(processes)
    if lacking := missing_model():
        raise LibraryError(lacking)
    database = TeamDatabase(address, clips)
    library = Library(database)
    logging.getLogger("procrastinate").setLevel(logging.CRITICAL)  # each piece of work says for itself how it ended
    try:
        for note in database.notes:
            tell(note)
        asyncio.run(_work(address, library, name, wait, patience))
    except (DBAPIError, exceptions.ConnectorException) as fault:
        raise fault_of(fault.__cause__ or fault, str(address), f"{address}: the worker had to stop") from None
    finally:
        library.close()


async def _work(address: Address, library: Library, name: str, wait: bool, patience: float) -> None:
    app = _app(procrastinate.PsycopgConnector(kwargs=address.parameters, min_size=1, max_size=4))
    async with app.open_async():
        looks = asyncio.create_task(_take_over(app, patience))
        try:
            await app.run_worker_async(
                queues=[QUEUE], name=name, wait=wait, additional_context={"library": library},
                update_heartbeat_interval=patience / 4, stalled_worker_timeout=patience, fetch_job_polling_interval=2.0,
                delete_jobs="successful",
            )  # fmt: skip
        finally:
            looks.cancel()


async def _take_over(app: procrastinate.App, patience: float) -> None:
    """Give the work of workers that are gone to whoever is free; what killed three of them is left."""
    while True:
        with suppress(exceptions.ConnectorException):
            for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=patience):
                if job.attempts + 1 >= _TRIES:
                    await app.job_manager.finish_job(job, Status.FAILED, delete_job=False)
                else:
                    await app.job_manager.retry_job(job)
        await asyncio.sleep(patience / 4)
