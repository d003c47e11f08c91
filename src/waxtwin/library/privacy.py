"""What a guardian agreed to, handing an athlete's data out, and erasing all of it."""

from __future__ import annotations

import shutil
from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import Any

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from waxtwin.core.cautions import is_minor
from waxtwin.core.steps import Steps
from waxtwin.formats.files import FormatError
from waxtwin.formats.person import PERSON, write_person
from waxtwin.formats.place import file_name, sidecar_path
from waxtwin.formats.sidecar import write_sidecar
from waxtwin.formats.tracks import write_track
from waxtwin.library.arrays import unpack_track
from waxtwin.library.athletes import person_of
from waxtwin.library.faults import LibraryError
from waxtwin.library.records import Athlete, DeliveryRow
from waxtwin.library.store import Library
from waxtwin.library.throws import clip_place, sidecar_of

_FIELDS = ("name", "throws", "height_m", "mass_kg", "span_m", "born", "guardian", "consent_on", "keep_until", "notes")


def athlete_facts(library: Library, athlete_id: int) -> dict[str, Any]:
    """Everything about an athlete that is not a throw. Raises LibraryError when the athlete is gone."""
    with library.reading() as session:
        row = _athlete(session, athlete_id)
        return {name: getattr(row, name) for name in _FIELDS} | {"throws_kept": len(row.deliveries)}


def set_athlete_facts(library: Library, athlete_id: int, facts: dict[str, Any]) -> None:
    """Change what is known about an athlete. Raises LibraryError."""
    with library.change(f"Athlete: {facts.get('name', '')}") as session:
        row = _athlete(session, athlete_id)
        for name in _FIELDS:
            if name in facts:
                setattr(row, name, facts[name])


def overdue(library: Library, today: date) -> list[tuple[int, str, str]]:
    """Athletes whose keep-until date has passed: (id, name, that date)."""
    with library.reading() as session:
        wanted = select(Athlete.id, Athlete.name, Athlete.keep_until).where(Athlete.keep_until < today.isoformat())
        return [(row[0], row[1], str(row[2])) for row in session.execute(wanted.order_by(Athlete.name))]


def export_athlete(library: Library, athlete_id: int, folder: Path) -> Steps[Path]:
    """Write everything kept about an athlete into a new folder, in open formats; returns that folder.

    Raises FormatError when it cannot be written.
    """
    with library.reading() as session:
        row = _athlete(session, athlete_id)
        target = folder / file_name(row.name)
        if target.exists():
            raise FormatError(target, "there is already something of this name in that folder")
        write_person(person_of(row), target / PERSON.removeprefix("."))
        for n, throw in enumerate(row.deliveries):
            yield n / len(row.deliveries)
            write_throw(library, session, throw, target)
    return target


def write_throw(library: Library, session: Session, throw: DeliveryRow, target: Path) -> str | None:
    """Write a throw into a folder: track, clips and sidecar; returns the name to read it by, the track's or else the
    first clip's. A throw with neither is nothing that could be read again.
    """  # fmt: skip
    stem = f"{throw.id:04d}-{file_name(throw.title or Path(throw.origin).stem)}"
    sidecar = sidecar_of(throw)
    for n, (view, row) in enumerate(zip(sidecar.views, throw.views, strict=True)):
        place = clip_place(library, row.clip)
        view.file = f"{stem}-{n + 1}{place.suffix}"
        if place.is_file():
            try:
                shutil.copyfile(place, target / view.file)
            except OSError as fault:
                raise FormatError(target / view.file, f"it cannot be written ({fault.strerror})") from None
    if throw.track is not None:
        write_track(unpack_track(library.get(session, throw.track)), target / f"{stem}.csv")
    elif not sidecar.views:
        return None
    name = f"{stem}.csv" if throw.track is not None else sidecar.views[0].file
    write_sidecar(sidecar, sidecar_path(target / name))
    return name


# what was agreed to ---------------------------------------------------------------------------------------------------
def not_agreed(library: Library, throws: Sequence[int], today: date) -> list[str]:
    """Why the likeness of the people in these throws should not leave the library without a thought, one sentence
    each: an athlete under age for whom nobody agreed, or whose data should not be kept any longer.
    """
    said = []
    with library.reading() as session:
        for row in session.scalars(_shown_in(throws)):
            if is_minor(row.born, today) and not row.consent_on:
                said.append(f"{row.name} is under age, and no guardian is noted to have agreed.")
            if row.keep_until and row.keep_until < today.isoformat():
                said.append(f"{row.name}'s data was to be kept until {row.keep_until}.")
    return said


def agreed(library: Library, throws: Sequence[int], today: date) -> list[str]:
    """What is noted about those under age in these throws for whom somebody agreed, one sentence each."""
    said = []
    with library.reading() as session:
        for row in session.scalars(_shown_in(throws)):
            if is_minor(row.born, today) and row.consent_on:
                until = f", to be kept until {row.keep_until}" if row.keep_until else ", without a date until when"
                said.append(f"For {row.name}, {row.guardian or 'a guardian'} agreed on {row.consent_on}{until}.")
    return said


def _shown_in(throws: Sequence[int]) -> Select[Athlete]:
    """Whoever is in these throws, each once."""
    theirs = select(DeliveryRow.athlete_id).where(DeliveryRow.id.in_(throws))
    return select(Athlete).where(Athlete.id.in_(theirs)).order_by(Athlete.name)


def throws_of(library: Library, athlete_id: int) -> list[int]:
    """Keys of an athlete's throws."""
    with library.reading() as session:
        return list(session.scalars(select(DeliveryRow.id).where(DeliveryRow.athlete_id == athlete_id)))


def prolong(library: Library, athlete_id: int, until: date) -> None:
    """Keep an athlete's data until another day. Raises LibraryError."""
    with library.change("Keep longer") as session:
        _athlete(session, athlete_id).keep_until = until.isoformat()


def _athlete(session: Session, athlete_id: int) -> Athlete:
    row = session.get(Athlete, athlete_id)
    if row is None:
        raise LibraryError("this athlete is not in the library any more")
    return row
