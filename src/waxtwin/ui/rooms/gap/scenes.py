"""What pictures show of the Gap room."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera


def show(app: App, camera: Camera) -> None:
    """Findings, borrowed motion, and a what-if."""
    app.go_to("Gap")
    camera.shoot("gap")
    app.gap.turn_to("shares")
    camera.shoot("gap-borrowed")
    app.gap.turn_to("whatif")
    app.gap.whatif.preset("both")
    camera.settle(quiet=0.8)
    camera.shoot("gap-what-if")
