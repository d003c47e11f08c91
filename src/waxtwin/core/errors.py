"""Faults that a user can mend, each worded as one plain sentence."""

from __future__ import annotations

from pathlib import PurePath

_MOST = 600  # characters of a sentence
_MOST_OF_A_NAME = 90


def plain(text: str) -> str:
    """Text fit to be shown in one line: what a file smuggled in (control characters, halves of characters) is a dot,
    and there is no more of it than anybody reads.
    """
    whole = text.encode("utf-8", "replace").decode("utf-8")
    said = "".join(c if c.isprintable() else " " if c.isspace() else "·" for c in whole[: 4 * _MOST])
    return said if len(said) <= _MOST else f"{said[: _MOST - 1]}…"


def shown_name(path: PurePath) -> str:
    """A file's name as it may be shown: its beginning and end where it is very long."""
    name = plain(path.name or str(path))
    return name if len(name) <= _MOST_OF_A_NAME else f"{name[:60]}…{name[-24:]}"


class WaxTwinError(ValueError):
    """Base of every expected fault; the text is fit to be shown as it is."""

    def __init__(self, sentence: object = "") -> None:
        super().__init__(plain(str(sentence)))


class TrackError(WaxTwinError):
    """The landmarks cannot be a delivery."""
