"""How near the stages are looked at, and how light their clips are shown. Knows no Qt."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields, replace

import numpy as np

from waxtwin.core.landmarks import INDEX
from waxtwin.ui.model.topics import Hub, Topic

_NEAREST = 12.0
_EDGE = 0.999  # of a span: what is nearer than this to the whole picture is the whole picture


@dataclass(frozen=True)
class Closeup:
    """One stage's: `zoom` 1 shows the whole picture; `x` and `y` are what lies in the stage's middle, in shares of it.

    `light` and `contrast` of the clip, -1 to 1, 0 as it was filmed; `turned` over left for right.
    """

    zoom: float = 1.0
    x: float = 0.5
    y: float = 0.5
    light: float = 0.0
    contrast: float = 0.0
    turned: bool = False

    def nearer(self, factor: float, at: tuple[float, float]) -> Closeup:
        """Nearer by a factor, with what lies at a place of the stage (shares of it) staying there."""
        zoom = min(max(self.zoom * factor, 1.0), _NEAREST)
        if zoom < 1 / _EDGE:
            return replace(self, zoom=1.0, x=0.5, y=0.5)
        keep = 1 / self.zoom - 1 / zoom
        return replace(self, zoom=zoom).seeing(self.x + (at[0] - 0.5) * keep, self.y + (at[1] - 0.5) * keep)

    def matrix(self, width: float, height: float) -> np.ndarray:
        """Points of the whole picture to points of a stage of this size as it is looked at, `(3, 3)`."""
        dx, dy = (0.5 - self.zoom * self.x) * width, (0.5 - self.zoom * self.y) * height
        return np.array([[self.zoom, 0, dx], [0, self.zoom, dy], [0, 0, 1.0]])

    def seeing(self, x: float, y: float) -> Closeup:
        """With another place in the middle, so that the stage stays full."""
        rim = 0.5 / self.zoom
        return replace(self, x=min(max(x, rim), 1 - rim), y=min(max(y, rim), 1 - rim))


class Closeups:
    """{side: Closeup}; `linked` stages come nearer and are moved together; `follow` is the landmark that stays in the
    middle, or "". Tells CLOSEUP.
    """

    def __init__(self, hub: Hub[Topic]) -> None:
        self._hub = hub
        self._forget()
        hub.listen(self._follow_pair, Topic.PAIR)

    def _forget(self) -> None:
        self._sides: dict[str, Closeup] = {}
        self.linked, self.follow = True, ""

    def _follow_pair(self, topic: Topic) -> None:
        """Other deliveries are looked at anew."""
        if self._sides or self.follow or not self.linked:
            self._forget()
            self._hub.tell(Topic.CLOSEUP)

    def of(self, side: str) -> Closeup:
        """How near a side is looked at."""
        return self._sides.get(side, Closeup())

    def _put(self, changed: Mapping[str, Closeup]) -> None:
        if any(self.of(side) != one for side, one in changed.items()):
            self._sides = {**self._sides, **changed}
            self._hub.tell(Topic.CLOSEUP)

    def _together(self, side: str, sides: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(dict.fromkeys((side, *sides))) if self.linked else (side,)

    def nearer(self, side: str, factor: float, at: tuple[float, float], sides: tuple[str, ...]) -> None:
        """Nearer to a place of a stage, or further off below 1; `sides` are those on show."""
        self._put({one: self.of(one).nearer(factor, at) for one in self._together(side, sides)})

    def move(self, side: str, dx: float, dy: float, sides: tuple[str, ...]) -> None:
        """Move what is seen by shares of the stage."""
        found = {}
        for one in self._together(side, sides):
            now = self.of(one)
            found[one] = now.seeing(now.x - dx / now.zoom, now.y - dy / now.zoom)
        self._put(found)

    def whole(self, side: str, sides: tuple[str, ...]) -> None:
        """The whole picture again."""
        self._put({one: replace(self.of(one), zoom=1.0, x=0.5, y=0.5) for one in self._together(side, sides)})

    def show_clip(self, side: str, /, *, light: float, contrast: float, turned: bool) -> None:
        """How a side's clip is shown."""
        self._put({side: replace(self.of(side), light=light, contrast=contrast, turned=turned)})

    def link(self, linked: bool) -> None:
        """Whether stages come nearer together."""
        if linked != self.linked:
            self.linked = linked
            self._hub.tell(Topic.CLOSEUP)

    def keep_in_middle(self, landmark: str) -> None:
        """Follow a landmark, or none (""). Raises ValueError."""
        if landmark and landmark not in INDEX:
            raise ValueError(f"no such landmark: {landmark}")
        if landmark != self.follow:
            self.follow = landmark
            self._hub.tell(Topic.CLOSEUP)

    # kept with the pair --------------------------------------------------------------------------------------------
    def state(self) -> dict[str, object]:
        """All of it, to be kept."""
        sides = {side: asdict(one) for side, one in self._sides.items()}
        return {"sides": sides, "linked": self.linked, "follow": self.follow}

    def restore(self, state: Mapping[str, object]) -> None:
        """What was kept; anything malformed stays as it is."""
        sides = state.get("sides")
        found = {str(side): _read(one) for side, one in sides.items()} if isinstance(sides, dict) else {}
        follow = state.get("follow")
        self.linked = state.get("linked") is not False
        self.follow = follow if isinstance(follow, str) and follow in INDEX else ""
        self._sides = {side: one for side, one in found.items() if one is not None}
        self._hub.tell(Topic.CLOSEUP)


def _read(said: object) -> Closeup | None:
    if not isinstance(said, dict):
        return None
    usual = Closeup()
    good = {f.name: said[f.name] for f in fields(Closeup) if type(said.get(f.name)) is type(getattr(usual, f.name))}
    one = replace(usual, **good)
    if not (1.0 <= one.zoom <= _NEAREST and abs(one.light) <= 1 and abs(one.contrast) <= 1):
        return None
    return one.seeing(one.x, one.y)
