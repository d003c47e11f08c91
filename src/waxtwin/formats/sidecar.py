"""The sidecar `NAME.delivery.json` beside a track or clip: what is known about a throw. Unknown keys are kept."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from waxtwin.core.events import ORDER
from waxtwin.formats.registry import FormatError, read_text, write_text


class _Kept(BaseModel):
    model_config = ConfigDict(extra="allow")


class Athlete(_Kept):
    """Who throws. Metres, kilograms, ISO date."""

    name: str = ""
    height_m: float | None = Field(default=None, gt=0.8, lt=2.6)
    mass_kg: float | None = Field(default=None, gt=15, lt=300)
    span_m: float | None = Field(default=None, gt=0.8, lt=2.9)
    born: str | None = None
    throws: Literal["R", "L"] = "R"


class Calibration(_Kept):
    """A solved camera: 3x4 `projection` from field metres to pixels of a picture `width` x `height`."""

    projection: list[list[float]]
    width: int = Field(gt=0)
    height: int = Field(gt=0)

    @field_validator("projection")
    @classmethod
    def _three_by_four(cls, rows: list[list[float]]) -> list[list[float]]:
        if len(rows) != 3 or any(len(row) != 4 for row in rows):
            raise ValueError("projection must have 3 rows of 4 numbers")
        return rows


class View(_Kept):
    """A clip of the throw: its file beside the sidecar, its camera, its solved camera where there is one."""

    file: str
    camera: Literal["open side", "closed side", "front", "rear", "other"] = "other"
    calibration: Calibration | None = None


class Sidecar(_Kept):
    """All that is known about one throw."""

    athlete: Athlete = Athlete()
    ball_speed_mps: float | None = Field(default=None, gt=0, lt=70)
    pitch: str | None = None
    effort: str | None = None
    recorded: str | None = None
    capture_fps: float | None = Field(default=None, gt=0)
    views: list[View] = Field(default_factory=list)
    events: dict[str, float] = Field(default_factory=dict)
    screening: dict[str, Any] = Field(default_factory=dict)
    notes: str | None = None

    @field_validator("events")
    @classmethod
    def _known_events(cls, events: dict[str, float]) -> dict[str, float]:
        for name in events:
            if name not in ORDER:
                raise ValueError(f"there is no stop named {name}")
        return events


def read_sidecar(path: Path) -> Sidecar:
    """Read a sidecar. Raises FormatError with one plain sentence."""
    text = read_text(path)
    try:
        return Sidecar.model_validate_json(text)
    except ValidationError as fault:
        first = fault.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        said = first["msg"].removeprefix("Value error, ")
        raise FormatError(path, f"{where + ': ' if where else ''}{said[:160]}") from None
    except RecursionError:
        raise FormatError(path, "it is nested too deeply") from None


def write_sidecar(sidecar: Sidecar, path: Path) -> None:
    """Write a sidecar with everything that was read, whole or not at all. Raises FormatError."""
    document = sidecar.model_dump(mode="json", exclude_unset=True)
    write_text(path, json.dumps(document, indent=2, ensure_ascii=False) + "\n")
