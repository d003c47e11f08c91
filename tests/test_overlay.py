"""One body laid over the other, paths, the magnifier and the stages alone."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QApplication, QWidget

from conftest import clean
from waxtwin.core.body import Body
from waxtwin.core.estimated import InSpace
from waxtwin.core.ghost import ORIGINS, laid_over
from waxtwin.core.joint_doubt import joint_doubt
from waxtwin.core.landmarks import INDEX
from waxtwin.figure.moving import pose_at
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.rooms.pair.doubt import paint_halos
from waxtwin.ui.shared import wax_figure


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


def test_joints_have_a_halo_as_wide_as_they_may_lie_elsewhere():
    throw = clean("wren")
    time = throw.time("release")
    surely = joint_doubt(throw.motion, time)
    assert np.nanmax(surely) < 0.01  # a laboratory's track
    by_model = replace(
        throw.motion, sight=replace(throw.motion.sight, by_model=True), _cache={},
        trust=np.where(np.arange(len(INDEX)) == INDEX["glove_elbow"], 0.2, 1.0) * np.ones((throw.motion.times.size, 1)),
    )  # fmt: skip
    wavers = joint_doubt(by_model, time)
    assert wavers[INDEX["glove_elbow"]] == pytest.approx(1.8 * wavers[INDEX["throwing_elbow"]], rel=0.3)
    assert wavers[INDEX["throwing_elbow"]] > 2 * wavers[INDEX["throwing_shoulder"]] > 0.01
    body = throw.motion.body_at(time)
    draws = body + np.random.default_rng(1).normal(0, 0.05, (40, 1, *body.shape))
    assert joint_doubt(throw.motion, time, InSpace(np.array([time]), body[None], draws))[3] == pytest.approx(
        0.05, rel=0.3
    )

    def painted(doubt):
        image = QImage(400, 440, QImage.Format.Format_ARGB32)
        image.fill(0)
        painter = QPainter(image)
        paint_halos(painter, wax_figure.figure_matrix((400, 440), throw.motion.height, 0.0, 0.07), body, doubt)
        painter.end()
        return int(np.count_nonzero(np.frombuffer(image.constBits(), np.uint8)))

    assert painted(surely) == 0 < painted(wavers) < painted(2 * wavers) < painted(np.full(len(INDEX), 0.2))


def picture(app, side="athlete"):
    QApplication.processEvents()  # what came and went above the room has given its place back
    return app.pair.stages[side].grab().toImage()


def options(app):
    return [*app.pair._over_actions, *app.pair.nearer.magnified]


def pick(app, words):
    next(action for action, _ in options(app) if action.text() == words).trigger()


@pytest.mark.parametrize("shown", ["figure", "clip"])
def test_each_overlay_changes_the_stage_and_can_be_taken_off(desk_window, qtbot, shown):
    app = desk_window()
    app.desk.view.show(shown=shown)
    app.desk.clock.hold("foot_contact")
    if shown == "clip":
        for stage in (app.pair.stages[side] for side in SIDES):
            qtbot.waitUntil(
                lambda stage=stage: stage.grab() is not None and stage.clip.image is not None, timeout=20000
            )
    plain = picture(app)
    for words, off in (
        ("Laid over, at the rubber", "Side by side"), ("Paths of hand, head, pelvis, knee", "Without paths"),
        ("Magnify the lead knee", "No magnifier"),
    ):  # fmt: skip
        pick(app, words)
        assert picture(app) != plain, words
        pick(app, off)
        assert picture(app) == plain, words


def test_the_key_goes_through_the_origins(desk_window):
    app = desk_window()
    seen = []
    for _ in range(len(ORIGINS) + 1):
        app.actions["ghost"].trigger()
        seen.append(app.desk.view.display.ghost)
    assert seen == [*ORIGINS, ""]
    app.desk.view.show(ghost="rubber")
    matched = picture(app)
    pick(app, "At their true heights")
    assert picture(app) != matched
    ticked = {action.text() for action, _ in options(app) if action.isChecked()}
    shown = {"Laid over, at the rubber", "At their true heights", "Without paths", "No magnifier", "One view"}
    assert shown | {"Seen through each other", "Athlete and twins"} == ticked


def test_a_left_hander_laid_over_faces_the_same_way(desk_window, qtbot):
    app = desk_window()
    app.pairs.take("twin", app.library.find("juno-wexcombe"))
    qtbot.waitUntil(lambda: not app.jobs.busy and app.desk.pair.contrast is not None, timeout=60000)
    app.desk.view.show(shown="figure", ghost="pelvis")
    app.desk.clock.hold("release")
    assert picture(app) != picture(app, "twin")
    app.desk.view.show(mirrored=False)
    assert picture(app, "twin") is not None  # painted without a fault


def test_stages_alone_and_back(desk_window):
    app = desk_window()
    app.actions["alone"].trigger()
    assert app.window.isFullScreen() and not app.window.rail.isVisible()
    assert not app.pair.panel.isVisible() and app.pair.stages["twin"].isVisible() and app.pair.seam.isVisible()
    app.actions["alone"].trigger()
    assert not app.window.isFullScreen() and app.window.rail.isVisible() and app.pair.panel.isVisible()


def test_what_was_begun_is_what_is_painted_on_small_stages_too(qtbot):
    motion, painted = clean("wren").motion, []
    figure = wax_figure.Figure(pose_at(motion, 2.0), "#D59A3C")

    class Small(QWidget):
        def paintEvent(self, event):  # noqa: N802
            painter = QPainter(self)
            wax_figure.paint_figure(painter, self.matrix, figure)
            painter.end()
            painted.append(len(wax_figure._PICTURES._begun))

    for size in (150, 420):
        widget = Small()
        qtbot.addWidget(widget)
        widget.resize(size, size)
        widget.matrix = wax_figure.figure_matrix((size, size), motion.height, 0.0, 0.1)
        wax_figure._PICTURES._begun.clear()
        wax_figure.begin_figure(widget, widget.matrix, figure)
        widget.grab()
        assert painted[-1] == 1, "nothing was painted that nobody sees"


def test_a_picture_that_is_looked_at_again_is_not_painted_again(monkeypatch):
    """Stepping back and forth over an instant, as one does, with others in between."""
    painted, pictures = [], wax_figure._Pictures()
    monkeypatch.setattr(wax_figure, "_painted", painted.append)
    for other in range(3 * wax_figure._KEPT):
        pictures.get("here")
        pictures.begin(other)
        pictures.get(other)
    assert painted.count("here") == 1 and len(painted) == 3 * wax_figure._KEPT + 1
