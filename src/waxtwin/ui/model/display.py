"""How a pair is shown: what the stages hold, which measure is lit, in which units. Knows no Qt."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace

from waxtwin.core.read_off import POINTS
from waxtwin.ui.model.topics import Hub, Topic

VIEWS = {"side": (0.0, 4.0), "front": (90.0, 4.0), "rear": (-90.0, 8.0), "top": (0.0, 89.0)}
BESIDE = {"side": "front", "front": "side", "rear": "side", "top": "side"}  # what a second stage shows beside a view
VIEW_NAMES = {"open side": "side", "closed side": "side", "front": "front", "rear": "rear"}  # of clips, to VIEWS


@dataclass(frozen=True)
class Display:
    """What the stages hold, from where (degrees), with which helpers.

    `ghost` lays the other side over each stage, at an origin of the core's ORIGINS or "" for none, scaled to the same
    height if `matched`; `fade` is how much of the other side is seen, 0 to 1, or with `split` how far from the right
    it reaches; `inset` is the landmark that a magnified round follows, or ""; `alone` leaves out all but the
    stages and the seam; `wall` leaves out the athlete where there are several twins; `double` shows each throw from a
    second side as well.
    """

    shown: str = "both"
    azimuth: float = 0.0
    elevation: float = 4.0
    gauges: bool = True
    mirrored: bool = True
    camera: str = "side"
    trails: bool = False
    ghost: str = ""
    matched: bool = True
    fade: float = 0.5
    split: bool = False
    inset: str = ""
    alone: bool = False
    wall: bool = False
    double: bool = False


def read_display(said: object) -> Mapping[str, object]:
    """What is good of a display that was kept, by its fields; anything malformed is left out."""
    if not isinstance(said, dict):
        return {}
    usual = Display()
    return {f.name: said[f.name] for f in fields(Display) if type(said.get(f.name)) is type(getattr(usual, f.name))}


class View:
    """The display, the measures that are lit and the units. Tells DISPLAY, SELECTION,
    READ_OFF and UNITS.
    """

    def __init__(self, hub: Hub[Topic]) -> None:
        self._hub = hub
        self.display = Display()
        self.selected: str | None = None
        self.hovered: str | None = None
        self.imperial = False
        self.read_point = "lead_ankle"
        self.reading = False  # whether that point is read off now, and drawn
        hub.listen(self._follow, Topic.PAIR)

    def _follow(self, topic: Topic) -> None:
        """Other deliveries: nothing of them is chosen yet."""
        self.selected = self.hovered = None

    def show(self, /, **changes: object) -> None:
        """Change how the pair is shown. Raises TypeError for what a display does not have."""
        display = replace(self.display, **changes)  # type: ignore[arg-type]
        if display != self.display:
            self.display = display
            self._hub.tell(Topic.DISPLAY)

    def select(self, measure_id: str | None) -> None:
        """Choose the measure whose gauge is lit."""
        if measure_id != self.selected:
            self.selected = measure_id
            self._hub.tell(Topic.SELECTION)

    def hover(self, measure_id: str | None) -> None:
        """Light a measure's gauge as long as the pointer is on its row."""
        if measure_id != self.hovered:
            self.hovered = measure_id
            self._hub.tell(Topic.SELECTION)

    @property
    def lit(self) -> str | None:
        """The measure whose gauge is lit: the one under the pointer, else the chosen one."""
        return self.hovered or self.selected

    def read_off(self, point: str) -> None:
        """Choose the point of the body whose figures are read off. Raises ValueError."""
        if point not in POINTS:
            raise ValueError(f"no such point: {point}")
        if point != self.read_point:
            self.read_point = point
            self._hub.tell(Topic.READ_OFF)

    def set_reading(self, reading: bool) -> None:
        """Whether a point is read off, and drawn on the stages."""
        if reading != self.reading:
            self.reading = reading
            self._hub.tell(Topic.READ_OFF)

    def set_imperial(self, imperial: bool) -> None:
        """Feet, inches and miles an hour, or metric."""
        if imperial != self.imperial:
            self.imperial = imperial
            self._hub.tell(Topic.UNITS)

    def redress(self) -> None:
        """Everything is to be painted anew: colours or type are others."""
        self._hub.tell(Topic.UNITS)
