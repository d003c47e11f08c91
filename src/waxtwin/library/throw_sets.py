"""Which throws make a set: one athlete's throws of one session and one kind of pitch, or of one folder."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import select

from waxtwin.core.track import hidden_axis
from waxtwin.formats.files import FormatError
from waxtwin.formats.place import CLIPS
from waxtwin.library.importing import sources
from waxtwin.library.records import DeliveryRow
from waxtwin.library.store import Library
from waxtwin.library.stored import StoredDelivery, load
from waxtwin.library.throws import fetch


def load_set(path: Path) -> tuple[StoredDelivery, ...]:
    """The throw in a file, or every track in a folder as one set.

    Raises FormatError for a folder without tracks, of more than one athlete, or of throws seen from unlike sides.
    """
    if not path.is_dir():
        return (load(path),)
    files = [file for file in sources(path) if file.suffix.lower() not in CLIPS]
    if not files:
        raise FormatError(path, "there is no track in this folder")
    throws = tuple(load(file) for file in files)
    first = throws[0]
    for file, throw in zip(files, throws, strict=True):
        if (throw.title, throw.delivery.throws) != (first.title, first.delivery.throws) and throw.sidecar.athlete.name:
            raise FormatError(path, f"a set is of one athlete, and {file.name} is of another than {files[0].name}")
        if not _seen_alike(first, throw):
            raise FormatError(path, f"{file.name} is not seen from the same side as {files[0].name}")
    return throws


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
    return tuple(other for other in found if _seen_alike(stored, other))


def _seen_alike(one: StoredDelivery, other: StoredDelivery) -> bool:
    sides = [stored.delivery for stored in (one, other)]
    return len({(hidden_axis(d.track.points), d.sight.scaled) for d in sides}) == 1
