"""What pictures show of the Bench."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera


def show(app: App, camera: Camera) -> None:
    """With the demo, and while a twin is sought."""
    app.open_demo()
    camera.settle()
    app.go_to("Bench")
    camera.shoot("bench")
    athlete = app.library.find("wren-tollander")
    if athlete is None:
        return
    app.bench.flow.find_twin(athlete)
    dialog = app.bench.flow.dialog
    if dialog is not None:
        camera.shoot("find-a-twin", dialog)
        dialog.reject()
