"""The talk-through without the desktop: drafting one, and the film of it."""

from __future__ import annotations

import os
import sys
from datetime import date
from pathlib import Path
from typing import Annotated

import typer

from waxtwin.cli.base import School, SchoolLanding, app, explained, load, pairs_of, with_progress
from waxtwin.core.errors import WaxTwinError


@app.command()
def talk(
    athlete: Path,
    twin: Path,
    out: Annotated[Path, typer.Option("-o", "--out", help="NAME.talk.json")],
    draft: Annotated[
        bool, typer.Option("--draft", help="Scenes from what the pair shows; without it the delivery alone.")
    ] = False,
    landing: SchoolLanding = None,
    school: School = "common",
    name: Annotated[str, typer.Option(help="What the athlete is called in it instead of the own name.")] = "",
    twin_name: Annotated[str, typer.Option(help="What the twin is called in it.")] = "",
    backwards: Annotated[bool, typer.Option("--backwards", help="Once more backwards at the end.")] = False,
    imperial: Annotated[bool, typer.Option("--imperial", help="Feet, inches and miles an hour.")] = False,
) -> None:
    """A talk-through of a pair as scenes, to be edited and filmed."""
    from waxtwin.formats.talk import write_talk
    from waxtwin.library.plans import catalogue
    from waxtwin.report.document import compose
    from waxtwin.report.parts import Material, Wish
    from waxtwin.talk.draft import draft as drafted

    sets, pairs, found = explained(athlete, [twin], landing, school)
    parts = Wish().parts if draft else frozenset[str]()
    wish = Wish(parts, athlete=name, twin=twin_name, imperial=imperial)
    made = compose(Material(pairs[0], found, tasks=catalogue(None)), wish, date.today())
    footage = all(sets[path][0].clips for path in (athlete, twin))
    here = out.absolute().parent
    throws = {side: os.path.relpath(path.absolute(), here) for side, path in (("athlete", athlete), ("twin", twin))}
    written = drafted(made, pairs[0], footage=footage, backwards=backwards).but(throws=throws)
    write_talk(written, out)
    print(out)


@app.command()
def film(
    source: Annotated[Path, typer.Argument(help="NAME.talk.json; its takes lie beside it.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="OUT.mp4")],
    shape: Annotated[str, typer.Option(help="720, 1080 or phone.")] = "720",
    fps: Annotated[int, typer.Option(help="30 or 60 pictures a second.")] = 30,
    burned: Annotated[bool, typer.Option("--burned/--no-burned", help="Captions in the picture.")] = True,
    figures: Annotated[bool, typer.Option("--figures", help="The wax figures alone, no footage.")] = False,
) -> None:
    """The film of a talk-through, with its captions beside it."""
    from waxtwin.formats.files import FormatError
    from waxtwin.formats.talk import read_talk
    from waxtwin.talk.sound import lost_takes

    read = read_talk(source)
    if set(read.throws) != {"athlete", "twin"}:
        raise FormatError(source, "it does not say which throws it is about; a talk of a library is filmed there")
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from waxtwin.ui.rooms.talk.film_frame import SHAPES
    from waxtwin.ui.rooms.talk.film_making import RATES, FilmWish, make_film
    from waxtwin.ui.rooms.talk.film_stages import FilmPair
    from waxtwin.ui.shared import theme
    from waxtwin.ui.shared.application import application

    if shape not in SHAPES or fps not in RATES:
        raise WaxTwinError(f"films are {', '.join(SHAPES)}, with {' or '.join(map(str, RATES))} pictures a second")
    athlete, twin = (source.parent / read.throws[side] for side in ("athlete", "twin"))
    sets = load(athlete, twin)
    pair = FilmPair(
        {"athlete": sets[athlete][0], "twin": sets[twin][0]}, pairs_of(athlete, [twin], sets, read.landing)[0],
        imperial=read.imperial, figures=figures,
    )  # fmt: skip
    application()
    theme.apply("dark")
    for file in lost_takes(read, source.parent):
        print(f"{file}: this take is not there any more, so its scenes have no voice", file=sys.stderr)
    with_progress(out.name, make_film(read, pair, source.parent, out, FilmWish(shape, fps, burned)))
    print(out)
