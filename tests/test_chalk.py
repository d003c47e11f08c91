"""Measuring marks: put by clicks, stuck to joints, numbers, the other side, kept, undone, and what cannot be right."""

from __future__ import annotations

from dataclasses import asdict, replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QInputDialog

from conftest import delivery_of
from films import film
from waxtwin.core.chalk import Chalk, End, Plane, on_other_side, reckon, told
from waxtwin.core.steps import finish
from waxtwin.library.bundles import bundle_pair, open_bundle
from waxtwin.library.chalk import chalk_of, keep_chalk, with_chalk
from waxtwin.library.pairs import open_pair
from waxtwin.library.store import Library
from waxtwin.library.throws import fetch
from waxtwin.ui.shared.pair_images import PairImages


def mark(kind, *ends, **more):
    return Chalk("m", kind, ends or (End("head"),), 1.0, **more)


def test_numbers_are_those_of_plane_geometry():
    flat = Plane(np.array([[0.0, 0.0], [0.5, 0.5]]), np.zeros((2, 2)), 2.0, scaled=True)
    assert reckon(mark("line", End("head"), End("nose")), flat).value == pytest.approx(45)
    length = reckon(mark("distance", End("head"), End("nose")), flat)
    assert (length.value, length.metres, length.unit) == (
        pytest.approx(35.355, abs=1e-3),
        pytest.approx(0.7071, abs=1e-4),
        "%",
    )
    corner = Plane(np.array([[1.0, 0.0], [0.0, 0.0], [0.0, 2.0]]), np.zeros((3, 2)), None)
    assert reckon(mark("angle", End("head"), End("nose"), End("ball")), corner).value == pytest.approx(90)
    gone = Plane(np.array([[0.3, 1.0]]), np.array([[0.1, 0.8]]), 2.0)
    assert reckon(mark("plumb"), gone).value == pytest.approx(10) and reckon(
        mark("level"), gone
    ).value == pytest.approx(10)
    assert reckon(mark("plumb", End("", 0.5, 0.5)), gone) is None and reckon(mark("word"), gone) is None
    unseen = Plane(np.array([[np.nan, 1.0]]), np.zeros((1, 2)), 2.0)
    assert reckon(mark("plumb"), unseen) is None
    # without a camera: shares of the picture, and a tilt without a side
    bare = Plane(np.array([[0.5, -0.5], [0.4, -0.2]]), np.zeros((2, 2)), None)
    assert reckon(mark("distance", End("", 0, 0), End("", 1, 1)), bare).unit == "picture"
    assert reckon(mark("line", End("", 0, 0), End("", 1, 1)), bare).value == pytest.approx(18.43, abs=0.01)


def test_when_a_mark_is_seen_and_what_it_is_on_the_other_side():
    assert mark("line", stop="release").shows(2.0, 2.001, 0.004) and not mark("line", stop="release").shows(
        2.0, None, 1
    )
    assert [mark("plumb", first=1.0, last=1.5).shows(t, None, 0.01) for t in (0.9, 1.0, 1.2, 1.5, 1.6)] == [
        False, True, True, True, False,
    ]  # fmt: skip
    free = mark("circle", End("", 0.2, 0.3), End("head"), first=1.0, clip="a.mp4")
    other = on_other_side(free, "n", put=3.0, clip="b.mp4", mirrored=True)
    assert (other.ends, other.first, other.clip, other.id) == ((End("", 0.8, 0.3), End("head")), 3.0, "b.mp4", "n")
    assert told("  <b>x</b>\n" + "y" * 10_000) == ("<b>x</b> " + "y" * 10_000)[:80]


def test_bad_marks_are_left_out_and_good_ones_travel(library, tmp_path):
    good = mark("line", End("lead_hip"), End("lead_knee"), words="thigh <i>")
    keep_chalk(library, {1: [good]}, "Mark")
    stored = fetch(library, 1)
    assert chalk_of(stored) == (good,)
    whole = asdict(good)
    spoilt = [
        {}, {**whole, "kind": "spiral"}, {**whole, "ends": [whole["ends"][0]]}, {**whole, "put": "soon"},
        {**whole, "put": float("inf")}, {**whole, "stop": "moon"}, {**whole, "ends": [{"landmark": "tail"}] * 2},
        {**whole, "ends": [{"x": 1e9}] * 2}, {**whole, "first": []}, 7, whole,
    ]  # fmt: skip
    assert chalk_of(with_chalk(stored, spoilt)) == (good,)
    finish(bundle_pair(library, open_pair(library, 1, 2).id, tmp_path / "pair.waxtwin"))
    other = Library(tmp_path / "other")
    opened = finish(open_bundle(other, tmp_path / "pair.waxtwin"))
    assert chalk_of(fetch(other, opened.pair[0])) == (good,)
    other.close()


@pytest.fixture
def app(desk_window, qtbot):
    app = desk_window()
    app.desk.view.show(shown="figure", gauges=False)
    app.do("chalk")
    app.desk.clock.hold("foot_contact")
    return app


def press(qtbot, stage, at):
    qtbot.mouseClick(stage, Qt.MouseButton.LeftButton, pos=QPoint(round(at.x()), round(at.y())))


def make(app, qtbot, kind, *joints, side="athlete"):
    """A mark made as somebody would: a tool, then clicks near joints."""
    qtbot.mouseClick(app.pair.chalk_panel.tools[kind], Qt.MouseButton.LeftButton)
    stage = app.pair.stages[side]
    for name in joints:
        press(qtbot, stage, stage.place().spot(End(name)) + QPoint(2, 1))
    return app.desk.chalk.of(side)[-1]


def number(app, side, chalk):
    return app.pair.stages[side].place().number(chalk)


def test_a_knee_angle_and_a_tilt_on_both_sides_go_with_the_body(app, qtbot):
    seam, board = app.pair.seam, app.desk.chalk
    angle = make(app, qtbot, "angle", "lead_hip", "lead_knee", "lead_ankle")
    assert angle.on_body and app.desk.clock.alone == "" and board.tool == ""
    knee = app.desk.pair.contrast.row("landing_knee_flexion")
    assert number(app, "athlete", angle).value == pytest.approx(180 - knee.athlete, abs=0.1)  # a track in space
    qtbot.keyClick(seam, Qt.Key.Key_X)
    [twin] = board.of("twin")
    assert twin.ends == angle.ends and board.chosen == ("twin", twin.id)
    assert number(app, "twin", twin).value == pytest.approx(180 - knee.twin, abs=0.1)
    tilt = make(app, qtbot, "line", "pelvis", "chest", side="twin")
    lean = app.desk.pair.contrast.row("landing_trunk_tilt")
    assert number(app, "twin", tilt).value == pytest.approx(lean.twin, abs=1)
    before = number(app, "twin", tilt).value
    app.desk.clock.hold("release")
    assert number(app, "twin", tilt).value > before + 10
    assert any("°" in app.pair.chalk_panel.list.item(n).text() for n in range(3))
    # kept, undone in one step, there again
    keys = [one.key for one in app.desk.pair.stored.values()]
    assert chalk_of(fetch(app.library.store, keys[1])) == board.of("twin")
    app.do("undo")
    qtbot.waitUntil(lambda: len(board.of("twin")) == 1 and not app.jobs.busy, timeout=60000)
    picture = app.pair.stages["athlete"].grab().toImage()
    qtbot.keyClick(seam, Qt.Key.Key_H)
    assert app.pair.stages["athlete"].grab().toImage() != picture
    board.choose("athlete", angle.id)
    qtbot.keyClick(seam, Qt.Key.Key_Delete)
    assert board.of("athlete") == ()


def test_a_plumb_line_stays_where_it_was_put_and_tells_the_gap(app, qtbot):
    app.desk.clock.hold("peak_knee")
    plumb = make(app, qtbot, "plumb", "lead_hip")
    assert plumb.first == pytest.approx(app.desk.clock.time) and number(app, "athlete", plumb).value == pytest.approx(0)
    body = app.pair.stages["athlete"].motion
    app.desk.clock.hold("foot_contact")
    times = [plumb.put, app.desk.clock.time]
    x = [body.body_at(t)[10:12, 0] for t in times]
    gone = number(app, "athlete", plumb)
    assert gone.metres == pytest.approx(x[1][1] - x[0][1], abs=1e-6) and gone.value > 20
    ends = app.pair.stages["athlete"].place().upright(plumb)
    app.desk.clock.hold("release")
    assert app.pair.stages["athlete"].place().upright(plumb) == ends
    app.desk.clock.hold("set")
    assert plumb not in [one for one in app.desk.chalk.of("athlete") if one.shows(app.desk.clock.time, None, 0.004)]


def test_ends_are_dragged_named_and_refused_where_nothing_is(app, qtbot, monkeypatch):
    stage, board = app.pair.stages["athlete"], app.desk.chalk
    line = make(app, qtbot, "line", "head", "navel")
    at, to = (stage.place().spot(End(name)) for name in ("navel", "lead_knee"))
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=at.toPoint())
    qtbot.mouseMove(stage, to.toPoint())
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=to.toPoint())
    assert board.find("athlete", line.id).ends[1] == End("lead_knee") and app.desk.clock.alone == ""
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("<h1>lean</h1>" + "x" * 10_000, True))
    app.pair.chalk_panel.buttons["name"].click()
    assert (
        board.find("athlete", line.id).words.startswith("<h1>lean</h1>xx")
        and len(board.find("athlete", line.id).words) == 80
    )
    qtbot.mouseClick(app.pair.chalk_panel.tools["circle"], Qt.MouseButton.LeftButton)
    press(qtbot, stage, QPoint(stage.width() - 12, 60))
    assert "put every end on a joint" in app.notice.text and board.begun == ("", ())
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_Escape)
    assert board.tool == "" and len(board.of("athlete")) == 1
    app.pair.chalk_panel.buttons["hide"].click()
    assert board.find("athlete", line.id).hidden
    app.pair.chalk_panel.span.activated.emit(1)
    assert board.find("athlete", line.id).stop == "foot_contact"


def test_marks_on_a_clip_before_landmarks_are_zoomed_along_and_hidden_when_it_is_exchanged(
    desk_window, qtbot, tmp_path
):
    app = desk_window(demo=False)
    app.intake.receive([film(tmp_path / f"{n}.mp4", count=40 + n, size=(320, 180)) for n in (1, 2)], 500)
    pair, board = app.desk.pair, app.desk.chalk
    qtbot.waitUntil(lambda: pair.contrast is not None and not app.jobs.busy, timeout=30000)
    one, two = (app.pair.stages[side] for side in ("athlete", "twin"))
    qtbot.waitUntil(lambda: one.shows_clip and two.shows_clip and one.clip.image is not None, timeout=10000)
    app.do("chalk")
    qtbot.mouseClick(app.pair.chalk_panel.tools["line"], Qt.MouseButton.LeftButton)
    middle = QPoint(one.width() // 2, one.height() // 2)
    press(qtbot, one, middle)
    press(qtbot, one, middle + QPoint(30, -30))
    [line] = board.of("athlete")
    assert number(app, "athlete", line).value == pytest.approx(45, abs=0.5) and line.first == line.last
    app.desk.closeups.nearer("athlete", 3.0, (0.5, 0.5), ("athlete", "twin"))
    spots = [one.place().spot(end) for end in line.ends]
    assert spots[1].x() - spots[0].x() == pytest.approx(90, abs=1)
    assert number(app, "athlete", line).value == pytest.approx(45, abs=0.5)
    app.do("chalk_copy")
    [copied] = board.of("twin")
    assert copied.ends == line.ends and copied.clip == pair.stored["twin"].clips[0].path.name != line.clip
    plain = one.grab().toImage()
    stored = pair.stored["athlete"]
    other = replace(line, clip="another.mp4")
    pair.renew({"athlete": with_chalk(stored, [asdict(other)])})
    assert one.grab().toImage() != plain
    assert "not on a stage now" in app.pair.chalk_panel.list.item(0).text()


def test_marks_are_on_the_pictures_that_are_sent_out(app, qtbot):
    pair = app.desk.pair.contrast
    names = ("A", "B")
    plain = PairImages(pair, names, False).picture("foot_contact", [])
    angle = make(app, qtbot, "angle", "lead_hip", "lead_knee", "lead_ankle")
    marked = PairImages(pair, names, False, chalk=app.desk.chalk.drawn_on(pair))
    assert marked.picture("foot_contact", []) != plain
    app.pair.chalk_panel.span.activated.emit(1)  # only at landing from now on
    marked = PairImages(pair, names, False, chalk=app.desk.chalk.drawn_on(pair))
    assert marked.picture("release", []) == PairImages(pair, names, False).picture("release", [])
    make(app, qtbot, "plumb", "lead_hip")
    other = replace(pair, athlete=replace(pair.athlete, delivery=delivery_of("wren", seed=3)))
    assert [one.id for one in app.desk.chalk.drawn_on(other)["athlete"]] == [angle.id]
    assert len(app.desk.chalk.drawn_on(pair)["athlete"]) == 2
    app.desk.chalk.show(False)
    assert app.desk.chalk.drawn_on(pair) == {}


def test_a_further_twin_is_marked_in_a_pair_of_its_own(app, qtbot):
    app.kept.add_twin(app.library.find("pell-ardmoor"))
    qtbot.waitUntil(lambda: app.desk.pair.analysis("twin2") is not None and not app.jobs.busy, timeout=60000)
    app.desk.chalk.take("plumb")
    stage = app.pair.stages["twin2"]
    press(qtbot, stage, stage.place().spot(End("lead_hip")))
    assert "in a pair of its own" in app.notice.text and app.desk.chalk.of("twin2") == ()
