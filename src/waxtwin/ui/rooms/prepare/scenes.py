"""What pictures show of the Prepare room."""

from __future__ import annotations

from typing import TYPE_CHECKING

from waxtwin.ui.shared.open_library import DEMO

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera


def show(app: App, camera: Camera) -> None:
    """A raw clip as a phone brings it, with the landmarks that the model finds in the throw."""
    store = app.library.store
    assert store is not None
    before = store.next_undo()
    app.intake.into_demo = True  # nothing is asked here
    app.intake.bring([DEMO / "wren-tollander-side.mp4"])
    camera.settle()
    flow, state = app.prepare.flow, app.prepare.state
    flow.trim(1.15, 2.35)
    flow.landmarks.model = "lite"
    flow.landmarks.find_landmarks()
    camera.settle()
    flow.say_who("Wren Tollander", "R", 1.76)
    state.go_to_step("landmarks")
    state.go_to_time(2.02)
    app.notice.hide()
    camera.shoot("prepare")
    state.go_to_step("ready")
    camera.shoot("prepare-ready")
    mark = 0 if before is None else before.id
    app.library.change(lambda library: library.take_back_to(mark))  # the demo as it was: the other rooms show it
    camera.settle()
