"""A film made in a process of its own: `python -m waxtwin.ui.rooms.talk.film_worker` with the file of one job.

Shares done go to standard output, a line each; at the end “done”, or “fault” and the sentence.
"""

from __future__ import annotations

import os
import pickle
import sys
from dataclasses import dataclass
from pathlib import Path

from waxtwin.core.errors import WaxTwinError
from waxtwin.formats.talk import Talk
from waxtwin.ui.rooms.talk.film_making import FilmWish, make_film
from waxtwin.ui.rooms.talk.film_stages import FilmPair

DONE, FAULT = "done", "fault"


@dataclass(frozen=True)
class FilmJob:
    """Everything that a film is made of, and where it goes."""

    talk: Talk
    pair: FilmPair
    takes: Path
    path: Path
    wish: FilmWish
    theme: str = "dark"


def main() -> None:
    """Make the film of a job."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from waxtwin.core.measures.house import register
    from waxtwin.library.house import own_house
    from waxtwin.ui.shared import theme
    from waxtwin.ui.shared.application import application

    register(own_house()[0])
    with Path(sys.argv[1]).open("rb") as file:
        job: FilmJob = pickle.load(file)
    application()
    theme.apply(job.theme)
    try:
        for share in make_film(job.talk, job.pair, job.takes, job.path, job.wish):
            print(f"{share:.4f}", flush=True)
    except WaxTwinError as fault:
        print(f"{FAULT} {fault}", flush=True)
    else:
        print(DONE, flush=True)


if __name__ == "__main__":
    main()
