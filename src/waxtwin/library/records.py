"""The tables of a library. Plain values only, so that every row can be written into the journal as it is.

Lengths in metres, speeds in m/s, times in seconds of the throw, dates as ISO text. Arrays (tracks, marks) lie in
`content` under the hash of their bytes and are never changed in place.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, ColumnElement, ForeignKey, LargeBinary, MetaData, UniqueConstraint, and_, case
from sqlalchemy.orm import DeclarativeBase, Mapped, declared_attr, mapped_column, relationship

_NAMES = {
    "ix": "ix_%(table_name)s_%(column_0_name)s",
    "uq": "uq_%(table_name)s_%(column_0_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s",
    "pk": "pk_%(table_name)s",
}
UNNAMED = "Not named yet"


def _to(column: str) -> ForeignKey:
    """A reference that is checked at the end of the transaction: undo puts rows back in any order."""
    return ForeignKey(column, deferrable=True, initially="DEFERRED")


class Base(DeclarativeBase):
    """Root of every table."""

    metadata = MetaData(naming_convention=_NAMES)
    type_annotation_map = {dict[str, Any]: JSON, list[Any]: JSON, bytes: LargeBinary}  # noqa: RUF012


class Edited:
    """A row that people edit: `edition` counts its changes, and a change of an edition that is not the last one any
    more is refused by the database.
    """

    edition: Mapped[int] = mapped_column(default=1, server_default="1")

    @declared_attr.directive
    def __mapper_args__(cls) -> dict[str, Any]:  # noqa: N805 - SQLAlchemy hands in the class
        return {"version_id_col": cls.edition}


class Athlete(Edited, Base):
    """A pitcher, with what a guardian agreed to; `limits` are those of the league as somebody entered them."""

    __tablename__ = "athlete"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(index=True)
    throws: Mapped[str] = mapped_column(default="R")
    height_m: Mapped[float | None]
    mass_kg: Mapped[float | None]
    span_m: Mapped[float | None]
    born: Mapped[str | None]
    guardian: Mapped[str] = mapped_column(default="")
    consent_on: Mapped[str | None]
    keep_until: Mapped[str | None]
    notes: Mapped[str] = mapped_column(default="")
    limits: Mapped[dict[str, Any]] = mapped_column(default=dict)
    extra: Mapped[dict[str, Any]] = mapped_column(default=dict)
    deliveries: Mapped[list[DeliveryRow]] = relationship(back_populates="athlete", cascade="all, delete-orphan")
    sessions: Mapped[list[ThrowingSession]] = relationship(back_populates="athlete", cascade="all, delete-orphan")
    plans: Mapped[list[PlanRow]] = relationship(cascade="all, delete-orphan", order_by="PlanRow.version")
    arm_notes: Mapped[list[ArmNoteRow]] = relationship(cascade="all, delete-orphan", order_by="ArmNoteRow.date")

    @property
    def is_named(self) -> bool:
        """Whether somebody said who this is."""
        return self.name != UNNAMED


class ThrowingSession(Edited, Base):
    """A day on which an athlete threw: how many throws where that was counted, and the throws that devices logged."""

    __tablename__ = "session"
    __table_args__ = (UniqueConstraint("athlete_id", "date"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    athlete_id: Mapped[int] = mapped_column(_to("athlete.id"), index=True)
    date: Mapped[str]
    place: Mapped[str] = mapped_column(default="")
    notes: Mapped[str] = mapped_column(default="")
    thrown: Mapped[int | None]
    log: Mapped[list[Any]] = mapped_column(default=list)
    athlete: Mapped[Athlete] = relationship(back_populates="sessions")


class DeliveryRow(Edited, Base):
    """One throw. `track` is the hash of its track; `track_from` says whether it came from a file or from clips;
    `in_space` the hash of what one clip's throw was estimated to be in space.
    """

    __tablename__ = "delivery"
    id: Mapped[int] = mapped_column(primary_key=True)
    athlete_id: Mapped[int] = mapped_column(_to("athlete.id"), index=True)
    session_id: Mapped[int | None] = mapped_column(_to("session.id"), index=True)
    title: Mapped[str] = mapped_column(default="")
    recorded: Mapped[str | None] = mapped_column(index=True)
    pitch: Mapped[str | None]
    effort: Mapped[str | None]
    started_from: Mapped[str | None]
    ball_speed_mps: Mapped[float | None]
    screening: Mapped[dict[str, Any]] = mapped_column(default=dict)
    notes: Mapped[str] = mapped_column(default="")
    extra: Mapped[dict[str, Any]] = mapped_column(default=dict)
    origin: Mapped[str] = mapped_column(default="")
    origin_hash: Mapped[str | None] = mapped_column(index=True)
    track: Mapped[str | None]
    track_from: Mapped[str] = mapped_column(default="")
    in_space: Mapped[str | None]
    added: Mapped[str]
    athlete: Mapped[Athlete] = relationship(back_populates="deliveries")
    views: Mapped[list[ViewRow]] = relationship(
        back_populates="delivery", cascade="all, delete-orphan", order_by="ViewRow.id"
    )
    events: Mapped[list[EventRow]] = relationship(back_populates="delivery", cascade="all, delete-orphan")
    tags: Mapped[list[TagRow]] = relationship(back_populates="delivery", cascade="all, delete-orphan")
    pairs_as_athlete: Mapped[list[PairRow]] = relationship(foreign_keys="PairRow.athlete_throw", cascade="all")
    pairs_as_twin: Mapped[list[PairRow]] = relationship(
        foreign_keys="PairRow.twin_throw", cascade="all", overlaps="pairs_as_athlete"
    )
    talks_as_athlete: Mapped[list[TalkRow]] = relationship(foreign_keys="TalkRow.athlete_throw", cascade="all")
    talks_as_twin: Mapped[list[TalkRow]] = relationship(
        foreign_keys="TalkRow.twin_throw", cascade="all", overlaps="talks_as_athlete"
    )
    profile: Mapped[ProfileRow | None] = relationship(cascade="all, delete-orphan")
    figures: Mapped[FiguresRow | None] = relationship(cascade="all, delete-orphan")

    @property
    def who(self) -> str:
        """Whoever throws, or the throw's own title as long as nobody said who that is."""
        return self.athlete.name if self.athlete.is_named else self.title or UNNAMED


class ClipRow(Edited, Base):
    """A clip file, known by its content: copied into the library (`file` relative to it) or linked where it lies."""

    __tablename__ = "clip"
    id: Mapped[int] = mapped_column(primary_key=True)
    sha256: Mapped[str] = mapped_column(unique=True)
    file: Mapped[str]
    linked: Mapped[bool] = mapped_column(default=False)
    name: Mapped[str]
    facts: Mapped[dict[str, Any]] = mapped_column(default=dict)


class ViewRow(Edited, Base):
    """A clip of a throw: its name, from where, which part, on which clock, through which camera, with which marks.

    `first_s` and `last_s` are the trim in seconds of the clip; `start_s` and `slow` its clock; `capture_fps` the true
    rate of capture where it was stated, `likely_fps` what it seems to be where it was not; `camera` the camera as JSON;
    `clicks` what was clicked to find it.
    """

    __tablename__ = "view"
    id: Mapped[int] = mapped_column(primary_key=True)
    delivery_id: Mapped[int] = mapped_column(_to("delivery.id"), index=True)
    clip_id: Mapped[int] = mapped_column(_to("clip.id"), index=True)
    name: Mapped[str]
    view: Mapped[str] = mapped_column(default="other")
    first_s: Mapped[float | None]
    last_s: Mapped[float | None]
    start_s: Mapped[float] = mapped_column(default=0.0)
    capture_fps: Mapped[float | None]
    likely_fps: Mapped[float | None]
    camera: Mapped[dict[str, Any]] = mapped_column(default=dict)
    clicks: Mapped[dict[str, Any]] = mapped_column(default=dict)
    marks: Mapped[str | None]
    steadying: Mapped[str | None]
    delivery: Mapped[DeliveryRow] = relationship(back_populates="views")
    clip: Mapped[ClipRow] = relationship()


class EventRow(Edited, Base):
    """A stop set by hand."""

    __tablename__ = "event"
    __table_args__ = (UniqueConstraint("delivery_id", "stop"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    delivery_id: Mapped[int] = mapped_column(_to("delivery.id"), index=True)
    stop: Mapped[str]
    time: Mapped[float]
    delivery: Mapped[DeliveryRow] = relationship(back_populates="events")


class TagRow(Edited, Base):
    """A word under which a throw is found again."""

    __tablename__ = "tag"
    __table_args__ = (UniqueConstraint("delivery_id", "name"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    delivery_id: Mapped[int] = mapped_column(_to("delivery.id"), index=True)
    name: Mapped[str] = mapped_column(index=True)
    delivery: Mapped[DeliveryRow] = relationship(back_populates="tags")


class PairRow(Edited, Base):
    """A pair as it was left: throws, why this twin, how everything was shown (`state`), notes pinned to stops.

    `others` are further twins' throws; `kind` "twin", "past" (one athlete before and now) or "peers"; `notes` a list of
    {stop, side, text, at}, `ties` of {name, athlete, twin, at}: moments tied by eye, seconds of each throw; `opened`
    when it was last on the desk.
    """

    __tablename__ = "pair"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(default="")
    athlete_throw: Mapped[int] = mapped_column(_to("delivery.id"), index=True)
    twin_throw: Mapped[int] = mapped_column(_to("delivery.id"), index=True)
    others: Mapped[list[Any]] = mapped_column(default=list)
    kind: Mapped[str] = mapped_column(default="twin")
    why: Mapped[str] = mapped_column(default="")
    notes: Mapped[list[Any]] = mapped_column(default=list)
    state: Mapped[dict[str, Any]] = mapped_column(default=dict)
    ties: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    opened: Mapped[str] = mapped_column(index=True)


class TalkRow(Edited, Base):
    """A talk-through of two throws: the document, and the files of its `voices`."""

    __tablename__ = "talk"
    id: Mapped[int] = mapped_column(primary_key=True)
    athlete_throw: Mapped[int] = mapped_column(_to("delivery.id"), index=True)
    twin_throw: Mapped[int] = mapped_column(_to("delivery.id"), index=True)
    changed: Mapped[str]
    body: Mapped[dict[str, Any]]
    voices: Mapped[list[Any]] = mapped_column(default=list)


class ProfileRow(Base):
    """What a twin is found by: the measures of one throw as float64s, worked out from the track of this hash."""

    __tablename__ = "profile"
    delivery_id: Mapped[int] = mapped_column(_to("delivery.id"), primary_key=True)
    track: Mapped[str]
    view: Mapped[str]
    rate: Mapped[float]
    features: Mapped[bytes]


class FiguresRow(Base):
    """A throw's measures with their doubts, float64s in registry order; `basis` says what they were worked out from."""

    __tablename__ = "figures"
    delivery_id: Mapped[int] = mapped_column(_to("delivery.id"), primary_key=True)
    basis: Mapped[str]
    planar: Mapped[bool]
    data: Mapped[bytes]


class PlanRow(Edited, Base):
    """A version of what an athlete works on, `focus` at most two things; once it was handed over (`sent`) it stays as
    it is, and the next change makes a new version.
    """  # fmt: skip

    __tablename__ = "plan"
    __table_args__ = (UniqueConstraint("athlete_id", "version"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    athlete_id: Mapped[int] = mapped_column(_to("athlete.id"), index=True)
    version: Mapped[int]
    made: Mapped[str]
    sent: Mapped[str | None]
    start: Mapped[str | None]
    next_look: Mapped[str | None]
    speed_aim_mps: Mapped[float | None]
    focus: Mapped[list[Any]] = mapped_column(default=list)
    notes: Mapped[str] = mapped_column(default="")


class ArmNoteRow(Edited, Base):
    """How the arm was on a day: soreness 0 to 10, where, since when."""

    __tablename__ = "arm_note"
    id: Mapped[int] = mapped_column(primary_key=True)
    athlete_id: Mapped[int] = mapped_column(_to("athlete.id"), index=True)
    date: Mapped[str] = mapped_column(index=True)
    soreness: Mapped[int]
    place: Mapped[str] = mapped_column(default="")
    since: Mapped[str | None]
    text: Mapped[str] = mapped_column(default="")


class TaskRow(Edited, Base):
    """A practice task of this library's catalogue, in place of the shipped one of the same key or beside them."""

    __tablename__ = "task"
    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    purpose: Mapped[str] = mapped_column(default="")
    how: Mapped[str] = mapped_column(default="")
    dose: Mapped[str] = mapped_column(default="")
    caution: Mapped[str] = mapped_column(default="")
    picture: Mapped[str | None]  # the hash of a PNG file in place of the drawn sequence


class Content(Base):
    """Bytes under their own hash."""

    __tablename__ = "content"
    hash: Mapped[str] = mapped_column(primary_key=True)
    data: Mapped[bytes]


class ChangeRow(Base):
    """One entry of the journal: what was done, and every touched row before and after.

    In a library that is shared, `person` is whose change it is, `client` the program that made it.
    """

    __tablename__ = "change"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[str]
    label: Mapped[str]
    undone: Mapped[bool] = mapped_column(default=False, index=True)
    rows: Mapped[list[Any]]
    person: Mapped[str] = mapped_column(default="", server_default="", index=True)
    client: Mapped[str] = mapped_column(default="", server_default="")


_BY_TITLE = and_(Athlete.name == UNNAMED, DeliveryRow.title != "")
WHO: ColumnElement[str] = case((_BY_TITLE, DeliveryRow.title), else_=Athlete.name)  # as `who` of a row

JOURNALLED = (
    Athlete, ThrowingSession, DeliveryRow, ClipRow, ViewRow, EventRow, TagRow, PairRow, PlanRow, ArmNoteRow, TaskRow,
    TalkRow,
)  # fmt: skip
