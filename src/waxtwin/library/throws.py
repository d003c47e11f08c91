"""Throws in a library: read as a whole, and changed one gesture at a time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from waxtwin.core.camera import Camera, Sight
from waxtwin.core.errors import TrackError
from waxtwin.core.marks import Marks
from waxtwin.core.placing import ClipClock, body_camera
from waxtwin.core.stops import StopsByHand
from waxtwin.core.track import Track, bare_track
from waxtwin.formats.sidecar import Athlete as SidecarAthlete
from waxtwin.formats.sidecar import SeenBy, Sidecar, View
from waxtwin.library.arrays import unpack_in_space, unpack_marks, unpack_track
from waxtwin.library.faults import LibraryError
from waxtwin.library.layout import BLEND, MADE_FROM
from waxtwin.library.records import (
    UNNAMED,
    Athlete,
    ChangeRow,
    ClipRow,
    DeliveryRow,
    EventRow,
    TagRow,
    ThrowingSession,
    ViewRow,
)
from waxtwin.library.store import Library
from waxtwin.library.stored import StoredDelivery, assembled, clip_of

if TYPE_CHECKING:
    from pathlib import Path

_REJECTED, _ESTIMATED = "events_rejected", "events_estimated"  # the sidecar's own names for them
_ATHLETE = ("name", "throws", "height_m", "mass_kg", "span_m", "born")
_DELIVERY = ("ball_speed_mps", "pitch", "effort", "started_from", "recorded", "notes")


def fetch(library: Library, key: int) -> StoredDelivery:
    """A throw of the library, ready to be looked at, and measured where it has a track: that of a clip without
    landmarks is bare. Raises LibraryError when it is gone or has neither.
    """
    with library.reading() as session:
        row = delivery_row(session, key)
        track = _bare(library, row) if row.track is None else unpack_track(library.get(session, row.track))
        sidecar = sidecar_of(row)
        sidecar.screening = sidecar.screening or _screened_before(session, row)
        clips, notes = [], []
        if row.track_from == BLEND:
            notes.append("This is a blend of several throws; nobody threw it.")
        for one, view in zip(row.views, sidecar.views, strict=True):
            place = clip_place(library, one.clip)
            if place.is_file():
                clip = clip_of(view, place)
                clips.append(clip if clip.camera else replace(clip, camera=_nominal(library, session, one)))
            else:
                notes.append(f"The clip {view.file} is missing from where it was.")
        found = assembled(row.id, row.origin or row.title, sidecar, track, tuple(clips), notes)
        estimate = None if row.in_space is None else unpack_in_space(library.get(session, row.in_space))
        measured = replace(found.delivery, smoothing=library.smoothing, in_space=estimate)
        return replace(found, delivery=measured, named=row.athlete.is_named)


def _nominal(library: Library, session: Session, view: ViewRow) -> Camera | None:
    """The camera by which a clip's own track was placed where nothing was measured: what is drawn lies on the body, and
    lengths are nominal.
    """
    row = view.delivery
    if view.marks is None or view.steadying is not None or row.track_from != f"view:{view.id}":
        return None
    marks = unpack_marks(library.get(session, view.marks)).window(*trim_of(view))
    try:
        return guessed_camera(marks, view.view, row.athlete, size_of(view.clip.facts), view.clicks)
    except TrackError:
        return None


def guessed_camera(
    marks: Marks, view: str, who: Athlete | SidecarAthlete, size: tuple[int, int], clicks: Mapping[str, Any]
) -> Camera:
    """The camera that the figure itself gives, with what somebody said of its roll and yaw. Raises TrackError."""
    roll, yaw = clicks.get("roll") or 0.0, clicks.get("yaw")
    return body_camera(marks, view, who.throws, who.height_m, size, roll=roll, yaw=yaw)


def size_of(facts: Mapping[str, Any]) -> tuple[int, int]:
    """Width and height of a clip's picture."""
    width, height = facts["size"]
    return int(width), int(height)


def trim_of(view: ViewRow) -> tuple[float, float]:
    """The part of a clip that is the throw, s of the clip."""
    last = float(view.clip.facts.get("seconds", 0.0)) if view.last_s is None else view.last_s
    return view.first_s or 0.0, last


def _bare(library: Library, row: DeliveryRow) -> Track:
    """The frames of a throw's first clip that is there, on the throw's clock. Raises LibraryError."""
    title = row.title or row.origin
    found = [view for view, place in zip(row.views, clip_places(library, row), strict=True) if place.is_file()]
    if not found:
        raise LibraryError(f"{title}: there is no track, and no clip of it to look at")
    view, facts, clock = found[0], found[0].clip.facts, clock_of(found[0])
    played = float(facts.get("rate") or 0.0)
    last = float(facts.get("seconds", 0.0)) - (1.0 / played if played else 0.0)  # where the last frame begins
    trim = (view.first_s or 0.0, last if view.last_s is None else min(view.last_s, last))
    first, last = (float(clock.to_throw(at)) for at in trim)
    try:
        return bare_track(first, last, played * clock.slow)
    except TrackError as fault:
        raise LibraryError(f"{title}: {fault}") from None


def _screened_before(session: Session, row: DeliveryRow) -> dict[str, Any]:
    """The latest screening of the same athlete, with whichever throw it was kept."""
    columns = DeliveryRow.recorded, DeliveryRow.id, DeliveryRow.screening
    known = session.execute(select(*columns).where(DeliveryRow.athlete_id == row.athlete_id)).all()
    latest = max((one for one in known if one.screening), key=lambda one: (one.recorded or "", one.id), default=None)
    return {} if latest is None else dict(latest.screening)


def sidecar_of(row: DeliveryRow) -> Sidecar:
    """All that is known about a throw, as a sidecar."""
    known = {name: getattr(row.athlete, name) for name in _ATHLETE}
    who = SidecarAthlete(**{**row.athlete.extra, **known})  # what is called like a field of ours is not taken for it
    who.name = row.who
    extra = {**row.extra, MADE_FROM: BLEND} if row.track_from == BLEND else row.extra
    ours = {
        "athlete": who, **{name: getattr(row, name) for name in _DELIVERY if name != "notes"},
        "notes": row.notes or None, "views": [view_of(view) for view in row.views],
        "events": {event.stop: event.time for event in row.events}, "screening": row.screening,
    }  # fmt: skip
    return Sidecar(**{**extra, **ours})


def view_of(row: ViewRow) -> View:
    """A clip of a throw as the sidecar has it."""
    clock = clock_of(row)
    return View.model_validate({
        "file": row.name, "camera": row.view, "start_s": clock.start, "slow": clock.slow,
        "calibration": row.camera or None,
    })  # fmt: skip


def clock_of(row: ViewRow) -> ClipClock:
    """The clock of a clip: its stated capture rate, or else its likely one, over the rate at which it plays."""
    played, taken = row.clip.facts.get("rate"), row.capture_fps or row.likely_fps
    return ClipClock(row.start_s, taken / played if taken and played else 1.0)


def clip_places(library: Library, row: DeliveryRow) -> list[Path]:
    """Where the clips of a throw lie."""
    return [clip_place(library, view.clip) for view in row.views]


def clip_place(library: Library, clip: ClipRow) -> Path:
    """Where a clip lies: in the library, or where it was linked."""
    return library.folder / clip.file  # an absolute path stays what it is


def athlete_named(session: Session, who: SidecarAthlete) -> Athlete:
    """The athlete of this name and arm, made when new; figures not known yet are taken over.

    Throws that nobody was named for are each taken as somebody else's, until somebody says who it is.
    """
    name = who.name.strip() or UNNAMED
    same = select(Athlete).where(Athlete.name == name, Athlete.throws == who.throws)
    found = None if name == UNNAMED else session.scalars(same).first()
    if found is None:
        found = Athlete(name=name, throws=who.throws, guardian="", notes="", extra=dict(who.model_extra or {}))
        session.add(found)
    for field in ("height_m", "mass_kg", "span_m", "born"):
        if getattr(found, field) is None:
            setattr(found, field, getattr(who, field))
    session.flush()
    return found


def session_on(session: Session, athlete: Athlete, date: str | None) -> ThrowingSession | None:
    """The athlete's session of a day, made when new; none without a date."""
    if not date:
        return None
    found = session.scalars(
        select(ThrowingSession).where(ThrowingSession.athlete_id == athlete.id, ThrowingSession.date == date)
    ).first()
    if found is None:
        found = ThrowingSession(athlete_id=athlete.id, date=date, place="", notes="")
        session.add(found)
        session.flush()
    return found


def set_events(library: Library, said: Mapping[int, StopsByHand], label: str) -> None:
    """What somebody says about the stops of throws, {key: all of it}, as one change."""
    with library.change(label) as session:
        for key, stops in said.items():
            _set_events(delivery_row(session, key), stops)


def _set_events(row: DeliveryRow, said: StopsByHand) -> None:
    events = said.times
    for event in list(row.events):
        if event.stop not in events:
            row.events.remove(event)
        elif event.time != events[event.stop]:
            event.time = events[event.stop]
    known = {event.stop for event in row.events}
    row.events += [EventRow(stop=stop, time=time) for stop, time in events.items() if stop not in known]
    for name, stops in ((_REJECTED, said.rejected), (_ESTIMATED, said.estimated)):
        if sorted(stops) != row.extra.get(name, []):
            row.extra = {**row.extra, name: sorted(stops)}


def stop_history(library: Library, key: int, stop: str) -> list[tuple[str, str, bool]]:
    """What was done to a stop of a throw, latest first: when (ISO), the change's label, and whether it was undone."""
    with library.reading() as session:
        changes = session.scalars(select(ChangeRow).order_by(ChangeRow.id.desc())).all()
    return [(one.at, one.label, one.undone) for one in changes if any(_touches(row, key, stop) for row in one.rows)]


def _touches(entry: Mapping[str, Any], key: int, stop: str) -> bool:
    """Whether a journal entry's row sets, moves or takes back this stop."""
    images = [image or {} for image in (entry["before"], entry["after"])]
    if entry["table"] == EventRow.__tablename__:
        return any(image.get("delivery_id") == key and image.get("stop") == stop for image in images)
    if entry["table"] == DeliveryRow.__tablename__ and entry["id"] == key:
        was, now = ([stop in image.get("extra", {}).get(name, []) for name in (_REJECTED, _ESTIMATED)]
                    for image in images)  # fmt: skip
        return was != now
    return False


def set_fields(library: Library, key: int, label: str, /, **values: Any) -> None:
    """Change what is known about a throw."""
    with library.change(label) as session:
        row = delivery_row(session, key)
        for name, value in values.items():
            setattr(row, name, value)
        if "recorded" in values:
            found = session_on(session, row.athlete, row.recorded)
            row.session_id = None if found is None else found.id


def assign(session: Session, row: DeliveryRow, who: SidecarAthlete) -> None:
    """Give a throw to an athlete, within a change that is under way; figures that are said replace older ones."""
    before = row.athlete
    row.athlete = athlete_named(session, who)
    session.flush()
    session.refresh(before)
    if not before.is_named and not before.deliveries:
        session.delete(before)
    for field in ("height_m", "mass_kg", "span_m", "born"):
        value = getattr(who, field)
        if value is not None:
            setattr(row.athlete, field, value)
    found = session_on(session, row.athlete, row.recorded)
    row.session_id = None if found is None else found.id


def set_tags(library: Library, keys: Sequence[int], name: str, *, on: bool) -> None:
    """Put a tag on throws, or take it off."""
    name = name.strip()
    if not name:
        return
    with library.change(f"Tag “{name}”" if on else f"Take off tag “{name}”") as session:
        for key in keys:
            row = delivery_row(session, key)
            known = next((tag for tag in row.tags if tag.name == name), None)
            if on and known is None:
                row.tags.append(TagRow(name=name))
            elif not on and known is not None:
                row.tags.remove(known)


def remove(library: Library, keys: Sequence[int]) -> None:
    """Take throws off the Bench; clips stay until they are erased, so that this can be undone."""
    with library.change("Remove a throw" if len(keys) == 1 else f"Remove {len(keys)} throws") as session:
        for key in keys:
            session.delete(delivery_row(session, key))


def keep_track(library: Library, session: Session, row: DeliveryRow, track: bytes, sight: Sight, source: str) -> None:
    """Put a track that was made from clips in a throw's place, within a change that is under way."""
    row.track = library.put(session, track)
    row.track_from = source
    row.in_space = None  # it was worked out from what the track was made of
    row.extra = {**row.extra, "sight": SeenBy.of(sight).model_dump()}


def delivery_row(session: Session, key: int) -> DeliveryRow:
    """A throw's row. Raises LibraryError when it is gone."""
    row = session.get(DeliveryRow, key)
    if row is None:
        raise LibraryError("this throw is not in the library any more")
    return row
