"""What the Bench lists: every throw of a library in one light record, searched and filtered."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from waxtwin.library.records import UNNAMED, WHO, Athlete, DeliveryRow, TagRow, ViewRow


@dataclass(frozen=True, slots=True)
class Entry:
    """A throw seen from outside. `name` is its pitcher's, or its own title where nobody was `named`; `ready` when it
    has a track to be measured.
    """

    id: int
    athlete_id: int
    name: str
    title: str
    throws: str
    height_m: float | None
    ball_speed_mps: float | None
    pitch: str | None
    recorded: str | None
    origin: str
    notes: str
    ready: bool
    keep_until: str | None
    named: bool
    views: tuple[str, ...]
    tags: tuple[str, ...]

    @property
    def can_be_seen(self) -> bool:
        """Whether there is something to look at: a track, or a clip."""
        return self.ready or bool(self.views)

    @property
    def words(self) -> str:
        """Everything that a search looks through."""
        said = (self.name, self.title, self.pitch, self.recorded, self.origin, self.notes, *self.views, *self.tags)
        return " ".join(word for word in said if word).casefold()


def entries(session: Session) -> list[Entry]:
    """Every throw, by athlete and date."""
    views: dict[int, list[str]] = defaultdict(list)
    for delivery, view in session.execute(select(ViewRow.delivery_id, ViewRow.view).order_by(ViewRow.id)):
        views[delivery].append(view)
    tags: dict[int, list[str]] = defaultdict(list)
    for delivery, tag in session.execute(select(TagRow.delivery_id, TagRow.name).order_by(TagRow.name)):
        tags[delivery].append(tag)
    d, a = DeliveryRow, Athlete
    rows = session.execute(
        select(
            d.id, d.athlete_id, WHO, d.title, a.throws, a.height_m, d.ball_speed_mps, d.pitch, d.recorded, d.origin,
            d.notes, d.track.is_not(None), a.keep_until,
            a.name != UNNAMED,
        ).join(a).order_by(WHO, d.recorded, d.id)
    ).all()  # fmt: skip
    made = []
    for row in rows:  # by place, not by name: ten thousand of them are listed while somebody waits
        fields: list[Any] = [*row, tuple(views[row[0]]), tuple(tags[row[0]])]
        made.append(Entry(*fields))
    return made


def matching(found: list[Entry], search: str, *, tag: str = "", throws: str = "", ready: bool | None = None,
             ) -> list[Entry]:  # fmt: skip
    """Entries in which every word of a search is found, with a tag, a throwing side, or by whether they are ready."""
    words = search.casefold().split()
    return [
        entry for entry in found
        if (not tag or tag in entry.tags) and (not throws or entry.throws == throws)
        and (ready is None or entry.ready == ready) and all(word in entry.words for word in words)
    ]  # fmt: skip


def document(found: list[Entry]) -> dict[str, Any]:
    """The listing as JSON."""
    return {
        "deliveries": [
            {
                "id": e.id, "athlete": e.name, "title": e.title, "throws": e.throws, "height_m": e.height_m,
                "ball_speed_mps": e.ball_speed_mps, "pitch": e.pitch, "recorded": e.recorded, "origin": e.origin,
                "ready": e.ready, "views": list(e.views), "tags": list(e.tags), "keep_until": e.keep_until,
            }
            for e in found
        ]
    }  # fmt: skip
