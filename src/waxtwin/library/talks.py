"""Talk-throughs that are kept, with the voices that belong to them."""

from __future__ import annotations

import shutil
import uuid
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from waxtwin.formats.talk import SUFFIX, Talk, read_talk, write_talk
from waxtwin.library.faults import LibraryError
from waxtwin.library.layout import VOICES
from waxtwin.library.private import below
from waxtwin.library.records import ChangeRow, TalkRow

if TYPE_CHECKING:
    from waxtwin.library.store import Library


@dataclass(frozen=True)
class KeptTalk:
    """A talk of two throws as it is kept; `changed` when it was (ISO)."""

    id: int
    athlete: int
    twin: int
    changed: str
    talk: Talk


def talks_of(library: Library, athlete: int, twin: int) -> list[KeptTalk]:
    """The talks of two throws, the one changed last first; what cannot be understood is left out."""
    wanted = select(TalkRow).where(TalkRow.athlete_throw == athlete, TalkRow.twin_throw == twin)
    with library.reading() as session:
        found = [_kept(row) for row in session.scalars(wanted.order_by(TalkRow.changed.desc(), TalkRow.id.desc()))]
    return [one for one in found if one is not None]


def keep_talk(library: Library, throws: tuple[int, int], talk: Talk, label: str, key: int | None = None) -> int:
    """Keep a talk of two throws, a new one or in place of the one of this key, as one change. Raises LibraryError."""
    with library.change(label) as session:
        row = TalkRow(athlete_throw=throws[0], twin_throw=throws[1]) if key is None else _row(session, key)
        row.body = talk.model_dump(mode="json", exclude_defaults=True)
        row.voices = sorted(talk.files)
        row.changed = datetime.now(UTC).isoformat()
        session.add(row)
        session.flush()
        return row.id


def forget_talk(library: Library, key: int) -> None:
    """Take a talk off, as one change. Raises LibraryError."""
    with library.change("Remove a talk") as session:
        session.delete(_row(session, key))


def _row(session: Session, key: int) -> TalkRow:
    row = session.get(TalkRow, key)
    if row is None:
        raise LibraryError("this talk is not kept any more")
    return row


def _kept(row: TalkRow) -> KeptTalk | None:
    try:
        talk = Talk.model_validate(row.body)
    except ValidationError:  # of a newer program; it is kept as it is
        return None
    return KeptTalk(row.id, row.athlete_throw, row.twin_throw, row.changed, talk)


# voices -------------------------------------------------------------------------------------------------------------
def voices_in(library: Library) -> Path:
    """Where a library's voices lie. Raises LibraryError."""
    try:
        return library.folder_for(VOICES)
    except OSError as fault:
        raise LibraryError(f"{library.folder.name}: the library cannot be written ({fault.strerror})") from None


def new_voice(library: Library) -> Path:
    """Where a new take is to be written. Raises LibraryError."""
    return voices_in(library) / f"{uuid.uuid4().hex[:16]}.wav"


def sweep_voices(library: Library) -> None:
    """Delete voices that no talk names, nor any change that can be done again."""
    files = {f"{VOICES}/{file.name}": file for file in below(library.folder / VOICES)}
    with library.reading() as session:
        if files.keys() <= _named(session):
            return
    for name in files.keys() - voice_files(library):
        with suppress(OSError):
            files[name].unlink()


def voice_files(library: Library) -> set[str]:
    """Every voice, relative to the folder, that a talk names or that undo or redo could bring back."""
    with library.reading() as session:
        known = _named(session)
        for rows in session.scalars(select(ChangeRow.rows)):
            for entry in rows:
                if entry["table"] == TalkRow.__tablename__:
                    images = (entry["before"], entry["after"])
                    known |= {f"{VOICES}/{name}" for image in images if image for name in image["voices"]}
    return known


def _named(session: Session) -> set[str]:
    return {f"{VOICES}/{name}" for voices in session.scalars(select(TalkRow.voices)) for name in voices}


def hand_out(library: Library, throws: tuple[int, int], folder: Path) -> list[Path]:
    """Write every talk of two throws with its voices into a new folder; the talks' files. Raises OSError."""
    kept = talks_of(library, *throws)
    if kept:
        folder.mkdir()
    found = []
    for n, one in enumerate(kept, start=1):
        found.append(folder / f"{n:02d}{SUFFIX}")
        write_talk(one.talk, found[-1])
        for name in one.talk.files:
            with suppress(FileNotFoundError):  # its scenes have their words
                shutil.copyfile(voices_in(library) / name, folder / name)
    return found


def take_talk(library: Library, throws: tuple[int, int], source: Path) -> None:
    """Keep a talk from its file, with the voices beside it; one that is there already is not kept twice. Raises
    WaxTwinError.
    """
    talk = read_talk(source)
    told = {_without_voices(one.talk) for one in talks_of(library, *throws)}
    if _without_voices(talk) in told:
        return
    names = {}
    for name in talk.files:
        target = new_voice(library)
        try:
            shutil.copyfile(source.parent / name, target)
            library.database.protect(target)
        except OSError:
            continue
        names[name] = target.name
    keep_talk(library, throws, _with_voices(talk, lambda name: names.get(name, name)), "Import a talk")


def _without_voices(talk: Talk) -> str:
    """A talk whatever its files are called."""
    return _with_voices(talk, lambda _: "-").model_dump_json()


def _with_voices(talk: Talk, name: Callable[[str], str]) -> Talk:
    """A talk of a library whose takes are in files of other names."""
    scenes = tuple(
        scene.but(takes=tuple(one.model_copy(update={"file": name(one.file)}) for one in scene.takes))
        for scene in talk.scenes
    )
    return talk.but(scenes=scenes, throws={})
