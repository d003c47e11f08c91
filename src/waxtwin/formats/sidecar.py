"""The sidecar `NAME.delivery.json` beside a track or clip: what is known about a throw. Unknown keys are kept."""

from __future__ import annotations

import json
from dataclasses import asdict, fields
from pathlib import Path
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, field_validator

from waxtwin.core.camera import Camera, Scale, Sight
from waxtwin.core.errors import plain
from waxtwin.core.markers import Axes, Recipe
from waxtwin.core.stops import ORDER, StopsByHand
from waxtwin.formats.files import write_text
from waxtwin.formats.model import read_model
from waxtwin.formats.tracks import LabSetup

_LONGEST = 36_000.0  # s: no clip of a throw is longer
_LARGEST = 1e9


class _Kept(BaseModel):
    model_config = ConfigDict(extra="allow", populate_by_name=True, allow_inf_nan=False)


class Athlete(_Kept):
    """Who throws. Metres, kilograms, ISO date."""

    name: str = ""
    height_m: float | None = Field(default=None, gt=0.8, lt=2.6)
    mass_kg: float | None = Field(default=None, gt=15, lt=300)
    span_m: float | None = Field(default=None, gt=0.8, lt=2.9)
    born: str | None = None
    throws: Literal["R", "L"] = "R"


class EyeSaid(_Kept):
    """An answer to an eye check: its id, who gave it, and when (ISO)."""

    answer: str = Field(max_length=60)
    by: str = Field(default="", max_length=120)
    at: str = Field(default="", max_length=40)


class Calibration(_Kept):
    """A camera: 3x4 `projection` from field metres to pixels of a picture `width` x `height`.

    `scale` says what its lengths are worth: "solved", "planar", "body" or "none"; `scale_sd`, `yaw` and `yaw_sd`
    belong to a camera that the figure itself gave; `distortion` is the lens' first radial term.
    """

    projection: list[list[float]]
    width: int = Field(gt=0, le=20_000)
    height: int = Field(gt=0, le=20_000)
    scale: Scale = "solved"
    distortion: float = 0.0
    error_px: float | None = None
    error_m: float | None = None
    scale_sd: float = Field(default=0.0, ge=0, le=0.5)
    yaw: float = Field(default=0.0, ge=-90, le=90)
    yaw_sd: float | None = Field(default=None, ge=0, le=60)

    def camera(self) -> Camera:
        """As the core knows a camera."""
        size = (self.width, self.height)
        matrix = np.array(self.projection, float)
        return Camera(
            matrix, size, self.scale, self.distortion, self.error_px, self.error_m, self.scale_sd, self.yaw, self.yaw_sd
        )  # fmt: skip

    @classmethod
    def of(cls, camera: Camera) -> Calibration:
        """A camera as it is written."""
        return cls(
            projection=[[round(float(v), 8) for v in row] for row in camera.matrix],
            width=camera.size[0], height=camera.size[1], scale=camera.scale, distortion=camera.distortion,
            error_px=camera.error_px, error_m=camera.error_m, scale_sd=camera.scale_sd, yaw=camera.yaw,
            yaw_sd=camera.yaw_sd,
        )  # fmt: skip

    @field_validator("projection")
    @classmethod
    def _three_by_four(cls, rows: list[list[float]]) -> list[list[float]]:
        if len(rows) != 3 or any(len(row) != 4 for row in rows):
            raise ValueError("projection must have 3 rows of 4 numbers")
        if not np.isfinite(rows).all() or np.abs(rows).max() > _LARGEST:
            raise ValueError("projection holds a number that no camera has")
        return rows


class View(_Kept):
    """A clip of the throw: its file beside the sidecar, where it was filmed from, its camera where that is known.

    `start_s` is the clip's instant that is the track's time 0; `slow` the true frame rate over the played one.
    """

    file: str
    camera: Literal["open side", "closed side", "front", "rear", "other"] = "other"
    calibration: Calibration | None = None
    start_s: float = Field(default=0.0, ge=-_LONGEST, le=_LONGEST)
    slow: float = Field(default=1.0, gt=1e-3, le=1e3)


class SeenBy(_Kept):
    """How a track was seen: whether lengths are metres, how far off its ideal view the camera stood (deg), how sure its
    scale is (a share), whether a landmark model found it, whether the scale is the body's own, how upright it is (deg),
    the view, whether its clock is true.
    """  # fmt: skip

    scaled: bool = True
    yaw: float = Field(default=0.0, ge=-180, le=180)
    yaw_sd: float = Field(default=0.0, ge=0, le=60)
    scale_sd: float = Field(default=0.0, ge=0, le=0.5)
    by_model: bool = False
    by_body: bool = False
    roll_sd: float = Field(default=0.0, ge=0, le=30)
    view: str = Field(default="", max_length=20)
    paced: bool = True

    @classmethod
    def of(cls, sight: Sight) -> SeenBy:
        """From the core's Sight."""
        return cls(**asdict(sight))

    def sight(self) -> Sight:
        """As the core's Sight."""
        return Sight(**{field.name: getattr(self, field.name) for field in fields(Sight)})


class LabRecipe(_Kept):
    """A landmark from markers; see the core's Recipe."""

    markers: list[str] = Field(min_length=1)
    offset: tuple[float, float, float] = (0.0, 0.0, 0.0)


class Lab(_Kept):
    """How a lab file beside the sidecar is read: markers by landmark, axes, the throw's part in seconds."""

    landmarks: dict[str, LabRecipe] | None = None
    forward: Literal["+x", "-x", "+y", "-y", "+z", "-z"] | None = None
    up: Literal["+x", "-x", "+y", "-y", "+z", "-z"] | None = None
    part: tuple[float, float] | None = None

    def setup(self) -> LabSetup:
        """As the readers take it."""
        recipes = None
        if self.landmarks is not None:
            recipes = {name: Recipe(tuple(r.markers), r.offset) for name, r in self.landmarks.items()}
        axes = Axes(self.forward, self.up) if self.forward and self.up else None
        return LabSetup(recipes, axes, self.part)

    @classmethod
    def of(cls, setup: LabSetup) -> Lab:
        """As it is written."""
        recipes = setup.recipes
        return cls.model_validate({
            "landmarks": None if recipes is None else {
                name: {"markers": list(r.markers), "offset": r.offset} for name, r in recipes.items()
            },
            "forward": setup.axes and setup.axes.forward, "up": setup.axes and setup.axes.up, "part": setup.part,
        })  # fmt: skip


class Sidecar(_Kept):
    """All that is known about one throw."""

    athlete: Athlete = Athlete()
    ball_speed_mps: float | None = Field(default=None, gt=0, lt=70)
    pitch: str | None = None
    effort: str | None = None
    started_from: str | None = Field(default=None, alias="from")
    recorded: str | None = None
    capture_fps: float | None = Field(default=None, gt=0, le=100_000)
    views: list[View] = Field(default_factory=list)
    sight: SeenBy | None = None
    lab: Lab | None = None

    def lab_setup(self) -> LabSetup | None:
        """How its lab file is read, where that was said."""
        return None if self.lab is None else self.lab.setup()

    def stops_by_hand(self) -> StopsByHand:
        """What is said about its stops; only one that was set can be an estimate."""
        estimated = frozenset(self.events_estimated) & set(self.events)
        return StopsByHand(dict(self.events), estimated, frozenset(self.events_rejected))

    events: dict[str, float] = Field(default_factory=dict)
    events_rejected: list[str] = Field(default_factory=list)
    events_estimated: list[str] = Field(default_factory=list)
    screening: dict[str, Any] = Field(default_factory=dict)
    eye_checks: dict[str, EyeSaid] = Field(default_factory=dict)
    chalk: list[dict[str, Any]] = Field(default_factory=list, max_length=1000)
    notes: str | None = None

    @field_validator("events", "events_rejected", "events_estimated")
    @classmethod
    def _known_events(cls, events: dict[str, float] | list[str]) -> dict[str, float] | list[str]:
        for name in events:
            if name not in ORDER:
                raise ValueError(f"there is no stop named {plain(name)[:40]}")
        if isinstance(events, dict) and not all(abs(time) <= _LONGEST for time in events.values()):
            raise ValueError("a stop lies at no time that a clip has")
        return events


def read_sidecar(path: Path) -> Sidecar:
    """Read a sidecar. Raises FormatError with one plain sentence."""
    return read_model(path, Sidecar)


def write_sidecar(sidecar: Sidecar, path: Path) -> None:
    """Write a sidecar with everything that was read, whole or not at all. Raises FormatError."""
    document = sidecar.model_dump(mode="json", exclude_unset=True, by_alias=True)
    write_text(path, json.dumps(document, indent=2, ensure_ascii=False) + "\n")
