"""A report as one HTML page: style, type and pictures inside, no scripts, everything that came from people as text."""

from __future__ import annotations

import re
from base64 import b64encode
from collections.abc import Mapping
from functools import cache
from typing import TYPE_CHECKING

from waxtwin import ASSETS, __version__
from waxtwin.core.findings import Task
from waxtwin.report.parts import Picture, Report

if TYPE_CHECKING:
    from jinja2 import Template
    from markupsafe import Markup

_WORDS, _RUN = re.compile(r"\s+|\S+"), 40
_HEAD = 24
_FACES = {400: "Manrope-Regular.ttf", 700: "Manrope-Bold.ttf"}


def html(report: Report, pictures: Mapping[Picture, bytes], drawn: Mapping[Task, bytes] | None = None) -> str:
    """The page; `pictures` are JPEG files for those the report asks for, `drawn` PNG files of its practice tasks; one
    that is missing is left out.
    """
    made = {picture: _inline("image/jpeg", data) for picture, data in pictures.items()}
    tasks = {task: _inline("image/png", data) for task, data in (drawn or {}).items()}
    paper = "letter" if report.imperial else "A4"
    return _template().render(
        report=report, pictures=made, drawn=tasks, style=_style(), paper=paper, version=__version__
    )


@cache
def _template() -> Template:
    from jinja2 import Environment, FileSystemLoader, StrictUndefined

    place = FileSystemLoader(ASSETS / "report")
    made = Environment(loader=place, autoescape=True, undefined=StrictUndefined)
    made.filters |= {"broken": broken, "short": short}
    return made.get_template("report.html")


def broken(text: str) -> Markup:
    """Text in which a word without end may be broken every so often: laying such a word out takes minutes."""
    from markupsafe import Markup, escape

    parts = [word[at : at + _RUN] for word in _WORDS.findall(text) for at in range(0, len(word), _RUN)]
    out, before = escape(""), ""
    for part in parts:
        out += (Markup("<wbr>") if len(before) == _RUN and not part.isspace() else "") + escape(part)
        before = part
    return out


def short(text: str) -> str:
    """A name for the head of a column."""
    said = " ".join(text.split())
    return said if len(said) <= _HEAD else said[: _HEAD - 1] + "…"


@cache
def _style() -> str:
    faces = "".join(
        f"@font-face{{font-family:Manrope;font-weight:{weight};src:url({_inline('font/ttf', _bytes('fonts', name))})}}"
        for weight, name in _FACES.items()
    )
    return faces + _bytes("report", "report.css").decode()


def _bytes(*parts: str) -> bytes:
    return ASSETS.joinpath(*parts).read_bytes()


def _inline(kind: str, data: bytes) -> str:
    return f"data:{kind};base64,{b64encode(data).decode()}"
