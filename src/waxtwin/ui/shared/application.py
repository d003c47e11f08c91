"""The one application that everything of Qt needs, also where no window is opened."""

from __future__ import annotations

import sys

from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from waxtwin import ASSETS
from waxtwin.ui.shared import theme

_ICON = ASSETS / "icons" / "waxtwin.svg"


def application() -> QApplication:
    """The one QApplication, with the shipped font."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
        app.setApplicationName("Wax Twin")
        app.setDesktopFileName("waxtwin")
        app.setStyle("Fusion")
        app.setWindowIcon(QIcon(str(_ICON)))
    theme.load_fonts()
    return app
