"""What pictures show of the Talk room."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera


def show(app: App, camera: Camera) -> None:
    """The demo's talk at the first thing to do."""
    app.go_to("Talk")
    talk = app.talks.talk
    if talk is not None:
        app.talk.scenes.setCurrentRow(min(3, len(talk.scenes) - 1))
    camera.shoot("talk")
