"""Time in the real window: holding, scrubbing, stepping, playing, correcting stops on the seam."""

import pytest
from PySide6.QtCore import QPoint, Qt

from conftest import DEMO
from waxtwin.core.events import ORDER
from waxtwin.library.throws import fetch

WREN, INES, PELL = (DEMO / f"{n}.csv" for n in ("wren-tollander", "ines-corvane", "pell-ardmoor"))


def idle(qtbot, window):
    qtbot.waitUntil(lambda: not window.jobs.busy, timeout=60000)


def test_keys_hold_stops_and_step(desk_window, qtbot):
    window = desk_window()
    desk, seam = window.desk, window.pair.seam
    window.frame.activateWindow()
    seam.setFocus()
    for key, stop in zip("1234567890", ORDER, strict=True):
        qtbot.keyClick(seam, key)
        assert desk.stop == stop
        for side in ("athlete", "twin"):
            assert desk.time_of(side) == pytest.approx(desk.analysis(side).events[stop].time)
    qtbot.keyClick(seam, "9")
    start = desk.time
    qtbot.keyClick(seam, Qt.Key.Key_Period)
    assert 0 < (desk.time - start) * 240 <= 1.51
    before = desk.time
    qtbot.keyClick(seam, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert (desk.time - before) * 240 == pytest.approx(8, abs=0.01)
    qtbot.keyClick(seam, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(seam, Qt.Key.Key_Comma)
    assert desk.time < before


def test_clicking_a_stitch_holds_both_sides(desk_window, qtbot):
    window = desk_window()
    seam, desk = window.pair.seam, window.desk
    x = (seam.event_x("athlete", "release") + seam.event_x("twin", "release")) / 2
    y = (seam.rail_y("athlete") + seam.rail_y("twin")) / 2
    qtbot.mouseClick(seam, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
    assert desk.stop == "release"
    # one stop pulled tight: its stitch is straight now
    assert seam.event_x("athlete", "release") == pytest.approx(seam.event_x("twin", "release"), abs=0.5)
    assert abs(seam.event_x("athlete", "peak_knee") - seam.event_x("twin", "peak_knee")) > 5
    desk.pull("all")
    for stop in desk.stops():
        assert seam.event_x("athlete", stop) == pytest.approx(seam.event_x("twin", stop), abs=0.5)


def test_scrubbing_the_rail(desk_window, qtbot):
    window = desk_window()
    seam = window.pair.seam
    x = (seam.event_x("athlete", "drive_start") + seam.event_x("athlete", "foot_contact")) / 2
    qtbot.mouseClick(seam, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(seam.rail_y("athlete"))))
    assert window.desk.time == pytest.approx(seam.time_at(round(x)), abs=1e-6)


def drag_end(qtbot, window, side, stop, by):
    seam = window.pair.seam
    start = QPoint(round(seam.event_x(side, stop)), round(seam.rail_y(side)))
    end = QPoint(start.x() + by, start.y())
    qtbot.mousePress(seam, Qt.MouseButton.LeftButton, pos=start)
    # holding the stop may have moved the stitch's end: follow it
    qtbot.mouseMove(seam, end)
    qtbot.mouseRelease(seam, Qt.MouseButton.LeftButton, pos=end)


@pytest.mark.parametrize("side", ["athlete", "twin"])
def test_dragging_an_end_corrects_the_event_and_undo_brings_it_back(desk_window, qtbot, tmp_path, side):
    window = desk_window()
    window.go_to("Pair")
    analysis = window.desk.analysis(side)
    detected, angle = analysis.events["foot_contact"].time, analysis.measures["landing_trunk_rotation"].value
    window.desk.hold("foot_contact")
    drag_end(qtbot, window, side, "foot_contact", 6)
    idle(qtbot, window)
    after = window.desk.analysis(side)
    assert after.events["foot_contact"].source == "set by hand"
    assert after.events["foot_contact"].time > detected + 0.001
    assert after.measures["landing_trunk_rotation"].value > angle
    key = window.desk.stored[side].key
    kept = fetch(window.librarian.library, key)
    assert kept.sidecar.events["foot_contact"] == pytest.approx(after.events["foot_contact"].time)
    window.actions["undo"].trigger()
    idle(qtbot, window)
    assert window.desk.analysis(side).events["foot_contact"].time == detected
    assert fetch(window.librarian.library, key).sidecar.events == {}
    window.actions["redo"].trigger()
    idle(qtbot, window)
    assert window.desk.analysis(side).events["foot_contact"].source == "set by hand"
    window.desk.hold("foot_contact")
    window.corrector.give_back()
    idle(qtbot, window)
    assert window.desk.analysis(side).events["foot_contact"].source == "detected"


def test_the_shipped_demo_is_never_altered(desk_window, qtbot):
    window = desk_window()
    before = (DEMO / "wren-tollander.delivery.json").read_bytes()
    window.corrector.correct("athlete", "release", window.desk.analysis("athlete").events["release"].time + 0.004)
    idle(qtbot, window)
    assert window.desk.analysis("athlete").events["release"].source == "set by hand"
    assert (DEMO / "wren-tollander.delivery.json").read_bytes() == before


def test_playing_loops_and_stands_still(desk_window, qtbot):
    window = desk_window()
    desk = window.desk
    desk.hold("foot_contact")
    desk.set_rate(1.0)
    desk.set_loop(True)
    low, high = desk.loop_span()
    desk.play(1)
    seen = []
    desk.listen(lambda topic: seen.append(desk.time) if topic == "time" else None)
    qtbot.waitUntil(lambda: len(seen) > 12, timeout=10000)
    desk.play(0)
    assert all(low - 1e-6 <= t <= high + 1e-6 for t in seen)
    desk.set_loop(False)
    desk.hold("release")
    start = desk.time
    desk.play(-1)
    qtbot.waitUntil(lambda: desk.time < start, timeout=10000)
    qtbot.keyClick(window.pair.seam, Qt.Key.Key_Space)
    assert desk.playing == 0


def test_library_that_cannot_be_written_is_told_and_the_correction_holds(desk_window, qtbot, monkeypatch):
    from waxtwin.library.store import LibraryError

    window = desk_window()

    def full(*_):
        raise LibraryError("The change could not be kept, and nothing was altered (database or disk is full).")

    monkeypatch.setattr("waxtwin.ui.rooms.pair.stop_edits.keep_events", full)
    time = window.desk.analysis("twin").events["release"].time + 0.005
    window.corrector.correct("twin", "release", time)
    idle(qtbot, window)
    assert "disk is full" in window.notice.text
    assert window.desk.analysis("twin").events["release"].time == time


def test_a_correction_cannot_pass_its_neighbours(desk_window, qtbot):
    window = desk_window()
    window.desk.hold("max_layback")
    drag_end(qtbot, window, "athlete", "max_layback", 900)
    idle(qtbot, window)
    events = window.desk.analysis("athlete").events
    assert events["foot_plant"].time <= events["max_layback"].time <= events["release"].time


def test_the_seam_gives_the_throw_more_room(desk_window):
    window = desk_window()
    seam, desk = window.pair.seam, window.desk
    times = desk.analysis("athlete").event_times
    throw = seam.x_of(times["release"]) - seam.x_of(times["foot_contact"])
    whole = seam.x_of(times["finish"]) - seam.x_of(times["set"])
    share = (times["release"] - times["foot_contact"]) / (times["finish"] - times["set"])
    assert throw / whole > 2 * share
    for time in (0.1, 1.0, 2.05, 2.2):
        assert seam.time_at(seam.x_of(time)) == pytest.approx(time, abs=1e-9)


def test_a_stop_is_nudged_and_typed_and_taken_back(desk_window, qtbot, monkeypatch):
    window = desk_window()

    def settled():
        qtbot.waitUntil(lambda: not window.jobs.busy, timeout=60000)

    window.desk.hold("release")
    before = {side: window.desk.analysis(side).events["release"].time for side in ("athlete", "twin")}
    window.actions["later_athlete"].trigger()
    settled()
    window.actions["earlier_twin"].trigger()
    settled()
    now = {side: window.desk.analysis(side).events["release"] for side in ("athlete", "twin")}
    assert now["athlete"].time == pytest.approx(before["athlete"] + 1 / 240, abs=1e-4)
    assert now["twin"].time == pytest.approx(before["twin"] - 1 / 240, abs=1e-4)
    assert now["athlete"].source == "set by hand" and window.desk.time == pytest.approx(now["athlete"].time, abs=1e-3)
    monkeypatch.setattr(
        "waxtwin.ui.rooms.pair.stop_edits.QInputDialog.getDouble", lambda *args: (before["athlete"] - 0.01, True)
    )
    window.actions["type_athlete"].trigger()
    settled()
    assert window.desk.analysis("athlete").events["release"].time == pytest.approx(before["athlete"] - 0.01, abs=1e-4)
    for _ in range(3):
        window.actions["undo"].trigger()
        settled()
    for side in ("athlete", "twin"):
        event = window.desk.analysis(side).events["release"]
        assert event.source == "detected" and event.time == pytest.approx(before[side], abs=1e-6)
