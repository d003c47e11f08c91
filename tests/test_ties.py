"""One side moved by itself until the poses match, and the moment tied: held, pulled tight, kept, never measured."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QInputDialog

from waxtwin.core.alignment import align
from waxtwin.core.steps import finish
from waxtwin.library.bundles import bundle_pair, open_bundle
from waxtwin.library.pairs import kept_pair, open_pair, tie_moment
from waxtwin.library.store import Library


@pytest.fixture
def app(desk_window):
    return desk_window()


def click(qtbot, stage):
    qtbot.mouseClick(stage, Qt.MouseButton.LeftButton, pos=QPoint(60, 150))


def test_a_side_that_was_clicked_steps_scrubs_plays_and_holds_alone(app, qtbot):
    clock, pair = app.desk.clock, app.desk.pair
    clock.hold("release")
    mine, theirs = clock.here()
    click(qtbot, app.pair.stages["twin"])
    assert clock.alone == "twin" and "Only the twin moves" in app.pair.panel._hint.text()
    seam = app.pair.seam
    qtbot.keyClick(seam, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert clock.here() == (mine, pytest.approx(theirs + 8 / 240, abs=0.6 / 240))
    x = seam.event_x("twin", "foot_contact")
    qtbot.mouseClick(seam, Qt.MouseButton.LeftButton, pos=QPoint(round(x) + 30, round(seam.rail_y("twin")) + 22))
    assert clock.time == mine and clock.time_of("twin") != pytest.approx(theirs)
    app.do("hold_peak_knee")
    assert clock.here() == (mine, pytest.approx(pair.event_times("twin")["peak_knee"]))
    app.do("play")
    qtbot.waitUntil(lambda: clock.time_of("twin") > pair.event_times("twin")["peak_knee"] + 0.02, timeout=5000)
    app.do("play")
    assert clock.time == mine
    # the other one, and both again
    held = clock.time_of("twin")
    qtbot.keyClick(seam, Qt.Key.Key_A)
    qtbot.keyClick(seam, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert clock.time == pytest.approx(mine - 8 / 240, abs=0.6 / 240) and clock.time_of("twin") == held
    qtbot.keyClick(seam, Qt.Key.Key_Escape)
    assert clock.alone == "" and clock.time_of("twin") == pytest.approx(clock.alignment.to_twin(clock.time))
    click(qtbot, app.pair.stages["athlete"])
    click(qtbot, app.pair.stages["athlete"])
    assert clock.alone == ""
    app.pair.stages["twin"].setFocus(Qt.FocusReason.TabFocusReason)
    assert clock.alone == "twin"
    qtbot.keyClick(app.pair.stages["twin"], Qt.Key.Key_Escape)
    assert clock.alone == ""


def test_dragging_a_figure_takes_no_side(app, qtbot):
    app.desk.view.show(shown="figure")
    stage = app.pair.stages["athlete"]
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=QPoint(60, 150))
    qtbot.mouseMove(stage, QPoint(120, 150))
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=QPoint(120, 150))
    assert app.desk.clock.alone == ""


def test_a_tied_moment_holds_pulls_tight_is_kept_and_enters_no_measure(app, qtbot, monkeypatch):
    clock, pair = app.desk.clock, app.desk.pair
    figures = {row.measure.id: row.athlete for row in pair.contrast.rows}
    clock.hold("peak_knee")
    clock.step(-60)
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_W)
    clock.step(-12)
    mine, theirs = clock.here()
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("knee <i>level</i> with the belt", True))
    qtbot.mouseClick(app.pair.panel.tie, Qt.MouseButton.LeftButton)
    [tie] = pair.ties
    assert (tie.name, tie.athlete, tie.twin) == (
        "knee <i>level</i> with the belt",
        pytest.approx(mine, abs=1e-4),
        pytest.approx(theirs, abs=1e-4),
    )
    assert clock.alone == "" and clock.tie == tie and clock.stop is None and app.pair.panel._title.text() == tie.name
    clock.step(10)  # both go on from there
    assert clock.tie is None and clock.time_of("twin") - theirs == pytest.approx(clock.time - mine, abs=1e-4)
    clock.hold("release")
    clock.pull("all")
    assert clock.alignment.to_twin(tie.athlete) == pytest.approx(tie.twin, abs=1e-6)
    seam = app.pair.seam
    one, two = seam._tie_ends(tie)
    qtbot.mouseClick(seam, Qt.MouseButton.LeftButton, pos=((one + two * 2) / 3).toPoint())
    assert clock.tie == tie and clock.here() == (tie.athlete, tie.twin)
    assert {row.measure.id: row.athlete for row in pair.contrast.rows} == figures
    # kept with the pair, undone and done again, there when it is opened again
    app.library.undo()
    assert pair.ties == ()
    app.library.redo()
    keys = pair.stored["athlete"].key, pair.stored["twin"].key
    assert kept_pair(app.library.store, *keys).ties == (tie,)
    app.pairs.take_pair(keys[1], keys[0])
    qtbot.waitUntil(lambda: not app.jobs.busy and pair.stored["athlete"].key == keys[1], timeout=60000)
    assert pair.ties == () and clock.tie is None
    app.pairs.take_pair(*keys)
    qtbot.waitUntil(lambda: not app.jobs.busy and pair.ties == (tie,), timeout=60000)
    clock.hold_tie(tie)
    qtbot.mouseClick(app.pair.panel.untie, Qt.MouseButton.LeftButton)
    assert pair.ties == () and clock.tie is None and clock.stop == "foot_contact"


def test_ties_travel_in_a_bundle_and_bad_ones_are_left_out(library, tmp_path):
    keys = [1, 2]
    kept = open_pair(library, *keys)
    tie_moment(library, kept.id, "belt", 1.25, 1.5)
    with library.change("spoil") as session:
        from waxtwin.library.records import PairRow

        row = session.get_one(PairRow, kept.id)
        row.ties = [
            *row.ties,
            {"name": "x" * 10_000, "athlete": 1, "twin": "soon"},
            {"athlete": float("inf"), "twin": 1},
            7,
        ]
    [tie] = kept_pair(library, *keys).ties
    assert (tie.name, tie.athlete, tie.twin) == ("belt", 1.25, 1.5)
    with library.change("mend") as session:
        row = session.get_one(PairRow, kept.id)
        row.ties = row.ties[:1]
    finish(bundle_pair(library, kept.id, tmp_path / "pair.waxtwin"))
    other = Library(tmp_path / "other")
    opened = finish(open_bundle(other, tmp_path / "pair.waxtwin"))
    assert [one.name for one in kept_pair(other, *opened.pair).ties] == ["belt"]
    other.close()


def test_clocks_meet_at_tied_moments_in_their_order():
    athlete = {"peak_knee": 1.0, "release": 2.0, "tie b": 1.5, "tie a": 1.2}
    twin = {"peak_knee": 3.0, "release": 4.2, "tie b": 3.7, "tie a": 3.1}
    clocks = align(athlete, twin, "all")
    for name, time in athlete.items():
        assert clocks.to_twin(time) == pytest.approx(twin[name]) and clocks.to_athlete(twin[name]) == pytest.approx(
            time
        )
    assert align(athlete, twin, "one", "tie a").to_twin(1.2) == pytest.approx(3.1)
