"""A talk-through as data, `NAME.talk.json`: scenes in order, what each shows, what is said, and by which take."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from waxtwin.core.stops import ORDER
from waxtwin.formats.files import FormatError, write_text
from waxtwin.formats.model import read_model

SUFFIX = ".talk.json"
SOUND_RATE = 48_000  # samples a second of every voice
VERSION = 1
READING = 15.0  # characters a second
LEAST_HOLD = 2.5  # s that words stand at least
_HOLD = 1.5  # s that a scene without words stands
_MOST_OF_A_CARD = 12.0  # s: what is on a card and not said can be looked at again
_LONGEST = 3600.0  # s of one scene
MOST_WORDS, MOST_TITLE = 10_000, 200  # characters
_MOST = 400  # scenes of a talk

SHOWN: Final = "shown"
CARD: Final = "card"
TASK: Final = "task"


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="ignore", allow_inf_nan=False)


class Instant(_Part):
    """Seconds after a stop (before it, below 0), or of the throw where no stop is named."""

    stop: str = ""
    plus: float = 0.0

    @field_validator("stop")
    @classmethod
    def _known(cls, stop: str) -> str:
        if stop and stop not in ORDER:
            raise ValueError(f"there is no stop named {stop[:40]}")
        return stop

    def time(self, events: Mapping[str, float]) -> float | None:
        """The instant in seconds of the throw; None where its stop is not known."""
        if not self.stop:
            return self.plus
        return events[self.stop] + self.plus if self.stop in events else None


class Moment(_Part):
    """What the stages show from `at` (s of the scene) on.

    The athlete's clock stands at `here` and moves at `rate` times real time until `until`; the twin's hangs on it, or
    stands at `twin` by itself. `shown` is how the pair is shown, as the desk keeps it.
    """

    at: float = Field(default=0.0, ge=0, le=_LONGEST)
    here: Instant = Instant()
    rate: float = Field(default=0.0, ge=-4, le=4)
    until: Instant | None = None
    twin: Instant | None = None
    shown: dict[str, Any] = Field(default_factory=dict)


class Point(_Part):
    """Where the pointer is on a side's stage at `at` (s of the scene); gone where not `on`.

    `x` to the right and `y` downward: metres from the pelvis in the picture where it points at a `body`, so that it
    stays on it in a picture of another shape, otherwise shares of the stage.
    """

    at: float = Field(ge=0, le=_LONGEST)
    x: float = Field(ge=-20, le=20)
    y: float = Field(ge=-20, le=20)
    side: str = Field(default="athlete", max_length=20)
    body: bool = False
    on: bool = True


class Spoken(_Part):
    """A part of a recorded file, seconds of it."""

    file: str = Field(min_length=1, max_length=200)
    start: float = Field(default=0.0, ge=0)
    end: float = Field(gt=0)

    @field_validator("file")
    @classmethod
    def _plain_name(cls, file: str) -> str:
        if Path(file).name != file or file in (".", ".."):
            raise ValueError("a take is a file beside the talk, without folders")
        return file

    @model_validator(mode="after")
    def _in_order(self) -> Spoken:
        if self.end <= self.start:
            raise ValueError("a take ends before it begins")
        return self

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.end - self.start


class Scene(_Part):
    """One scene: the pair (`shown`), a card of words, or a practice task with its drawn poses.

    `length` is how long what is shown takes by itself, 0 for as long as its words; `take` is the take that is heard,
    -1 for none.
    """

    id: str = Field(min_length=1, max_length=40)
    kind: Literal["shown", "card", "task"] = SHOWN
    title: str = Field(default="", max_length=MOST_TITLE)
    caption: str = Field(default="", max_length=MOST_WORDS)
    lines: tuple[str, ...] = ()
    poses: tuple[str, ...] = ()
    moments: tuple[Moment, ...] = ()
    pointer: tuple[Point, ...] = ()
    length: float = Field(default=0.0, ge=0, le=_LONGEST)
    takes: tuple[Spoken, ...] = ()
    take: int = Field(default=-1, ge=-1)
    hidden: bool = False

    @model_validator(mode="after")
    def _whole(self) -> Scene:
        if self.take >= len(self.takes):
            raise ValueError("the take that is heard is not among its takes")
        if self.kind == SHOWN and not self.moments:
            raise ValueError("a scene of the pair says what is shown")
        if list(self.moments) != sorted(self.moments, key=lambda one: one.at):
            raise ValueError("what is shown is not in order")
        return self

    @property
    def spoken(self) -> Spoken | None:
        """The take that is heard."""
        return self.takes[self.take] if self.take >= 0 else None

    @property
    def seconds(self) -> float:
        """How long it stands: as long as what it shows and its voice, or as long as its words take to read."""
        spoken = self.spoken
        return max(self.length, spoken.seconds if spoken else self._reading)

    @property
    def _reading(self) -> float:
        """How long its words take to read, s."""
        card = min(sum(map(len, self.lines)) / READING, _MOST_OF_A_CARD)
        words = len(self.caption) / READING
        return max(card + words, LEAST_HOLD) if card or words else _HOLD

    def but(self, /, **changes: Any) -> Scene:
        """The same scene with some parts other. Raises ValueError for what a scene cannot be."""
        return Scene.model_validate({name: getattr(self, name) for name in Scene.model_fields} | changes)


class Talk(_Part):
    """A talk-through. `athlete` and `twin` are names as shown, "" for their own; `throws` {side: file beside the talk}
    where it stands for itself, outside a library.
    """

    version: int = VERSION
    title: str = Field(default="", max_length=MOST_TITLE)
    athlete: str = Field(default="", max_length=120)
    twin: str = Field(default="", max_length=120)
    landing: Literal["touch", "plant"] = "touch"
    imperial: bool = False
    throws: dict[str, str] = Field(default_factory=dict)
    scenes: tuple[Scene, ...] = Field(default=(), max_length=_MOST)

    @field_validator("version")
    @classmethod
    def _not_newer(cls, version: int) -> int:
        if version > VERSION:
            raise ValueError("this talk was made by a newer Wax Twin")
        return version

    @model_validator(mode="after")
    def _told_apart(self) -> Talk:
        if len({scene.id for scene in self.scenes}) < len(self.scenes):
            raise ValueError("two scenes share an id")
        return self

    @property
    def wanted(self) -> tuple[Scene, ...]:
        """The scenes that the film has."""
        return tuple(scene for scene in self.scenes if not scene.hidden)

    @property
    def files(self) -> frozenset[str]:
        """Every file of a voice that any scene has a take in."""
        return frozenset(one.file for scene in self.scenes for one in scene.takes)

    def but(self, /, **changes: Any) -> Talk:
        """The same talk with some parts other."""
        return self.model_copy(update=changes)

    def scene(self, key: str) -> Scene:
        """A scene by its id. Raises KeyError."""
        return {scene.id: scene for scene in self.scenes}[key]


def read_talk(path: Path) -> Talk:
    """A talk from its file. Raises FormatError."""
    return read_model(path, Talk)


def write_talk(talk: Talk, path: Path) -> None:
    """Write a talk, whole or not at all. Raises FormatError."""
    if not path.name.endswith(SUFFIX):
        raise FormatError(path, f"a talk is written as NAME{SUFFIX}")
    write_text(path, talk.model_dump_json(indent=1) + "\n")
