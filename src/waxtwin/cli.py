"""The command line: everything the screens compute, without a screen."""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Callable
from enum import StrEnum
from pathlib import Path
from typing import Annotated, Any

import typer
from typer.exceptions import TyperException

from waxtwin import __version__
from waxtwin.core.errors import WaxTwinError

app = typer.Typer(add_completion=False, pretty_exceptions_enable=False, rich_markup_mode=None)

AsJson = Annotated[bool, typer.Option("--json", help="Print one JSON document.")]


class _Landing(StrEnum):
    touch = "touch"
    plant = "plant"


Twins = Annotated[list[Path], typer.Argument(help="One to three twins.")]
_MOST_TWINS = 3
Landing = Annotated[_Landing, typer.Option(help="Which stop counts as landing.")]


def main() -> None:
    """Run the program; an expected fault is one sentence and exit code 2."""
    try:
        app(standalone_mode=False)
    except WaxTwinError as fault:
        _fail(str(fault))
    except typer.Exit as done:
        sys.exit(done.exit_code)
    except typer.Abort:
        _fail("stopped")
    except TyperException as fault:
        _fail(f"{fault.format_message()} See “waxtwin --help”.")
    except BrokenPipeError:
        sys.stderr.close()
        sys.exit(0)


def _fail(sentence: str) -> None:
    print(" ".join(sentence.split()), file=sys.stderr)
    sys.exit(2)


def _version(wanted: bool) -> None:
    if wanted:
        print(f"waxtwin {__version__}")
        raise typer.Exit()


@app.callback(invoke_without_command=True)
def _entry(
    context: typer.Context,
    version: Annotated[bool, typer.Option("--version", callback=_version, is_eager=True)] = False,
) -> None:
    """Wax Twin: hold a delivery against its twin. Without a command the desktop opens."""
    if context.invoked_subcommand is None:
        _desktop()


@app.command()
def demo(
    pictures: Annotated[Path | None, typer.Option(help="Render every room to PNG files in this folder.")] = None,
) -> None:
    """Open the desktop with the demo library."""
    if pictures is not None:
        _pictures(pictures)
    elif _has_display():
        _desktop(demo=True)
    else:
        raise WaxTwinError("there is no display; use “waxtwin demo --pictures DIR” to render the rooms to pictures")


@app.command()
def events(file: Path, as_json: AsJson = False) -> None:
    """Events of one delivery."""
    from waxtwin.core.events import EVENTS
    from waxtwin.formats.answers import events_document

    if file.is_dir():
        raise WaxTwinError(f"{file.name}: this is a folder; the events of one throw are asked for")
    [analysis] = _analyses(_load(file), "touch")[file]
    _answer(as_json, lambda: events_document(str(file), analysis), lambda: [
        *(f"{EVENTS[e.id].label:26s} {e.time:8.4f} s  ± {e.interval:4.1f} ms  {e.source}, {e.confidence:.2f}"
          for e in analysis.events.values()),
        *analysis.warnings,
    ])  # fmt: skip


@app.command()
def measure(file: Path, landing: Landing = _Landing.touch, as_json: AsJson = False) -> None:
    """Every measure of one delivery, or of a folder of throws of one athlete as a set."""
    from waxtwin.core.measures import MEASURES
    from waxtwin.formats.answers import measure_document

    throws = _resolved_sets(_load(file), landing)[file]
    values, shown = throws.values(), throws.throws[throws.typical]

    def lines() -> list[str]:
        out = [_told_set(throws)] if len(throws.throws) > 1 else []
        for item in MEASURES.values():
            value = values[item.id]
            if value.value is None:
                out.append(f"{item.label:38s} not available: {value.reason}")
            else:
                spread = "" if value.sd is None else f"± {2 * value.sd:.1f}"
                out.append(f"{item.label:38s} {value.value:9.1f} {item.unit:6s} {spread}")
        order = shown.measures["sequence_order"].order
        return [*out, *([f"Order of the turns: {', '.join(map(str, order))}"] if order else []), *shown.warnings]

    _answer(as_json, lambda: measure_document(str(file), throws), lines)


def _told_set(throws: Any) -> str:
    """A set of throws in one line."""
    odd = "" if throws.odd is None else f"; the odd one out is throw {throws.odd + 1}"
    return f"Means of {len(throws.throws)} throws; the typical one is throw {throws.typical + 1}{odd}."


@app.command()
def contrast(athlete: Path, twins: Twins, landing: Landing = _Landing.touch, as_json: AsJson = False) -> None:
    """Athlete against twin, or up to three: differences, resolution, verdicts. A folder is a set of one's throws."""
    from waxtwin.core.footing import footing
    from waxtwin.core.several import among
    from waxtwin.formats.answers import contrast_document
    from waxtwin.formats.told import contrast_line

    pairs = _pairs(athlete, twins, _load(athlete, *twins), landing)
    pair = pairs[0]
    several = among(pairs) if len(pairs) > 1 else {}

    def lines() -> list[str]:
        stands = footing(pair)
        told = [f"{who}: {_told_set(s)}" for who, s in zip(("Athlete", "Twin"), pair.sets or (), strict=False)]
        return [*told, *(contrast_line(row, several.get(row.measure.id)) for row in pair.rows), stands.sentence,
                *stands.limits]  # fmt: skip

    _answer(as_json, lambda: contrast_document([str(athlete), *map(str, twins)], pairs), lines)


@app.command()
def explain(
    athlete: Path,
    twins: Twins,
    landing: Annotated[_Landing | None, typer.Option(help="Which stop counts as landing; the school's if not said.")
                       ] = None,
    school: Annotated[str, typer.Option(help="common, drive, centre, coil, flow, or a house school.")] = "common",
    as_json: AsJson = False,
) -> None:  # fmt: skip
    """Where the gap in ball speed to the first twin comes from, and what to look at first."""
    from waxtwin.core.explain import explain as explained
    from waxtwin.core.several import supported
    from waxtwin.formats.answers import explain_document
    from waxtwin.formats.told import explain_lines
    from waxtwin.library.judging import perspective_of
    from waxtwin.library.playbook import load_schools

    schools, faults = load_schools()
    chosen = next((one for one in schools if one.id == school), None)
    if chosen is None:
        raise WaxTwinError(f"there is no school named {school}; there are {', '.join(one.id for one in schools)}")
    for fault in faults:
        print(fault, file=sys.stderr)
    sets = _load(athlete, *twins)
    pairs = _pairs(athlete, twins, sets, landing or chosen.landing)
    # the common ground is what all schools hold; the others are asked for their stance
    found = explained(pairs[0], perspective_of(sets[athlete][0], chosen, schools[1:]))
    support = supported(pairs, found.perspective) if len(pairs) > 1 else None
    _answer(
        as_json, lambda: explain_document((str(athlete), str(twins[0])), found, support, len(pairs)),
        lambda: explain_lines(found, support, len(pairs)),
    )  # fmt: skip


@app.command()
def twins(
    athlete: Path,
    library: Annotated[Path, typer.Option(help="Library folder or folder of throws to choose from.")],
    bigger: Annotated[bool, typer.Option("--bigger", help="Only pitchers taller than the athlete.")] = False,
    same_build: Annotated[bool, typer.Option("--same-build", help="Only pitchers of the athlete's build.")] = False,
    weight: Annotated[list[str] | None, typer.Option(help="CRITERION=NUMBER, such as slot=3.")] = None,
    count: Annotated[int, typer.Option(min=1, max=200)] = 10,
    as_json: AsJson = False,
) -> None:
    """The best twins for an athlete's throw, with reasons."""
    from waxtwin.core.twins import CRITERIA, Wish, rank
    from waxtwin.formats.answers import twins_document
    from waxtwin.library.profiles import collected, profile_of_file

    wish = Wish(_weights(weight or []), bigger, same_build)
    mine = profile_of_file(athlete)
    found = []
    for step in collected(library, mine):
        if isinstance(step, float):
            _show_progress(library.name, step)
        else:
            found = rank(mine, step, wish, count)
    _answer(as_json, lambda: twins_document(str(athlete), found), lambda: [
        line for one in found for line in (
            f"{one.score:5.0%}  {one.profile.name}{'  (own)' if one.own else ''}: {', '.join(one.reasons)}",
            "       " + ", ".join(f"{CRITERIA[name].lower()} {close:.0%}" for name, close in one.closeness.items()),
            *(f"       {words}" for words in one.warnings),
        )
    ])  # fmt: skip


def _weights(said: list[str]) -> dict[str, float]:
    """Weights by criterion, the usual ones where nothing is said."""
    from waxtwin.core.twins import CRITERIA, WEIGHTS

    weights = dict(WEIGHTS)
    for one in said:
        name, _, number = one.partition("=")
        if name not in CRITERIA:
            raise WaxTwinError(f"there is no criterion named {name}; there are {', '.join(CRITERIA)}")
        try:
            weights[name] = float(number)
        except ValueError:
            raise WaxTwinError(f"{one}: say CRITERION=NUMBER, such as slot=3") from None
    return weights


@app.command()
def convert(source: Path, target: Path) -> None:
    """Convert a track between formats, by extension."""
    from waxtwin.formats import FormatError, read_track, write_track
    from waxtwin.formats.place import sidecar_path
    from waxtwin.formats.sidecar import read_sidecar, write_sidecar

    if source.resolve() == target.resolve():
        raise FormatError(source, "source and target are the same file")
    beside = sidecar_path(source)
    sidecar = read_sidecar(beside) if beside.is_file() else None
    throws, setup = (sidecar.athlete.throws, sidecar.lab_setup()) if sidecar else ("R", None)
    track, notes = read_track(source, throws, setup)
    write_track(track, target)
    if sidecar is not None and not sidecar_path(target).exists():
        write_sidecar(sidecar, sidecar_path(target))
    for note in notes:
        print(note, file=sys.stderr)


@app.command()
def track(
    clip: Path,
    view: Annotated[str, typer.Option(help="open side, closed side, front or rear; found by itself if not said.")] = "",
    out: Annotated[Path | None, typer.Option("-o", "--out", help="Track to write (.csv, .trc, .c3d, .json).")] = None,
    throws: Annotated[str, typer.Option(help="R or L; from the sidecar where there is one.")] = "",
    height: Annotated[float | None, typer.Option(min=0.9, max=2.5, help="Standing height, m.")] = None,
    size: Annotated[str, typer.Option(help="Landmark model: lite (quick), full or heavy (surest).")] = "heavy",
    capture_fps: Annotated[float | None, typer.Option(min=1, help="True frames a second, for slow motion.")] = None,
) -> None:
    """Landmarks from a clip: a track with its sidecar, scaled where the sidecar knows the camera."""
    from waxtwin.library.tracking import Wish, track_clip

    wish = Wish(view or None, throws or None, height, size, capture_fps)
    target = out or clip.with_suffix(".csv")
    for step in track_clip(clip, wish, target):
        if isinstance(step, float):
            _show_progress(clip.name, step)
        else:
            print(step, file=sys.stderr)
    print(target)


@app.command("import")
def import_(
    sources: list[Path],
    library: Annotated[Path, typer.Option(help="Library folder; made when it is not there.")],
    link: Annotated[bool, typer.Option("--link", help="Leave clips where they are.")] = False,
    as_json: AsJson = False,
) -> None:
    """Bring tracks, clips and folders into a library."""
    from waxtwin.library.bringing import Brought, bring
    from waxtwin.library.store import Library

    opened = Library(library)
    found: list[Brought] = []
    try:
        for source in sources:
            for step in bring(opened, source, link=link):
                if isinstance(step, float):
                    _show_progress(source.name, step)
                else:
                    found.append(step)
    finally:
        opened.close()
    _answer(as_json, lambda: {
        "library": str(library),
        "files": [{"file": str(b.file), "id": b.key, "known": b.known, "fault": b.fault} for b in found],
    }, lambda: [
        b.fault or f"{b.file.name}: {'known already' if b.known else 'brought in'} as {b.key}" for b in found
    ])  # fmt: skip
    if found and all(b.fault for b in found):
        raise WaxTwinError("nothing could be brought in")


@app.command("library")
def library_(
    folder: Path,
    search: Annotated[str, typer.Option(help="Words to find.")] = "",
    as_json: AsJson = False,
) -> None:
    """List the throws of a library."""
    from waxtwin.library.catalogue import document, entries, matching
    from waxtwin.library.store import DATABASE, Library

    if not (folder / DATABASE).is_file():
        raise WaxTwinError(f"{folder}: there is no library in this folder")
    opened = Library(folder)
    try:
        with opened.reading() as session:
            found = matching(entries(session), search)
    finally:
        opened.close()
    _answer(as_json, lambda: document(found), lambda: [
        f"{e.id:5d}  {e.name:28s} {e.recorded or '–':10s}  {e.title:28s} {'ready' if e.ready else 'to be prepared'}"
        for e in found
    ])  # fmt: skip


@app.command()
def simulate(
    out: Annotated[Path, typer.Option("-o", "--out", help="Folder to write to.")],
    preset: Annotated[str, typer.Option(help="wren, ines, pell or juno.")] = "wren",
    params: Annotated[Path | None, typer.Option(help="JSON file of parameters laid over the preset.")] = None,
    name: Annotated[str | None, typer.Option(help="File name of the track.")] = None,
    fps: Annotated[float, typer.Option(min=20, max=2000)] = 240.0,
    noise: Annotated[float, typer.Option(min=0, max=0.1, help="Landmark noise, m.")] = 0.0,
    gaps: Annotated[int, typer.Option(min=0, max=1000, help="Gaps of 30 ms.")] = 0,
    seed: int = 0,
    throws: Annotated[int, typer.Option(min=1, max=50, help="Throws of one session, each a little other.")] = 1,
    clips: Annotated[str, typer.Option(help="Views to film: side, front, rear, with commas.")] = "",
) -> None:
    """A simulated delivery: track, sidecar, truth, and clips on request."""
    from waxtwin.library.simulated import Recording, write_simulated
    from waxtwin.simulate.params import ParameterError, params_from
    from waxtwin.simulate.presets import PRESETS
    from waxtwin.simulate.scatter import session_of

    if preset not in PRESETS:
        raise WaxTwinError(f"there is no preset named {preset}; there are {', '.join(PRESETS)}")
    views = [v for v in clips.split(",") if v]
    if unknown := set(views) - {"side", "front", "rear"}:
        raise WaxTwinError(f"there is no view named {sorted(unknown)[0]}; there are side, front and rear")
    chosen = PRESETS[preset]
    values = _read_params(params) if params else {}
    try:
        movement = params_from(values, chosen.params)
    except ParameterError as fault:
        raise WaxTwinError(f"{params.name if params else preset}: {fault}") from None
    athlete = chosen.athlete() | {"height_m": movement.height, "mass_kg": movement.mass, "throws": movement.throws}
    stem = name or chosen.name.lower().replace(" ", "-")
    for n, throw in enumerate(session_of(movement, throws, seed)):
        print(write_simulated(
            out, stem if n == 0 else f"{stem}-{n + 1}", throw, athlete,
            recording=Recording(fps, noise, gaps, seed + n), views=views, kit=chosen.kit, notes=chosen.notes,
            progress=_show_progress,
        ))  # fmt: skip


def _read_params(path: Path) -> dict[str, Any]:
    from waxtwin.formats.registry import FormatError, read_text

    try:
        values = json.loads(read_text(path))
    except ValueError as fault:
        raise fault if isinstance(fault, FormatError) else FormatError(path, "it is not valid JSON") from None
    if not isinstance(values, dict):
        raise FormatError(path, "it must be one object of parameters")
    return values


def _show_progress(what: str, share: float) -> None:
    if sys.stderr.isatty():
        print(f"\r{what} {share:4.0%}", end="" if share < 1 else "\n", file=sys.stderr, flush=True)


def _load(*paths: Path) -> dict[Path, Any]:
    """The throws of each path, file or folder."""
    from waxtwin.library.throw_sets import load_set

    return {path: load_set(path) for path in paths}


def _analyses(sets: dict[Path, Any], landing: str) -> dict[Path, list[Any]]:
    """Per path its throws, all of them analysed with one smoothing."""
    from waxtwin.core.contrast import analyse_alike
    from waxtwin.core.errors import TrackError

    sides = {path: [stored.delivery for stored in throws] for path, throws in sets.items()}
    try:
        found = iter(analyse_alike([delivery for side in sides.values() for delivery in side], landing=landing))
    except TrackError as fault:
        raise WaxTwinError(f"{' or '.join(path.name for path in sets)}: {fault}") from None
    return {path: [next(found) for _ in side] for path, side in sides.items()}


def _resolved_sets(sets: dict[Path, Any], landing: str) -> dict[Path, Any]:
    """Per path a set of resolved throws."""
    from waxtwin.core.analysis import resolve_all
    from waxtwin.core.sets import ThrowSet

    return {path: ThrowSet(tuple(resolve_all(side))) for path, side in _analyses(sets, landing).items()}


def _pairs(athlete: Path, twins: list[Path], sets: dict[Path, Any], landing: str) -> list[Any]:
    """The athlete against each twin, all with one smoothing."""
    from waxtwin.core.contrast import contrast_sets
    from waxtwin.library.bands import bands_of, current_book

    if len(twins) > _MOST_TWINS:
        raise WaxTwinError(f"at most {_MOST_TWINS} twins can be held beside one athlete")
    found, bands = _resolved_sets(sets, landing), bands_of(current_book())
    return [contrast_sets(found[athlete], found[twin], bands) for twin in twins]


def _answer(as_json: bool, document: Callable[[], dict], lines: Callable[[], list[str]]) -> None:
    if as_json:
        print(json.dumps(document(), ensure_ascii=False, allow_nan=False))
    else:
        print("\n".join(lines()))


def _has_display() -> bool:
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM"))


def _desktop(*, demo: bool = False) -> None:
    if not _has_display():
        raise WaxTwinError("there is no display to open the desktop on")
    from waxtwin.ui.app import run

    sys.exit(run(None, demo=demo))


def _pictures(folder: Path) -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from waxtwin.ui.pictures import render_rooms

    for path in render_rooms(folder):
        print(path)
