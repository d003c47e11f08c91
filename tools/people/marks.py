"""What the landmark model finds in a clip of the cast, looked up where it was found before."""

from __future__ import annotations

from pathlib import Path

from waxtwin.capture.clip import ClipReader
from waxtwin.capture.pitcher import SUREST, find_pitcher
from waxtwin.core.marks import Marks
from waxtwin.core.placing import ClipClock
from waxtwin.core.steps import finish


def marks_in(clip: Path, throws: str, model: str = SUREST) -> tuple[Marks, tuple[int, int]]:
    """The mended marks of the pitcher, as the program finds them, and the picture's size."""
    with ClipReader(clip) as reader:
        times, size = reader.times, reader.size
    return finish(find_pitcher(clip, times, size, throws, ClipClock(), model=model)), size
