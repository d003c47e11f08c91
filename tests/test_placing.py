"""From a picture to the field: planes, scales, yaw, views, two clips in space."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import clean, delivery_of, track_of, truth
from test_marks import seen_from_side
from waxtwin.capture.solve import SolveError, solve_camera
from waxtwin.core.analysis import analyse, resolve
from waxtwin.core.camera import Camera, Sight, affine, look_at, onto_plane, project, yaw_of
from waxtwin.core.errors import TrackError
from waxtwin.core.field import SIZES, field_points
from waxtwin.core.footage import account_for
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import Marks
from waxtwin.core.measures.registry import NO_HEIGHT
from waxtwin.core.placing import (
    ClipClock,
    body_camera,
    place,
    planar_camera,
    rightward,
    runs_forward,
    sight_of,
    suggest_view,
)
from waxtwin.core.stops import StopsByHand
from waxtwin.core.sync import in_space, synchronise
from waxtwin.simulate.clips import SIZE, cameras

PRESETS = (("wren", "R"), ("ines", "R"), ("pell", "L"), ("juno", "L"))


def marks_in(name, throws, view):
    track = track_of(name)
    flat, _ = project(cameras(throws)[view].matrix, track.points)
    return replace(Marks.empty(track.times), points=flat, confidence=(~np.isnan(flat[..., 0])).astype(float))


def turned_marks(name, throws, view, yaw, off=9.0):
    """Marks of a camera turned about the pitcher by `yaw`, with a model's own depths, which it turns by some degrees."""
    points = track_of(name).points * np.array([1.0, -1.0 if throws == "L" else 1.0, 1.0])
    way = {"side": -90.0, "front": 0.0, "rear": 180.0}[view] * (-1.0 if throws == "L" else 1.0) + yaw
    eye = np.array([0.8 + 9 * np.cos(np.radians(way)), 9 * np.sin(np.radians(way)), 1.2])
    matrix = look_at(eye, np.array([0.8, 0.0, 0.9]), 1600, SIZE)
    flat, _ = project(matrix, points)
    ahead = matrix[2, :3]
    right = np.cross(ahead, [0, 0, 1.0])
    right /= np.linalg.norm(right)
    turn = np.radians(off if throws == "R" else -off)
    x, z = points @ right, points @ ahead
    world = np.stack(
        [np.cos(turn) * x - np.sin(turn) * z, -points[..., 2], np.sin(turn) * x + np.cos(turn) * z], axis=-1
    )
    marks = Marks.empty(track_of(name).times)
    return replace(marks, points=flat, confidence=(~np.isnan(flat[..., 0])).astype(float), world=world)


@settings(deadline=None, max_examples=60)
@given(st.floats(-3, 3), st.floats(0, 2.5), st.sampled_from([0, 1]), st.floats(-20, 20), st.sampled_from([-1.0, 1.0]))
def test_a_point_in_the_plane_comes_back_from_its_picture(along, z, axis, roll, right):
    point = np.array([along, along, z])
    point[axis] = 0.0
    flat = affine((640, 600), 0.004, axis, right, roll)
    for matrix in (flat, look_at(np.array([6.0, -7.0, 1.5]), np.array([0.5, 0, 1.0]), 1500, (1280, 720))):
        seen, _ = project(matrix, point)
        back = onto_plane(matrix, seen, axis)
        assert np.isnan(back[axis]) and back[1 - axis] == pytest.approx(along, abs=1e-6)
        assert back[2] == pytest.approx(z, abs=1e-6)


@pytest.mark.parametrize(("name", "throws"), PRESETS)
@pytest.mark.parametrize(("key", "view"), [("side", "open side"), ("front", "front"), ("rear", "rear")])
def test_the_view_is_recognised(name, throws, key, view):
    assert suggest_view(marks_in(name, throws, key), throws) == view


def test_the_closed_side_is_recognised_and_runs_the_other_way():
    assert suggest_view(marks_in("wren", "R", "side"), "L") == "closed side"
    assert rightward("open side", "R") == 1 and rightward("closed side", "R") == -1
    assert rightward("front", "L") == 1 and rightward("rear", "R") == -1


@pytest.mark.parametrize("height", [1.76, None])
def test_the_body_gives_the_scale_and_a_typed_height_gives_metres(height):
    marks = marks_in("wren", "R", "side")
    camera = body_camera(marks, "open side", "R", height, SIZE)
    track = place(marks, camera, "open side")
    assert runs_forward(track) and not runs_forward(
        place(marks, body_camera(marks, "closed side", "R", height, SIZE), "closed side")
    )
    sight = sight_of(camera, "open side", marks, height)
    found = analyse(replace(delivery_of("wren"), track=track, sight=sight, height=height))
    true = clean("wren")
    stride, speed = found.measures["stride_length"], found.measures["peak_speed_throwing_hand"]
    assert stride.value == pytest.approx(
        true.measures["stride_length"].value, rel=0.05
    )  # a share of height, either way
    assert (speed.reason is None) == (height is not None)
    assert height is not None or (speed.reason == NO_HEIGHT and any("not metres" in said for said in found.warnings))
    assert height is not None or any("standing height" in g.remedy for g in account_for(found).missing)
    assert found.measures["landing_trunk_tilt"].value == pytest.approx(true.measures["landing_trunk_tilt"].value, abs=2)
    for stop in ("foot_contact", "release"):
        assert found.events[stop].time == pytest.approx(true.events[stop].time, abs=0.010)


@pytest.mark.parametrize(
    ("view", "throws", "yaw"), [("side", "R", 0), ("side", "L", 32), ("front", "R", 0), ("rear", "L", 0)]
)
def test_a_model_s_sense_of_depth_tells_from_where_a_clip_was_filmed(view, throws, yaw):
    marks = turned_marks("wren", throws, view, yaw)
    known = {"side": "open side"}.get(view, view)
    assert suggest_view(marks, throws) == known
    camera = body_camera(marks, known, throws, 1.76, SIZE)
    assert abs(camera.yaw) == pytest.approx(yaw, abs=12) and (yaw == 0 or camera.yaw_sd > 0)
    assert body_camera(marks, known, throws, 1.76, SIZE, yaw=0.0).yaw == 0.0  # what somebody says counts


@pytest.mark.parametrize("name", ["wren", "pell"])
def test_how_far_a_camera_is_turned_lies_within_its_doubt_also_where_it_may_as_well_be_square(name):
    for yaw in range(0, 40, 4):
        camera = body_camera(turned_marks(name, "R", "side", yaw), "open side", "R", 1.8, SIZE)
        assert abs(abs(camera.yaw) - yaw) <= 2 * camera.yaw_sd, yaw


def test_a_known_length_gives_lengths_and_a_tilted_phone_is_put_right():
    marks = marks_in("wren", "R", "side")
    matrix = cameras("R")["side"].matrix
    (a, b, origin), _ = project(matrix, np.array([[0.0, 0, 1.0], [1.5, 0, 1.0], [0, 0, 0]]))
    straight = planar_camera(tuple(origin), (tuple(a), tuple(b)), 1.5, "open side", "R", SIZE)
    found = analyse(
        replace(delivery_of("wren"), track=place(marks, straight, "open side"), sight=sight_of(straight, "open side"))
    )
    true = clean("wren").measures
    assert found.measures["stride_length"].value == pytest.approx(true["stride_length"].value, rel=0.02)
    assert found.measures["peak_speed_throwing_hand"].planar
    # the same picture turned by 6 degrees, and said so
    turn = np.radians(6)
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    tilted = replace(marks, points=marks.points @ spin.T)
    camera = planar_camera(
        tuple(spin @ origin), (tuple(spin @ a), tuple(spin @ b)), 1.5, "open side", "R", SIZE, roll=6
    )
    np.testing.assert_allclose(
        place(tilted, camera, "open side").points, place(marks, straight, "open side").points, atol=1e-6
    )


def test_slow_motion_is_brought_back_to_real_time():
    marks = marks_in("wren", "R", "side")
    slowed = replace(marks, times=marks.times * 8 + 3.0)
    camera = Camera(cameras("R")["side"].matrix, SIZE)
    track = place(slowed, camera, "open side", ClipClock(3.0, 8.0))
    np.testing.assert_allclose(track.times, marks.times, atol=1e-9)
    assert ClipClock(3.0, 8.0).to_clip(1.0) == 11.0


def test_a_camera_off_its_view_widens_what_is_resolved():
    marks = marks_in("wren", "R", "side")
    camera = Camera(cameras("R")["side"].matrix, SIZE)
    base = replace(delivery_of("wren"), track=place(marks, camera, "open side"))
    square = resolve(analyse(replace(base, sight=Sight(True, 0.0, 0.5))), 60)
    askew = resolve(analyse(replace(base, sight=Sight(True, 20.0, 2.0))), 60)
    assert askew.measures["stride_length"].sd > 2 * square.measures["stride_length"].sd
    # between the two open-side cameras only the yaw differs
    assert yaw_of(camera.matrix, 1) == pytest.approx(0, abs=0.1)
    turned = look_at(np.array([4.0, -8.0, 1.2]), np.array([0.85, 0, 0.9]), 2000, SIZE)
    assert abs(yaw_of(turned, 1)) == pytest.approx(np.degrees(np.arctan2(3.15, 8)), abs=0.5)


def test_a_figure_that_gives_no_scale_is_said():
    marks = marks_in("wren", "R", "side")
    elbow = marks.drop(np.arange(22)[None] != INDEX["throwing_elbow"] + np.zeros((marks.times.size, 1)))
    with pytest.raises(TrackError, match="too little of the body"):
        body_camera(elbow, "open side", "R", None, SIZE)
    headless = marks.drop(np.arange(22)[None] == INDEX["head"] + np.zeros((marks.times.size, 1)))
    whole, part = (body_camera(one, "open side", "R", 1.76, SIZE) for one in (marks, headless))
    assert part.scale_sd > whole.scale_sd and part.matrix[0, 0] == pytest.approx(whole.matrix[0, 0], rel=0.15)
    with pytest.raises(TrackError, match="open side"):
        place(marks, Camera(cameras("R")["side"].matrix, SIZE), "other")
    with pytest.raises(TrackError, match="known length"):
        planar_camera((0, 0), ((5, 5), (6, 5)), 1.0, "open side", "R", SIZE)


# cameras solved from clicks ---------------------------------------------------------------------------------------
RODS = {"rod foot": (1.5, 0.0, 0.0), "rod top": (1.5, 0.0, 1.5), "rod rubber": (0.0, 0.0, 1.8)}


def clicks_in(view, throws="R", noise=0.7, others=RODS):
    places = {name: point.place for name, point in field_points(SIZES["adult"]).items()} | others
    matrix = cameras(throws)[view].matrix
    flat, depth = project(matrix, np.array(list(places.values())))
    rng = np.random.default_rng(1)
    inside = (depth > 0) & (flat > 0).all(axis=1) & (flat[:, 0] < SIZE[0]) & (flat[:, 1] < SIZE[1])
    return {
        n: tuple(p + rng.normal(0, noise, 2)) for n, p, good in zip(places, flat, inside, strict=True) if good
    }, places


@pytest.mark.parametrize("view", ["side", "front", "rear"])
def test_clicks_on_the_field_give_the_camera(view):
    clicks, places = clicks_in(view)
    camera = solve_camera(clicks, places, SIZE)
    body = np.array([[0.0, 0, 1.7], [1.4, 0.2, 1.0], [1.6, 0, 0.1]])
    true, _ = project(cameras("R")[view].matrix, body)
    assert np.abs(project(camera.matrix, body)[0] - true).max() < 8
    assert camera.error_px < 2 and camera.error_m < 0.05 and camera.scale == "solved"


def test_clicks_that_cannot_give_a_camera_are_told_why():
    clicks, places = clicks_in("side", others={})
    with pytest.raises(SolveError, match="at least 5"):
        solve_camera(clicks, places, SIZE)
    line = {f"p{i}": (0.1 * i, 0.0, 0.0) for i in range(6)}
    with pytest.raises(SolveError, match="one line"):
        solve_camera({n: (100.0 + 20 * i, 300.0) for i, n in enumerate(line)}, line, SIZE)
    clicks, places = clicks_in("side")
    wrong = dict(clicks)
    a, b = next(iter(wrong)), list(wrong)[-1]
    wrong[a], wrong[b] = wrong[b], wrong[a]
    with pytest.raises(SolveError):
        solve_camera(wrong, places, SIZE)


def test_a_bent_lens_is_straightened():
    bent = Camera(look_at(np.array([0.8, -8, 1.2]), np.array([0.8, 0, 0.9]), 1500, SIZE), SIZE, "solved", 0.08)
    straight = np.array([[300.0, 200.0], [900, 600], [640, 360]])
    middle = np.array(SIZE) / 2
    away = (straight - middle) / 1500
    seen = away * (1 + 0.08 * np.sum(away**2, axis=1, keepdims=True)) * 1500 + middle
    np.testing.assert_allclose(bent.straightened(seen), straight, atol=1e-3)


# two views --------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(("name", "throws"), PRESETS)
def test_two_clips_find_one_clock_and_the_body_in_space(name, throws):
    side, front = marks_in(name, throws, "side"), marks_in(name, throws, "front")
    shift = 0.30713
    late = replace(front, times=front.times + shift)
    clocks = (ClipClock(), ClipClock())
    pair = (Camera(cameras(throws)["side"].matrix, SIZE), Camera(cameras(throws)["front"].matrix, SIZE))
    found = synchronise(side, late, clocks, pair)
    assert found.offset == pytest.approx(-shift, abs=0.0008)  # a fifth of a frame
    track, error = in_space(side, late, clocks, pair, found.offset)
    assert error < 1.0
    true = track_of(name)
    at = np.searchsorted(true.times, track.times - 1e-9)
    off = np.linalg.norm(track.points - true.points[at], axis=-1)
    assert np.nanmedian(off) < 0.004 and np.nanmax(off[:, INDEX["drive_hip"]]) < 0.02


def test_clips_that_share_nothing_are_told():
    side = marks_in("wren", "R", "side")
    pair = (Camera(cameras("R")["side"].matrix, SIZE), Camera(cameras("R")["front"].matrix, SIZE))
    short = side.window(0.0, 0.2)
    with pytest.raises(TrackError, match="too short"):
        synchronise(short, short, (ClipClock(), ClipClock()), pair)


def test_perfect_marks_from_the_side_measure_like_the_true_track():
    marks = seen_from_side()
    camera = Camera(cameras("R")["side"].matrix, SIZE)
    found = analyse(
        replace(delivery_of("wren"), track=place(marks, camera, "open side"), by_hand=StopsByHand(truth("wren")[0]))
    )
    for name in ("landing_trunk_tilt", "release_trunk_tilt", "load_trunk_tilt"):
        assert found.measures[name].value == pytest.approx(clean("wren").measures[name].value, abs=3)
