"""Clips as they come from elsewhere: frames that repeat, interlaced, uneven, slow motion that nobody stated."""

from dataclasses import replace

import numpy as np
import pytest

from conftest import idle, planar, track_of, truth
from films import bars, film, numbered_picture, woven
from test_marks import seen_from_side
from test_one_clip import as_model, from_side
from test_prepare import give_marks, prepared, press, shown_text  # noqa: F401 - a fixture among them
from waxtwin.capture.clip import ClipReader, clip_facts
from waxtwin.capture.frame_check import fresh_frames
from waxtwin.core.analysis import NO_THROW, analyse
from waxtwin.core.asks import PACE, asks
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.registry import NO_PACE, TIMED
from waxtwin.core.pace import likely_rate, seems_slowed
from waxtwin.core.placing import body_camera, place
from waxtwin.core.repeats import repeated
from waxtwin.core.steps import finish
from waxtwin.core.stops import StopsByHand
from waxtwin.core.track import Track
from waxtwin.library.arrays import pack_marks, unpack_marks


# frames that repeat ----------------------------------------------------------------------------------------------------
def changes(shown):
    """How much each frame differs from the one before, when frame `i` shows picture `shown[i]`; slow, quick, still."""
    at = np.cumsum(np.r_[np.full(30, 0.02), np.linspace(0.1, 12, 60), np.linspace(12, 0.1, 40), np.zeros(30)])
    return np.abs(np.diff(at[shown], prepend=0.0)) + 0.01


@pytest.mark.parametrize(("pattern", "share"), [((0, 0), 1 / 2), ((0, 0, 1, 1, 1), 3 / 5), ((0, 0, 0), 2 / 3)])
def test_repeats_that_keep_a_rhythm_are_found_in_still_stretches_too(pattern, share):
    length = len(pattern)
    shown = np.array([(i // length) * (max(pattern) + 1) + pattern[i % length] for i in range(150)])
    found = repeated(changes(shown))
    assert np.array_equal(found[1:], np.diff(shown) == 0) and found.mean() == pytest.approx(share, abs=0.02)


def test_single_repeats_are_found_where_something_moves_and_honest_clips_have_none():
    shown = np.arange(150)
    assert not repeated(changes(shown)).any() and not repeated(np.zeros(150)).any() and not repeated(np.zeros(3)).any()
    shown[70:], shown[90:] = shown[70:] - 1, shown[90:] - 2
    assert np.flatnonzero(repeated(changes(shown))).tolist() == [70, 90]


def test_a_clip_at_twice_its_rate_is_seen_through_and_marks_are_used_once(tmp_path):
    doubled = film(tmp_path / "doubled.mp4", picture=lambda k, *size: numbered_picture(k // 2, *size))
    fresh = finish(fresh_frames(doubled))
    assert np.array_equal(fresh, np.arange(60) % 2 == 0)
    assert finish(fresh_frames(film(tmp_path / "plain.mp4"))).all()
    true = as_model(seen_from_side(jitter=0.0))
    keeps = np.arange(true.times.size) % 2 == 0
    once = replace(true, fresh=keeps).once()
    again = true.repeating(keeps, once)
    assert again.rate() == pytest.approx(120, abs=0.5) and again.times.size == true.times.size
    assert np.array_equal(again.points[1], true.points[0], equal_nan=True)
    assert again.told_repeats().startswith(f"{int((~keeps).sum())} of {keeps.size} frames only repeat")
    assert true.told_repeats() == "" and true.once() is true
    kept = unpack_marks(pack_marks(again))
    assert np.array_equal(kept.fresh, keeps) and kept.window(0.0, 1.0).times.size == 121
    # what is measured is what the pictures show, not a hand that stops at every other frame
    camera = body_camera(true, "open side", "R", 1.76, (1280, 720))
    found, honest = (
        analyse(replace(from_side(), track=place(marks.once(), camera, "open side")))
        .measures["peak_speed_throwing_hand"]
        .value
        for marks in (again, true)
    )
    assert found == pytest.approx(honest, rel=0.06)


# interlaced ------------------------------------------------------------------------------------------------------------
def test_an_interlaced_clip_is_taken_apart_in_the_window_and_comes_back_by_undo(prepared, qtbot, tmp_path):  # noqa: F811
    app, state = prepared, prepared.prepare.state
    clip = film(tmp_path / "match.mp4", count=30, rate=30, picture=woven, crf="10")
    assert clip_facts(clip).woven and not clip_facts(film(tmp_path / "thirty.mp4", rate=30)).woven
    app.intake.bring([clip])
    idle(qtbot, app)
    qtbot.waitUntil(lambda: state.view is not None and state.view.name == "match.mp4" and state.times.size > 0)
    page = app.prepare.pages["clip"]
    assert "interlaced" in shown_text(page)
    press(qtbot, page, "Take its fields apart")
    idle(qtbot, app)
    qtbot.waitUntil(lambda: state.times.size == 60)
    assert state.view.name == "match fields.mp4" and not page.fields.isVisibleTo(page)
    with ClipReader(state.view.path) as reader:
        assert reader.facts.rate == pytest.approx(60)
        for i in (20, 21, 40):
            off = [
                np.abs(reader.read(i)[44:92, :, 0] - bars(k, 320, 96)[44:92, :, 2].astype(float)).mean()
                for k in range(12)
            ]
            assert np.argmin(off) == i % 12  # each field is its own instant
    app.actions["undo"].trigger()
    idle(qtbot, app)
    assert state.view.name == "match.mp4" and page.fields.isVisibleTo(page)


# slow motion -----------------------------------------------------------------------------------------------------------
def slowed(times, marks=None):
    marks = as_model(seen_from_side(jitter=1.0)) if marks is None else marks
    return replace(marks, times=marks.times * times)


@pytest.mark.parametrize("times", [1, 3, 4, 8, 16])
def test_slow_motion_is_told_by_how_people_throw(times):
    marks = slowed(times)
    assert seems_slowed(marks) == pytest.approx(times, rel=0.35)
    rate = likely_rate(marks, 240 / times)
    assert rate is None if times == 1 else abs(np.log2(rate / 240)) < 0.8
    jumping = marks.points.copy()
    jumping[100:102, 7:15] += 200.0  # marks that leap to somewhere else and back are no throw
    assert seems_slowed(replace(marks, points=jumping)) == pytest.approx(times, rel=0.35)
    still = replace(marks, points=np.repeat(marks.points[:1], marks.times.size, axis=0))
    assert seems_slowed(still) is None and likely_rate(still, 30.0) is None


def test_nothing_timed_is_shown_before_the_rate_is_stated_and_positions_are():
    found, known = analyse(from_side(paced=False)), analyse(from_side())
    for name, item in MEASURES.items():
        if item.unit in TIMED:
            assert not found.measures[name].available
        else:
            assert found.measures[name].value == known.measures[name].value
    lost = sum(found.measures[name].reason == NO_PACE for name in MEASURES)
    assert lost > 15 and next(one for one in asks(found) if one.kind == PACE).brings == lost


def test_a_likely_rate_is_taken_by_one_press_and_stops_stay_on_their_frames(prepared, qtbot, tmp_path):  # noqa: F811
    app, state = prepared, prepared.prepare.state
    every = as_model(seen_from_side(jitter=1.0))
    marks = replace(every, fresh=np.arange(every.times.size) % 2 == 0).once()  # as taken at 120 frames a second
    app.intake.bring([film(tmp_path / "slow.mp4", count=marks.times.size, rate=30)])
    idle(qtbot, app)
    qtbot.waitUntil(lambda: state.view.name == "slow.mp4" and state.times.size == marks.times.size)
    give_marks(app, replace(marks, times=state.times))
    idle(qtbot, app)
    page, stops = app.prepare.pages["clip"], app.prepare.pages["stops"]
    assert state.view.likely_fps == 120 and not state.view.paced
    assert any("seems slowed about 4 times" in one for one in state.left()["clip"])
    # the stops are where they are at the true pace, and nothing that has time in it is told
    assert state.analysis.events["release"].time == pytest.approx(truth("wren")[0]["release"], abs=0.015)
    assert state.analysis.measures["landing_to_release"].reason == NO_PACE
    assert state.analysis.measures["landing_trunk_tilt"].available
    state.go_to_step("stops")
    stops.list.setCurrentRow(8)
    state.go(260)
    press(qtbot, stops, "Set it at this frame")
    idle(qtbot, app)
    state.go_to_step("clip")
    page.rate.setValue(240)
    page.rate.editingFinished.emit()
    idle(qtbot, app)
    assert state.analysis.events["release"].time == pytest.approx(260 / 240, abs=1e-3)
    app.actions["undo"].trigger()
    idle(qtbot, app)
    assert state.analysis.events["release"].time == pytest.approx(260 / 120, abs=1e-3)
    press(qtbot, page, "It seems slowed: taken at 120 frames/s. Take it")
    idle(qtbot, app)
    assert state.view.capture_fps == 120 and not page.likely.isVisibleTo(page)
    assert state.analysis.measures["landing_to_release"].available


# clips that do not hold the whole throw ----------------------------------------------------------------------------------
def part(name, axis, start=0.0, stop=9.0):
    """What one camera shows of a throw from `start` to `stop` seconds."""
    track = planar(track_of(name), axis)
    inside = (track.times >= start) & (track.times <= stop)
    cut = Track(track.times[inside], track.points[inside], track.confidence[inside])
    return analyse(replace(from_side(name), track=cut))


@pytest.mark.parametrize("axis", [1, 0])
@pytest.mark.parametrize("name", ["wren", "pell"])
def test_a_clip_that_ends_before_release_gives_no_stop_and_says_so(name, axis):
    landed = truth(name)[0]["foot_contact"]
    for stop in (landed + 0.03, landed - 0.2):
        found = part(name, axis, stop=stop)
        assert not found.events and not found.withheld and found.warnings.count(NO_THROW) == 1
        assert "release" not in found.withheld and found.measures["stride_length"].value is None
    assert NO_THROW not in part(name, axis).warnings and "release" in part(name, axis).events
    by_hand = replace(from_side(name), by_hand=StopsByHand({"foot_contact": landed}))
    inside = planar(track_of(name), 1)
    keep = inside.times <= landed + 0.03
    shown = analyse(replace(by_hand, track=Track(inside.times[keep], inside.points[keep], inside.confidence[keep])))
    assert shown.measures["stride_length"].value is not None  # what was set by hand is measured all the same


@pytest.mark.parametrize("axis", [1, 0])
def test_a_clip_that_begins_after_the_lift_leaves_lift_and_beginning_out(axis):
    stops = truth("wren")[0]
    found = part("wren", axis, start=stops["peak_knee"] + 0.1)
    assert not {"set", "first_move", "peak_knee"} & set(found.events)
    assert found.events["release"].time == pytest.approx(stops["release"], abs=0.02)
    assert found.measures["lift_height"].value is None
