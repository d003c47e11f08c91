"""Marks in the picture: edits, and finding and mending what is wrong in them."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import track_of
from waxtwin.core.camera import project
from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.core.marks import ACCEPTED, FILLED, FLOW, HAND, MODEL, PARTNERS, Marks
from waxtwin.core.repair import cleaned, find_outliers, find_swaps
from waxtwin.simulate.clips import cameras

HANDS = INDEX["throwing_hand"]


def seen_from_side(name="wren", jitter=0.0, seed=0):
    """The true landmarks of a preset in its side camera's picture, as a perfect model would mark them."""
    track = track_of(name)
    flat, _ = project(cameras("R" if name in ("wren", "ines") else "L")["side"].matrix, track.points)
    flat += np.random.default_rng(seed).normal(0, jitter, flat.shape) if jitter else 0.0
    seen = ~np.isnan(flat[..., 0])
    source = np.where(seen, MODEL, 0).astype(np.uint8)
    return Marks(track.times, flat, seen.astype(float), source)


def test_clean_marks_are_left_as_they_are():
    marks = seen_from_side(jitter=1.0)
    assert not find_outliers(marks).any() and find_swaps(marks) == ()
    np.testing.assert_array_equal(cleaned(marks).points, marks.points)


@pytest.mark.parametrize("group", PARTNERS)
@pytest.mark.parametrize("length", [6, 20])
def test_exchanged_sides_are_found_where_they_are(group, length):
    marks = seen_from_side(jitter=1.0)
    wrong = marks.exchange(group, 470, 470 + length)
    found = [s for s in find_swaps(wrong) if s.group == group]
    assert len(found) == 1 and abs(found[0].start - 470) <= 1 and abs(found[0].stop - 470 - length) <= 1
    columns = [INDEX[name] for pair in PARTNERS[group] for name in pair]
    off = np.abs(cleaned(wrong).points[:, columns] - marks.points[:, columns])
    assert np.nanmax(off) < 25 and np.isfinite(off).mean() > 0.99


def test_slow_motion_is_mended_in_true_seconds():
    marks = seen_from_side(jitter=1.0).exchange("arms", 470, 490)
    points = marks.points.copy()
    points[300, HANDS] += 200
    slowed = replace(marks, points=points, times=marks.times * 8)
    done = cleaned(slowed, slow=8.0)
    as_taken = cleaned(replace(marks, points=points))
    np.testing.assert_array_equal(done.points, as_taken.points)
    assert np.abs(done.points[480, HANDS] - seen_from_side().points[480, HANDS]).max() < 20


def test_a_body_taken_the_wrong_way_round_is_turned_back_however_long():
    marks = seen_from_side(jitter=1.0)
    wrong = marks.exchange("legs", 400, 500).exchange("arms", 400, 500)
    for group in PARTNERS:
        (swap,) = [s for s in find_swaps(wrong) if s.group == group]
        assert abs(swap.start - 400) <= 1 and abs(swap.stop - 500) <= 1
    right = cleaned(wrong)
    for name in ("lead_ankle", "throwing_wrist"):
        off = np.abs(right.points[400:500, INDEX[name]] - marks.points[400:500, INDEX[name]])
        assert np.nanmax(off) < 25


def test_where_a_person_fixed_a_mark_the_sides_are_right():
    wrong = seen_from_side(jitter=1.0).exchange("arms", 470, 480).accept(slice(470, 480), HANDS)
    assert not [s for s in find_swaps(wrong) if s.group == "arms" and s.start < 480 and s.stop > 470]


@pytest.mark.parametrize("name", ["wren", "pell"])
def test_wild_marks_are_found_and_a_fast_hand_is_not(name):
    marks = seen_from_side(name, jitter=1.5)
    points = marks.points.copy()
    rng = np.random.default_rng(3)
    wild = np.zeros(marks.source.shape, bool)
    for _ in range(60):
        wild[rng.integers(10, len(points) - 10), rng.integers(0, 20)] = True
    points[wild] += rng.choice([-1, 1], (wild.sum(), 2)) * rng.uniform(60, 200, (wild.sum(), 2))
    found = find_outliers(replace(marks, points=points))
    assert found[wild].mean() > 0.97
    assert found[~wild].sum() <= 3


def test_doubtful_marks_are_dropped_and_short_gaps_closed():
    marks = seen_from_side()
    confidence = marks.confidence.copy()
    confidence[300:306, HANDS] = 0.1
    confidence[350:400, HANDS] = 0.1
    done = cleaned(replace(marks, confidence=confidence))
    assert (done.source[300:306, HANDS] == FILLED).all() and not done.seen[355:395, HANDS].any()
    np.testing.assert_allclose(done.points[300:306, HANDS], marks.points[300:306, HANDS], atol=4)
    assert (350, 400) in done.gaps(HANDS)


edits = st.lists(
    st.tuples(st.sampled_from(["put", "accept", "drop", "merge", "clean", "fill"]), st.integers(0, 59),
              st.integers(0, 19), st.floats(0, 500)), max_size=12,
)  # fmt: skip


@settings(deadline=None, max_examples=25)
@given(edits)
def test_nothing_automatic_moves_what_a_person_set(edits):
    rng = np.random.default_rng(0)
    path = np.cumsum(rng.normal(0, 2, (60, len(LANDMARKS), 2)), axis=0) + 300
    marks = replace(Marks.empty(np.arange(60) / 240), points=path, confidence=np.ones((60, len(LANDMARKS))),
                    source=np.full((60, len(LANDMARKS)), MODEL, np.uint8))  # fmt: skip
    held = {}
    for kind, frame, landmark, x in edits:
        if kind == "put":
            marks = marks.put(frame, landmark, x, x / 2)
            held[frame, landmark] = (x, x / 2)
        elif kind == "accept":
            marks = marks.accept(slice(frame, frame + 5), landmark)
        elif kind == "drop":
            marks = marks.drop(find_outliers(marks))
        elif kind == "merge":
            marks = marks.merged(replace(marks, points=marks.points + 7), FLOW)
        elif kind == "clean":
            marks = cleaned(marks)
        else:
            marks = marks.filled()
        for (f, j), at in held.items():
            assert tuple(marks.points[f, j]) == at and marks.source[f, j] == HAND
        assert (marks.seen == (marks.source > 0)).all()
    assert (marks.source[marks.fixed] >= ACCEPTED).all()


def test_moving_camera_is_taken_out():
    marks = seen_from_side()
    motion = np.tile(np.eye(2, 3), (marks.times.size, 1, 1))
    motion[:, 0, 2] = np.linspace(0, -40, marks.times.size)
    still = marks.moved(motion)
    assert still.points[-1, 0, 0] == pytest.approx(marks.points[-1, 0, 0] - 40)
    boxes = marks.boxes()
    assert (boxes[:, 2] > boxes[:, 0]).all() and boxes.shape == (marks.times.size, 4)
