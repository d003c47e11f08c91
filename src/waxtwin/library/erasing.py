"""Erasing an athlete for good, in steps that can each be done twice, so that it goes on from where it was cut off."""

from __future__ import annotations

import json
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from waxtwin.library.faults import LibraryError
from waxtwin.library.layout import BLEND, BLENDED, FILMS, VOICES
from waxtwin.library.private import below, make_file, settle
from waxtwin.library.records import (
    Athlete,
    ChangeRow,
    ClipRow,
    Content,
    DeliveryRow,
    PairRow,
    TalkRow,
    TaskRow,
    ViewRow,
)
from waxtwin.library.small import sweep_small
from waxtwin.library.talks import sweep_voices, voice_files

if TYPE_CHECKING:
    from waxtwin.library.store import Library

_ERASING, _NOTES = "erasing.json", "erasing*.json"  # what is still to be done; they name nobody
_OWNERS = {
    "athlete_id": "athlete", "delivery_id": "delivery", "athlete_throw": "delivery", "twin_throw": "delivery",
}  # fmt: skip


def erase(library: Library, athlete_id: int) -> None:
    """Erase an athlete for good: throws, clips, tracks, notes, blends they are part of, what was found in their clips,
    what undo and the backups still knew of them.

    Cannot be undone. Raises LibraryError, which says what is left to do; it is finished at the next opening.
    """
    with library.reading() as session:
        if session.get(Athlete, athlete_id) is None:
            raise LibraryError("this athlete is not in the library any more")
    _begin(library, athlete_id)
    finish_erasing(library)


def finish_erasing(library: Library) -> None:
    """Go on with what was begun, from wherever it was cut off; nothing where nothing was. Every step can be done twice,
    also by two at once.

    Raises LibraryError with what is left to do.
    """
    with suppress(OSError):
        _part_of(_note(library)).unlink(missing_ok=True)  # cut off before anything was begun
    for note in sorted(library.folder.glob(_NOTES)):
        _finish(library, note)


def _finish(library: Library, note: Path) -> None:
    try:
        left = json.loads(note.read_text(encoding="utf-8"))
        athlete, files = int(left["athlete"]), [str(file) for file in left["files"]]
    except (OSError, ValueError, KeyError, TypeError):
        athlete, files = 0, []  # a note cut short: what it was about is found again below
    doing = "the throws are still in the list"
    try:
        _erase_rows(library, athlete)
        doing = "the database still has to be written anew"
        library.database.vacuum()
        doing = "clips have still to be deleted"
        if not library.database.shared:  # where others work on, somebody may just be keeping a take
            sweep_voices(library)
        sweep_small(library)
        kept = library.clip_files() | voice_files(library)
        for file in files:
            if file not in kept:
                _erase_file(library.folder / file)
        doing = "backups have still to be deleted"
        library.database.drop_backups()
        note.unlink(missing_ok=True)
    except (OSError, LibraryError) as fault:
        said = getattr(fault, "strerror", None) or str(fault)
        raise LibraryError(
            f"Erasing is not finished: {doing} ({said}). It goes on when the library is opened again."
        ) from None
    if not library.database.shared:
        with suppress(LibraryError):
            library.back_up()


def _note(library: Library) -> Path:
    """Where this program writes down what it is about to erase; of those that share a folder each has its own."""
    note = library.folder / _ERASING
    return note.with_stem(f"{note.stem}-{library.database.client}") if library.database.shared else note


def _begin(library: Library, athlete_id: int) -> None:
    """Write down what is to be done before anything is."""
    with library.reading() as session:
        files = [clip.file for clip in _clips_only_of(session, athlete_id) if not clip.linked]
        mine = select(DeliveryRow.id).where(DeliveryRow.athlete_id == athlete_id)
        talks = select(TalkRow.voices).where(TalkRow.athlete_throw.in_(mine) | TalkRow.twin_throw.in_(mine))
        files += [f"{VOICES}/{name}" for voices in session.scalars(talks) for name in voices]
        shown = set(map(str, session.scalars(mine)))
    files += [f"{FILMS}/{one.name}" for one in below(library.folder / FILMS) if shown & set(one.name.split("-")[:2])]
    note = _note(library)
    part = _part_of(note)
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


def _part_of(note: Path) -> Path:
    return note.with_suffix(".part")


def _erase_rows(library: Library, athlete_id: int) -> None:
    """Everything in the database, in one transaction, with the list of changes."""
    with library.quietly() as session:
        row = session.get(Athlete, athlete_id)
        _erase_changes(session, row, whole=not library.database.shared)
        if row is not None:
            clips = [clip.id for clip in _clips_only_of(session, athlete_id)]
            for blend in _blends_of(session, row):
                _erase_throw(session, blend)
            mine = {throw.id for throw in row.deliveries}
            library.database.forget_work(session, mine)
            for pair in session.scalars(select(PairRow)):
                pair.others = [key for key in pair.others if key not in mine]
            session.delete(row)
            session.flush()
            session.execute(delete(ClipRow).where(ClipRow.id.in_(clips)))
        used = set(session.scalars(select(DeliveryRow.track)))
        for column in (ViewRow.marks, ViewRow.steadying, DeliveryRow.in_space, TaskRow.picture):
            used |= set(session.scalars(select(column)))
        for digest in session.scalars(select(Content.hash)).all():
            if digest not in used:
                session.execute(delete(Content).where(Content.hash == digest))


def _erase_changes(session: Session, row: Athlete | None, *, whole: bool) -> None:
    """What undo still knows: all of it, or where others work on, too, what tells of this athlete."""
    if whole:
        session.execute(delete(ChangeRow))
    elif row is not None:
        mine = {("athlete", row.id)} | {("delivery", throw.id) for throw in row.deliveries}
        for change in session.scalars(select(ChangeRow)).all():
            if row.name in change.label or any(mine & _about(entry) for entry in change.rows):
                session.delete(change)


def _about(entry: Mapping[str, Any]) -> set[tuple[str, Any]]:
    """Whom and which throws an entry of the journal tells of."""
    found = {(entry["table"], entry["id"])}
    for image in (entry["before"], entry["after"]):
        for column, value in (image or {}).items():
            table = _OWNERS.get(column)
            if table is not None:
                found.add((table, value))
    return found


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


def _erase_file(file: Path) -> None:
    """A clip, with what a landmark model has found in it, or a voice. Raises OSError."""
    from platformdirs import user_cache_path

    from waxtwin.capture.pose import forget

    if file.is_file():
        forget(file, user_cache_path("waxtwin") / "landmarks")
        file.unlink(missing_ok=True)


def _clips_only_of(session: Session, athlete_id: int) -> list[ClipRow]:
    """Clips that show this athlete's throws and nobody else's, and those that no throw uses any more."""
    owners: dict[int, set[int]] = {}
    for clip, owner in session.execute(select(ViewRow.clip_id, DeliveryRow.athlete_id).join(ViewRow.delivery)):
        owners.setdefault(clip, set()).add(owner)
    return [clip for clip in session.scalars(select(ClipRow)) if owners.get(clip.id, {athlete_id}) == {athlete_id}]
