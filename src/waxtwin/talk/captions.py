"""Captions: what is said under the pictures, in pieces that can be read, and beside the film as WebVTT."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence

from waxtwin.core.errors import plain
from waxtwin.report.film import Words
from waxtwin.talk.timeline import Placed

WIDEST = 64  # characters of a line under the pictures
_LINES = 2


def pieces(text: str, width: int = WIDEST, most: int = _LINES) -> list[str]:
    """A caption as what stands under a picture at a time, at most so many lines each; its own line ends stay."""
    lines = [
        part for line in text.splitlines()
        for part in textwrap.wrap("".join(c if c.isprintable() else " " for c in line), width, break_on_hyphens=False)
    ]  # fmt: skip
    return ["\n".join(lines[n : n + most]) for n in range(0, len(lines), most)]


def captions_of(scene: Placed, width: int = WIDEST, most: int = _LINES) -> list[Words]:
    """A scene's captions, of so many lines each; a longer one stands longer."""
    found = pieces(scene.scene.caption, width, most)
    whole = sum(map(len, found)) or 1
    out, start = [], scene.start
    for piece in found:
        end = start + scene.scene.seconds * len(piece) / whole
        out.append(Words(start, end, piece))
        start = end
    return out


def web_captions(scenes: Sequence[Placed]) -> str:
    """The captions of a film as a WebVTT file."""
    cues = [one for scene in scenes for one in captions_of(scene)]
    said = [f"{n}\n{_stamp(one.start)} --> {_stamp(one.end)}\n{_harmless(one.text)}\n"
            for n, one in enumerate(cues, start=1)]  # fmt: skip
    return "\n".join(["WEBVTT\n", *said])


def chapter_title(scene: Placed, number: int) -> str:
    """What a scene is called in the film's list of chapters."""
    said = scene.scene.title or scene.scene.caption.partition(".")[0] or f"Scene {number}"
    return plain(textwrap.shorten(said, 60, placeholder="…"))


def _stamp(seconds: float) -> str:
    whole = round(seconds * 1000)
    return f"{whole // 3_600_000:02d}:{whole // 60_000 % 60:02d}:{whole // 1000 % 60:02d}.{whole % 1000:03d}"


def _harmless(text: str) -> str:
    """Words, not markup: what a player would take for its own is said otherwise."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
