"""Measures against the simulator's truth and hand-worked poses, and contracts over the whole registry."""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from conftest import clean, delivery_of, planar, track_of, truth
from waxtwin.core.analysis import analyse
from waxtwin.core.body import Body
from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.core.measures import MEASURES, Reading
from waxtwin.core.measures.hitch import _largest_fall
from waxtwin.core.measures.registry import END_ON, KINDS, measure
from waxtwin.core.measures.speeds import SPEED_POINTS
from waxtwin.core.stops import StopsByHand
from waxtwin.core.track import Track
from waxtwin.simulate.presets import PRESETS
from waxtwin.ui.model.gauges import GAUGES

# measure: the generated angle it must equal, and the stop
ANGLES = {
    "landing_pelvis_rotation": ("pelvis_rotation", "foot_contact"),
    "landing_trunk_rotation": ("trunk_rotation", "foot_contact"),
    "landing_separation": ("separation", "foot_contact"),
    "landing_trunk_tilt": ("trunk_tilt", "foot_contact"),
    "landing_side_tilt": ("trunk_side_tilt", "foot_contact"),
    "landing_knee_flexion": ("lead_knee_flexion", "foot_contact"),
    "landing_elbow_flexion": ("elbow_flexion", "foot_contact"),
    "landing_abduction": ("abduction", "foot_contact"),
    "landing_horizontal_adduction": ("horizontal_adduction", "foot_contact"),
    "landing_arm_up": ("external_rotation", "foot_contact"),
    "load_trunk_tilt": ("trunk_tilt", "drive_start"),
    "load_knee_flexion": ("drive_knee_flexion", "drive_start"),
    "lift_turn": ("trunk_rotation", "peak_knee"),
    "max_layback_angle": ("external_rotation", "max_layback"),
    "layback_elbow_lag": ("horizontal_adduction", "max_layback"),
    "release_trunk_tilt": ("trunk_tilt", "release"),
    "release_side_tilt": ("trunk_side_tilt", "release"),
    "release_knee_flexion": ("lead_knee_flexion", "release"),
    "release_elbow_flexion": ("elbow_flexion", "release"),
}  # fmt: skip


@pytest.mark.parametrize("name", PRESETS)
@pytest.mark.parametrize("measure_id", ANGLES)
def test_angles_against_truth(name, measure_id):
    angle, stop = ANGLES[measure_id]
    # at release the elbow straightens by a degree in half a millisecond, the clean release is good to two
    allowed = 1.5 if measure_id == "release_elbow_flexion" else 1.0
    assert clean(name).measures[measure_id].value == pytest.approx(truth(name)[1][stop][angle], abs=allowed)


@pytest.mark.parametrize("name", PRESETS)
def test_peak_speeds_against_truth(name):
    peaks, values = truth(name)[2], clean(name).measures
    for point in SPEED_POINTS:
        assert values[f"peak_speed_{point}"].value == pytest.approx(peaks[point], rel=0.03), point
    for turn in ("pelvis_turn", "trunk_turn", "elbow_extension", "internal_rotation"):
        assert values[f"peak_{turn}"].value == pytest.approx(peaks[turn], rel=0.08), turn


@pytest.mark.parametrize("name", PRESETS)
def test_lengths_against_truth(name):
    from conftest import simulated

    d, events = simulated(name), truth(name)[0]
    h = d.params.height
    side = 1.0 if d.params.throws == "R" else -1.0

    def at(stop):
        return dict(zip(LANDMARKS, d.sample(np.array([events[stop]]))[0], strict=True))

    land, out, still = at("foot_contact"), at("release"), at("set")
    values = clean(name).measures
    assert values["stride_length"].value == pytest.approx(100 * land["lead_ankle"][0] / h, abs=0.5)
    assert values["stride_offset"].value == pytest.approx(
        side * (land["lead_ankle"] - still["drive_ankle"])[1], abs=0.01
    )
    assert values["head_travel"].value == pytest.approx(100 * (out["head"] - land["head"])[0] / h, abs=0.5)
    # the hand moves a centimetre in half a millisecond at release
    assert values["release_height"].value == pytest.approx(100 * out["throwing_hand"][2] / h, abs=1.0)
    pelvis = [(p["drive_hip"] + p["lead_hip"])[0] / 2 for p in (at("hand_break"), still)]
    assert values["pelvis_lead_at_break"].value == pytest.approx(100 * (pelvis[0] - pelvis[1]) / h, abs=0.5)


def test_durations_are_differences_of_stops():
    a = clean("wren")
    assert a.measures["landing_to_release"].value == pytest.approx((a.time("release") - a.time("foot_contact")) * 1000)


def test_chain_peaks_in_order_in_the_elite_delivery():
    order = clean("ines").measures["sequence_order"].order
    assert order == ("peak_pelvis_turn", "peak_trunk_turn", "peak_elbow_extension", "peak_internal_rotation")
    lags = clean("ines").measures["sequence_lags"].order
    assert len(lags) == 3 and all(lag > 0 for lag in lags)


def _pose(**points):
    body = np.full((1, len(LANDMARKS), 3), np.nan)
    for name, point in points.items():
        body[0, INDEX[name]] = point
    return Body(body)


def test_hand_worked_angles():
    body = _pose(
        drive_hip=(0, 0, 1), lead_hip=(0.2, 0.2, 1), throwing_shoulder=(0.1, -0.1, 1.5), glove_shoulder=(0.1, 0.3, 1.5),
        throwing_elbow=(0.1, -0.4, 1.5), throwing_wrist=(-0.1, -0.4, 1.7), drive_knee=(0, 0, 0.5), drive_ankle=(-0.5, 0, 0.5),
    )  # fmt: skip
    assert body.pelvis_rotation()[0] == pytest.approx(45)
    assert body.trunk_rotation()[0] == pytest.approx(90)
    assert body.trunk_tilt()[0] == pytest.approx(0, abs=1e-9)
    assert body.abduction()[0] == pytest.approx(90)
    assert body.horizontal_adduction()[0] == pytest.approx(0, abs=1e-9)
    assert body.elbow_flexion()[0] == pytest.approx(90)
    assert body.external_rotation()[0] == pytest.approx(135)  # half way from straight up to straight back
    assert body.knee_flexion("drive")[0] == pytest.approx(90)


def test_layback_is_not_available_with_a_straight_elbow():
    body = _pose(
        drive_hip=(0, -0.1, 1), lead_hip=(0, 0.1, 1), throwing_shoulder=(0, -0.2, 1.5), glove_shoulder=(0, 0.2, 1.5),
        throwing_elbow=(0, -0.5, 1.5), throwing_wrist=(0, -0.75, 1.52),
    )  # fmt: skip
    assert np.isnan(body.external_rotation()[0])


# contracts over the registry --------------------------------------------------------------------------------------
@pytest.mark.parametrize("item", MEASURES.values(), ids=MEASURES)
def test_every_measure_is_fully_declared(item):
    assert item.kind in KINDS and item.view in ("3D", "side", "front", "any")
    assert item.text and item.label and item.unit in ("%", "deg", "ms", "m", "m/s", "deg/s", "m/s2")
    assert set(item.needs) <= set(LANDMARKS)
    assert not item.gauge or item.gauge in GAUGES or item.gauge.startswith("trail:")


@pytest.mark.parametrize("item", MEASURES.values(), ids=MEASURES)
def test_every_measure_takes_a_batch(item):
    a = clean("pell")
    three = replace(a.motion, points=np.repeat(a.motion.points, 3, axis=0), _cache={})
    stops = {name: np.full(3, t) for name, t in a.event_times.items()}
    figures = item.function(Reading(three, stops, "foot_contact"))
    assert figures.shape == (3,)
    value = a.measures[item.id].value
    np.testing.assert_allclose(figures, np.nan if value is None else value, rtol=1e-9, atol=1e-9)


def test_mirror_image_measures_the_same():
    d = delivery_of("ines")
    other = replace(d, throws="L", track=Track(d.track.times, d.track.points * [1, -1, 1], d.track.confidence))
    mirrored = analyse(other).measures
    for name, value in clean("ines").measures.items():
        if value.value is not None:
            assert mirrored[name].value == pytest.approx(value.value, abs=1e-6), name


def test_body_size_does_not_change_angles_and_shares():
    d = delivery_of("ines")
    grown = replace(d, height=d.height * 1.1, track=Track(d.track.times, d.track.points * 1.1, d.track.confidence))
    big = analyse(grown).measures
    for name, item in MEASURES.items():
        value = clean("ines").measures[name].value
        if value is not None and item.unit in ("deg", "%"):
            assert big[name].value == pytest.approx(value, abs=0.6), name


@pytest.mark.parametrize("item", MEASURES.values(), ids=MEASURES)
def test_side_camera_gives_a_figure_or_a_reason(item):
    a = _side()
    value = a.measures[item.id]
    assert value.available != bool(value.reason)
    if item.view in ("side", "any") or item.planar == "side":
        assert value.available or (item.why and item.why(a.reading) == value.reason)
        assert value.planar == (item.planar == "side" or item.kind == "V" or "layback" in item.id)
    else:
        assert not value.available and ("depth" in value.reason or "front" in value.reason)


@cache
def _side():
    d = delivery_of("wren")
    return analyse(replace(d, track=planar(track_of("wren")), by_hand=StopsByHand(truth("wren")[0])))


@pytest.mark.parametrize("gone", ["throwing_hand", "lead_heel", "head", "drive_knee"])
def test_missing_landmark_is_a_reason_not_a_crash(gone):
    d = delivery_of("wren")
    points = d.track.points.copy()
    points[:, INDEX[gone]] = np.nan
    a = analyse(replace(d, track=Track(d.track.times, points, d.track.confidence)))
    affected = [m for m in MEASURES.values() if gone in m.needs]
    assert affected
    for item in affected:
        assert a.measures[item.id].value is None and a.measures[item.id].reason


def test_a_second_measure_of_the_same_name_is_refused():
    with pytest.raises(ValueError, match="two measures"):
        measure("stride_length", "", unit="%", kind="P", at="landing", view="any", needs=(), text="", formula="")(
            lambda r: np.zeros(1)
        )
    assert MEASURES["stride_length"].label == "Stride length"


def test_landing_by_weight_moves_every_measure_at_landing():
    touch, plant = clean("wren"), analyse(delivery_of("wren"), landing="plant")
    assert plant.measures["landing_to_release"].value < touch.measures["landing_to_release"].value
    assert plant.measures["landing_trunk_rotation"].value > touch.measures["landing_trunk_rotation"].value


# feet, hands and hitch --------------------------------------------------------------------------------------------
@pytest.mark.parametrize("name", PRESETS)
def test_feet_and_hands_against_the_motion_itself(name):
    from conftest import simulated

    d, events, values = simulated(name), truth(name)[0], clean(name).measures
    h, side = d.params.height, 1.0 if d.params.throws == "R" else -1.0
    at = {n: d.points[:, j] * [1, side, 1] for n, j in INDEX.items()}
    pose = {stop: {n: np.array([np.interp(t, d.times, p[:, k]) for k in range(3)]) for n, p in at.items()}
            for stop, t in events.items()}  # fmt: skip
    still, load, lift, out, end = (pose[s] for s in ("set", "drive_start", "peak_knee", "release", "finish"))

    def off_for_good(part, until):
        z = at[part][:, 2] - still[part][2]
        down = np.flatnonzero((d.times <= events[until]) & (z <= 0.03 * h / 1.8))
        return d.times[down[-1]]

    shin = lift["lead_ankle"] - lift["lead_knee"]
    assert values["lift_foot_swing"].value == pytest.approx(np.degrees(np.arctan2(shin[0], -shin[2])), abs=1)
    foot = (load["drive_toe"] - load["drive_heel"])[:2]
    over = (load["drive_knee"] - load["drive_toe"])[:2] @ foot / np.linalg.norm(foot)
    assert values["load_knee_over_toe"].value == pytest.approx(over, abs=0.01)
    line = np.interp(load["drive_knee"][2], [load["drive_ankle"][2], load["drive_hip"][2]],
                     [load["drive_ankle"][0], load["drive_hip"][0]])  # fmt: skip
    assert values["load_knee_inset"].value == pytest.approx(load["drive_knee"][0] - line, abs=0.01)
    rise = 1000 * (events["foot_contact"] - off_for_good("drive_heel", "foot_contact"))
    assert values["heel_rise_lead"].value == pytest.approx(rise, abs=4.2)
    left = 1000 * (off_for_good("drive_toe", "finish") - events["release"])
    assert values["drive_foot_off"].value == pytest.approx(left, abs=4.2)
    way = (d.times >= events["drive_start"]) & (d.times <= events["foot_contact"])
    wide = np.abs(at["lead_ankle"][way, 1] - still["drive_ankle"][1]).max()
    assert values["lead_swing_width"].value == pytest.approx(wide, abs=0.01)
    chest = (out["throwing_shoulder"] + out["glove_shoulder"]) / 2
    assert values["glove_distance_at_release"].value == pytest.approx(
        100 * np.linalg.norm(out["glove_wrist"] - chest) / h, abs=0.5
    )
    across = end["throwing_hand"][1] - (end["throwing_shoulder"] + end["glove_shoulder"])[1] / 2
    assert values["finish_arm_across"].value == pytest.approx(100 * across / h, abs=1.0)


def test_a_knee_that_gives_then_braces_has_its_turning_point():
    d = delivery_of("ines")
    times, (start, stop) = d.track.times, (truth("ines")[0][s] for s in ("foot_contact", "release"))
    share = np.clip((times - start) / (stop - start), 0, 1)
    points = d.track.points.copy()
    # the knee pushed forward and back again, deepest at two fifths of the way
    bump = np.interp(share, [0, 0.4, 1], [0, 1, 0])
    bump = np.where(share < 0.4, np.sin(share / 0.4 * np.pi / 2), np.cos((share - 0.4) / 0.6 * np.pi / 2)) * (bump > 0)
    points[:, INDEX["lead_knee"], 0] += 0.08 * bump
    value = analyse(replace(d, track=Track(times, points, d.track.confidence))).measures["brace_time"]
    assert value.value == pytest.approx(400 * (stop - start), abs=15)
    assert "straightens from landing" in clean("ines").measures["brace_time"].reason


def test_the_largest_fall_that_is_regained_counts():
    times = np.arange(200) / 240
    curve = np.interp(np.arange(200), [0, 40, 80, 100, 140, 180, 199], [0, 6, 3, 5, 4.2, 8, 1])
    share, low, length = _largest_fall(curve, times, 0.5)
    assert share == pytest.approx(50) and low == pytest.approx(80 / 240)
    assert length == pytest.approx((95 - 40) / 240, abs=0.005)  # half of the three lost is back at 4.5
    assert _largest_fall(np.linspace(0, 8, 200), times, 0.5)[0] == 0  # no fall
    assert _largest_fall(np.interp(np.arange(200), [0, 100, 199], [0, 8, 1]), times, 0.5)[0] == 0  # never regained
    assert _largest_fall(np.interp(np.arange(200), [0, 90, 110, 199], [0, 3, 2.6, 8]), times, 0.5)[0] == 0  # too small


def test_a_front_camera_gives_its_own_stand_ins():

    d = delivery_of("wren")
    points = d.track.points.copy()
    points[..., 0] = np.nan
    a = analyse(
        replace(d, track=Track(d.track.times, points, d.track.confidence), by_hand=StopsByHand(truth("wren")[0]))
    )
    assert a.measures["release_arm_line"].planar and a.measures["release_arm_line"].available
    # the shoulder line still points along the camera's sight when the foot lands: -71 degrees would be read off it
    assert a.measures["landing_shoulder_tilt"].reason == END_ON
    assert not a.measures["landing_knee_flexion"].available
