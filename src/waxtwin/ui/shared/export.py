"""Writing a report or a clip to a file, for the window and for the command line alike."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Protocol

from waxtwin.core.steps import Steps
from waxtwin.formats.files import FormatError, write_bytes
from waxtwin.report.film import encode
from waxtwin.report.parts import Report
from waxtwin.ui.shared.pair_images import FILM, PairImages
from waxtwin.ui.shared.sequence_strip import sequence_png


class Images(Protocol):
    """Whatever paints the pictures that a report asks for."""

    def picture(self, stop: str, measures: Sequence[str]) -> bytes:
        """A JPEG file of a stop, with the gauges of some measures. Raises ClipError."""


def page_of(report: Report, images: Images, share: float) -> Steps[str]:
    """The report's page as HTML; yields up to `share` while its pictures are made."""
    from waxtwin.report.page import html

    wanted = report.all_pictures
    made = {}
    for n, picture in enumerate(wanted):
        yield share * n / len(wanted)
        made[picture] = images.picture(picture.stop, picture.measures)
    return html(report, made, {task: task.picture or sequence_png(task.shows) for task in report.all_drawn})


def write_report(report: Report, images: Images, path: Path) -> Steps[None]:
    """Write a report as PDF or HTML, by the name's ending; yields the share done. Raises FormatError."""
    if path.suffix.lower() not in (".pdf", ".html"):
        raise FormatError(path, "reports are written as .pdf or .html")
    page = yield from page_of(report, images, 0.3)
    if path.suffix.lower() == ".html":
        write_bytes(path, page.encode())
        return
    from waxtwin.report.pdf import pdf

    data = pdf(page)
    yield 0.9
    write_bytes(path, data)


def write_clip(report: Report, images: PairImages, path: Path) -> Steps[None]:
    """Write the clip of a pair, the gauges of its things to do lit; yields the share done. Raises FormatError."""
    count, pictures = images.frames(lit_of(report))
    yield from encode(path, pictures, count, FILM)


def lit_of(report: Report) -> tuple[str, ...]:
    """The measure whose gauge the clip shows: the first thing's to do."""
    return tuple(thing.picture.measures[0] for thing in report.things if thing.picture is not None)[:1]
