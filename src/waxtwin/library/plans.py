"""Plans as they are kept, one row a version, the latest one open until handed over; and the practice catalogue."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import asdict, replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from waxtwin.core.findings import MOST_IN_FOCUS, Task
from waxtwin.core.measures import MEASURES
from waxtwin.core.plan import SOURCES, Aim, Focus, Plan, Target
from waxtwin.library.faults import LibraryError
from waxtwin.library.playbook import TASK_PARTS, shipped_playbook
from waxtwin.library.records import Athlete, PlanRow, TaskRow
from waxtwin.library.store import Library
from waxtwin.library.stored import StoredDelivery

_UNTIL_NEXT = timedelta(weeks=4)  # unless somebody says otherwise
_TARGET = "target"  # what the what-if keeps with a throw


# plans ----------------------------------------------------------------------------------------------------------------
def plans_of(library: Library, athlete_id: int) -> tuple[Plan, ...]:
    """Every version of an athlete's plan, the first one first."""
    with library.reading() as session:
        rows = session.scalars(select(PlanRow).where(PlanRow.athlete_id == athlete_id).order_by(PlanRow.version))
        return tuple(plan_of(row) for row in rows)


def keep_plan(library: Library, athlete_id: int, plan: Plan, label: str) -> Plan:
    """Keep a plan as one change: in its version, or in a new one where that was handed over. Raises LibraryError."""
    with library.change(label) as session:
        if session.get(Athlete, athlete_id) is None:
            raise LibraryError("this athlete is not in the library any more")
        row = _latest(session, athlete_id)
        if row is None or row.sent is not None:
            version = 1 if row is None else row.version + 1
            row = PlanRow(
                athlete_id=athlete_id, version=version, made=datetime.now(UTC).isoformat(), focus=[], notes=""
            )
            session.add(row)
        row.focus = [focus_document(one) for one in plan.focus[:MOST_IN_FOCUS]]
        row.start, row.next_look, row.speed_aim_mps = plan.start, plan.next_look, plan.speed_aim
        row.notes = plan.notes
        session.flush()
        return plan_of(row)


def hand_over(library: Library, athlete_id: int, day: date) -> None:
    """Say that the latest version was handed over on a day; without a start it starts then. Raises LibraryError."""
    with library.change("Hand the plan over") as session:
        row = _latest(session, athlete_id)
        if row is None:
            raise LibraryError("there is no plan yet")
        row.sent = day.isoformat()
        row.start = row.start or row.sent
        row.next_look = row.next_look or (day + _UNTIL_NEXT).isoformat()


def _latest(session: Session, athlete_id: int) -> PlanRow | None:
    wanted = select(PlanRow).where(PlanRow.athlete_id == athlete_id).order_by(PlanRow.version.desc()).limit(1)
    return session.scalars(wanted).first()


def plan_of(row: PlanRow) -> Plan:
    """A version as the core knows it; what is malformed is left out."""
    focus = tuple(found for one in row.focus[:MOST_IN_FOCUS] if (found := focus_of(one)) is not None)
    return Plan(row.version, focus, row.start, row.next_look, row.speed_aim_mps, row.notes, row.sent, row.made)


def focus_document(focus: Focus) -> dict[str, Any]:
    """A focus as JSON."""
    return asdict(focus) | {"tasks": list(focus.tasks)}


def focus_of(entry: Any) -> Focus | None:
    """A focus from JSON, or None where it is none."""
    if not isinstance(entry, dict) or not isinstance(entry.get("title"), str):
        return None
    tasks = entry.get("tasks")
    keys = tuple(str(key) for key in tasks) if isinstance(tasks, list) else ()
    return Focus(
        str(entry.get("finding", "")), entry["title"], str(entry.get("plain", "")), _target(entry.get("target")), keys
    )


def _target(entry: Any) -> Target | None:
    if not isinstance(entry, dict) or entry.get("measure") not in MEASURES or entry.get("source") not in SOURCES:
        return None
    aim = _number(entry.get("aim"))
    if aim is None:
        return None
    return Target(entry["measure"], _number(entry.get("start")), aim, entry["source"], _number(entry.get("error")))


def _number(said: Any) -> float | None:
    good = isinstance(said, (int, float)) and not isinstance(said, bool) and abs(said) < 1e9
    return float(said) if good else None


def aim_of(stored: StoredDelivery) -> Aim | None:
    """What was kept under what-if with a throw."""
    said = (stored.sidecar.model_extra or {}).get(_TARGET)
    if not isinstance(said, dict) or not isinstance(said.get("shares"), dict):
        return None
    shares = {str(name): found for name, share in said["shares"].items() if (found := _number(share)) is not None}
    speed = _number(said.get("speed_mps"))
    return None if speed is None else Aim(shares, speed)


# the catalogue --------------------------------------------------------------------------------------------------------
def catalogue(library: Library | None) -> dict[str, Task]:
    """Every practice task by key: the shipped ones, with the library's own in their place or after them."""
    found = dict(shipped_playbook().tasks)
    if library is not None:
        with library.reading() as session:
            for row in session.scalars(select(TaskRow).order_by(TaskRow.id)):
                shipped = found.get(row.key, Task("", "", "", ""))
                own = {part: getattr(row, part) for part in TASK_PARTS}
                picture = library.get(session, row.picture) if row.picture else b""
                found[row.key] = replace(shipped, **own, picture=picture)
    return found


def keep_task(library: Library, key: str, task: Task) -> None:
    """Keep a task under a key, as one change. Raises LibraryError."""
    with library.change(f"Practice task: {task.title}") as session:
        row = session.scalars(select(TaskRow).where(TaskRow.key == key)).first()
        if row is None:
            row = TaskRow(key=key, title="")
            session.add(row)
        for part in TASK_PARTS:
            setattr(row, part, getattr(task, part))
        row.picture = library.put(session, task.picture) if task.picture else None


def forget_task(library: Library, key: str) -> None:
    """Take the library's own task away; a shipped one of that key stands as it was. Raises LibraryError."""
    with library.change("Take a practice task away") as session:
        row = session.scalars(select(TaskRow).where(TaskRow.key == key)).first()
        if row is not None:
            session.delete(row)


def new_key(known: Collection[str], title: str) -> str:
    """A key for what is new under a title, that no other has."""
    stem = "own_" + ("".join(c if c.isalnum() else "_" for c in title.casefold())[:40].strip("_") or "task")
    return next(key for n in range(len(known) + 1) if (key := stem if n == 0 else f"{stem}_{n + 1}") not in known)


def with_own(known: Mapping[str, Task], library: Library) -> frozenset[str]:
    """Keys of the tasks that the library itself holds."""
    with library.reading() as session:
        return frozenset(key for key in session.scalars(select(TaskRow.key)) if key in known)
