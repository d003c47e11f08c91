"""Data out: measures, stops, curves and tracks of a pair or a single delivery, in open formats, into a folder."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from waxtwin.core.analysis import Analysis
from waxtwin.core.contrast import Contrast
from waxtwin.core.sets import ThrowSet
from waxtwin.core.steps import Steps
from waxtwin.formats.answers import contrast_document, measure_document
from waxtwin.formats.files import write_text
from waxtwin.formats.place import file_name
from waxtwin.formats.tables import (
    contrast_table,
    curves_document,
    curves_table,
    events_table,
    measures_table,
    write_table,
)
from waxtwin.formats.tracks import write_track

KINDS: Mapping[str, str] = {"measures": "Measures", "stops": "Stops", "curves": "Curves", "tracks": "Tracks"}
_TRACKS = (".csv", ".trc", ".c3d")


def write_data(
    folder: Path, sides: Mapping[str, Analysis], pair: Contrast | None, kinds: frozenset[str] = frozenset(KINDS)
) -> Steps[list[Path]]:
    """Write the files and return their paths. `sides` {file name's stem: results}; a pair adds its contrast. A throw
    without landmarks has no curves and no track.

    Raises FormatError; files that were written before it stay.
    """
    steps = list(_steps(folder, sides, pair, kinds))
    for n, (path, write) in enumerate(steps):
        yield n / len(steps)
        write(path)
    return [path for path, _ in steps]


def sides_of(pair: Contrast) -> dict[str, Analysis]:
    """Both sides by the stem of their files' names; before and now of one pitcher are told apart."""
    sides = (pair.athlete, pair.twin)
    one, two = (file_name(side.delivery.name) for side in sides)
    return dict(zip((one, two) if one != two else (f"{one}-now", f"{two}-before"), sides, strict=True))


def renamed(pair: Contrast, names: tuple[str, str]) -> Contrast:
    """The pair under other names, so that the own ones are in nothing that is written."""
    one, two = (
        replace(side, delivery=replace(side.delivery, name=name))
        for side, name in zip((pair.athlete, pair.twin), names, strict=True)
    )
    return replace(pair, athlete=one, twin=two)


Step = tuple[Path, Callable[[Path], None]]


def _steps(folder: Path, sides: Mapping[str, Analysis], pair: Contrast | None, kinds: frozenset[str]) -> Iterator[Step]:
    if pair is not None and "measures" in kinds:
        yield folder / "contrast.csv", lambda path: write_table(path, contrast_table(pair))
        yield folder / "contrast.json", lambda path: _write_json(path, contrast_document(list(sides)[:2], [pair]))
    for stem, found in sides.items():
        yield from _of_side(folder, stem, found, kinds)


def _of_side(folder: Path, stem: str, found: Analysis, kinds: frozenset[str]) -> Iterator[Step]:
    if "measures" in kinds:
        yield folder / f"{stem}-measures.csv", lambda path: write_table(path, measures_table(found))
        yield (
            folder / f"{stem}-measures.json",
            lambda path: _write_json(path, measure_document(stem, ThrowSet((found,)))),
        )
    if "stops" in kinds:
        yield folder / f"{stem}-stops.csv", lambda path: write_table(path, events_table(found))
    if found.motion.is_bare:
        return
    if "curves" in kinds:
        yield folder / f"{stem}-curves.csv", lambda path: write_table(path, curves_table(found))
        yield folder / f"{stem}-curves.json", lambda path: _write_json(path, curves_document(found))
    if "tracks" in kinds:
        for suffix in _TRACKS:
            yield folder / f"{stem}{suffix}", lambda path: write_track(found.delivery.track, path)


def _write_json(path: Path, document: dict[str, Any]) -> None:
    write_text(path, json.dumps(document, ensure_ascii=False, allow_nan=False) + "\n")
