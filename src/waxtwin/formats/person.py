"""The file `NAME.athlete.json`: what is kept about an athlete besides the throws. Unknown keys are kept."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from waxtwin.formats.files import write_text
from waxtwin.formats.model import read_model

PERSON = ".athlete.json"


def _day(said: str | None) -> str | None:
    """An ISO day, or a plain complaint."""
    if said in (None, ""):
        return None
    try:
        return date.fromisoformat(said or "").isoformat()
    except ValueError:
        raise ValueError("a day must be written as year-month-day") from None


class _Entry(BaseModel):
    model_config = ConfigDict(extra="allow", allow_inf_nan=False)


def _some_day(said: str | None) -> str:
    """An ISO day that must be there."""
    found = _day(said)
    if found is None:
        raise ValueError("a day must be written as year-month-day")
    return found


class SessionEntry(_Entry):
    """A day on which somebody threw: throws counted, and what devices logged."""

    date: str
    place: str = ""
    notes: str = ""
    thrown: int | None = Field(default=None, ge=0, le=10_000)
    log: list[Any] = Field(default_factory=list)

    _check = field_validator("date")(_some_day)


class ArmEntry(_Entry):
    """How the arm was on a day."""

    date: str
    soreness: int = Field(ge=0, le=10)
    place: str = ""
    since: str | None = None
    text: str = ""

    _check = field_validator("date")(_some_day)
    _check_since = field_validator("since")(_day)


class PlanEntry(_Entry):
    """A version of a plan."""

    version: int = Field(ge=1, le=100_000)
    made: str = ""
    sent: str | None = None
    start: str | None = None
    next_look: str | None = None
    speed_aim_mps: float | None = Field(default=None, gt=0, lt=70)
    focus: list[dict[str, Any]] = Field(default_factory=list)
    notes: str = ""

    _check = field_validator("sent", "start", "next_look")(_day)


class Person(_Entry):
    """Everything about an athlete that is not a throw."""

    version: Literal[1] = 1
    name: str = Field(min_length=1)
    throws: Literal["R", "L"] = "R"
    height_m: float | None = Field(default=None, gt=0.8, lt=2.6)
    mass_kg: float | None = Field(default=None, gt=15, lt=300)
    span_m: float | None = Field(default=None, gt=0.8, lt=2.9)
    born: str | None = None
    guardian: str = ""
    consent_on: str | None = None
    keep_until: str | None = None
    notes: str = ""
    extra: dict[str, Any] = Field(default_factory=dict)
    limits: dict[str, Any] = Field(default_factory=dict)
    sessions: list[SessionEntry] = Field(default_factory=list)
    arm_notes: list[ArmEntry] = Field(default_factory=list)
    plans: list[PlanEntry] = Field(default_factory=list)

    _check = field_validator("born", "consent_on", "keep_until")(_day)


def is_person_file(path: Path) -> bool:
    """Whether a file is one of these, by its name."""
    return path.name.endswith(PERSON) or path.name == PERSON.removeprefix(".")


def read_person(path: Path) -> Person:
    """Read the file. Raises FormatError with one plain sentence."""
    return read_model(path, Person)


def write_person(person: Person, path: Path) -> None:
    """Write the file, whole or not at all. Raises FormatError."""
    write_text(path, json.dumps(person.model_dump(mode="json"), indent=2, ensure_ascii=False) + "\n")
