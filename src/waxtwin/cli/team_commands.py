"""One library for several people: made, looked at, joined, copied."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from waxtwin.cli.base import AsJson, answer, app, with_progress
from waxtwin.core.errors import WaxTwinError

team = typer.Typer(help="One library for several people, on a PostgreSQL server.", no_args_is_help=True)
app.add_typer(team, name="team")

Clips = Annotated[Path | None, typer.Option(help="The folder with the clips as it is mounted here.")]
_SIGNS = {True: "good", False: "FAULT", None: "note"}


@team.command()
def create(
    address: Annotated[str, typer.Argument(help="postgresql://HOST/DATABASE; the database is there and empty.")],
    clips: Annotated[Path, typer.Option(help="A folder that every machine reaches.")],
) -> None:
    """Make a library on a server, with its roles, or bring one up to date."""
    from waxtwin.library.team.address import Address
    from waxtwin.library.team.making import create as made

    print(made(Address.of(address), clips))


@team.command()
def check(
    address: str,
    clips: Clips = None,
    sweep: Annotated[bool, typer.Option("--sweep", help="Delete copies of clips that nothing names.")] = False,
    as_json: AsJson = False,
) -> None:
    """Say what is missing, in plain words."""
    from waxtwin.library.team import checking
    from waxtwin.library.team.address import Address

    where = Address.of(address)
    found = checking.check(where, clips)
    bad = any(point.good is False for point in found)
    if sweep and not bad:
        found.append(checking.Point(None, f"Clips that nothing names: {checking.sweep(where, clips)} deleted."))
    answer(as_json, lambda: {"points": [{"good": point.good, "says": point.says} for point in found]},
           lambda: [f"{_SIGNS[point.good]:6s}{point.says}" for point in found])  # fmt: skip
    if bad:
        raise WaxTwinError(f"{where}: it does not work from here yet; see above")


@team.command()
def join(address: str, clips: Clips = None) -> None:
    """Open a team's library in the desktop, now and at every start."""
    from waxtwin.cli.desktop import open_desktop
    from waxtwin.library.team.address import Address
    from waxtwin.library.team.database import TeamDatabase

    TeamDatabase(Address.of(address), clips).close()  # what is wrong is said before a window opens
    open_desktop(team=(address, clips))


@team.command()
def copy(
    source: Annotated[str, typer.Argument(help="A library's folder, or a team's address.")],
    target: Annotated[str, typer.Argument(help="A team's address, or a new folder.")],
    clips: Clips = None,
) -> None:
    """Copy a whole library to a team's server or back; the same again goes on where it was cut off."""
    from waxtwin.library.team.address import Address
    from waxtwin.library.team.copying import to_folder, to_team

    if "://" in source and "://" not in target:
        print(with_progress("copying", to_folder(Address.of(source), Path(target), clips)))
    elif "://" in target and "://" not in source:
        if not (Path(source) / "library.sqlite").is_file():
            raise WaxTwinError(f"{source}: there is no library in this folder")
        print(with_progress("copying", to_team(Path(source), Address.of(target), clips)))
    else:
        raise WaxTwinError("a library is copied from a folder to a team's address, or from there to a folder")


@app.command()
def worker(
    address: str,
    clips: Clips = None,
    name: Annotated[str, typer.Option(help="What this worker is called in the list of work.")] = "",
    processes: Annotated[int, typer.Option(min=1, max=64, help="Processes for one clip; or start more workers.")] = 1,
    once: Annotated[bool, typer.Option("--once", help="Stop when nothing waits any more.")] = False,
) -> None:
    """Take a team's long work, piece by piece, until stopped with Ctrl+C."""
    from platform import node

    from waxtwin.library.team.address import Address
    from waxtwin.library.team.work import work
    from waxtwin.ui.rooms.talk.film_kind import register

    register()
    work(Address.of(address), clips, name or node() or "worker", wait=not once, processes=processes)
