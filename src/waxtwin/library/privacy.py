"""What a guardian agreed to, handing an athlete's data out, and erasing all of it."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from datetime import date
from pathlib import Path
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from waxtwin.formats import FormatError, write_track
from waxtwin.formats.person import PERSON, write_person
from waxtwin.formats.place import file_name, sidecar_path
from waxtwin.formats.sidecar import write_sidecar
from waxtwin.library.arrays import unpack_track
from waxtwin.library.people import person_of
from waxtwin.library.records import Athlete, ChangeRow, ClipRow, Content, DeliveryRow, ViewRow
from waxtwin.library.store import Library, LibraryError
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


def overdue(library: Library, today: date) -> list[tuple[int, str]]:
    """Athletes whose keep-until date has passed: (id, name)."""
    with library.reading() as session:
        rows = session.execute(
            select(Athlete.id, Athlete.name).where(Athlete.keep_until < today.isoformat()).order_by(Athlete.name)
        )
        return [(row[0], row[1]) for row in rows]


def export_athlete(library: Library, athlete_id: int, folder: Path) -> Iterator[float | Path]:
    """Write everything kept about an athlete into a new folder, in open formats; yields shares, then that folder.

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
    yield target


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


def erase(library: Library, athlete_id: int) -> None:
    """Erase an athlete for good: throws, clips, tracks, notes, what undo and the backups still knew of them.

    Cannot be undone. Raises LibraryError.
    """
    with library.reading() as session:
        mine = _clips_only_of(session, athlete_id)
        files = [clip_place(library, clip) for clip in mine if not clip.linked]
        ids = [clip.id for clip in mine]
    with library.change("Erase an athlete") as session:
        session.delete(_athlete(session, athlete_id))
        session.flush()
        session.execute(delete(ClipRow).where(ClipRow.id.in_(ids)))
    library.forget_changes()
    with library.reading() as session, session.begin():
        used = set(session.scalars(select(DeliveryRow.track)))
        for column in (ViewRow.marks, ViewRow.steadying):
            used |= set(session.scalars(select(column)))
        for digest in session.scalars(select(Content.hash)).all():
            if digest not in used:
                session.execute(delete(Content).where(Content.hash == digest))
        session.execute(delete(ChangeRow))
    library.vacuum()
    for file in files:
        try:
            file.unlink(missing_ok=True)
        except OSError as fault:
            raise LibraryError(
                f"{file.name}: this clip could not be deleted ({fault.strerror}); delete it by hand"
            ) from None
    library.drop_backups()
    library.back_up()


def _clips_only_of(session: Session, athlete_id: int) -> list[ClipRow]:
    """Clips that show this athlete's throws and nobody else's, and those that no throw uses any more."""
    owners: dict[int, set[int]] = {}
    for clip, owner in session.execute(select(ViewRow.clip_id, DeliveryRow.athlete_id).join(ViewRow.delivery)):
        owners.setdefault(clip, set()).add(owner)
    return [clip for clip in session.scalars(select(ClipRow)) if owners.get(clip.id, {athlete_id}) == {athlete_id}]


def _athlete(session: Session, athlete_id: int) -> Athlete:
    row = session.get(Athlete, athlete_id)
    if row is None:
        raise LibraryError("this athlete is not in the library any more")
    return row
