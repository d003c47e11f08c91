"""Profiles of throws: worked out once from each track, kept beside it, ranked for an athlete."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import select

from waxtwin.core.analysis import analyse
from waxtwin.core.errors import TrackError, WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.core.twins import FEATURES, Candidate, Profile, Shelf, Wish, features_of, rank
from waxtwin.library.faults import LibraryError
from waxtwin.library.folders import tracks_in
from waxtwin.library.layout import DATABASE
from waxtwin.library.records import WHO, Athlete, DeliveryRow, ProfileRow
from waxtwin.library.store import Library
from waxtwin.library.stored import StoredDelivery, load
from waxtwin.library.throws import fetch

_NOTHING = np.full(len(FEATURES), np.nan)  # a throw that cannot be measured is not asked again


def profiles(library: Library) -> Shelf | None:
    """The profiles that are known, of throws that still have the track they were worked out from; None for none."""
    d, a, p = DeliveryRow, Athlete, ProfileRow
    wanted = (
        select(d.id, d.athlete_id, WHO, a.throws, a.height_m, a.span_m, d.ball_speed_mps, d.pitch, d.recorded,
               p.view, p.rate, p.features)
        .join(a, d.athlete_id == a.id).join(p, p.delivery_id == d.id).where(p.track == d.track, p.view != "")
    )  # fmt: skip
    with library.reading() as session:
        rows = session.execute(wanted).all()
    if not rows:
        return None
    columns: list[Any] = list(zip(*rows, strict=True))
    return Shelf(columns[:-1], np.frombuffer(b"".join(columns[-1])).reshape(len(rows), -1))


def missing(library: Library, only: int | None = None) -> list[int]:
    """Throws with a track whose profile is not known yet, or is of another track; of all, or of `only` one."""
    wanted = (
        select(DeliveryRow.id, DeliveryRow.track, ProfileRow.track)
        .outerjoin(ProfileRow, ProfileRow.delivery_id == DeliveryRow.id)
        .where(DeliveryRow.track.is_not(None)).order_by(DeliveryRow.id)
    )  # fmt: skip
    with library.reading() as session:
        rows = session.execute(wanted if only is None else wanted.where(DeliveryRow.id == only)).all()
    return [key for key, track, of in rows if track != of]


def fill(library: Library) -> Steps[None]:
    """Work out what is missing, throw by throw."""
    keys = missing(library)
    for n, key in enumerate(keys):
        yield n / len(keys)
        fill_one(library, key)


def fill_one(library: Library, key: int) -> None:
    """Work out one throw's profile and keep it."""
    features, view, rate = _NOTHING, "", 0.0
    with suppress(WaxTwinError):  # where nothing can be measured, nobody's twin is found
        features, view, rate = features_of(analyse(fetch(library, key).delivery))
    with library.quietly() as session:
        row = session.get(DeliveryRow, key)
        if row is None or row.track is None:
            return
        known = session.get(ProfileRow, key)
        if known is None:
            session.add(ProfileRow(delivery_id=key, track=row.track, view=view, rate=rate,
                                   features=np.asarray(features, float).tobytes()))  # fmt: skip
        else:
            known.track, known.view, known.rate = row.track, view, rate
            known.features = np.asarray(features, float).tobytes()


def twins_for(shelf: Shelf | None, key: int, wish: Wish | None = None, count: int = 30) -> list[Candidate]:
    """The best twins among known profiles for one of them. Raises LibraryError when it is not among them."""
    at = np.flatnonzero(shelf.keys == key) if shelf is not None else np.zeros(0, int)
    if shelf is None or not at.size:
        raise LibraryError("this throw cannot be measured, so no twin can be found for it")
    return rank(shelf.profile(int(at[0])), shelf, wish, count)


# without a library ----------------------------------------------------------------------------------------------------
def profile_of_file(path: Path) -> Profile:
    """The profile of a loose file, known as throw 0 of athlete 0. Raises WaxTwinError."""
    return _profile_of(load(path), 0, 0, path)


def _profile_of(stored: StoredDelivery, key: int, athlete: int, path: Path) -> Profile:
    try:
        features, view, rate = features_of(analyse(stored.delivery))
    except TrackError as fault:
        raise WaxTwinError(f"{path.name}: {fault}") from None
    who, said = stored.sidecar.athlete, stored.sidecar
    return Profile(key, athlete, stored.title, who.throws, who.height_m, who.span_m, said.ball_speed_mps, said.pitch,
                   said.recorded, view, rate, features)  # fmt: skip


def collected(place: Path, athlete: Profile) -> Steps[Shelf]:
    """What a library or a folder of throws has to choose from, the athlete's throws marked as own.

    Throws that cannot be measured are left out. Raises WaxTwinError when there is neither.
    """
    if (place / DATABASE).is_file():
        library = Library(place)
        try:
            yield from fill(library)
            shelf = profiles(library)
            kept = [] if shelf is None else [_owned(shelf.profile(i), athlete) for i in range(len(shelf))]
        finally:
            library.close()
        return _shelved(kept, place)
    files = tracks_in(place)
    if not files:
        raise LibraryError(f"{place}: there is neither a library nor a throw in this folder")
    found: list[Profile] = []
    pitchers: dict[tuple[str, str], int] = {}
    for n, file in enumerate(files, start=1):
        yield (n - 1) / len(files)
        with suppress(WaxTwinError):
            stored = load(file)
            who = pitchers.setdefault((stored.title, stored.delivery.throws), len(pitchers) + 1)
            found.append(_owned(_profile_of(stored, n, who, file), athlete))
    return _shelved(found, place)


def _shelved(found: list[Profile], place: Path) -> Shelf:
    if not found:
        raise LibraryError(f"{place}: there is no throw in it that can be measured")
    return Shelf.of(found)


def _owned(one: Profile, athlete: Profile) -> Profile:
    """A throw of the athlete's own is known by name and arm; the very same throw is none to choose."""
    if (one.name, one.throws) != (athlete.name, athlete.throws):
        return one
    same = np.array_equal(one.features, athlete.features, equal_nan=True)
    return replace(one, athlete=athlete.athlete, key=athlete.key if same else one.key)
