"""What pictures show of the Pair room."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.shared.open_library import DEMO

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.pictures import Camera

LARGE = (1920, 1080)  # px: one picture of a desktop's own size
_SET = ("peak_knee", "foot_contact", "release")
_MARKS = (("line", ("pelvis", "chest")), ("angle", ("lead_hip", "lead_knee", "lead_ankle")))


def show(app: App, camera: Camera) -> None:
    """Figures, clips with marks, laid over each other, clips before landmarks, several twins, by eye in the dark."""
    clock, view = app.desk.clock, app.desk.view
    app.go_to("Pair")
    view.show(shown="figure")
    clock.hold("foot_contact")
    view.select("landing_trunk_tilt")
    camera.shoot("pair")
    _marked(app, camera)
    view.show(shown="figure", ghost="rubber", inset="lead_knee", trails=True)
    clock.hold("foot_contact")
    app.pair.side.show_panel("rubber")
    camera.shoot("pair-over")
    app.pair.side.show_panel("stop")
    view.show(ghost="", inset="", trails=False)
    view.select(None)
    clock.pull("all")
    for title in ("juno-wexcombe", "pell-ardmoor"):
        key = app.library.find(title)
        if key is not None:
            app.kept.add_twin(key)
            camera.settle()
    camera.shoot("pair-several")
    app.kept.only_one_twin()
    app.guide.switch_theme()
    clock.pull("one")
    view.show(shown="both")
    app.pair.side.show_panel("eye")
    camera.shoot("pair-dark", size=LARGE)
    app.pair.side.show_panel("stop")
    app.guide.switch_theme()
    _before_landmarks(app, camera)
    camera.settle()


def _marked(app: App, camera: Camera) -> None:
    """Both clips at landing with a tilt and a knee angle marked, and no marks left behind."""
    from waxtwin.core.chalk import Chalk, End
    from waxtwin.library.chalk import keep_chalk, with_chalk

    library, stored = app.library.store, app.desk.pair.stored
    if library is None or any(one.key is None for one in stored.values()):
        return
    made = [Chalk(kind, kind, tuple(map(End, joints)), 0.0) for kind, joints in _MARKS]
    was = {side: one.sidecar.chalk for side, one in stored.items()}
    kept = keep_chalk(library, {one.key: made for one in stored.values() if one.key is not None}, "Mark")
    app.desk.pair.renew({side: with_chalk(one, kept[one.key]) for side, one in stored.items() if one.key in kept})
    app.desk.view.show(shown="clip", gauges=False)
    app.desk.clock.hold("foot_contact")
    app.desk.view.select(None)
    app.pair.side.show_panel("chalk")
    camera.shoot("pair-clips")
    app.pair.side.show_panel("stop")
    app.library.undo()
    camera.settle()
    app.desk.pair.renew({side: with_chalk(one, was[side]) for side, one in app.desk.pair.stored.items()})
    app.desk.view.show(gauges=True)


def _before_landmarks(app: App, camera: Camera) -> None:
    """Two clips that were just dropped, held at a stop that was set by hand; they are taken off again."""
    from waxtwin.core.stops import StopsByHand
    from waxtwin.library.throws import remove, set_events

    clock, stored = app.desk.clock, app.desk.pair.stored
    clips = [DEMO / f"{name}-side.mp4" for name in ("wren-tollander", "ines-corvane")]
    times = {side: app.desk.pair.event_times(side) for side in SIDES}
    keys = [one.key for one in stored.values()]
    if not all(map(Path.is_file, clips)) or len(keys) < len(SIDES):
        return
    app.intake.into_demo = True
    app.intake.receive(clips, 0.0)
    camera.wait(lambda: app.desk.pair.is_bare and app.desk.pair.contrast is not None, "the clips do not come")
    new = {side: one.key for side, one in app.desk.pair.stored.items() if one.key is not None}
    said = {key: StopsByHand({stop: times[side][stop] for stop in _SET}) for side, key in new.items()}
    app.library.change(lambda library: set_events(library, said, "Set stops"))
    camera.settle()
    clock.hold("foot_contact")
    app.notice.hide()
    camera.shoot("pair-first")
    if keys[0] is not None and keys[1] is not None:
        app.pairs.take_pair(keys[0], keys[1])
        camera.settle()
    app.library.change(lambda library: remove(library, list(new.values())))
    camera.settle()
