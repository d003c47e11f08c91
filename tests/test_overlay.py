"""One body laid over the other, paths, the magnifier and the stages alone."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication

from conftest import clean
from waxtwin.core.body import Body
from waxtwin.core.ghost import ORIGINS, laid_over
from waxtwin.core.landmarks import INDEX
from waxtwin.ui.model.desk import SIDES


def bodies(time="release"):
    under, other = clean("wren"), clean("ines")
    return under, other, *(a.motion.sample(a.motion.points, np.array([a.time(time)]))[0] for a in (under, other))


def test_laid_over_at_each_origin_the_origins_meet():
    under, other, onto, points = bodies()
    at_rubber = laid_over(points, other, onto, under, origin="rubber", matched=False)
    np.testing.assert_array_equal(at_rubber, points)
    at_pelvis = laid_over(points, other, onto, under, origin="pelvis", matched=True)
    np.testing.assert_allclose(Body(at_pelvis).at("pelvis"), Body(onto).at("pelvis"), atol=1e-9)
    *_, landed, theirs = bodies("foot_contact")
    at_foot = laid_over(theirs, other, landed, under, origin="lead_foot", matched=True)
    ankle = INDEX["lead_ankle"]
    np.testing.assert_allclose(at_foot[ankle], landed[ankle], atol=1e-6)


def test_at_the_same_height_bones_are_as_long_as_a_body_of_that_height_has_them():
    under, other, onto, points = bodies()
    matched = laid_over(points, other, onto, under, origin="pelvis", matched=True)
    own = laid_over(points, other, onto, under, origin="pelvis", matched=False)
    a, b = INDEX["lead_hip"], INDEX["lead_knee"]
    ratio = np.linalg.norm(matched[a] - matched[b]) / np.linalg.norm(own[a] - own[b])
    assert ratio == pytest.approx(under.motion.height / other.motion.height)


def test_an_unseen_origin_leaves_the_fields_together_and_an_unknown_one_is_refused():
    under, other, onto, points = bodies()
    hidden = onto.copy()
    hidden[[INDEX["drive_hip"], INDEX["lead_hip"]]] = np.nan
    placed = laid_over(points, other, hidden, under, origin="pelvis", matched=False)
    np.testing.assert_array_equal(placed, points)
    gone = replace(other, events={})
    assert np.isfinite(laid_over(points, gone, onto, under, origin="lead_foot", matched=True)).any()
    with pytest.raises(ValueError, match="no origin"):
        laid_over(points, other, onto, under, origin="moon", matched=True)


def picture(window, side="athlete"):
    QApplication.processEvents()  # what came and went above the room has given its place back
    return window.pair.stages[side].grab().toImage()


def pick(window, words):
    next(action for action, _ in window.pair._over_actions if action.text() == words).trigger()


@pytest.mark.parametrize("shown", ["figure", "clip"])
def test_each_overlay_changes_the_stage_and_can_be_taken_off(desk_window, qtbot, shown):
    window = desk_window()
    window.desk.show(shown=shown)
    window.desk.hold("foot_contact")
    if shown == "clip":
        for stage in (window.pair.stages[side] for side in SIDES):
            qtbot.waitUntil(lambda stage=stage: stage.grab() is not None and stage._picture is not None, timeout=20000)
    plain = picture(window)
    for words, off in (
        ("Laid over, at the rubber", "Side by side"), ("Paths of hand, head, pelvis, knee", "Without paths"),
        ("Magnify the lead knee", "No magnifier"),
    ):  # fmt: skip
        pick(window, words)
        assert picture(window) != plain, words
        pick(window, off)
        assert picture(window) == plain, words


def test_the_key_goes_through_the_origins(desk_window):
    window = desk_window()
    seen = []
    for _ in range(len(ORIGINS) + 1):
        window.actions["ghost"].trigger()
        seen.append(window.desk.display.ghost)
    assert seen == [*ORIGINS, ""]
    window.desk.show(ghost="rubber")
    matched = picture(window)
    pick(window, "At their true heights")
    assert picture(window) != matched
    ticked = {action.text() for action, _ in window.pair._over_actions if action.isChecked()}
    shown = {"Laid over, at the rubber", "At their true heights", "Without paths", "No magnifier"}
    assert shown | {"Seen through each other", "Athlete and twins"} == ticked


def test_a_left_hander_laid_over_faces_the_same_way(desk_window, qtbot):
    window = desk_window()
    window.take("twin", window.librarian.find("juno-wexcombe"))
    qtbot.waitUntil(lambda: not window.jobs.busy and window.desk.contrast is not None, timeout=60000)
    window.desk.show(shown="figure", ghost="pelvis")
    window.desk.hold("release")
    assert picture(window) != picture(window, "twin")
    window.desk.show(mirrored=False)
    assert picture(window, "twin") is not None  # painted without a fault


def test_stages_alone_and_back(desk_window):
    window = desk_window()
    window.actions["alone"].trigger()
    assert window.frame.isFullScreen() and not window.frame.rail.isVisible()
    assert not window.pair.panel.isVisible() and window.pair.stages["twin"].isVisible() and window.pair.seam.isVisible()
    window.actions["alone"].trigger()
    assert not window.frame.isFullScreen() and window.frame.rail.isVisible() and window.pair.panel.isVisible()
