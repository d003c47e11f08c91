"""What is kept about an athlete besides the throws, handed out as a file and taken in again."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy.orm import Session

from waxtwin.formats.person import ArmEntry, Person, PlanEntry, SessionEntry, read_person
from waxtwin.formats.sidecar import Athlete as SidecarAthlete
from waxtwin.library.records import ArmNoteRow, Athlete, PlanRow
from waxtwin.library.store import Library
from waxtwin.library.throws import athlete_named, session_on

_PLAIN = ("name", "throws", "height_m", "mass_kg", "span_m", "born", "guardian", "consent_on", "keep_until", "notes",
          "extra", "limits")  # fmt: skip
_IF_EMPTY = ("guardian", "consent_on", "keep_until", "notes", "limits")
_PLAN = ("version", "made", "sent", "start", "next_look", "speed_aim_mps", "focus", "notes")
_ARM = ("date", "soreness", "place", "since", "text")
_SESSION = ("date", "place", "notes", "thrown", "log")


def person_of(row: Athlete) -> Person:
    """Everything about an athlete that is not a throw."""
    return Person(
        **{name: getattr(row, name) for name in _PLAIN},
        sessions=[SessionEntry(**{name: getattr(one, name) for name in _SESSION}) for one in row.sessions],
        arm_notes=[ArmEntry(**{name: getattr(one, name) for name in _ARM}) for one in row.arm_notes],
        plans=[PlanEntry(**{name: getattr(one, name) for name in _PLAN}) for one in row.plans],
    )


def take_person(library: Library, path: Path) -> int:
    """Take an athlete's file in as one change; returns whose it is.

    What is known here already stays: only what is missing is added, and the plans only where there are none yet.
    Raises WaxTwinError.
    """
    person = read_person(path)
    with library.change(f"Import what is kept about {person.name}") as session:
        who = SidecarAthlete(name=person.name, throws=person.throws, height_m=person.height_m, mass_kg=person.mass_kg,
                             span_m=person.span_m, born=person.born)  # fmt: skip
        row = athlete_named(session, who)
        for name in _IF_EMPTY:
            if not getattr(row, name):
                setattr(row, name, getattr(person, name))
        row.extra = {**{k: v for k, v in person.extra.items() if k not in _PLAIN}, **row.extra}
        _take_sessions(session, row, person)
        _take_notes(row, person)
        if not row.plans:
            row.plans = [PlanRow(**{name: getattr(one, name) for name in _PLAN}) for one in person.plans]
        session.flush()
        return row.id


def _take_sessions(session: Session, row: Athlete, person: Person) -> None:
    for entry in person.sessions:
        known = session_on(session, row, entry.date)
        assert known is not None
        known.place, known.notes = known.place or entry.place, known.notes or entry.notes
        known.thrown = entry.thrown if known.thrown is None else known.thrown
        known.log = known.log or entry.log


def _take_notes(row: Athlete, person: Person) -> None:
    known = {(one.date, one.place) for one in row.arm_notes}
    for entry in person.arm_notes:
        if (entry.date, entry.place) not in known:
            row.arm_notes.append(ArmNoteRow(**{name: getattr(entry, name) for name in _ARM}))
