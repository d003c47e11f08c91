"""What a guardian agreed to, handing an athlete's data out, and erasing all of it."""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator, Sequence
from contextlib import suppress
from datetime import date
from pathlib import Path
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from waxtwin.core.cautions import is_minor
from waxtwin.formats import FormatError, write_track
from waxtwin.formats.person import PERSON, write_person
from waxtwin.formats.place import file_name, sidecar_path
from waxtwin.formats.sidecar import write_sidecar
from waxtwin.library.arrays import unpack_track
from waxtwin.library.athletes import person_of
from waxtwin.library.private import make_file, settle
from waxtwin.library.records import Athlete, ChangeRow, ClipRow, Content, DeliveryRow, PairRow, ViewRow
from waxtwin.library.store import BACKUPS, Library, LibraryError
from waxtwin.library.throws import BLEND, BLENDED, clip_place, sidecar_of

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


# erasing ------------------------------------------------------------------------------------------------------------
_ERASING = "erasing.json"  # what is still to be done; it names nobody


def erase(library: Library, athlete_id: int) -> None:
    """Erase an athlete for good: throws, clips, tracks, notes, blends they are part of, what was found in their clips,
    what undo and the backups still knew of them.

    Cannot be undone. Raises LibraryError, which says what is left to do; it is finished at the next opening.
    """
    with library.reading() as session:
        _athlete(session, athlete_id)
    _begin(library, athlete_id)
    finish_erasing(library)


def finish_erasing(library: Library) -> None:
    """Go on with an erasing that was begun, from wherever it was cut off; nothing where none was. Every step can be
    done twice.

    Raises LibraryError with what is left to do.
    """
    note = library.folder / _ERASING
    if not note.is_file():
        return
    try:
        left = json.loads(note.read_text(encoding="utf-8"))
        athlete, files = int(left["athlete"]), [str(file) for file in left["files"]]
    except (OSError, ValueError, KeyError, TypeError):
        athlete, files = 0, []  # a note cut short: what it was about is found again below
    doing = "the throws are still in the list"
    try:
        _erase_rows(library, athlete)
        doing = "the database still has to be written anew"
        library.vacuum()
        doing = "clips have still to be deleted"
        kept = library.clip_files()
        for file in files:
            if file not in kept:
                _erase_clip(library.folder / file)
        doing = "backups have still to be deleted"
        library.drop_backups()
        for left_over in (library.folder / BACKUPS).glob("*.part"):
            left_over.unlink(missing_ok=True)
        note.unlink(missing_ok=True)
    except (OSError, LibraryError) as fault:
        said = getattr(fault, "strerror", None) or str(fault)
        raise LibraryError(
            f"Erasing is not finished: {doing} ({said}). It goes on when the library is opened again."
        ) from None
    with suppress(LibraryError):
        library.back_up()


def _begin(library: Library, athlete_id: int) -> None:
    """Write down what is to be done before anything is."""
    with library.reading() as session:
        files = [clip.file for clip in _clips_only_of(session, athlete_id) if not clip.linked]
    note = library.folder / _ERASING
    part = note.with_suffix(".part")
    try:
        make_file(part)
        part.write_text(json.dumps({"athlete": athlete_id, "files": files}), encoding="utf-8")
        settle(part)
        part.replace(note)
        settle(library.folder)
    except OSError as fault:
        with suppress(OSError):
            part.unlink(missing_ok=True)
        raise LibraryError(f"Nothing was erased: the library cannot be written ({fault.strerror}).") from None


def _erase_rows(library: Library, athlete_id: int) -> None:
    """Everything in the database, in one transaction, with the list of changes."""
    with library.quietly() as session:
        row = session.get(Athlete, athlete_id)
        if row is not None:
            clips = [clip.id for clip in _clips_only_of(session, athlete_id)]
            for blend in _blends_of(session, row):
                _erase_throw(session, blend)
            mine = {throw.id for throw in row.deliveries}
            for pair in session.scalars(select(PairRow)):
                pair.others = [key for key in pair.others if key not in mine]
            session.delete(row)
            session.flush()
            session.execute(delete(ClipRow).where(ClipRow.id.in_(clips)))
        session.execute(delete(ChangeRow))
        used = set(session.scalars(select(DeliveryRow.track)))
        for column in (ViewRow.marks, ViewRow.steadying):
            used |= set(session.scalars(select(column)))
        for digest in session.scalars(select(Content.hash)).all():
            if digest not in used:
                session.execute(delete(Content).where(Content.hash == digest))


def _blends_of(session: Session, athlete: Athlete) -> list[DeliveryRow]:
    """Averages that hold one of an athlete's throws, told by the throws they were made of or, of old, by name."""
    mine = {throw.id for throw in athlete.deliveries}
    found = []
    for row in session.scalars(select(DeliveryRow).where(DeliveryRow.track_from == BLEND)):
        made_of = row.extra.get(BLENDED)
        if (mine & set(made_of)) if isinstance(made_of, list) else f"{athlete.name} (" in row.notes:
            found.append(row)
    return found


def _erase_throw(session: Session, row: DeliveryRow) -> None:
    owner = row.athlete
    session.delete(row)
    session.flush()
    session.refresh(owner)
    if not owner.deliveries:
        session.delete(owner)


def _erase_clip(file: Path) -> None:
    """A clip, and what a landmark model has found in it. Raises OSError."""
    from platformdirs import user_cache_path

    from waxtwin.capture.pose import forget

    if file.is_file():
        forget(file, user_cache_path("waxtwin") / "landmarks")
        file.unlink(missing_ok=True)


# what was agreed to ---------------------------------------------------------------------------------------------------
def not_agreed(library: Library, throws: Sequence[int], today: date) -> list[str]:
    """Why the likeness of the people in these throws should not leave the library without a thought, one sentence
    each: an athlete under age for whom nobody agreed, or whose data should not be kept any longer.
    """
    said = []
    with library.reading() as session:
        wanted = select(Athlete).join(DeliveryRow).where(DeliveryRow.id.in_(throws)).distinct().order_by(Athlete.name)
        for row in session.scalars(wanted):
            if is_minor(row.born, today) and not row.consent_on:
                said.append(f"{row.name} is under age, and no guardian is noted to have agreed.")
            if row.keep_until and row.keep_until < today.isoformat():
                said.append(f"{row.name}'s data was to be kept until {row.keep_until}.")
    return said


def throws_of(library: Library, athlete_id: int) -> list[int]:
    """Keys of an athlete's throws."""
    with library.reading() as session:
        return list(session.scalars(select(DeliveryRow.id).where(DeliveryRow.athlete_id == athlete_id)))


def prolong(library: Library, athlete_id: int, until: date) -> None:
    """Keep an athlete's data until another day. Raises LibraryError."""
    with library.change("Keep longer") as session:
        _athlete(session, athlete_id).keep_until = until.isoformat()


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
