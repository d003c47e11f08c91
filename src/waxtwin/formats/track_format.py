"""What a track format is: one record in its own module, from which readers, menus and texts derive."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from waxtwin.core.track import Track
from waxtwin.formats.files import read_text, write_text


class FaultyFileError(ValueError):
    """What is wrong with a file, as a part of a sentence; whoever knows the file's name makes a sentence of it."""


@dataclass(frozen=True, slots=True)
class RawTrack:
    """Columns as a file has them: `points` {name: (frames, 3) m}, `confidence` {name: (frames,)}, true field frame."""

    times: np.ndarray
    points: Mapping[str, np.ndarray]
    confidence: Mapping[str, np.ndarray]
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Format:
    """A track format: its extension, its name, how to read and write it.

    `load` and `save` raise FaultyFileError with a plain fault; `lab` says that its markers may be of any set, along any
    axes.
    """

    suffix: str
    name: str
    load: Callable[[Path], RawTrack]
    save: Callable[[Track, Path], None]
    lab: bool = False


def text_format(
    suffix: str, name: str, read: Callable[[str], RawTrack], write: Callable[[Track], str], *, lab: bool = False
) -> Format:
    """A format that is plain text: `read` and `write` know nothing of files."""
    return Format(
        suffix, name, lambda path: read(read_text(path)), lambda track, path: write_text(path, write(track)), lab
    )
