"""The bands file: per measure where a population's figures lie, with its source. Data, not code."""

from __future__ import annotations

import json
from pathlib import Path

from waxtwin.core.contrast import Band
from waxtwin.core.measures import MEASURES
from waxtwin.formats.registry import FormatError, read_text

SHIPPED = Path(__file__).parent.parent / "assets" / "bands.json"


def load_bands(path: Path = SHIPPED) -> dict[str, Band]:
    """Bands by measure id. Raises FormatError for an unknown measure or an upside-down band."""
    try:
        document = json.loads(read_text(path))
        population, source = document["population"], document["source"]
        bands = {}
        for name, entry in document["bands"].items():
            if name not in MEASURES:
                raise FormatError(path, f"there is no measure named {name}")
            low, high = float(entry["low"]), float(entry["high"])
            if not low < high:
                raise FormatError(path, f"the band of {name} ends before it begins")
            bands[name] = Band(low, high, population, entry.get("source", source), bool(entry.get("verified", False)))
    except (ValueError, KeyError, TypeError, AttributeError) as fault:
        if isinstance(fault, FormatError):
            raise
        raise FormatError(path, "it is not a valid bands file") from None
    return bands
