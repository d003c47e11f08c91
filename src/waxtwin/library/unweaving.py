"""An interlaced clip of a throw replaced by one that shows every field as a picture of its own."""

from __future__ import annotations

import tempfile
from pathlib import Path

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.library.importing import clip_row, take_clip
from waxtwin.library.records import ViewRow
from waxtwin.library.store import Library
from waxtwin.library.throws import clip_place


def unweave_clip(library: Library, view_id: int) -> Steps[None]:
    """Put the clip of fields in the place of a throw's interlaced one; marks of the old frames go. The old file stays,
    for undo. Raises WaxTwinError.
    """
    from waxtwin.capture.clip import ClipReader
    from waxtwin.capture.weave import unweave

    with library.reading() as session:
        row = session.get_one(ViewRow, view_id)
        place, name = clip_place(library, row.clip), Path(row.name)
    with ClipReader(place) as reader, tempfile.TemporaryDirectory(dir=library.folder) as folder:
        order = reader.field_order
        if not order:
            raise WaxTwinError(f"{name}: its pictures are not interlaced")
        fields = Path(folder) / f"{name.stem} fields.mp4"
        yield from unweave(reader, order, fields)
        clip = take_clip(library, fields, link=False)
    with library.change(f"Take the fields of {name} apart") as session:
        row = session.get_one(ViewRow, view_id)
        row.clip = clip_row(session, clip)
        row.name, row.marks, row.steadying, row.likely_fps = clip.name, None, None, None
        delivery = row.delivery
        if delivery.track_from == f"view:{view_id}":
            delivery.track, delivery.track_from, delivery.in_space = None, "", None
