"""What pictures show of the Report room."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera


def show(app: App, camera: Camera) -> None:
    """The pages as they will be printed."""
    app.go_to("Report")
    camera.shoot("report")
