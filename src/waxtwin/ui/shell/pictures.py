"""Pictures of every room, made from the demo by the real window without a display."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from importlib import import_module
from pathlib import Path

from PySide6.QtCore import QMessageLogContext, QSize, QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication, QWidget

from waxtwin.core.errors import WaxTwinError
from waxtwin.ui import rooms
from waxtwin.ui.model.settings import Settings
from waxtwin.ui.shared.application import application
from waxtwin.ui.shell.app import App
from waxtwin.ui.shell.start import open_app

_SIZE = (1280, 800)  # px
_PATIENCE = 60.0
_BUSY_TURN = 0.05  # s: a turn of the event loop that takes longer has done something


class Camera:
    """Takes pictures of a window at rest, one file a name."""

    def __init__(self, app: App, out: Path) -> None:
        self.app, self._out = app, out
        self.made: list[Path] = []

    def shoot(self, name: str, widget: QWidget | None = None, size: tuple[int, int] = _SIZE) -> None:
        """A picture of the window at a size, or of a dialog of it. Raises WaxTwinError."""
        self.app.window.resize(QSize(*size))
        self.settle()
        path = self._out / f"{name}.png"
        if not (widget or self.app.window).grab().save(str(path)):
            raise WaxTwinError(f"{path.name}: the picture cannot be written")
        self.made.append(path)

    def settle(self, *, quiet: float = 0.35) -> None:
        """Let jobs, clips and painting come to rest."""
        settle(self.app, quiet=quiet)

    def wait(self, done: Callable[[], bool], otherwise: str) -> None:
        """Let the window work until something holds. Raises WaxTwinError saying `otherwise`."""
        end = time.monotonic() + _PATIENCE
        while not done():
            if time.monotonic() > end:
                raise WaxTwinError(otherwise)
            QApplication.processEvents()
            time.sleep(0.01)


def render_rooms(out: Path) -> list[Path]:
    """Write a PNG per room and state to `out`; returns the paths. Raises WaxTwinError when that cannot be done."""
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as fault:
        raise WaxTwinError(f"{out}: the folder cannot be made ({fault.strerror})") from None
    application()
    # the display-less platform says on every window that it has no size hints; nobody needs to read that
    before = qInstallMessageHandler(_quiet)
    app = open_app(Settings(finding=False))
    app.window.show()
    camera = Camera(app, out)
    try:
        for room in rooms.ROOMS:
            scenes = import_module(f"{room.folder}.{room.id}.scenes")
            scenes.show(app, camera)
            app.notice.hide()
    finally:
        app.window.close()
        qInstallMessageHandler(before)
    return camera.made


def _quiet(_kind: QtMsgType, _context: QMessageLogContext, text: str) -> None:
    if "propagateSizeHints" not in text:
        print(text, file=sys.stderr)


def settle(app: App, *, quiet: float = 0.35) -> None:
    """Let jobs, clips and painting come to rest: nothing under way for `quiet` seconds."""
    end = time.monotonic() + _PATIENCE
    quiet_since = time.monotonic()
    while time.monotonic() < end:
        began = time.monotonic()
        QApplication.processEvents()
        if app.jobs.busy or time.monotonic() - began > _BUSY_TURN:
            quiet_since = time.monotonic()
        elif time.monotonic() - quiet_since > quiet:
            return
        time.sleep(0.005)
    raise WaxTwinError("the demo did not come to rest in time")
