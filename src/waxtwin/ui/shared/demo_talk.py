"""The finished talk-through of the demo, spoken by the made-up voice."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import select

from waxtwin import ASSETS
from waxtwin.formats.talk import SOUND_RATE, Spoken, read_talk
from waxtwin.library.records import DeliveryRow
from waxtwin.library.talks import keep_talk, new_voice
from waxtwin.simulate.voice import made_up_voice
from waxtwin.talk.sound import TakeWriter

if TYPE_CHECKING:
    from waxtwin.library.store import Library

_TALK = ASSETS / "talk" / "demo.talk.json"


def add_demo_talk(library: Library) -> None:
    """Keep it with the demo's first pair, where both throws are there. Raises WaxTwinError."""
    talk = read_talk(_TALK)
    origins = [talk.throws[side] for side in ("athlete", "twin")]
    with library.reading() as session:
        rows = session.execute(select(DeliveryRow.origin, DeliveryRow.id).where(DeliveryRow.origin.in_(origins)))
        keys = {row.origin: row.id for row in rows}
    if len(keys) < len(origins):
        return
    scenes = []
    for scene in talk.scenes:
        takes = []
        for take in scene.takes:  # each in a file of its own: nobody has spoken them in one go
            writer = TakeWriter(new_voice(library))
            writer.add(made_up_voice(take.seconds, SOUND_RATE, take.start))
            writer.close()
            takes.append(Spoken(file=writer.path.name, end=take.seconds))
        scenes.append(scene.but(takes=tuple(takes)))
    keep_talk(library, (keys[origins[0]], keys[origins[1]]), talk.but(scenes=tuple(scenes), throws={}), "Demo talk")
