"""Bringing files into a library: tracks with their sidecars and clips, clips alone, and whole folders of them."""

from __future__ import annotations

import hashlib
import shutil
from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from waxtwin.core.errors import WaxTwinError, plain
from waxtwin.core.steps import Steps
from waxtwin.formats.files import FormatError
from waxtwin.formats.person import is_person_file
from waxtwin.formats.place import CLIPS, SUFFIX, sidecar_path
from waxtwin.formats.sidecar import Lab, Sidecar, View, read_sidecar
from waxtwin.formats.tracks import UnmappedError, read_track
from waxtwin.library.arrays import pack_track
from waxtwin.library.folders import sources
from waxtwin.library.layout import BLEND, MADE_FROM
from waxtwin.library.layout import CLIPS as CLIP_FOLDER
from waxtwin.library.private import make_file
from waxtwin.library.records import ClipRow, DeliveryRow, EventRow, ViewRow
from waxtwin.library.store import Library
from waxtwin.library.stored import clip_place, track_beside
from waxtwin.library.throws import athlete_named, session_on

_SIDECAR_OWN = {"athlete", "views", "events", "screening", "notes", "ball_speed_mps", "pitch", "effort",
                "started_from", "recorded", "capture_fps", MADE_FROM}  # fmt: skip


@dataclass(frozen=True)
class Brought:
    """What came of one file: the throw's key, whether it was there already, or why it could not be taken.

    `pair` are the two throws of the pair that came with it in a bundle.
    """

    file: Path
    key: int | None
    known: bool = False
    fault: str | None = None
    unmapped: bool = False
    pair: tuple[int, int] | None = None


@dataclass(frozen=True)
class NewClip:
    """A clip that is safe in the library, or linked, before its row is written."""

    sha256: str
    file: str
    linked: bool
    name: str
    facts: dict[str, Any]


def bring(
    library: Library, path: Path, *, link: bool = False, kept: Callable[[Brought], object] = lambda _: None
) -> Steps[list[Brought]]:
    """Take in a file or folder: what came of each throw, told to `kept` as soon as it is safe. A fault in one leaves
    the others alone.
    """  # fmt: skip
    files, found = sources(path), []
    for n, file in enumerate(files):
        yield n / len(files)
        try:
            one = bring_one(library, file, link=link)
        except WaxTwinError as fault:
            one = Brought(file, None, fault=str(fault), unmapped=isinstance(fault, UnmappedError))
        found.append(one)
        kept(one)
    return found + list(_bring_people(library, path))


def _bring_people(library: Library, path: Path) -> Iterator[Brought]:
    """What a folder's files say about its athletes; only faults are told."""
    from waxtwin.library.athletes import take_person

    for file in sorted(path.rglob("*.json")) if path.is_dir() else []:
        if is_person_file(file):
            try:
                take_person(library, file)
            except WaxTwinError as fault:
                yield Brought(file, None, fault=str(fault))


def bring_one(
    library: Library, file: Path, *, link: bool = False, lab: Lab | None = None, throws: str | None = None,
    digest: str | None = None,
) -> Brought:  # fmt: skip
    """Take in one throw; `lab` says how its lab file is read, `digest` by what it is known where it comes from.

    Raises WaxTwinError; then nothing of it is kept.
    """
    if file.name.endswith(SUFFIX):
        file = track_beside(file)
    if not file.is_file():
        raise FormatError(file, "there is no such file")
    is_clip = file.suffix.lower() in CLIPS
    beside = sidecar_path(file)
    sidecar = read_sidecar(beside) if beside.is_file() else Sidecar()
    if lab is not None:
        sidecar = sidecar.model_copy(update={"lab": lab})
    if throws is not None:
        sidecar = sidecar.model_copy(update={"athlete": sidecar.athlete.model_copy(update={"throws": throws})})
    digest = digest or _hash_of(file)
    if lab is not None and lab.part is not None:
        digest = f"{digest}@{lab.part[0]:.3f}"  # another throw of the same trial is another throw
    with library.reading() as session:
        known = session.scalars(select(DeliveryRow.id).where(DeliveryRow.origin_hash == digest)).first()
    if known is not None:
        return Brought(file, known, known=True)
    track = None if is_clip else pack_track(read_track(file, sidecar.athlete.throws, sidecar.lab_setup())[0])
    views = list(sidecar.views)
    if is_clip and not any(Path(view.file).name == file.name for view in views):
        views.insert(0, View(file=file.name, camera="other"))
    places = [(view, clip_place(file, view)) for view in views]
    # clips first: a full disk or an unreadable clip is met before anything is written into the database
    clips = [(view, take_clip(library, place, link=link)) for view, place in places if place.is_file()]
    sidecar = _dated(sidecar, [clip for _, clip in clips])
    with library.change(f"Import {plain(file.name)}") as session:
        row = _row(session, file, digest, sidecar)
        if track is not None:
            blended = (sidecar.model_extra or {}).get(MADE_FROM) == BLEND
            row.track, row.track_from = library.put(session, track), BLEND if blended else "file"
        for view, clip in clips:
            session.add(_view_row(session, row, view, clip, sidecar.capture_fps))
        row.events = [EventRow(stop=stop, time=time) for stop, time in sidecar.events.items()]
        session.flush()
        return Brought(file, row.id)


def _dated(sidecar: Sidecar, clips: Sequence[NewClip]) -> Sidecar:
    """With the day that a camera wrote into its clip, where nobody said another."""
    filmed = next((clip.facts["filmed"] for clip in clips if clip.facts["filmed"]), None)
    return sidecar if sidecar.recorded or not filmed else sidecar.model_copy(update={"recorded": filmed})


def add_view(library: Library, key: int, file: Path, *, link: bool = False) -> None:
    """Another clip of a throw that is in the library. Raises WaxTwinError."""
    if not file.is_file():
        raise FormatError(file, "there is no such file")
    clip = take_clip(library, file, link=link)
    with library.change(f"Add clip {plain(file.name)}") as session:
        row = session.get_one(DeliveryRow, key)
        if any(view.clip.sha256 == clip.sha256 for view in row.views):
            raise FormatError(file, "this clip is part of the throw already")
        session.add(_view_row(session, row, View(file=file.name), clip, None))


def cut_into(library: Library, key: int, view_id: int, bursts: Sequence[tuple[float, float]]) -> None:
    """Cut a clip into throws: the first burst trims this one, each other becomes a throw with the same clip."""
    with library.change(f"Cut into {len(bursts)} throws") as session:
        row, view = session.get_one(DeliveryRow, key), session.get_one(ViewRow, view_id)
        view.first_s, view.last_s = bursts[0]
        for n, (first, last) in enumerate(bursts[1:], start=2):
            other = DeliveryRow(
                athlete_id=row.athlete_id, session_id=row.session_id, title=f"{row.title}, throw {n}",
                origin=row.origin, recorded=row.recorded, pitch=row.pitch, effort=row.effort, screening={}, notes="",
                started_from=row.started_from, extra={}, track_from="", added=row.added,
            )  # fmt: skip
            session.add(other)
            session.flush()
            session.add(
                ViewRow(
                    delivery_id=other.id, clip_id=view.clip_id, name=view.name, view=view.view,
                    first_s=first, last_s=last,
                    start_s=view.start_s, capture_fps=view.capture_fps, likely_fps=view.likely_fps,
                    camera=view.camera, clicks=view.clicks,
                    marks=view.marks, steadying=view.steadying,
                )
            )  # fmt: skip


def take_clip(library: Library, place: Path, *, link: bool) -> NewClip:
    """Read what a clip says about itself, and copy it into the library unless it is there or only linked.

    Raises WaxTwinError; a copy that fails half-way is taken away again.
    """
    from waxtwin.capture.clip import clip_facts

    facts = clip_facts(place)
    digest = _hash_of(place)
    said = asdict(facts) | {"size": list(facts.size)}
    if link and library.database.shared:
        raise FormatError(place, "a team's library holds copies of its clips; import it without leaving it where it is")
    if link:
        return NewClip(digest, _linkable(place), True, plain(place.name), said)
    target = Path(CLIP_FOLDER) / f"{digest[:16]}{place.suffix.lower()}"
    whole = library.folder / target
    if not whole.is_file():
        part = whole.with_suffix(f".{library.database.client}part")  # somebody else may be bringing the same
        try:
            make_file(part)
            shutil.copyfile(place, part)
            library.database.protect(part)
            part.replace(whole)
        except OSError as fault:
            part.unlink(missing_ok=True)
            raise FormatError(
                place, f"it could not be copied into the library ({fault.strerror}); nothing was changed"
            ) from None
    return NewClip(digest, str(target), False, plain(place.name), said)


def _linkable(place: Path) -> str:
    """A clip's whole path as text. Raises FormatError for a name that cannot be written down."""
    path = str(place.resolve())
    if plain(path) != path:
        raise FormatError(place, "a file of such a name cannot be linked; import it as a copy")
    return path


def _row(session: Session, file: Path, digest: str, sidecar: Sidecar) -> DeliveryRow:
    athlete = athlete_named(session, sidecar.athlete)
    day = session_on(session, athlete, sidecar.recorded)
    whole = sidecar.model_dump(mode="json", exclude_unset=True)
    row = DeliveryRow(
        athlete_id=athlete.id, session_id=None if day is None else day.id, title=plain(file.stem),
        origin=plain(file.name),
        origin_hash=digest, recorded=sidecar.recorded, pitch=sidecar.pitch, effort=sidecar.effort,
        started_from=sidecar.started_from, ball_speed_mps=sidecar.ball_speed_mps, screening=sidecar.screening,
        notes=sidecar.notes or "", extra={k: v for k, v in whole.items() if k not in _SIDECAR_OWN},
        track_from="", added=datetime.now(UTC).isoformat(timespec="seconds"),
    )  # fmt: skip
    session.add(row)
    session.flush()
    return row


def clip_row(session: Session, clip: NewClip) -> ClipRow:
    """The row of a clip that `take_clip` took, made when it is new."""
    found = session.scalars(select(ClipRow).where(ClipRow.sha256 == clip.sha256)).first()
    if found is None:
        found = ClipRow(sha256=clip.sha256, file=clip.file, linked=clip.linked, name=clip.name, facts=clip.facts)
        session.add(found)
        session.flush()
    return found


def _view_row(session: Session, row: DeliveryRow, view: View, clip: NewClip, capture_fps: float | None) -> ViewRow:
    found = clip_row(session, clip)
    captured = capture_fps or clip.facts["captured"]
    return ViewRow(
        delivery_id=row.id, clip_id=found.id, name=clip.name, view=view.camera, start_s=view.start_s,
        capture_fps=captured,
        camera=view.calibration.model_dump() if view.calibration else {}, clicks={},
    )  # fmt: skip


def _hash_of(file: Path) -> str:
    try:
        with file.open("rb") as stream:
            return hashlib.file_digest(stream, "sha256").hexdigest()
    except OSError as fault:
        raise FormatError(file, f"it cannot be read ({fault.strerror})") from None
