"""Which throws make a set: one athlete's throws of one session and one kind of pitch."""

from __future__ import annotations

from sqlalchemy import select

from waxtwin.library.folders import seen_alike
from waxtwin.library.records import DeliveryRow
from waxtwin.library.store import Library
from waxtwin.library.stored import StoredDelivery
from waxtwin.library.throws import fetch


def companions(library: Library, stored: StoredDelivery) -> tuple[StoredDelivery, ...]:
    """The other throws of the same athlete, session and pitch that are seen as this one is; oldest first."""
    with library.reading() as session:
        row = None if stored.key is None else session.get(DeliveryRow, stored.key)
        if row is None or row.session_id is None:
            return ()
        alike = select(DeliveryRow.id).where(
            DeliveryRow.session_id == row.session_id, DeliveryRow.athlete_id == row.athlete_id,
            DeliveryRow.pitch == row.pitch if row.pitch else DeliveryRow.pitch.is_(None),
            DeliveryRow.track.is_not(None), DeliveryRow.id != row.id,
        ).order_by(DeliveryRow.id)  # fmt: skip
        keys = session.scalars(alike).all()
    found = (fetch(library, key) for key in keys)
    return tuple(other for other in found if seen_alike(stored, other))
