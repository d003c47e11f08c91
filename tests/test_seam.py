"""Time in the real window: holding, scrubbing, stepping, playing, correcting stops on the seam."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication

from conftest import DEMO, idle
from waxtwin.core.stops import ORDER
from waxtwin.library.throws import fetch
from waxtwin.ui.model.topics import Topic

WREN, INES, PELL = (DEMO / f"{n}.csv" for n in ("wren-tollander", "ines-corvane", "pell-ardmoor"))


def test_keys_hold_stops_and_step(desk_window, qtbot):
    app = desk_window()
    desk, seam = app.desk, app.pair.seam
    app.window.activateWindow()
    seam.setFocus()
    for key, stop in zip("1234567890", ORDER, strict=True):
        qtbot.keyClick(seam, key)
        assert desk.clock.stop == stop
        for side in ("athlete", "twin"):
            assert desk.clock.time_of(side) == pytest.approx(desk.pair.analysis(side).events[stop].time)
    qtbot.keyClick(seam, "9")
    start = desk.clock.time
    qtbot.keyClick(seam, Qt.Key.Key_Period)
    assert 0 < (desk.clock.time - start) * 240 <= 1.51
    before = desk.clock.time
    qtbot.keyClick(seam, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert (desk.clock.time - before) * 240 == pytest.approx(8, abs=0.01)
    qtbot.keyClick(seam, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(seam, Qt.Key.Key_Comma)
    assert desk.clock.time < before


def test_clicking_a_stitch_holds_both_sides(desk_window, qtbot):
    app = desk_window()
    seam, desk = app.pair.seam, app.desk
    x = (seam.event_x("athlete", "release") + seam.event_x("twin", "release")) / 2
    y = (seam.rail_y("athlete") + seam.rail_y("twin")) / 2
    qtbot.mouseClick(seam, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
    assert desk.clock.stop == "release"
    # one stop pulled tight: its stitch is straight now
    assert seam.event_x("athlete", "release") == pytest.approx(seam.event_x("twin", "release"), abs=0.5)
    assert abs(seam.event_x("athlete", "peak_knee") - seam.event_x("twin", "peak_knee")) > 5
    desk.clock.pull("all")
    for stop in desk.pair.stops():
        assert seam.event_x("athlete", stop) == pytest.approx(seam.event_x("twin", stop), abs=0.5)


def test_a_stitch_that_is_pulled_tight_moves_there_unless_no_motion_is_wanted(desk_window, qtbot):
    app = desk_window()
    app.go_to("Pair")
    seam, clock = app.pair.seam, app.desk.clock
    app.do("hold_release")
    before = seam.event_x("twin", "peak_knee")
    clock.pull("all")
    there = seam.event_x("twin", "peak_knee")
    assert abs(there - before) > 5 and there == pytest.approx(seam.event_x("athlete", "peak_knee"), abs=0.5)
    clock.pull("one")
    QApplication.setEffectEnabled(Qt.UIEffect.UI_General, True)
    clock.pull("all")
    assert abs(seam.event_x("twin", "peak_knee") - before) < abs(there - before) / 2
    seen = []
    qtbot.waitUntil(
        lambda: seen.append(seam.event_x("twin", "peak_knee")) or abs(seen[-1] - there) < 0.01, timeout=3000
    )
    assert any(min(before, there) + 1 < x < max(before, there) - 1 for x in seen)


def test_scrubbing_the_rail(desk_window, qtbot):
    app = desk_window()
    seam = app.pair.seam
    x = (seam.event_x("athlete", "drive_start") + seam.event_x("athlete", "foot_contact")) / 2
    qtbot.mouseClick(seam, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(seam.rail_y("athlete"))))
    assert app.desk.clock.time == pytest.approx(seam.time_at(round(x)), abs=1e-6)


def drag_end(qtbot, app, side, stop, by):
    seam = app.pair.seam
    start = QPoint(round(seam.event_x(side, stop)), round(seam.rail_y(side)))
    end = QPoint(start.x() + by, start.y())
    qtbot.mousePress(seam, Qt.MouseButton.LeftButton, pos=start)
    # holding the stop may have moved the stitch's end: follow it
    qtbot.mouseMove(seam, end)
    qtbot.mouseRelease(seam, Qt.MouseButton.LeftButton, pos=end)


@pytest.mark.parametrize("side", ["athlete", "twin"])
def test_dragging_an_end_corrects_the_event_and_undo_brings_it_back(desk_window, qtbot, tmp_path, side):
    app = desk_window()
    app.go_to("Pair")
    analysis = app.desk.pair.analysis(side)
    detected, angle = analysis.events["foot_contact"].time, analysis.measures["landing_trunk_rotation"].value
    app.desk.clock.hold("foot_contact")
    drag_end(qtbot, app, side, "foot_contact", 6)
    idle(qtbot, app)
    after = app.desk.pair.analysis(side)
    assert after.events["foot_contact"].source == "set by hand"
    assert after.events["foot_contact"].time > detected + 0.001
    assert after.measures["landing_trunk_rotation"].value > angle
    key = app.desk.pair.stored[side].key
    kept = fetch(app.library.store, key)
    assert kept.sidecar.events["foot_contact"] == pytest.approx(after.events["foot_contact"].time)
    app.actions["undo"].trigger()
    idle(qtbot, app)
    assert app.desk.pair.analysis(side).events["foot_contact"].time == detected
    assert fetch(app.library.store, key).sidecar.events == {}
    app.actions["redo"].trigger()
    idle(qtbot, app)
    assert app.desk.pair.analysis(side).events["foot_contact"].source == "set by hand"
    app.desk.clock.hold("foot_contact")
    app.pair.edits.give_back()
    idle(qtbot, app)
    assert app.desk.pair.analysis(side).events["foot_contact"].source == "detected"


def test_the_shipped_demo_is_never_altered(desk_window, qtbot):
    app = desk_window()
    before = (DEMO / "wren-tollander.delivery.json").read_bytes()
    app.pair.edits.correct("athlete", "release", app.desk.pair.analysis("athlete").events["release"].time + 0.004)
    idle(qtbot, app)
    assert app.desk.pair.analysis("athlete").events["release"].source == "set by hand"
    assert (DEMO / "wren-tollander.delivery.json").read_bytes() == before


def test_playing_loops_and_stands_still(desk_window, qtbot):
    app = desk_window()
    desk = app.desk
    desk.clock.hold("foot_contact")
    desk.clock.set_rate(1.0)
    desk.clock.set_loop(True)
    low, high = desk.clock.loop_span()
    desk.clock.play(1)
    seen = []
    desk.listen(lambda topic: seen.append(desk.clock.time) if topic is Topic.TIME else None)
    qtbot.waitUntil(lambda: len(seen) > 12, timeout=10000)
    desk.clock.play(0)
    assert all(low - 1e-6 <= t <= high + 1e-6 for t in seen)
    desk.clock.set_loop(False)
    desk.clock.hold("release")
    start = desk.clock.time
    desk.clock.play(-1)
    qtbot.waitUntil(lambda: desk.clock.time < start, timeout=10000)
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_Space)
    assert desk.clock.playing == 0


def test_library_that_cannot_be_written_is_told_and_the_correction_holds(desk_window, qtbot, monkeypatch):
    from waxtwin.library.faults import LibraryError

    app = desk_window()

    def full(*_):
        raise LibraryError("The change could not be kept, and nothing was altered (database or disk is full).")

    monkeypatch.setattr("waxtwin.ui.rooms.pair.stop_edits.keep_events", full)
    time = app.desk.pair.analysis("twin").events["release"].time + 0.005
    app.pair.edits.correct("twin", "release", time)
    idle(qtbot, app)
    assert "disk is full" in app.notice.text
    assert app.desk.pair.analysis("twin").events["release"].time == time


def test_a_correction_cannot_pass_its_neighbours(desk_window, qtbot):
    app = desk_window()
    app.desk.clock.hold("max_layback")
    drag_end(qtbot, app, "athlete", "max_layback", 900)
    idle(qtbot, app)
    events = app.desk.pair.analysis("athlete").events
    assert events["foot_plant"].time <= events["max_layback"].time <= events["release"].time


def test_the_seam_gives_the_throw_more_room(desk_window):
    app = desk_window()
    seam, desk = app.pair.seam, app.desk
    times = desk.pair.analysis("athlete").event_times
    throw = seam.x_of(times["release"]) - seam.x_of(times["foot_contact"])
    whole = seam.x_of(times["finish"]) - seam.x_of(times["set"])
    share = (times["release"] - times["foot_contact"]) / (times["finish"] - times["set"])
    assert throw / whole > 2 * share
    for time in (0.1, 1.0, 2.05, 2.2):
        assert seam.time_at(seam.x_of(time)) == pytest.approx(time, abs=1e-9)


def test_a_stop_is_nudged_and_typed_and_taken_back(desk_window, qtbot, monkeypatch):
    app = desk_window()

    def settled():
        idle(qtbot, app)

    app.desk.clock.hold("release")
    before = {side: app.desk.pair.analysis(side).events["release"].time for side in ("athlete", "twin")}
    app.actions["later_athlete"].trigger()
    settled()
    app.actions["earlier_twin"].trigger()
    settled()
    now = {side: app.desk.pair.analysis(side).events["release"] for side in ("athlete", "twin")}
    assert now["athlete"].time == pytest.approx(before["athlete"] + 1 / 240, abs=1e-4)
    assert now["twin"].time == pytest.approx(before["twin"] - 1 / 240, abs=1e-4)
    assert now["athlete"].source == "set by hand" and app.desk.clock.time == pytest.approx(
        now["athlete"].time, abs=1e-3
    )
    monkeypatch.setattr(
        "waxtwin.ui.rooms.pair.stop_edits.QInputDialog.getDouble", lambda *args: (before["athlete"] - 0.01, True)
    )
    app.actions["type_athlete"].trigger()
    settled()
    assert app.desk.pair.analysis("athlete").events["release"].time == pytest.approx(before["athlete"] - 0.01, abs=1e-4)
    for _ in range(3):
        app.actions["undo"].trigger()
        settled()
    for side in ("athlete", "twin"):
        event = app.desk.pair.analysis(side).events["release"]
        assert event.source == "detected" and event.time == pytest.approx(before[side], abs=1e-6)
