"""A talk as a film: its pictures, its voices evened, captions, chapters, and the captions in a file beside it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtGui import QImage

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.formats.files import write_text
from waxtwin.formats.talk import Talk
from waxtwin.report.film import Beside, Words, encode
from waxtwin.talk.captions import captions_of, chapter_title, web_captions
from waxtwin.talk.edits import under_names
from waxtwin.talk.sound import under, without_lost
from waxtwin.talk.timeline import Placed, placed
from waxtwin.ui.rooms.talk.film_frame import SHAPES, FilmFrames
from waxtwin.ui.rooms.talk.film_stages import FilmPair, FilmStages

RATES = (30, 60)


@dataclass(frozen=True)
class FilmWish:
    """The film that is wanted: a key of SHAPES, pictures a second, captions in the picture and as a track of it."""

    shape: str = "720"
    fps: int = 30
    burned: bool = True
    track: bool = True


def make_film(talk: Talk, pair: FilmPair, takes: Path, path: Path, wish: FilmWish) -> Steps[None]:
    """Write the film and its captions beside it, all under the names as shown; voices lie in the folder `takes`. Yields
    the share done.

    Needs the application, and its thread. Raises WaxTwinError, FormatError.
    """
    talk = under_names(talk, pair.own_names)
    scenes = placed(without_lost(talk, takes))
    if not scenes:
        raise WaxTwinError("There is nothing in this talk to be filmed.")
    stages = FilmStages(pair)
    try:
        frames = FilmFrames(talk, stages, SHAPES[wish.shape], burned=wish.burned)
        count = round(scenes[-1].end * wish.fps)
        said = [one for scene in scenes for one in captions_of(scene)]
        beside = Beside(
            wish.fps, under(scenes, takes), said if wish.track else (),
            [Words(one.start, one.end, chapter_title(one, n)) for n, one in enumerate(scenes, start=1)], talk.title,
        )  # fmt: skip
        yield from encode(path, _pictures(frames, scenes, count, wish.fps), count, frames.shape.pixels, beside)
    finally:
        stages.close()
    write_text(path.with_suffix(".vtt"), web_captions(scenes))


def _pictures(frames: FilmFrames, scenes: list[Placed], count: int, fps: int) -> Iterator[np.ndarray]:
    n, shown, picture = 0, 0, np.zeros(0)
    for scene in scenes:
        while n < count and (n / fps < scene.end - 1e-9 or scene is scenes[-1]):
            image = frames.at(scene, n / fps)
            if image.cacheKey() != shown:
                shown, picture = image.cacheKey(), pixels(image)
            yield picture
            n += 1


def pixels(image: QImage) -> np.ndarray:
    """A picture `(height, width, 4)`, blue-green-red-unused."""
    data = np.frombuffer(image.constBits(), np.uint8)
    return data.reshape(image.height(), image.bytesPerLine() // 4, 4)[:, : image.width()]
