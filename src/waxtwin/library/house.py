"""Measures of the house in a file of the user's own, or in any other."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path

from waxtwin.core.measures.house import HouseMeasure
from waxtwin.formats.files import FormatError, read_text, write_text

_MOST = 100


def house_file() -> Path:
    """Where the user's own lie."""
    from platformdirs import user_config_path

    return user_config_path("waxtwin") / "house_measures.json"


def read_house(path: Path) -> list[HouseMeasure]:
    """The measures of a file. Raises FormatError, one plain sentence naming the fault."""
    try:
        found = [
            HouseMeasure(
                str(one["id"]), str(one["label"]), str(one["kind"]), tuple(map(str, one["points"])), str(one["at"]),
                str(one.get("plane", "side")),
            )
            for one in json.loads(read_text(path))["measures"][:_MOST]
        ]  # fmt: skip
        if len({one.id for one in found}) < len(found):
            raise ValueError("two house measures share an id")
    except FormatError:
        raise
    except (ValueError, KeyError, TypeError, AttributeError) as fault:
        said = str(fault) if type(fault) is ValueError else "it is not a file of house measures that can be read"
        raise FormatError(path, said) from None
    return found


def own_house() -> tuple[list[HouseMeasure], str]:
    """The user's own measures, and a sentence when their file is damaged."""
    if not house_file().is_file():
        return [], ""
    try:
        return read_house(house_file()), ""
    except FormatError as fault:
        return [], f"{fault} The measures of the house are left out until it is mended."


def save_house(house: Sequence[HouseMeasure]) -> None:
    """Keep the user's own measures. Raises FormatError when they cannot be written."""
    document = {"version": 1, "measures": [asdict(one) for one in house]}
    write_text(house_file(), json.dumps(document, indent=1, ensure_ascii=False) + "\n")
