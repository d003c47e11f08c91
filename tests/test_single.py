"""One delivery on its own: looked at, stepped, held and corrected, while what needs two says so."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt


@pytest.fixture(params=["athlete", "twin"])
def app(desk_window, qtbot, request):
    app = desk_window(demo=False)
    from waxtwin.ui.shared.open_library import demo_folder

    app.library.open(demo_folder())
    qtbot.waitUntil(lambda: bool(app.library.entries) and not app.jobs.busy, timeout=60000)
    app.pairs.take(request.param, app.library.find("wren-tollander"))
    qtbot.waitUntil(lambda: not app.jobs.busy and app.desk.pair.analysis(request.param) is not None, timeout=60000)
    app.go_to("Pair")
    app.side = request.param
    return app


def test_one_delivery_alone_is_held_stepped_played_and_corrected(app, qtbot):
    pair, clock, seam, side = app.desk.pair, app.desk.clock, app.pair.seam, app.side
    analysis = pair.analysis(side)
    assert pair.contrast is None and clock.stop == "foot_contact"
    assert clock.time_of(side) == pytest.approx(analysis.time("foot_contact"))
    app.do("hold_release")
    assert clock.time_of(side) == pytest.approx(analysis.time("release"))
    app.do("back8")
    assert clock.time_of(side) == pytest.approx(analysis.time("release") - 8 / 240, abs=0.6 / 240)
    app.do("play")
    before = clock.time_of(side)
    qtbot.waitUntil(lambda: clock.time_of(side) > before + 0.01, timeout=5000)
    app.do("play")
    assert {name: stage.isVisible() for name, stage in app.pair.stages.items() if name in ("athlete", "twin")} == {
        name: name == side for name in ("athlete", "twin")
    }
    # a stop's end is dragged on the one rail
    at = QPoint(round(seam.event_x(side, "peak_knee")), round(seam.rail_y(side)))
    qtbot.mousePress(seam, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(seam, at - QPoint(9, 0))
    qtbot.mouseRelease(seam, Qt.MouseButton.LeftButton, pos=at - QPoint(9, 0))
    qtbot.waitUntil(lambda: not app.jobs.busy and pair.analysis(side) is not analysis, timeout=60000)
    assert pair.analysis(side).time("peak_knee") < analysis.time("peak_knee") - 0.005
    app.library.undo()
    qtbot.waitUntil(
        lambda: pair.analysis(side).time("peak_knee") == pytest.approx(analysis.time("peak_knee")), timeout=60000
    )


def test_what_needs_two_says_so_and_the_second_makes_a_pair(app, qtbot):
    side, other = app.side, "twin" if app.side == "athlete" else "athlete"
    assert f"Only the {side} is on the desk" in app.pair.panel._hint.text()
    for title, said in (("Contrast", app.contrast._count), ("Gap", app.gap._hint), ("Report", app.report.hint)):
        app.go_to(title)
        assert f"choose the {other} on the Bench" in said.text(), title
    app.pairs.take(other, app.library.find("ines-corvane"))
    qtbot.waitUntil(lambda: not app.jobs.busy and app.desk.pair.contrast is not None, timeout=60000)
    assert app.desk.pair.contrast.twin.resolved and "margin" in app.pair.panel._hint.text()
