"""Starting the desktop: the frame is painted first, the rooms follow."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer

from waxtwin.ui.model.settings import Settings, load_settings
from waxtwin.ui.shared import theme
from waxtwin.ui.shared.application import application
from waxtwin.ui.shell.window import MainWindow

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App


def open_frame(settings: Settings) -> MainWindow:
    """A dressed frame without rooms, not yet shown."""
    application()
    theme.apply(settings.theme, settings.text)
    frame = MainWindow()
    theme.dress(frame)
    return frame


def furnish(frame: MainWindow, settings: Settings) -> App:
    """Put the rooms into a frame; this loads the rest of the program."""
    from waxtwin.ui.shell.app import App

    return App(frame, settings)


def open_app(settings: Settings) -> App:
    """A furnished window, not yet shown."""
    return furnish(open_frame(settings), settings)


def start(settings: Settings, then: Callable[[App], None]) -> MainWindow:
    """Show the frame at once; furnish it after its first paint and call `then`."""
    frame = open_frame(settings)
    frame.painted.connect(lambda: QTimer.singleShot(0, lambda: then(furnish(frame, settings))))
    frame.show()
    return frame


def run(
    folder: Path | None, *, demo: bool = False, bundle: Path | None = None, team: tuple[str, Path | None] | None = None
) -> int:
    """Open the desktop, on the demo, a folder, a team's library, or where it was left, with a bundle if one is given;
    the exit code.
    """
    app = application()
    settings = load_settings()

    def begin(app: App) -> None:
        from waxtwin.library.layout import DATABASE

        last = app.own_library()
        if demo:
            app.open_demo()
        elif team is not None:
            app.library.join(*team)
        elif folder is not None:
            app.library.open(folder)
        elif settings.team:
            app.library.join(settings.team, Path(settings.team_clips) if settings.team_clips else None)
        elif (last / DATABASE).is_file():
            app.library.open(last)
        if bundle is not None:
            app.intake.bring([bundle])

    frame = start(settings, begin)
    code = app.exec()
    frame.deleteLater()
    return code
