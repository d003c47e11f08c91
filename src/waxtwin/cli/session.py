"""A live session without a screen, and the stand-ins for its devices."""

from __future__ import annotations

import sys
import time
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from waxtwin.cli.base import AsJson, answer, app, with_progress
from waxtwin.cli.out import athlete_of, existing
from waxtwin.core.errors import WaxTwinError

if TYPE_CHECKING:
    from waxtwin.library.live_session import LiveSession

_LOOK = 0.2  # s between looks at the devices


@app.command("stand-ins")
def stand_ins(
    folder: Annotated[Path, typer.Option(help="Folder in which the clips land.")],
    throws: Annotated[int, typer.Option(min=1, max=200)] = 5,
    every: Annotated[float, typer.Option(min=3, help="Seconds from throw to throw.")] = 30.0,
    fps: Annotated[float, typer.Option(min=0, max=500, help="Frames a second of the cameras; 0 for none.")] = 120,
    preset: Annotated[str, typer.Option(help="wren, ines, pell or juno.")] = "wren",
    seed: int = 0,
    misread: Annotated[list[int] | None, typer.Option(help="Throws that the radar gun misreads.")] = None,
    unplugged: Annotated[list[int] | None, typer.Option(help="Throws in which the lead plate fails.")] = None,
    pty: Annotated[bool, typer.Option("--pty", help="The radar gun on a pseudo-terminal.")] = False,
) -> None:
    """Made-up devices: a radar gun, two force plates, a pair of cameras. Says where they are, then throws."""
    from waxtwin.simulate.presets import PRESETS
    from waxtwin.simulate.stand_ins import Routine, run

    if preset not in PRESETS:
        raise WaxTwinError(f"there is no preset named {preset}; there are {', '.join(PRESETS)}")
    usual = Routine()
    fail = (usual.misread if misread is None else tuple(misread),
            usual.unplugged if unplugged is None else tuple(unplugged))  # fmt: skip
    try:
        run(folder, Routine(preset, throws, every, fps, seed, *fail, pty))
    except OSError as fault:
        raise WaxTwinError(f"{folder}: the stand-ins cannot run there ({fault.strerror})") from None
    except KeyboardInterrupt:
        return


@app.command()
def session(
    library: Annotated[Path, typer.Option(help="Library folder.")],
    athlete: Annotated[str, typer.Option(help="Who throws, by name.")],
    throws: Annotated[int, typer.Option(min=1, max=500, help="End after so many throws.")] = 5,
    radar: Annotated[str, typer.Option(help="The radar gun's HOST:PORT or terminal.")] = "",
    plates: Annotated[str, typer.Option(help="The force plates' HOST:PORT or terminal.")] = "",
    watch: Annotated[Path | None, typer.Option(help="Folder in which clips land.")] = None,
    pitch: Annotated[str, typer.Option(help="What is thrown.")] = "fastball",
    model: Annotated[str, typer.Option(help="Landmark model: lite (quick), full or heavy (surest).")] = "lite",
    patience: Annotated[float, typer.Option(min=5, help="Seconds without any reading after which it ends.")] = 180.0,
    as_json: AsJson = False,
) -> None:
    """Log throws as they happen: speeds, forces, clips; then find the landmarks of every clip."""
    from waxtwin.library.live_session import LiveSession

    if not (radar or plates or watch):
        raise WaxTwinError("name at least one device: --radar, --plates or --watch; “stand-ins” has made-up ones")
    if watch is not None and not watch.is_dir():
        raise WaxTwinError(f"{watch}: there is no such folder")
    opened = existing(library)
    live: LiveSession | None = None
    try:
        live = LiveSession(opened, athlete_of(opened, athlete), {"radar": radar, "plates": plates}, watch, pitch)
        _log(live, throws, patience)
        with_progress("landmarks", live.prepare(model, partial(print, file=sys.stderr)))
        document = live.document()
        answer(as_json, lambda: document, lambda: live.lines())
    finally:
        if live is not None:
            live.close()
        opened.close()


def _log(live: LiveSession, throws: int, patience: float) -> None:
    """Look at the devices until enough throws are complete, or nothing comes any more."""
    heard = time.monotonic()
    try:
        while True:
            if live.look():
                heard = time.monotonic()
            live.take_pending()
            done = [throw for throw in live.throws if live.complete(throw)]
            if len(done) >= throws:
                return
            if time.monotonic() - heard > patience:
                print(f"Nothing came for {patience:.0f} s, so the session ends.", file=sys.stderr)
                return
            time.sleep(_LOOK)
    except KeyboardInterrupt:
        print("Stopped; what was logged is kept.", file=sys.stderr)
