"""What the program remembers between runs: theme, units, last folder. A broken file is as good as none."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, fields
from pathlib import Path


@dataclass
class Settings:
    """Plain values with their defaults. `landing` "" is the school's own; `text` points more or less than the desktop's
    type; `toured` once the tour was offered; `place` the folder that a file dialog was left in; `finding` whether
    landmarks are found unasked in clips that are looked at; `analyst` who answers eye checks; `team` the address of a
    team's library that opens by itself, and where its clips are mounted here.
    """  # fmt: skip

    theme: str = "light"
    imperial: bool = False
    folder: str = ""
    population: str = ""
    school: str = "common"
    landing: str = ""
    smoothing: str = "usual"
    text: int = 0
    toured: bool = False
    place: str = ""
    finding: bool = True
    analyst: str = ""
    team: str = ""
    team_clips: str = ""


SMOOTHING = {"stronger": 0.75, "usual": 1.0, "finer": 1.33}
TEXT = (-2, 3)  # points; beyond them the rooms no longer fit a small screen


def _path() -> Path:
    from platformdirs import user_config_path

    return user_config_path("waxtwin") / "settings.json"


def load_settings() -> Settings:
    """The remembered settings; anything unreadable or of the wrong kind keeps its default."""
    settings = Settings()
    try:
        stored = json.loads(_path().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return settings
    for field in fields(Settings):
        value = stored.get(field.name) if isinstance(stored, dict) else None
        if type(value) is type(getattr(settings, field.name)):
            setattr(settings, field.name, value)
    if settings.theme not in ("light", "dark"):
        settings.theme = "light"
    if settings.smoothing not in SMOOTHING:
        settings.smoothing = "usual"
    settings.text = min(max(settings.text, TEXT[0]), TEXT[1])
    return settings


def save_settings(settings: Settings) -> None:
    """Remember; a place that cannot be written is not worth stopping for."""
    from waxtwin.formats.files import FormatError, write_text

    try:
        write_text(_path(), json.dumps(asdict(settings), indent=1))
    except FormatError:
        return
