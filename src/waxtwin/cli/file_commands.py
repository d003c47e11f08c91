"""Files and libraries: converting, tracking, importing, listing, simulating."""

from __future__ import annotations

import json
import sys
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from waxtwin.cli.base import AsJson, answer, app, show_progress, with_progress
from waxtwin.cli.out import existing
from waxtwin.core.errors import WaxTwinError

if TYPE_CHECKING:
    from waxtwin.library.store import Library


@app.command()
def convert(source: Path, target: Path) -> None:
    """Convert a track between formats, by extension."""
    from waxtwin.formats.files import FormatError
    from waxtwin.formats.place import sidecar_path
    from waxtwin.formats.sidecar import read_sidecar, write_sidecar
    from waxtwin.formats.tracks import read_track, write_track

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
    out: Annotated[
        Path | None, typer.Option("-o", "--out", help="Track to write; its extension says the format.")
    ] = None,
    throws: Annotated[str, typer.Option(help="R or L; from the sidecar where there is one.")] = "",
    height: Annotated[float | None, typer.Option(min=0.9, max=2.5, help="Standing height, m.")] = None,
    size: Annotated[str, typer.Option(help="Landmark model: lite (quick), full or heavy (surest).")] = "heavy",
    capture_fps: Annotated[float | None, typer.Option(min=1, help="True frames a second, for slow motion.")] = None,
) -> None:
    """Landmarks from a clip: a track with its sidecar, scaled where the sidecar knows the camera."""
    from waxtwin.library.tracking import Wish, track_clip

    wish = Wish(view or None, throws or None, height, size, capture_fps)
    target = out or clip.with_suffix(".csv")
    with_progress(clip.name, track_clip(clip, wish, target, partial(print, file=sys.stderr)))
    print(target)


@app.command("import")
def import_(
    sources: list[Path],
    library: Annotated[Path, typer.Option(help="Library folder; made when it is not there.")],
    link: Annotated[bool, typer.Option("--link", help="Leave clips where they are.")] = False,
    as_json: AsJson = False,
) -> None:
    """Bring tracks, clips, folders and bundles into a library."""
    from waxtwin.library.bundles import take
    from waxtwin.library.importing import Brought
    from waxtwin.library.store import Library

    opened = Library(library)
    found: list[Brought] = []
    try:
        for source in sources:
            found += with_progress(source.name, take(opened, source, link=link))
    finally:
        opened.close()
    answer(as_json, lambda: {
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
    restore: Annotated[str, typer.Option(help="Put a backup in its place first: its name, or latest.")] = "",
    as_json: AsJson = False,
) -> None:
    """List the throws of a library."""
    from waxtwin.library.catalogue import document, entries, matching

    opened = _restored(folder, restore) if restore else existing(folder)
    try:
        with opened.reading() as session:
            found = matching(entries(session), search)
    finally:
        opened.close()
    answer(as_json, lambda: document(found), lambda: [
        f"{e.id:5d}  {e.name:28s} {e.recorded or '–':10s}  {e.title:28s} {'ready' if e.ready else 'to be prepared'}"
        for e in found
    ])  # fmt: skip


def _restored(folder: Path, name: str) -> Library:
    from waxtwin.library.local import backups_in
    from waxtwin.library.store import Library

    there = {path.name: path for path in backups_in(folder)}
    chosen = next(iter(there.values()), None) if name == "latest" else there.get(name)
    if chosen is None:
        held = ", ".join(there) or "none"
        raise WaxTwinError(f"{name}: there is no backup of this name in {folder.name}; there are {held}")
    return Library(folder, backup=chosen)


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
            progress=show_progress,
        ))  # fmt: skip


def _read_params(path: Path) -> dict[str, Any]:
    from waxtwin.formats.files import FormatError, read_text

    try:
        values = json.loads(read_text(path))
    except ValueError as fault:
        raise fault if isinstance(fault, FormatError) else FormatError(path, "it is not valid JSON") from None
    if not isinstance(values, dict):
        raise FormatError(path, "it must be one object of parameters")
    return values
