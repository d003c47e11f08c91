"""What pictures show of the Pair room."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera


def show(app: App, camera: Camera) -> None:
    """Figures and clips, laid over each other, from above, several twins, and the dark theme."""
    clock, view = app.desk.clock, app.desk.view
    app.go_to("Pair")
    view.show(shown="figure")
    view.select("landing_trunk_tilt")
    camera.shoot("pair")
    view.show(shown="clip")
    clock.hold("release")
    view.select("release_trunk_tilt")
    camera.shoot("pair-clips")
    view.show(shown="figure", ghost="rubber", inset="lead_knee", trails=True)
    clock.hold("foot_contact")
    camera.shoot("pair-over")
    view.show(ghost="", inset="", trails=False)
    view.select(None)
    view.show(shown="figure", azimuth=0.0, elevation=89.0, camera="top")
    clock.hold("foot_contact")
    clock.pull("all")
    view.select("landing_separation")
    camera.shoot("pair-top")
    for title in ("juno-wexcombe", "pell-ardmoor"):
        key = app.library.find(title)
        if key is not None:
            app.kept.add_twin(key)
            camera.settle()
    view.show(azimuth=0.0, elevation=4.0, camera="side")
    camera.shoot("pair-several")
    app.kept.only_one_twin()
    app.guide.switch_theme()
    clock.pull("one")
    view.show(shown="both")
    camera.shoot("pair-dark")
    app.guide.switch_theme()
    camera.settle()
