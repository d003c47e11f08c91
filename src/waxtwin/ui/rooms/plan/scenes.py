"""What pictures show of the Plan room."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera


def show(app: App, camera: Camera) -> None:
    """A plan taken over from the Gap room, and the log."""
    app.plan.flow.propose()
    app.go_to("Plan")
    camera.shoot("plan")
    app.plan.turn_to("log")
    camera.shoot("plan-log")
