"""A live session in the library: its log, the clips of its throws, and their landmarks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.marks import MODEL, Marks
from waxtwin.core.readings import CAMERA, LiveThrow
from waxtwin.core.steps import Steps, part
from waxtwin.formats.files import FormatError
from waxtwin.formats.sidecar import Athlete as SidecarAthlete
from waxtwin.formats.sidecar import Calibration
from waxtwin.library.faults import LibraryError
from waxtwin.library.importing import add_view, bring_one
from waxtwin.library.preparing import Preparation, ViewState, keep_in_space, keep_marks, preparation_of
from waxtwin.library.records import Athlete, ThrowingSession
from waxtwin.library.session_log import ARM_SENSOR, reading_document, throw_document
from waxtwin.library.store import Library
from waxtwin.library.throws import assign, delivery_row, session_on


def begin_session(library: Library, athlete_id: int, place: str = "") -> int:
    """The athlete's session of today, made when new. Raises LibraryError."""
    with library.change("Begin a session") as session:
        row = session.get(Athlete, athlete_id)
        if row is None:
            raise LibraryError("this athlete is not in the library any more")
        found = session_on(session, row, datetime.now().date().isoformat())
        assert found is not None
        found.place = found.place or place
        return found.id


def keep_log(
    library: Library, session_id: int, throws: Sequence[LiveThrow], keys: Mapping[float, int], began: float = 0.0
) -> None:  # fmt: skip
    """Keep what the devices said so far, and how many throws that makes; no entry of the journal, for it is a record.

    `keys` {instant of a throw: its key} are those that have clips. What another run of the same day logged stays,
    whatever its clocks said: a run is known by when it `began`.
    """
    with library.quietly() as session:
        row = session.get(ThrowingSession, session_id)
        if row is None:
            raise LibraryError("this session is not in the library any more")
        run = round(began, 3)
        earlier = [one for one in row.log if isinstance(one, dict) and one.get("run") != run]
        row.log = [*earlier, *(throw_document(throw, keys.get(throw.at)) | {"run": run} for throw in throws)]
        thrown = sum(one.get("run") != ARM_SENSOR for one in row.log)
        row.thrown = max(row.thrown or 0, thrown)


def take_clip(
    library: Library, athlete_id: int, clip: Any, cameras: Mapping[str, Mapping[str, Any]], key: int | None
) -> int:
    """Take a clip in: as a new throw of the athlete's, or as another view of one. Returns the throw's key.

    Raises WaxTwinError.
    """
    known = cameras.get(clip.camera, {})
    if key is None:
        found = bring_one(library, clip.path)
        if found.known:
            raise FormatError(clip.path, "this clip is in the library already")
        assert found.key is not None
        key = found.key
    else:
        add_view(library, key, clip.path)
    with library.change(f"Clip {clip.path.name}") as session:
        row, athlete = delivery_row(session, key), session.get_one(Athlete, athlete_id)
        row.recorded = datetime.fromtimestamp(clip.at).date().isoformat()
        who = SidecarAthlete(name=athlete.name, throws=athlete.throws)  # type: ignore[arg-type]
        assign(session, row, who)
        row.title = row.title or clip.path.stem
        view = row.views[-1]
        if known:
            view.view = str(known.get("view", view.view))
            view.camera = Calibration.model_validate(known["calibration"]).model_dump()
    return key


def tell_throw(library: Library, key: int, throw: LiveThrow, pitch: str) -> None:
    """Write what the devices said about a throw beside it; a speed that was misread is left empty."""
    with library.quietly() as session:
        row = delivery_row(session, key)
        row.ball_speed_mps = throw.speed if throw.speed is not None else row.ball_speed_mps
        row.pitch = row.pitch or pitch or None
        readings = [reading_document(one) for one in throw.readings.values() if one.device != CAMERA]
        row.extra = {**row.extra, "readings": readings}


def prepare_throw(library: Library, key: int, model: str, *, gentle: bool = False) -> Steps[list[str]]:
    """Find the landmarks in every clip of a throw that has none, and join two solved ones in space. A `gentle` search
    leaves the machine to whoever works at it.

    Returns what there is to say about it, in plain words. Raises WaxTwinError.
    """
    work = preparation_of(library, key)
    notes, count = [], len(work.views)
    for n, view in enumerate(work.views):
        if view.marks is not None and (view.marks.source == MODEL).any():
            continue
        marks = yield from part(_landmarks(work, view, model, gentle), n / count, (n + 1) / count)
        now = preparation_of(library, key)  # somebody may have trimmed the clip meanwhile
        kept = next((one for one in now.views if one.id == view.id), None)
        if kept is None:
            continue
        joined = (kept.marks or Marks.empty(marks.times)).merged(marks, MODEL)  # what was clicked stays
        if note := keep_marks(library, now, kept, joined, "Find landmarks"):
            notes.append(note)
    work = preparation_of(library, key)
    if sum(v.camera is not None and v.camera.scale == "solved" for v in work.views) > 1:
        try:
            notes.append(keep_in_space(library, work))
        except WaxTwinError as fault:
            notes.append(f"{fault} One clip is used alone.")
    return notes


def _landmarks(work: Preparation, view: ViewState, model: str, gentle: bool) -> Steps[Marks]:
    from waxtwin.capture.clip import ClipReader
    from waxtwin.capture.pitcher import find_pitcher

    if not view.path.is_file():
        raise LibraryError(f"{view.name}: this clip is not in its place any more, so nothing can be found in it")
    with ClipReader(view.path) as reader:
        times = reader.times
    return (yield from find_pitcher(
        view.path, times, view.size, work.athlete.throws, view.clock, name=view.name, model=model, trim=view.trim,
        gentle=gentle, said=work.named,
    ))  # fmt: skip


def log_of(library: Library, session_id: int) -> list[dict[str, Any]]:
    """What the devices logged on a day."""
    with library.reading() as session:
        row = session.scalars(select(ThrowingSession).where(ThrowingSession.id == session_id)).first()
        return [] if row is None else [one for one in row.log if isinstance(one, dict)]


def now() -> float:
    """The clock that readings are told by."""
    return datetime.now(UTC).timestamp()
