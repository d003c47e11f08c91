"""What pictures show of the Session room."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera


def show(app: App, camera: Camera) -> None:
    """A session with the stand-ins' radar gun and plates, until three throws are logged."""
    app.go_to("Session")
    flow = app.session.flow
    flow.use_stand_ins(("--throws", "3", "--every", "5", "--fps", "0", "--misread", "2", "--unplugged", "3"))

    def logged() -> bool:
        live = flow.live
        return live is not None and len(live.throws) == 3 and all(map(live.complete, live.throws))

    camera.wait(logged, "the stand-ins logged no throws")
    camera.shoot("session")
    flow.end()
