"""Starting the desktop."""

from __future__ import annotations

import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from waxtwin.ui import theme
from waxtwin.ui.settings import Settings, load_settings
from waxtwin.ui.window import DEMO, Window


def application() -> QApplication:
    """The one QApplication, with the shipped font."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
        app.setApplicationName("Wax Twin")
        app.setStyle("Fusion")
    theme.load_fonts()
    return app


def open_window(settings: Settings | None = None) -> Window:
    """A dressed window, not yet shown."""
    application()
    settings = settings or load_settings()
    theme.apply(settings.theme)
    return Window(settings)


def run(folder: Path | None) -> int:
    """Open the desktop, on the demo, a folder, or where it was left; returns the exit code."""
    app = application()
    window = open_window()
    window.show()
    last = window.settings.folder
    if folder is not None and folder == DEMO:
        QTimer.singleShot(0, window.open_demo)
    elif folder is not None:
        QTimer.singleShot(0, lambda: window.open_library(folder))
    elif last and Path(last).is_dir():
        QTimer.singleShot(0, lambda: window.open_library(Path(last)))
    return app.exec()
