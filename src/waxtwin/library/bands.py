"""The bands file: per population and measure where figures lie, with its source. Data, not code.

The shipped file is a start; the user's own copy lies with the settings and is edited on screen.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from waxtwin import ASSETS
from waxtwin.core.contrast import DIRECTIONS, Band, Standards
from waxtwin.core.matters import Matters
from waxtwin.core.measures import MEASURES
from waxtwin.formats.files import FormatError, read_text, write_text

SHIPPED = ASSETS / "bands.json"
MATTERS = SHIPPED.with_name("matters.json")
VERSION = 2


@dataclass(frozen=True)
class Population:
    """Whose figures: a `label` for the screen, where they come from, and the bands by measure id."""

    label: str
    source: str
    bands: Mapping[str, Band]


Book = Mapping[str, Population]


def own_place() -> Path:
    """Where the user's own bands lie once they were edited."""
    from platformdirs import user_config_path

    return user_config_path("waxtwin") / "bands.json"


def load_bands(path: Path = SHIPPED, population: str = "") -> Mapping[str, Band]:
    """The bands of one population, the first where none of that name is there. Raises FormatError."""
    return bands_of(load_book(path), population)


def bands_of(book: Book, population: str = "") -> Mapping[str, Band]:
    """The bands of one population of a book, the first where none of that name is there."""
    return (book.get(population) or next(iter(book.values()))).bands


def standards_of(book: Book, population: str = "") -> Standards:
    """What figures are read against: one population's bands, and what matters. Raises FormatError."""
    own = own_place().with_name(MATTERS.name)
    return Standards(bands_of(book, population), load_matters(own if own.is_file() else MATTERS))


def load_matters(path: Path = MATTERS) -> Matters:
    """The smallest differences that matter. Raises FormatError for an unknown measure or a size that is none."""
    try:
        document = json.loads(read_text(path))
        parts = {
            key: {str(name): float(size) for name, size in document[key].items()}
            for key in ("units", "shares", "measures", "laboratory")
        }
        of_height = float(document["of_height"])
    except (ValueError, KeyError, TypeError, AttributeError) as fault:
        if isinstance(fault, FormatError):
            raise
        raise FormatError(path, "it is not a list of what matters") from None
    for name in (*parts["measures"], *parts["laboratory"]):
        if name not in MEASURES:
            raise FormatError(path, f"there is no measure named {name}")
    if not all(0 < size < 1e6 for size in (of_height, *(size for part in parts.values() for size in part.values()))):
        raise FormatError(path, "a size in it is not above nought")
    return Matters(of_height=of_height, **parts)


def current_book() -> Book:
    """The user's own bands, or the shipped ones while there are none. Raises FormatError for a damaged file."""
    own = own_place()
    return load_book(own if own.is_file() else SHIPPED)


def load_book(path: Path) -> Book:
    """Populations by key. Raises FormatError for an unknown measure or an upside-down band."""
    try:
        document = json.loads(read_text(path))
        if "populations" not in document:  # version 1 held a single one
            document = {"populations": {"adult": document | {"label": document["population"]}}}
        book = {str(key): _population(path, entry) for key, entry in document["populations"].items()}
    except (ValueError, KeyError, TypeError, AttributeError) as fault:
        if isinstance(fault, FormatError):
            raise
        raise FormatError(path, "it is not a valid bands file") from None
    if not book:
        raise FormatError(path, "there is no population in it")
    return book


def _population(path: Path, entry: dict[str, Any]) -> Population:
    label, source = str(entry["label"]), str(entry["source"])
    bands = {}
    for name, one in entry["bands"].items():
        if name not in MEASURES:
            raise FormatError(path, f"there is no measure named {name}")
        low, high, direction = float(one["low"]), float(one["high"]), str(one.get("direction", "inside"))
        if not low < high:
            raise FormatError(path, f"the band of {name} ends before it begins")
        if direction not in DIRECTIONS:
            raise FormatError(path, f"the direction of {name} is none of {', '.join(DIRECTIONS)}")
        verified = bool(one.get("verified", False))
        bands[name] = Band(low, high, label, str(one.get("source", source)), verified, direction)
    return Population(label, source, bands)


def save_book(book: Book, path: Path) -> None:
    """Write the file in one step. Raises FormatError when it cannot be written."""
    populations = {}
    for key, population in book.items():
        bands = {}
        for name, band in population.bands.items():
            bands[name] = {"low": band.low, "high": band.high, "direction": band.direction, "verified": band.verified}
            if band.source != population.source:
                bands[name]["source"] = band.source
        populations[key] = {"label": population.label, "source": population.source, "bands": bands}
    document = {"version": VERSION, "populations": populations}
    write_text(path, json.dumps(document, indent=1, ensure_ascii=False) + "\n")
