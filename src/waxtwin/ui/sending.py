"""Writing a report or a clip to a file, for the window and for the command line alike."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from waxtwin.formats.registry import FormatError, write_bytes
from waxtwin.report.clip import encode
from waxtwin.report.document import Report
from waxtwin.ui.plates import FILM, Plates


def pages_of(report: Report, plates: Plates) -> Iterator[float | str]:
    """Shares done while the pictures are made, then the page as HTML."""
    from waxtwin.report.page import html

    wanted = report.all_pictures
    made = {}
    for n, picture in enumerate(wanted):
        yield n / max(len(wanted), 1)
        made[picture] = plates.picture(picture.stop, picture.measures)
    yield html(report, made)


def write_report(report: Report, plates: Plates, path: Path) -> Iterator[float]:
    """Write a report as PDF or HTML, by the name's ending; yields the share done. Raises FormatError."""
    if path.suffix.lower() not in (".pdf", ".html"):
        raise FormatError(path, "reports are written as .pdf or .html")
    page = ""
    for step in pages_of(report, plates):
        if isinstance(step, str):
            page = step
        else:
            yield 0.3 * step
    if path.suffix.lower() == ".html":
        write_bytes(path, page.encode())
        return
    from waxtwin.report.pdf import pdf

    data = pdf(page)
    yield 0.9
    write_bytes(path, data)


def write_clip(report: Report, plates: Plates, path: Path) -> Iterator[float]:
    """Write the clip of a pair, the gauges of its things to do lit; yields the share done. Raises FormatError."""
    count, pictures = plates.frames(lit_of(report))
    yield from encode(path, pictures, count, FILM)


def lit_of(report: Report) -> tuple[str, ...]:
    """The measure whose gauge the clip shows: the first thing's to do."""
    return tuple(thing.picture.measures[0] for thing in report.things if thing.picture is not None)[:1]
