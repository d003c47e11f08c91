"""Eye checks in files, and what was answered about a throw."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any

from waxtwin import ASSETS
from waxtwin.core.eye import EyeAnswer, EyeCheck, Feed, Looked
from waxtwin.core.stops import ORDER
from waxtwin.formats.files import FormatError, read_text, write_text
from waxtwin.library.stored import StoredDelivery

SHIPPED = ASSETS / "eye_checks.json"
KEPT = "eye_checks"  # the sidecar's own name for the answers


def own_file() -> Path:
    """Where checks lie that the user made or changed."""
    from platformdirs import user_config_path

    return user_config_path("waxtwin") / "eye_checks.json"


def read_checks(path: Path, *, own: bool = False) -> list[EyeCheck]:
    """The checks of a file. Raises FormatError."""
    try:
        return [_check(entry, own) for entry in json.loads(read_text(path))["checks"]]
    except FormatError:
        raise
    except (ValueError, KeyError, TypeError, AttributeError) as fault:
        reason = str(fault) if type(fault) is ValueError else "it is not a file of eye checks that can be read"
        raise FormatError(path, reason) from None


def _check(entry: Mapping[str, Any], own: bool) -> EyeCheck:
    at = str(entry["at"])
    if at not in ORDER:
        raise ValueError(f"eye check {entry['id']}: there is no stop named {at[:40]}")
    feeds = tuple(
        Feed(str(one["finding"]), tuple(map(str, one["answers"])), bool(one.get("against", False)))
        for one in entry.get("feeds", ())
    )
    answers = {str(name): str(words) for name, words in entry["answers"].items()}
    return EyeCheck(
        str(entry["id"]), at, str(entry["question"]), answers, str(entry.get("look", "")), str(entry.get("gauge", "")),
        feeds, tuple(map(str, entry.get("schools", ()))), own,
    )  # fmt: skip


@cache
def _shipped() -> list[EyeCheck]:
    return read_checks(SHIPPED)


def load_checks() -> tuple[list[EyeCheck], str]:
    """Shipped checks with the user's own in their place or after them, by stop; and a sentence when the user's file is
    damaged.
    """
    found = {one.id: one for one in _shipped()}
    said = ""
    if own_file().is_file():
        try:
            found |= {one.id: one for one in read_checks(own_file(), own=True)}
        except FormatError as fault:
            said = f"{fault} The shipped eye checks are used until it is mended."
    return sorted(found.values(), key=lambda one: ORDER.index(one.at)), said


def save_own(checks: Sequence[EyeCheck]) -> None:
    """Write the user's own checks. Raises FormatError when they cannot be written."""
    write_text(own_file(), json.dumps({"version": 1, "checks": [_entry(one) for one in checks]}, indent=1,
                                      ensure_ascii=False) + "\n")  # fmt: skip


def _entry(check: EyeCheck) -> dict[str, Any]:
    return {
        "id": check.id, "at": check.at, "question": check.question, "answers": dict(check.answers), "look": check.look,
        "gauge": check.gauge, "schools": list(check.schools),
        "feeds": [{"finding": f.finding, "answers": list(f.answers), "against": f.against} for f in check.feeds],
    }  # fmt: skip


def answers_of(stored: StoredDelivery | None) -> dict[str, EyeAnswer]:
    """What was answered about a throw, {check id: answer}."""
    kept = {} if stored is None else stored.sidecar.eye_checks
    return {name: EyeAnswer(one.answer, one.by, one.at) for name, one in kept.items()}


def looked_at(checks: Sequence[EyeCheck], athlete: StoredDelivery | None, twin: StoredDelivery | None) -> Looked:
    """Checks with the answers about two throws."""
    return Looked(tuple(checks), answers_of(athlete), answers_of(twin))
