"""A film as work that a team's worker can take: it is made in the team's folder, under the numbers of its throws."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict
from hashlib import sha256
from pathlib import Path
from typing import TYPE_CHECKING, Any

from waxtwin.core.steps import Steps, part
from waxtwin.library.faults import LibraryError
from waxtwin.library.layout import FILMS
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.rooms.talk.film_making import FilmWish

if TYPE_CHECKING:
    from waxtwin.formats.talk import Talk
    from waxtwin.library.store import Library

KIND = "film"


def register() -> None:
    """Let films be asked for, and made."""
    from waxtwin.library.jobs.kinds import KINDS, Kind

    KINDS.setdefault(KIND, Kind(KIND, "Make a film", _film))


def asked_for(
    throws: tuple[int, int], talk: int, names: tuple[str, str], wish: FilmWish, *, figures: bool, imperial: bool,
    theme: str,
) -> dict[str, Any]:  # fmt: skip
    """A film of a talk of two throws as plain values."""
    return {
        "throws": [*throws], "talk": talk, "names": [*names], "wish": asdict(wish), "figures": figures,
        "imperial": imperial, "theme": theme, "name": " beside ".join(names),
    }  # fmt: skip


def film_place(library: Library, asked: Mapping[str, Any]) -> Path:
    """Where it is made: the name begins with the throws that it shows, so that it goes when one of them is erased."""
    digest = sha256(json.dumps(dict(asked), sort_keys=True).encode()).hexdigest()[:8]
    throws = "-".join(map(str, asked["throws"]))
    return library.folder_for(FILMS) / f"{throws}-talk{asked['talk']}-{digest}.mp4"


def _film(library: Library, asked: Mapping[str, Any]) -> Steps[list[str]]:
    from waxtwin.core.analysis import resolve_all
    from waxtwin.core.contrast import analyse_alike, contrast
    from waxtwin.library.talks import voices_in
    from waxtwin.library.throws import fetch
    from waxtwin.ui.rooms.talk.film_job import film
    from waxtwin.ui.rooms.talk.film_stages import FilmPair
    from waxtwin.ui.rooms.talk.film_worker import FilmJob

    yield 0.0
    talk, place = _talk(library, asked), film_place(library, asked)
    stored = dict(zip(SIDES, (fetch(library, key) for key in asked["throws"]), strict=True))
    ours, theirs = resolve_all(analyse_alike([one.delivery for one in stored.values()], landing=talk.landing))
    pair = FilmPair(stored, contrast(ours, theirs), imperial=asked["imperial"], figures=asked["figures"])
    named = talk.but(athlete=asked["names"][0], twin=asked["names"][1])
    job = FilmJob(named, pair, voices_in(library), place, FilmWish(**asked["wish"]), asked["theme"])
    yield from part(film(job), 0.05, 1.0)
    beside = place.with_suffix(".vtt")
    try:
        _talk(library, asked)
    except LibraryError:  # erased meanwhile, and the film with it
        for file in (place, beside):
            file.unlink(missing_ok=True)
        raise
    for file in (place, beside):
        library.database.protect(file)
    return []


def _talk(library: Library, asked: Mapping[str, Any]) -> Talk:
    from waxtwin.library.talks import talks_of

    for one in talks_of(library, *asked["throws"]):
        if one.id == asked["talk"]:
            return one.talk
    raise LibraryError("this talk is not in the library any more")
