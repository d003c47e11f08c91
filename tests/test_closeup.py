"""Stages looked at closely: nearer, moved, followed, lighter, mirrored; kept with the pair."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QNativeGestureEvent, QPointingDevice, QWheelEvent
from PySide6.QtWidgets import QApplication

from waxtwin.capture.light import lit
from waxtwin.core.camera import project
from waxtwin.core.landmarks import INDEX
from waxtwin.ui.model.closeup import Closeup


@pytest.fixture
def app(desk_window):
    return desk_window()


def wheel(stage, at, notches=1):
    place = QPointF(*at)
    event = QWheelEvent(
        place, stage.mapToGlobal(place), QPoint(), QPoint(0, 120 * notches), Qt.NoButton, Qt.NoModifier,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(stage, event)


def joint_at(stage, name="head"):
    """Where a joint is seen on a stage."""
    motion = stage.motion
    points = stage._points(motion, stage.desk.clock.time_of(stage.side))
    matrix = stage._framing().matrix() if stage.shows_clip else stage.figure_matrix(motion)
    return project(matrix, points[INDEX[name]])[0]


def test_the_wheel_comes_nearer_to_the_pointer_on_both_stages_or_one(app, qtbot):
    one, two = (app.pair.stages[side] for side in ("athlete", "twin"))
    qtbot.waitUntil(lambda: one.shows_clip and two.shows_clip, timeout=10000)
    before, other = joint_at(one), joint_at(two)
    wheel(one, before, 3)
    assert joint_at(one) == pytest.approx(before, abs=0.5)
    assert np.hypot(*(joint_at(one, "lead_ankle") - joint_at(one))) > 1.8 * np.hypot(*(joint_at(one) - before) + 1)
    assert app.desk.closeups.of("twin").zoom == app.desk.closeups.of("athlete").zoom == pytest.approx(1.25**3)
    # a drag moves what is seen, and takes no side
    was = joint_at(one)
    qtbot.mousePress(one, Qt.MouseButton.LeftButton, pos=QPoint(150, 200))
    qtbot.mouseMove(one, QPoint(130, 215))
    qtbot.mouseRelease(one, Qt.MouseButton.LeftButton, pos=QPoint(130, 215))
    assert joint_at(one) - was == pytest.approx([-20, 15], abs=1.0) and app.desk.clock.alone == ""
    qtbot.mouseDClick(one, Qt.MouseButton.LeftButton, pos=QPoint(150, 200))
    assert joint_at(one) == pytest.approx(before, abs=0.5) and joint_at(two) == pytest.approx(other, abs=0.5)
    app.desk.clock.take("")
    app.pair.nearer.linked.trigger()
    wheel(two, other)
    assert (app.desk.closeups.of("athlete").zoom, app.desk.closeups.of("twin").zoom) == (1.0, 1.25)
    wheel(two, other, -9)
    assert app.desk.closeups.of("twin") == Closeup()


def test_two_fingers_come_nearer(app):
    stage, at = app.pair.stages["twin"], QPointF(150, 180)
    event = QNativeGestureEvent(
        Qt.NativeGestureType.ZoomNativeGesture, QPointingDevice.primaryPointingDevice(), 2, at, at, at, 0.5, QPointF()
    )
    QApplication.sendEvent(stage, event)
    assert app.desk.closeups.of("twin").zoom == pytest.approx(1.5)


def test_a_followed_landmark_stays_in_the_middle_of_figure_and_clip(app, qtbot):
    stage = app.pair.stages["athlete"]
    app.pair.nearer.followed["throwing_hand"].trigger()
    for _ in range(4):
        qtbot.keyClick(app.pair.seam, Qt.Key.Key_Plus)
    for shown in ("clip", "figure"):
        app.desk.view.show(shown=shown)
        for stop in ("foot_contact", "release"):
            app.desk.clock.hold(stop)
            qtbot.waitUntil(lambda: stage.grab() is not None and not stage.clip.late, timeout=10000)
            at = joint_at(stage, "throwing_hand") / [stage.width(), stage.height()]
            assert at == pytest.approx([0.5, 0.5], abs=0.02), (shown, stop)
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_Backspace)
    assert app.desk.closeups.of("athlete").zoom == 1.0


def test_a_dark_clip_is_shown_lighter_and_mirrored_and_that_is_kept(app, qtbot):
    stage = app.pair.stages["athlete"]
    app.desk.view.show(shown="clip", gauges=False)
    qtbot.waitUntil(lambda: stage.shows_clip and not stage.clip.late, timeout=10000)

    def light():
        image = stage.grab().toImage()
        spots = [image.pixelColor(x, y).lightnessF() for x in range(20, image.width(), 37) for y in (120, 200, 300)]
        return sum(spots) / len(spots)

    before, hand = light(), joint_at(stage, "throwing_hand")
    app.do("picture")
    dialog = app.pair._picture
    dialog.sliders["athlete", "light"].setValue(60)
    assert light() > before + 0.1
    qtbot.mouseClick(dialog.turned["athlete"], Qt.MouseButton.LeftButton)
    assert stage.flips and abs(joint_at(stage, "throwing_hand")[0] - hand[0]) > 20
    # the gauges still lie on the body: the joint is where the mirrored picture shows it
    frame = stage._whole_frame()
    assert frame.flips and joint_at(stage, "head")[1] == pytest.approx(joint_at(stage, "nose")[1], abs=40)
    keys = [one.key for one in app.desk.pair.stored.values()]
    app.kept.save()
    app.pairs.take_pair(*keys[::-1])
    qtbot.waitUntil(lambda: not app.jobs.busy and app.desk.pair.stored["athlete"].key == keys[1], timeout=60000)
    assert app.desk.closeups.of("athlete") == Closeup()
    app.pairs.take_pair(*keys)
    qtbot.waitUntil(lambda: not app.jobs.busy and app.desk.pair.stored["athlete"].key == keys[0], timeout=60000)
    assert app.desk.closeups.of("athlete") == Closeup(light=0.6, turned=True)
    buttons = [
        b for b in dialog.findChildren(type(dialog.turned["twin"]).__mro__[1]) if b.text() == "As they were filmed"
    ]
    qtbot.mouseClick(buttons[0], Qt.MouseButton.LeftButton)
    assert app.desk.closeups.of("athlete") == Closeup() and dialog.sliders["athlete", "light"].value() == 0


def test_what_was_kept_badly_is_left_out(app):
    closeups = app.desk.closeups
    closeups.restore({
        "sides": {"athlete": {"zoom": 3.0, "x": 0.99, "y": "low"}, "twin": {"zoom": 1e9}, "third": 4},
        "linked": 0, "follow": "tail",
    })  # fmt: skip
    kept = closeups.of("athlete")
    assert (kept.zoom, kept.y) == (3.0, 0.5) and kept.x == pytest.approx(1 - 0.5 / 3)
    assert closeups.of("twin") == Closeup() and closeups.linked and closeups.follow == ""
    with pytest.raises(ValueError, match="tail"):
        closeups.keep_in_middle("tail")


def test_light_keeps_black_and_white_and_contrast_the_middle():
    grey = np.tile(np.array([0, 64, 128, 192, 255], np.uint8)[:, None, None], (1, 3, 4))
    light = lit(grey, 0.5, 0.0)[:, 0, 0].astype(int)
    assert light[0] == 0 and light[-1] == 255 and light[1] == pytest.approx(128, abs=2) and (np.diff(light) > 0).all()
    steep = lit(grey, 0.0, 0.5)[:, 0, 0].astype(int)
    assert steep[1] == 0 and steep[3] == 255 and steep[2] == pytest.approx(128, abs=2)
