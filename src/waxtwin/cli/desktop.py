"""Opening the desktop, and its pictures without one."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import Annotated

import typer

from waxtwin import __version__
from waxtwin.cli.base import app
from waxtwin.core.errors import WaxTwinError


@app.callback(invoke_without_command=True)
def _entry(
    context: typer.Context,
    version: Annotated[  # noqa: ARG001 - its callback answers it
        bool, typer.Option("--version", callback=_version, is_eager=True)
    ] = False,
) -> None:
    """Wax Twin: hold a delivery against its twin. Without a command the desktop opens."""
    if context.invoked_subcommand is None:
        open_desktop()


def _version(wanted: bool) -> None:
    if wanted:
        print(f"waxtwin {__version__}")
        raise typer.Exit()


@app.command()
def demo(
    pictures: Annotated[Path | None, typer.Option(help="Render every room to PNG files in this folder.")] = None,
) -> None:
    """Open the desktop with the demo library."""
    if pictures is not None:
        _pictures(pictures)
    elif has_display():
        open_desktop(demo=True)
    else:
        raise WaxTwinError("there is no display; use “waxtwin demo --pictures DIR” to render the rooms to pictures")


@app.command("open")
def open_(bundle: Annotated[Path | None, typer.Argument(help="A bundle to take in.")] = None) -> None:
    """Open the desktop, with a bundle if one is named."""
    open_desktop(bundle=bundle)


def has_display() -> bool:
    """Whether a window can be opened."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM"))


def open_desktop(
    *, demo: bool = False, bundle: Path | None = None, team: tuple[str, Path | None] | None = None
) -> None:
    """Open the window; never comes back. Raises WaxTwinError where there is no display."""
    if not has_display():
        raise WaxTwinError("there is no display to open the desktop on")
    from waxtwin.ui.shell.start import run

    sys.exit(run(None, demo=demo, bundle=bundle, team=team))


def _pictures(folder: Path) -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from waxtwin.ui.shell.pictures import render_rooms

    for path in render_rooms(folder):
        print(path)
