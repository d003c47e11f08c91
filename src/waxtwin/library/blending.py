"""Blends of a library's throws, kept as throws of their own that say what they are."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

from waxtwin.core.blend import blend
from waxtwin.core.contrast import analyse_alike
from waxtwin.core.errors import TrackError
from waxtwin.core.steps import Steps
from waxtwin.formats.sidecar import Athlete as SidecarAthlete
from waxtwin.library.arrays import pack_track
from waxtwin.library.faults import LibraryError
from waxtwin.library.layout import BLEND, BLENDED
from waxtwin.library.records import DeliveryRow, TagRow
from waxtwin.library.store import Library
from waxtwin.library.throws import athlete_named, fetch

TAG = BLEND


def keep_blend(library: Library, keys: Sequence[int], name: str) -> Steps[int]:
    """The key of the new throw: the average of these, by that name. Raises LibraryError."""
    stored = []
    for n, key in enumerate(keys):
        yield 0.4 * n / len(keys)
        stored.append(fetch(library, key))
    bare = next((one for one in stored if one.delivery.track.is_bare), None)
    if bare is not None:
        raise LibraryError(f"{bare.title}: there are no landmarks yet, so it cannot be blended.")
    try:
        analyses = analyse_alike([one.delivery for one in stored])
        yield 0.6
        track, height, speed = blend(analyses)
    except TrackError as fault:
        raise LibraryError(f"These throws cannot be blended: {fault}.") from None
    yield 0.9
    said = ", ".join(f"{one.title} ({one.origin})" for one in stored)
    spans = [one.sidecar.athlete.span_m for one in stored]
    span = round(sum(s * height / o.motion.height for s, o in zip(spans, analyses, strict=True) if s) / len(spans), 3)
    with library.change(f"Blend of {len(keys)} throws") as session:
        who = SidecarAthlete(name=name, throws="R", height_m=round(height, 3), span_m=span if all(spans) else None)
        athlete = athlete_named(session, who)
        row = DeliveryRow(
            athlete_id=athlete.id, title=name, origin=f"blend of {len(keys)} throws", ball_speed_mps=speed,
            extra={BLENDED: [one.key for one in stored]},
            pitch=stored[0].sidecar.pitch if len({one.sidecar.pitch for one in stored}) == 1 else None,
            screening={}, notes=f"A blend of {said}. Nobody threw it.", track=library.put(session, pack_track(track)),
            track_from=BLEND, added=datetime.now(UTC).isoformat(timespec="seconds"),
        )  # fmt: skip
        row.tags.append(TagRow(name=TAG))
        session.add(row)
        session.flush()
        made = row.id
    return made
