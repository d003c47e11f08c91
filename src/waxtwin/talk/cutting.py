"""A talk that was spoken in one go, cut into scenes: where a stop is held, and where nothing is said."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from waxtwin.core.stops import EVENTS
from waxtwin.formats.talk import Moment, Point, Scene, Spoken
from waxtwin.talk.edits import piece_of

_LEAST = 1.0  # s of a scene


@dataclass(frozen=True)
class Recording:
    """What was driven and spoken in one go: every state, the pointer, and the voice's file ("" without one)."""

    moments: tuple[Moment, ...]
    pointer: tuple[Point, ...]
    seconds: float
    file: str = ""

    @property
    def whole(self) -> Scene:
        """All of it as one scene."""
        takes = (Spoken(file=self.file, end=self.seconds),) if self.file else ()
        return Scene(id="whole", moments=self.moments, pointer=self.pointer, length=self.seconds, takes=takes,
                     take=len(takes) - 1)  # fmt: skip


def scenes_of(recording: Recording, silences: Sequence[tuple[float, float]]) -> list[Scene]:
    """The scenes of a recording; `silences` from and to, s of it."""
    whole = recording.whole
    ends = [0.0, *_cuts(recording, silences), recording.seconds]
    found = []
    for n, (low, high) in enumerate(pairwise(ends), start=1):
        piece = piece_of(whole, low, high, f"s{n}")
        found.append(piece.but(title=_title(piece)))
    return found


def _cuts(recording: Recording, silences: Sequence[tuple[float, float]]) -> list[float]:
    """Where scenes end: as another stop is held, and in the middle of a silence; a silence near a stop gives way."""
    held, before = [], ""
    for one in recording.moments:
        stop = one.here.stop if not one.rate and abs(one.here.plus) < 1e-6 else ""
        if stop and stop != before:
            held.append(one.at)
        before = stop or before
    quiet = [(low + high) / 2 for low, high in silences]
    wanted = sorted([*((at, 0) for at in held), *((at, 1) for at in quiet)], key=lambda one: (one[1], one[0]))
    found: list[float] = []
    for at, _ in wanted:
        if all(abs(at - other) >= _LEAST for other in (0.0, recording.seconds, *found)):
            found.append(at)
    return sorted(found)


def _title(scene: Scene) -> str:
    """What is seen: the stop that is held longest."""
    held: dict[str, float] = {}
    ends = [*(one.at for one in scene.moments[1:]), scene.seconds]
    for one, end in zip(scene.moments, ends, strict=True):
        if not one.rate and one.here.stop:
            held[one.here.stop] = held.get(one.here.stop, 0.0) + end - one.at
    return EVENTS[max(held, key=lambda stop: held[stop])].label if held else "In motion"
