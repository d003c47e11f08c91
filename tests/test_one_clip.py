"""One ordinary clip: what it cannot know, twelve clicks, an estimate in space with its doubt, what a model is off."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractButton

from conftest import clean, delivery_of, idle, planar, track_of, truth
from test_marks import seen_from_side
from test_placing import marks_in
from test_prepare import click_picture, give_marks, prepared, press, shown_text  # noqa: F401 - a fixture among them
from waxtwin.core.analysis import analyse, resolve
from waxtwin.core.asks import ARM, CLICKS, HEIGHT, STOP, asks
from waxtwin.core.camera import Camera, Sight, look_at, project
from waxtwin.core.depth.fit import OneCamera, estimate_steps
from waxtwin.core.depth.scene import Moments
from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import HAND, MODEL, Marks
from waxtwin.core.measures.registry import HIDDEN
from waxtwin.core.model_offsets import MOMENTS, offsets_of
from waxtwin.core.model_offsets_table import OFF
from waxtwin.core.placing import body_camera, place, sight_of, throwing_arm
from waxtwin.core.repair import cleaned
from waxtwin.core.steps import finish
from waxtwin.core.stops import StopsByHand
from waxtwin.library.in_space import CLICKED
from waxtwin.simulate.clips import SIZE

SEEN = Sight(True, 0.0, 8.0, 0.02, True, True, 1.5, "open side")


def from_side(name="wren", height=1.76, **said):
    return replace(delivery_of(name), track=planar(track_of(name)), height=height, sight=replace(SEEN, **said))


def as_model(marks):
    """Marks as if a model had found them."""
    seen = np.isfinite(marks.points[..., 0])
    return replace(marks, source=np.where(seen, MODEL, 0).astype(np.uint8), confidence=0.9 * seen)


# what is asked for -----------------------------------------------------------------------------------------------------
def test_what_a_clip_cannot_know_is_asked_in_order_of_what_it_brings():
    known = analyse(from_side())
    assert [one.kind for one in asks(known)][:1] == [CLICKS]  # a second clip means another day: last
    bare = analyse(from_side(height=None, scaled=False))
    by_kind = {one.kind: one for one in asks(bare)}
    assert by_kind[HEIGHT].brings >= 10 and by_kind[HEIGHT].told.startswith("Type the standing height: ")
    lost = analyse(replace(from_side(), by_hand=StopsByHand(rejected=frozenset({"foot_contact"}))))
    first = asks(lost)[0]
    assert first.kind == STOP and first.stop == "foot_contact" and first.brings > 20
    again = analyse(replace(from_side(), by_hand=StopsByHand({"foot_contact": truth("wren")[0]["foot_contact"]})))
    gained = sum(v.available for v in again.measures.values()) - sum(v.available for v in lost.measures.values())
    assert gained >= first.brings  # it brings what was promised


# what a model is off ---------------------------------------------------------------------------------------------------
def test_what_a_model_is_off_is_taken_out_and_its_scatter_is_doubt():
    assert {"open side", "front", "rear"} <= set(OFF)
    stops = truth("wren")[0]
    offsets = offsets_of("open side", 0.0, 1, stops)
    wrong = from_side()
    off = offsets.at(wrong.track.times) * 1.76
    wrong = replace(wrong, track=replace(wrong.track, points=wrong.track.points + off))
    true = clean("wren").measures["release_trunk_tilt"].value
    plain = analyse(replace(wrong, sight=replace(SEEN, view=""))).measures["release_trunk_tilt"].value
    put_right = resolve(analyse(wrong), 40).measures["release_trunk_tilt"]
    assert abs(plain - true) > 4 and put_right.value == pytest.approx(true, abs=1.5)
    assert (
        put_right.sd
        > resolve(analyse(replace(wrong, sight=replace(SEEN, view=""))), 40).measures["release_trunk_tilt"].sd * 0.9
    )
    assert offsets_of("open side", 0.0, 1, {"release": 2.0}) is None and offsets.times.size == len(MOMENTS)


def test_sides_are_put_right_by_the_lifted_knee_and_where_limbs_pass_too_fast():
    marks = as_model(marks_in("wren", "R", "front"))
    lift = int(truth("wren")[0]["peak_knee"] * 240)
    wrong = marks.exchange("legs", lift - 30, lift + 40).exchange("arms", 300, 360)
    # a model changes over within a few frames, so that limbs seem to pass through one another
    for start in (300, 360):
        a, b = wrong.points[start - 2], wrong.points[start + 2]
        for k, share in ((-1, 0.25), (0, 0.5), (1, 0.75)):
            wrong.points[start + k] = a + share * (b - a)
    mended = cleaned(wrong)
    for k in (lift, 320, 340):
        for name in ("lead_knee", "throwing_wrist"):
            assert mended.points[k, INDEX[name]] == pytest.approx(marks.points[k, INDEX[name]], abs=2), (k, name)


@pytest.mark.parametrize(("name", "throws"), [("wren", "R"), ("pell", "L")])
@pytest.mark.parametrize("view", ["side", "rear", "front"])
def test_the_arm_is_told_from_the_lifted_knee_and_the_hand_whatever_it_was_taken_for(name, throws, view):
    marks = as_model(marks_in(name, throws, view))
    other = "L" if throws == "R" else "R"
    assert throwing_arm(marks, throws) == throws
    assert throwing_arm(marks.other_arm(), other) == throws
    mended = cleaned(marks.other_arm().other_arm())  # named twice over is named as before
    assert np.allclose(mended.points, marks.points, atol=1e-6, equal_nan=True)
    assert throwing_arm(Marks.empty(marks.times), "R") is None


# in space --------------------------------------------------------------------------------------------------------------
def clicked(name, throws):
    """A side clip's marks that waver a little, with twelve clicks of a centimetre's scatter, and its camera."""
    side = -1.0 if throws == "R" else 1.0
    matrix = look_at(np.array([0.85, side * 8.5, 1.15]), np.array([0.85, 0, 0.86]), 2050.0, SIZE)
    rng = np.random.default_rng(4)
    track = track_of(name, fps=120.0)
    true = track.points
    flat, _ = project(matrix, true + rng.normal(0, 0.004, true.shape))
    marks = as_model(replace(Marks.empty(track.times), points=flat))
    at, _ = project(matrix, true + rng.normal(0, 0.010, true.shape))
    stops = truth(name)[0]
    for share in (-0.2, 0.0, 0.4):
        frame = round((stops["foot_contact"] + share * (stops["release"] - stops["foot_contact"])) * 120)
        for joint in CLICKED:
            marks = marks.put(frame, INDEX[joint], *at[frame, INDEX[joint]])
    throw = marks.window(stops["peak_knee"] - 0.05, stops["release"] + 0.15)  # what is fitted takes its time by frames
    return throw, Camera(matrix, SIZE), stops


@pytest.fixture(scope="module")
def fitted():
    marks, camera, stops = clicked("pell", "L")
    moments = Moments(stops["peak_knee"], stops["foot_contact"], stops["release"])
    return finish(estimate_steps(OneCamera(marks, camera, "L", 1, 1.84, moments))), marks, stops


def test_a_left_hander_is_fitted_in_space_within_its_doubt(fitted):
    found, _, stops = fitted
    k = int(np.argmin(np.abs(found.times - stops["foot_contact"])))

    def turn(points, a, b):
        line = points[..., INDEX[b], :] - points[..., INDEX[a], :]
        return np.degrees(np.arctan2(line[..., 1], line[..., 0]))

    track = track_of("pell", fps=120.0).canonical("L")
    true = track.points[int(np.argmin(np.abs(track.times - stops["foot_contact"])))]
    for a, b in (("drive_hip", "lead_hip"), ("throwing_shoulder", "glove_shoulder")):
        off = turn(found.points[k], a, b) - turn(true, a, b)
        spread = turn(found.draws[:, k].astype(float), a, b).std()
        assert abs(off) < 22 and abs(off) < 3.5 * max(spread, 4.0), (a, off, spread)
    lengths = np.linalg.norm(found.points[:, INDEX["lead_knee"]] - found.points[:, INDEX["lead_ankle"]], axis=1)
    assert lengths.std() < 0.02 * 1.84  # a shin keeps its length
    assert found.draws.shape[0] == 16 and np.isfinite(found.points).all()


def test_an_estimate_is_shown_as_one_with_its_doubt_and_only_where_the_gate_is_open(fitted):
    found, _, stops = fitted
    space = replace(found, why="twelve clicks", clicked=True)
    by_hand, own = StopsByHand(stops), replace(SEEN, by_model=False)  # these marks are not a model's
    throw = replace(delivery_of("pell"), track=planar(track_of("pell")), sight=own, by_hand=by_hand)
    shown = resolve(analyse(replace(throw, in_space=space)), 40)
    separation = shown.measures["landing_separation"]
    true = clean("pell").measures["landing_separation"].value
    assert separation.estimated and separation.depth == "estimated" and separation.sd > 5
    assert abs(separation.value - true) < 2 * separation.sd
    assert shown.measures["landing_trunk_tilt"].depth == "measured"  # what is seen stays as it is seen
    assert not shown.measures["layback_elbow_lag"].available  # shut
    # how far off it is from elsewhere nobody knows
    for elsewhere in (replace(own, view="closed side"), replace(own, yaw=-25.0)):
        assert not analyse(replace(throw, in_space=space, sight=elsewhere)).measures["landing_separation"].available
    alone = analyse(replace(throw, in_space=replace(space, clicked=False)))
    assert not alone.measures["landing_separation"].available
    found_by_model = analyse(replace(throw, in_space=space, sight=SEEN)).measures["landing_separation"]
    assert found_by_model.value > separation.value + 5  # what estimates from a model's marks are off is taken out


def test_too_little_for_an_estimate_is_one_sentence():
    marks, camera, stops = clicked("pell", "L")
    hidden = marks.points.copy()
    hidden[:, INDEX["drive_hip"]] = hidden[:, INDEX["lead_hip"]] = hidden[:, INDEX["glove_shoulder"]] = np.nan
    moments = Moments(stops["peak_knee"], stops["foot_contact"], stops["release"])
    with pytest.raises(TrackError, match="too few frames"):
        finish(estimate_steps(OneCamera(replace(marks, points=hidden), camera, "L", 1, 1.84, moments)))


# in the window ---------------------------------------------------------------------------------------------------------
def test_one_press_then_what_would_bring_most_then_twelve_clicks(prepared, qtbot, monkeypatch):  # noqa: F811
    fits = []

    def once(footage):  # the same clicks give the same estimate
        if not fits:
            fits.append((yield from estimate_steps(footage)))
        return fits[0]

    monkeypatch.setattr("waxtwin.core.depth.fit.estimate_steps", once)
    app, piece = prepared, prepared.prepare.state
    pages = app.prepare.pages
    app.prepare.flow.trim(1.0, 2.5)
    give_marks(app)
    idle(qtbot, app)
    press(qtbot, pages["clip"], "Prepare it")  # landmarks are there: straight on to what is left
    assert piece.step == "ready"
    offered = [b.text() for b in pages["ready"].findChildren(QAbstractButton) if b.isVisibleTo(pages["ready"])]
    assert any(text.startswith("Type the standing height: ") for text in offered)
    press(qtbot, pages["ready"], next(text for text in offered if text.startswith("Type the standing height")))
    assert piece.step == "clip"
    pages["clip"].name.setText("Sam Netherby")
    pages["clip"].tall.setValue(1.76)
    pages["clip"].name.editingFinished.emit()
    idle(qtbot, app)
    piece.go_to_step("ready")
    offered = [b.text() for b in pages["ready"].findChildren(QAbstractButton) if b.isVisibleTo(pages["ready"])]
    press(qtbot, pages["ready"], next(text for text in offered if text.startswith("Twelve clicks")))
    press(qtbot, pages["landmarks"], "Stop clicking")
    assert piece.aim.kind == "look"
    press(qtbot, pages["landmarks"], "Begin the clicks")
    assert piece.step == "landmarks" and piece.aim.kind == "mark" and piece.aim.target in CLICKED
    assert "1: click the" in shown_text(pages["landmarks"]) and pages["landmarks"].joint.isVisibleTo(pages["landmarks"])
    true = seen_from_side(jitter=0.0).points
    qtbot.waitUntil(lambda: app.prepare.picture._shown is not None, timeout=10000)
    for _ in range(12):
        frame, joint = piece.frame, piece.aim.target
        click_picture(qtbot, app, *true[frame, INDEX[joint]])
        idle(qtbot, app)
        assert piece.view.marks.source[frame, INDEX[joint]] == HAND
    qtbot.waitUntil(lambda: piece.analysis is not None and piece.analysis.delivery.in_space is not None, timeout=60000)
    idle(qtbot, app)
    assert piece.analysis.measures["landing_separation"].estimated
    assert "Estimated from 12 clicks" in pages["landmarks"].clicks.text()
    piece.go_to_step("ready")
    assert "estimated from one camera" in shown_text(pages["ready"])
    press(qtbot, pages["landmarks"], "Drop the estimate")
    idle(qtbot, app)
    assert piece.analysis.delivery.in_space is None
    app.actions["undo"].trigger()
    idle(qtbot, app)
    assert piece.analysis.delivery.in_space is not None
    press(qtbot, pages["landmarks"], "Drop the estimate")
    idle(qtbot, app)
    assert piece.analysis.delivery.in_space is None
    press(qtbot, pages["landmarks"], "Estimate in space")  # the clicks are still there
    idle(qtbot, app)
    assert piece.analysis.delivery.in_space is not None and piece.analysis.delivery.in_space.clicked
    give_marks(app, as_model(seen_from_side(jitter=2.0)))  # other marks: what was worked out from the old ones goes
    idle(qtbot, app)
    assert piece.analysis.delivery.in_space is None


def test_what_is_asked_for_is_shown_where_it_is_done(prepared, qtbot):  # noqa: F811
    app, piece = prepared, prepared.prepare.state
    give_marks(app)
    idle(qtbot, app)
    app.prepare.flow.keep(lambda library: None)
    found = piece.analysis
    piece.set_analysis(replace(found, measures={**found.measures, "stride_length": replace(
        found.measures["stride_length"], value=None, reason="the stop “foot touches” is not certain enough")}))  # fmt: skip
    ask = next(one for one in asks(piece.analysis) if one.kind == STOP)
    app.prepare.flow.do(ask)
    stops = app.prepare.pages["stops"]
    assert piece.step == "stops" and stops.list.currentItem().data(Qt.ItemDataRole.UserRole) == "foot_contact"
    assert abs(piece.time - found.events["foot_contact"].time) < 0.01
    lost = replace(found.measures["release_extension"], value=None, reason=HIDDEN)
    piece.set_analysis(replace(found, measures={**found.measures, "release_extension": lost}))
    ask = next(one for one in asks(piece.analysis) if one.kind == ARM)
    piece.go_to_step("ready")
    press(qtbot, app.prepare.pages["ready"], ask.told)  # to the hand, where it begins to be fastest
    assert (piece.step, piece.aim.kind, piece.landmark) == ("landmarks", "mark", "throwing_hand")
    assert piece.time == pytest.approx(found.events["release"].time - 0.030, abs=0.005)
    elsewhere = replace(found.motion, sight=replace(found.motion.sight, view="closed side"))
    piece.set_analysis(replace(found, motion=elsewhere))
    landmarks = app.prepare.pages["landmarks"]
    assert not landmarks.estimate.isEnabled() and "square from the open side" in shown_text(landmarks)


def test_a_body_camera_of_a_clip_from_the_front_scales_too():
    marks = as_model(marks_in("wren", "R", "front"))
    camera = body_camera(marks, "front", "R", 1.76, SIZE)
    found = analyse(
        replace(delivery_of("wren"), track=place(marks, camera, "front"), sight=sight_of(camera, "front", marks, 1.76))
    )
    assert sum(found.measures[name].available for name in found.measures) >= 33
    true = clean("wren").measures["release_slot"].value
    assert found.measures["release_slot"].value == pytest.approx(true, abs=8)
