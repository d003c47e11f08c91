"""Where small pictures of throws are kept: beside the database, so that they go where it goes, and with the throw."""

from __future__ import annotations

import re
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import select

from waxtwin.library.layout import SMALL
from waxtwin.library.private import below
from waxtwin.library.records import DeliveryRow
from waxtwin.library.stored import StoredDelivery

if TYPE_CHECKING:
    from waxtwin.library.store import Library

_NAME = re.compile(r"(\d+)-[0-9a-f]{16}\.jpg")


def small_place(library: Library, stored: StoredDelivery) -> Path:
    """Where a throw's picture lies, as the throw is now."""
    delivery = stored.delivery
    hangs_on = (delivery.by_hand, delivery.throws, [(clip.path.name, clip.clock, clip.camera) for clip in stored.clips])
    digest = sha256(delivery.track.points.tobytes() + repr(hangs_on).encode()).hexdigest()[:16]
    return library.folder / SMALL / f"{stored.key}-{digest}.jpg"


def sweep_small(library: Library) -> None:
    """Delete pictures of throws that are not there any more."""
    files = list(below(library.folder / SMALL))
    if not files:
        return
    with library.reading() as session:
        keys = set(session.scalars(select(DeliveryRow.id)))
    for file in files:
        known = _NAME.fullmatch(file.name)
        if known is None or int(known[1]) not in keys:
            with suppress(OSError):
                file.unlink()
