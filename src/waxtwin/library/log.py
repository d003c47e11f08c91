"""An athlete over time: figures of every throw worked out once, sessions, how the arm was, the league's limits."""

from __future__ import annotations

from collections import Counter
from contextlib import suppress
from dataclasses import dataclass
from functools import cache
from hashlib import sha256
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from waxtwin.core.analysis import analyse, resolve
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.measures import MEASURES
from waxtwin.core.steps import Steps
from waxtwin.core.trend import ArmNote, Figures, Limits
from waxtwin.library.faults import LibraryError
from waxtwin.library.layout import BLEND
from waxtwin.library.records import ArmNoteRow, Athlete, DeliveryRow, FiguresRow
from waxtwin.library.session_log import sessions_of
from waxtwin.library.speeds import speeds_of
from waxtwin.library.store import Library
from waxtwin.library.throws import delivery_row, fetch, session_on


@dataclass(frozen=True)
class Day:
    """A session as the log lists it: `thrown` where it was counted, `kept` throws in the library."""

    id: int
    date: str
    thrown: int | None
    kept: int
    place: str
    notes: str


# figures --------------------------------------------------------------------------------------------------------------
def figures_of(library: Library, athlete_id: int, landing: str) -> Steps[tuple[Figures, ...]]:
    """The figures of every dated throw of an athlete; what is missing is worked out and kept.

    A throw that cannot be measured, or a blend that nobody threw, is left out. Speeds that no throw carries stand
    beside them.
    """
    with library.reading() as session:
        wanted = select(DeliveryRow.id).where(
            DeliveryRow.athlete_id == athlete_id, DeliveryRow.track.is_not(None), DeliveryRow.recorded.is_not(None),
            DeliveryRow.track_from != BLEND,
        ).order_by(DeliveryRow.recorded, DeliveryRow.id)  # fmt: skip
        keys = session.scalars(wanted).all()
    found = []
    for n, key in enumerate(keys):
        yield n / len(keys)
        figures = figures_of_throw(library, key, landing)
        if figures is not None:
            found.append(figures)
    return (*found, *speeds_of(library, athlete_id))


def figures_before(library: Library, key: int, date: str, landing: str) -> Steps[list[Figures]]:
    """The figures of what the same athlete threw before a day. Raises LibraryError."""
    with library.reading() as session:
        athlete = delivery_row(session, key).athlete_id
    return [one for one in (yield from figures_of(library, athlete, landing)) if one.date < date]


def figures_of_throw(library: Library, key: int, landing: str) -> Figures | None:
    """The figures of one throw, worked out and kept where they are not known; None where it cannot be measured."""
    with library.reading() as session:
        row = session.get(DeliveryRow, key)
        if row is None or row.track is None:
            return None
        basis = _basis(row, landing, library.smoothing)
        known = session.get(FiguresRow, key)
        if known is None or known.basis != basis:
            known = None
        date, speed = row.recorded or "", row.ball_speed_mps
    if known is not None:
        return _read(known, date, speed)
    made = _work_out(library, key, landing, basis)
    if made is None:
        return None
    with suppress(LibraryError), library.quietly() as session:
        session.merge(made)
    return _read(made, date, speed)


def _basis(row: DeliveryRow, landing: str, smoothing: float) -> str:
    """What figures hang on: the track, the stops set by hand, height and sight, the landing, the measures."""
    events = sorted((event.stop, event.time) for event in row.events)
    seen = tuple(row.extra.get(name) for name in ("sight", "events_rejected", "events_estimated"))
    parts = (
        row.track,
        row.in_space,
        events,
        row.athlete.height_m,
        row.athlete.throws,
        seen,
        landing,
        smoothing,
        _measured(_names()),
    )
    return repr(parts)


def _names() -> tuple[str, ...]:
    """Every measure there is, those of the house among them."""
    return tuple(MEASURES)


@cache
def _measured(names: tuple[str, ...]) -> str:
    """Which measures, in which order and by which formula: figures of another version are not read as these."""
    return sha256(repr([(name, MEASURES[name].formula) for name in names]).encode()).hexdigest()


def _work_out(library: Library, key: int, landing: str, basis: str) -> FiguresRow | None:
    try:
        found = resolve(analyse(fetch(library, key).delivery, landing=landing))
    except WaxTwinError:
        return None
    values = [found.measures[name] for name in _names()]
    data = np.array([[_nan(one.value) for one in values], [_nan(one.sd) for one in values]])
    return FiguresRow(delivery_id=key, basis=basis, planar=found.motion.flat is not None, data=data.tobytes())


def _nan(value: float | None) -> float:
    return np.nan if value is None else value


def _read(row: FiguresRow, date: str, speed: float | None) -> Figures:
    values, sds = np.frombuffer(row.data).reshape(2, -1)
    return Figures(row.delivery_id, date, speed, _known(values), _known(sds), row.planar)


def _known(column: np.ndarray) -> dict[str, float | None]:
    return {name: None if np.isnan(one) else float(one) for name, one in zip(_names(), column, strict=True)}


# sessions -------------------------------------------------------------------------------------------------------------
def days_of(library: Library, athlete_id: int) -> tuple[Day, ...]:
    """An athlete's sessions in order of date."""
    with library.reading() as session:
        kept = Counter(session.scalars(select(DeliveryRow.session_id).where(DeliveryRow.athlete_id == athlete_id)))
        rows = sessions_of(session, athlete_id)
        return tuple(Day(row.id, row.date, row.thrown, kept[row.id], row.place, row.notes) for row in rows)


def set_day(library: Library, athlete_id: int, day: str, *, thrown: int | None, notes: str = "") -> None:
    """Say how many throws were thrown on a day, in games and practice together, as one change. Raises LibraryError."""
    with library.change(f"Throws of {day}") as session:
        row = session_on(session, _athlete(session, athlete_id), day)
        assert row is not None
        row.thrown, row.notes = thrown, notes or row.notes


# the arm --------------------------------------------------------------------------------------------------------------
def arm_notes(library: Library, athlete_id: int) -> tuple[ArmNote, ...]:
    """How the arm was, day by day."""
    with library.reading() as session:
        rows = session.scalars(
            select(ArmNoteRow).where(ArmNoteRow.athlete_id == athlete_id).order_by(ArmNoteRow.date, ArmNoteRow.id)
        )
        return tuple(ArmNote(row.date, row.soreness, row.place, row.since, row.text) for row in rows)


def note_arm(library: Library, athlete_id: int, note: ArmNote) -> None:
    """Note how the arm was on a day; another note of that day and place is replaced. Raises LibraryError."""
    if not 0 <= note.soreness <= 10:
        raise LibraryError("soreness is said from 0 (none) to 10")
    with library.change(f"Arm on {note.date}") as session:
        _athlete(session, athlete_id)
        row = session.scalars(
            select(ArmNoteRow).where(ArmNoteRow.athlete_id == athlete_id, ArmNoteRow.date == note.date,
                                     ArmNoteRow.place == note.place)
        ).first()  # fmt: skip
        if row is None:
            row = ArmNoteRow(athlete_id=athlete_id, date=note.date, place=note.place, soreness=0, text="")
            session.add(row)
        row.soreness, row.since, row.text = note.soreness, note.since, note.text


def forget_arm_note(library: Library, athlete_id: int, note: ArmNote) -> None:
    """Take a note away, as one change. Raises LibraryError."""
    with library.change(f"Take the arm note of {note.date} away") as session:
        for row in session.scalars(
            select(ArmNoteRow).where(ArmNoteRow.athlete_id == athlete_id, ArmNoteRow.date == note.date,
                                     ArmNoteRow.place == note.place)
        ):  # fmt: skip
            session.delete(row)


# the league -----------------------------------------------------------------------------------------------------------
def limits_of(library: Library, athlete_id: int) -> Limits:
    """The league's limits as they were entered for an athlete."""
    with library.reading() as session:
        said = _athlete(session, athlete_id).limits or {}
    return limits_from(said)


def limits_from(said: dict[str, Any]) -> Limits:
    """Limits from JSON; what is malformed counts as not entered."""
    most, rest = said.get("most"), said.get("rest")
    pairs = [(int(one[0]), int(one[1])) for one in rest if _whole(one)] if isinstance(rest, list) else []
    return Limits(str(said.get("league", "")), str(said.get("link", "")), most if isinstance(most, int) else None,
                  tuple(sorted(pairs)))  # fmt: skip


def _whole(one: Any) -> bool:
    return isinstance(one, (list, tuple)) and len(one) == 2 and all(isinstance(part, int) for part in one)


def limits_document(limits: Limits) -> dict[str, Any]:
    """Limits as JSON."""
    return {
        "league": limits.league,
        "link": limits.link,
        "most": limits.most,
        "rest": [list(one) for one in limits.rest],
    }


def set_limits(library: Library, athlete_id: int, limits: Limits) -> None:
    """Keep the league's limits as somebody entered them, as one change. Raises LibraryError."""
    with library.change("The league's limits") as session:
        _athlete(session, athlete_id).limits = limits_document(limits)


def thrown_by_day(days: tuple[Day, ...]) -> list[tuple[str, int]]:
    """Days with what was thrown: the count where somebody gave one, else the throws that are kept."""
    return [(day.date, day.kept if day.thrown is None else day.thrown) for day in days]


def _athlete(session: Session, athlete_id: int) -> Athlete:
    row = session.get(Athlete, athlete_id)
    if row is None:
        raise LibraryError("this athlete is not in the library any more")
    return row
