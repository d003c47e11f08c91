"""What is sent out: reports, clips, data, bundles."""

from __future__ import annotations

import os
import sys
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from waxtwin.cli.base import School, SchoolLanding, analyses, app, explained, load, pairs_of, with_progress
from waxtwin.core.errors import WaxTwinError

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from waxtwin.library.store import Library
    from waxtwin.library.stored import Clip
    from waxtwin.report.parts import Report

_NO_CLIP = "The footage does not show the clip's gauge on both sides, so the clip shows the figures."
Out = Annotated[Path, typer.Option("-o", "--out", help="File or folder to write.")]


@app.command()
def report(
    athlete: Path,
    twin: Path,
    out: Annotated[Path, typer.Option("-o", "--out", help="OUT.html, OUT.pdf, or OUT.mp4 for the clip.")],
    landing: SchoolLanding = None,
    school: School = "common",
    name: Annotated[str, typer.Option(help="What the athlete is called in it instead of the own name.")] = "",
    twin_name: Annotated[str, typer.Option(help="What the twin is called in it.")] = "",
    imperial: Annotated[bool, typer.Option("--imperial", help="Feet, inches and miles an hour.")] = False,
    stop: Annotated[list[str] | None, typer.Option(help="A stop to show a picture of; as often as wanted.")] = None,
    leave_out: Annotated[list[str] | None, typer.Option(help="A part to leave out; as often as wanted.")] = None,
    footage: Annotated[bool, typer.Option("--footage", help="Show the footage, not figures.")] = False,
    words: Annotated[list[str] | None, typer.Option("--say", help="KEY=TEXT: your own words.")] = None,
) -> None:
    """The report of a pair: what to do first, then the evidence, then method and cautions."""
    from waxtwin.core.stops import ORDER
    from waxtwin.library.plans import catalogue
    from waxtwin.report.document import compose
    from waxtwin.report.film import SUFFIXES
    from waxtwin.report.parts import PARTS, WORDS, Material, Wish

    _known(leave_out or [], PARTS, "part")
    _known(stop or [], ORDER, "stop")
    wording = dict(_split(one) for one in words or [])
    _known(list(wording), WORDS, "wording")
    if out.suffix.lower() not in (".html", ".pdf", *SUFFIXES):
        raise WaxTwinError(f"{out.name}: reports are written as .html, .pdf or {', '.join(SUFFIXES)}")
    sets, pairs, found = explained(athlete, [twin], landing, school)
    parts = frozenset(PARTS) - set(leave_out or [])
    wish = Wish(parts, tuple(stop) if stop else Wish().stops, name, twin_name, imperial, wording)
    made = compose(Material(pairs[0], found, tasks=catalogue(None)), wish, date.today())
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from waxtwin.library.chalk import chalk_of
    from waxtwin.ui.shared.application import application
    from waxtwin.ui.shared.export import write_clip, write_report
    from waxtwin.ui.shared.footage import footage_of
    from waxtwin.ui.shared.pair_images import PairImages

    application()
    throws = {"athlete": sets[athlete], "twin": sets[twin]} if footage else {}
    clips = footage_of({"athlete": pairs[0].athlete, "twin": pairs[0].twin}, throws)
    filmed = out.suffix.lower() in SUFFIXES
    for sentence in _figures_instead(made, clips, filmed) if footage else ():
        print(sentence, file=sys.stderr)
    chalk = {side: chalk_of(sets[path][0]) for side, path in (("athlete", athlete), ("twin", twin))
             if len(sets[path]) == 1}  # fmt: skip
    images = PairImages(pairs[0], (made.athlete, made.twin), imperial, clips, chalk)
    write = write_clip if filmed else write_report
    with_progress(out.name, write(made, images, out))
    print(out)


def _figures_instead(made: Report, clips: Mapping[str, Sequence[Clip]], filmed: bool) -> list[str]:
    """Where figures stand although footage was wanted, and why."""
    from waxtwin.ui.shared.export import lit_of
    from waxtwin.ui.shared.footage import clip_for, clips_for

    if filmed:
        return [] if clips_for(clips, lit_of(made)) else [_NO_CLIP]
    drawn = [said for side, said in (("athlete", made.athlete), ("twin", made.twin)) if not clip_for(clips[side], ())]
    return [f"There is no footage of the throw of {said} that is shown: it stays a figure." for said in drawn]


def _known(said: list[str], known: object, what: str) -> None:
    assert hasattr(known, "__iter__")
    names = list(known)
    for one in said:
        if one not in names:
            raise WaxTwinError(f"there is no {what} named {one}; there are {', '.join(names)}")


def _split(said: str) -> tuple[str, str]:
    key, equals, text = said.partition("=")
    if not equals:
        raise WaxTwinError(f"{said[:40]}: say KEY=TEXT, such as closing=“See you in March.”")
    return key, text


@app.command()
def export(
    athlete: Path,
    twin: Annotated[Path | None, typer.Argument(help="A twin to contrast with.")] = None,
    out: Out = Path(),
    what: Annotated[list[str] | None, typer.Option(help="measures, stops, curves or tracks; all if not said.")] = None,
    plots: Annotated[bool, typer.Option("--plots", help="The plots of the pair as SVG too.")] = False,
) -> None:
    """Measures, stops, curves and tracks as CSV, JSON, C3D and TRC, into a folder."""
    from waxtwin.report.data import KINDS, sides_of, write_data

    _known(what or [], KINDS, "kind")
    kinds = frozenset(what or KINDS)
    if twin is None:
        if plots:
            raise WaxTwinError("plots are of a pair; name a twin too")
        sides, pair = {athlete.stem: analyses(load(athlete), "touch")[athlete][0]}, None
    else:
        pair = pairs_of(athlete, [twin], load(athlete, twin), "touch")[0]
        sides = sides_of(pair)
    for path in with_progress(out.name, write_data(out, sides, pair, kinds)):
        print(path)
    if plots and pair is not None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from waxtwin.ui.shared.gallery import save_all

        for path in save_all(pair, out):
            print(path)


@app.command()
def bundle(
    sources: Annotated[
        list[Path] | None, typer.Argument(help="An athlete and a twin, where no library is named.")
    ] = None,
    out: Out = Path("bundle.waxtwin"),
    library: Annotated[Path | None, typer.Option(help="A library to take an athlete from.")] = None,
    athlete: Annotated[str, typer.Option(help="Whose throws, by name.")] = "",
) -> None:
    """One file to hand a pair, or everything of an athlete, to another analyst; “import” takes it in."""
    import tempfile

    from waxtwin.library.bundles import SUFFIX, bundle_athlete
    from waxtwin.library.store import Library

    if out.suffix != SUFFIX:
        raise WaxTwinError(f"{out.name}: bundles are written as {SUFFIX}")
    if library is not None:
        opened = existing(library)
        try:
            with_progress(out.name, bundle_athlete(opened, athlete_of(opened, athlete), out))
        finally:
            opened.close()
    else:
        if len(sources or []) != 2:
            raise WaxTwinError("name an athlete and a twin, or a library with --library and --athlete")
        with tempfile.TemporaryDirectory(prefix="waxtwin-") as made:
            opened = Library(Path(made) / "library")
            try:
                _bundle_files(opened, list(sources or []), out)
            finally:
                opened.close()
    print(out)


def _bundle_files(library: Library, sources: list[Path], out: Path) -> None:
    from waxtwin.library.bundles import bundle_pair
    from waxtwin.library.importing import bring_one
    from waxtwin.library.pairs import open_pair

    one, two = (bring_one(library, source).key for source in sources)
    assert one is not None and two is not None
    if one == two:
        raise WaxTwinError("athlete and twin are the same throw")
    with_progress(out.name, bundle_pair(library, open_pair(library, one, two).id, out))


def existing(folder: Path) -> Library:
    """The library in a folder, opened. Raises WaxTwinError where there is none."""
    from waxtwin.library.layout import DATABASE
    from waxtwin.library.local import backups_in
    from waxtwin.library.store import Library

    if not (folder / DATABASE).is_file() and not backups_in(folder):  # a lost database is told by what opens it
        raise WaxTwinError(f"{folder}: there is no library in this folder")
    return Library(folder)


def athlete_of(library: Library, name: str) -> int:
    """The athlete of a name in a library. Raises WaxTwinError."""
    from waxtwin.library.catalogue import entries

    with library.reading() as session:
        people = {entry.athlete_id: entry.name for entry in entries(session)}
    found = [key for key, known in people.items() if known.casefold() == name.strip().casefold()]
    if not found:
        names = ", ".join(sorted(set(people.values()))) or "nobody"
        raise WaxTwinError(f"there is nobody named “{name}” in this library; there is {names}")
    return found[0]
