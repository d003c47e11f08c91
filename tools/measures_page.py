"""Writes docs/measures.md from the registries, so that page and code cannot drift. `--check` only compares."""

from __future__ import annotations

import sys
from pathlib import Path

from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.registry import ANGLES, KINDS
from waxtwin.core.stops import EVENTS

PAGE = Path(__file__).parent.parent / "docs" / "measures.md"


def _cell(text: str) -> str:
    """Text that may hold a bar, within a table."""
    return f"`{text}`" if "|" not in text else text.replace("|", "\\|")


def page() -> str:
    """The whole page as Markdown."""
    lines = [
        "# Stops and measures",
        "",
        "Made from the registries by `make docs`; do not edit by hand. Lengths and speeds in definitions are for a",
        "standing height of 1.80 m and scale with height. Every left-hander is mirrored once on loading.",
        "P is the middle of the hips, C that of the shoulders, t() the instant of; x toward the plate, y to the glove",
        "side, z up.",
        "",
        "## Stops",
        "",
        "| id | on screen | usually called | definition |",
        "|---|---|---|---|",
        *(f"| `{e.id}` | {e.label} | {e.usual} | {e.definition} |" for e in EVENTS.values()),
    ]
    lines += ["", "## Angles", "", "| angle | worked out |", "|---|---|"]
    lines += [f"| {name} | `{text}` |" for name, text in ANGLES.items()]
    for kind, name in KINDS.items():
        lines += [
            "",
            f"## {name}",
            "",
            "| id | on screen | usually called | unit | read at | view | meaning | definition | sign | literature |",
        ]
        lines.append("|---|---|---|---|---|---|---|---|---|---|")
        for m in MEASURES.values():
            if m.kind == kind:
                view = m.view + (f", {m.planar} planar" if m.planar else "")
                cells = (f"`{m.id}`", m.label, m.usual, m.unit, m.at, view, m.text, _cell(m.formula), m.sign,
                         m.reference)  # fmt: skip
                lines.append(f"| {' | '.join(cells)} |")
    lines += [
        "",
        "Two more have a list for a value: `sequence_order`, the four turning peaks by time, and `sequence_lags`, the",
        "three differences between them in ms.",
        "",
    ]
    return "\n".join(lines)


if __name__ == "__main__":
    if "--check" in sys.argv:
        sys.exit(0 if PAGE.is_file() and PAGE.read_text() == page() else "docs/measures.md is out of date: make docs")
    PAGE.write_text(page())
