"""What pictures show of the Contrast room."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera


def show(app: App, camera: Camera) -> None:
    """The table and a plot."""
    app.go_to("Contrast")
    camera.shoot("contrast")
