"""Measures against the simulator's truth and hand-worked poses, and contracts over the whole registry."""

from dataclasses import replace

import numpy as np
import pytest

from conftest import clean, delivery_of, planar, track_of, truth
from waxtwin.core.analysis import analyse
from waxtwin.core.body import Body
from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.core.measures import MEASURES, Reading
from waxtwin.core.measures.registry import KINDS, measure
from waxtwin.core.measures.speeds import SPEED_POINTS
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
    np.testing.assert_allclose(figures, a.measures[item.id].value, rtol=1e-9, atol=1e-9)


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
    if item.view in ("side", "any"):
        assert value.available, value.reason
    elif item.planar:
        assert value.planar and value.available
    else:
        assert not value.available and ("depth" in value.reason or "front" in value.reason)


def _side():
    d = delivery_of("wren")
    return analyse(replace(d, track=planar(track_of("wren"))))


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
        measure("stride_length", "", unit="%", kind="P", at="landing", view="any", needs=(), text="")(
            lambda r: np.zeros(1)
        )
    assert MEASURES["stride_length"].label == "Stride length"


def test_landing_by_weight_moves_every_measure_at_landing():
    touch, plant = clean("wren"), analyse(delivery_of("wren"), landing="plant")
    assert plant.measures["landing_to_release"].value < touch.measures["landing_to_release"].value
    assert plant.measures["landing_trunk_rotation"].value > touch.measures["landing_trunk_rotation"].value
