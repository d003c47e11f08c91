"""The simulated pitcher: a body that hangs together, moves like a thrower, and knows its own truth."""

import json

import numpy as np
import pytest

from conftest import simulated, track_of, truth
from waxtwin.core.landmarks import INDEX
from waxtwin.simulate.delivery import simulate
from waxtwin.simulate.params import DeliveryParams, ParameterError, params_from
from waxtwin.simulate.presets import PRESETS
from waxtwin.simulate.truth import true_events, true_peaks

BONES = [
    ("throwing_shoulder", "throwing_elbow"), ("throwing_elbow", "throwing_wrist"), ("throwing_wrist", "throwing_hand"),
    ("glove_shoulder", "glove_elbow"), ("glove_elbow", "glove_wrist"), ("throwing_shoulder", "glove_shoulder"),
    ("drive_hip", "lead_hip"), ("drive_hip", "drive_knee"), ("drive_knee", "drive_ankle"), ("lead_hip", "lead_knee"),
    ("lead_knee", "lead_ankle"), ("lead_heel", "lead_toe"), ("drive_heel", "drive_toe"), ("drive_ankle", "drive_toe"),
]  # fmt: skip


@pytest.mark.parametrize("name", PRESETS)
def test_bones_keep_their_length(name):
    points = simulated(name).points
    for a, b in BONES:
        lengths = np.linalg.norm(points[:, INDEX[a]] - points[:, INDEX[b]], axis=-1)
        assert np.ptp(lengths) < 1e-6, (a, b)


@pytest.mark.parametrize("name", PRESETS)
def test_motion_has_the_speeds_of_a_pitcher(name):
    events, _, peaks = truth(name)
    assert 450 <= peaks["pelvis_turn"] <= 750
    assert 850 <= peaks["trunk_turn"] <= 1250
    assert 5000 <= peaks["internal_rotation"] <= 8500
    assert 18 <= peaks["throwing_hand"] <= 27.5
    assert 0.12 <= events["release"] - events["foot_contact"] <= 0.17


@pytest.mark.parametrize("name", PRESETS)
def test_planted_feet_stand_still(name):
    d, events = simulated(name), truth(name)[0]
    for part, start, stop in (
        ("lead", events["foot_contact"] + 0.05, events["finish"]),
        ("drive", 0.0, events["hand_break"]),
    ):
        app = (d.times > start) & (d.times < stop)
        for point in ("heel", "toe"):
            path = d.points[app, INDEX[f"{part}_{point}"]]
            assert np.ptp(path, axis=0).max() < 0.002, (part, point)


def test_foot_lands_when_it_was_told_to():
    for name in PRESETS:
        assert truth(name)[0]["foot_contact"] == pytest.approx(simulated(name).knots.landing, abs=0.003)


def test_hands_are_together_until_they_part():
    d, events = simulated("wren"), truth("wren")[0]
    gap = np.linalg.norm(d.points[:, INDEX["throwing_wrist"]] - d.points[:, INDEX["glove_wrist"]], axis=-1)
    held = gap[d.times < events["hand_break"] - 0.03]
    assert held.max() < 0.2 and np.ptp(held) < 0.01
    assert gap[d.times > events["foot_contact"]].min() > 0.4


def test_left_hander_is_the_mirror_image():
    right = simulate(DeliveryParams(throws="R"))
    left = simulate(DeliveryParams(throws="L"))
    np.testing.assert_allclose(left.points, right.points * [1, -1, 1])


def test_parameters_do_what_they_say():
    base = DeliveryParams()
    longer = simulate(params_from({"stride": 0.90}, base))
    shorter = simulate(params_from({"stride": 0.80}, base))
    at = INDEX["lead_ankle"]
    assert longer.points[-1, at, 0] - shorter.points[-1, at, 0] == pytest.approx(0.10 * base.height, abs=0.002)
    slow = simulate(params_from({"landing_to_release": 0.165}, base))
    a, b = true_events(simulate(base)), true_events(slow)
    assert (b["release"] - b["foot_contact"]) - (a["release"] - a["foot_contact"]) == pytest.approx(0.020, abs=0.003)
    weak = simulate(params_from({"peak_trunk_turn": 900.0}, base))
    assert true_peaks(weak)["trunk_turn"] == pytest.approx(900, rel=0.02)


@pytest.mark.parametrize(
    ("values", "word"),
    [({"stride": 3}, "stride"), ({"wings": 1}, "wings"), ({"throws": "B"}, "throws"), ({"mass": "heavy"}, "mass"),
     ({"layback": float("nan")}, "layback")],
)  # fmt: skip
def test_impossible_parameters_are_named(values, word):
    with pytest.raises(ParameterError, match=word):
        params_from(values)


def test_noise_and_gaps_are_as_asked():
    exact, noisy = track_of("ines"), track_of("ines", noise=0.005, seed=4)
    seen = ~np.isnan(exact.points)
    assert np.std((noisy.points - exact.points)[seen]) == pytest.approx(0.005, rel=0.02)
    gappy = track_of("ines", gaps=6, seed=1)
    assert np.isnan(gappy.points[..., 0]).sum() > np.isnan(exact.points[..., 0]).sum()


@pytest.mark.parametrize("fps", [60.0, 119.88, 240.0, 500.0])
def test_any_frame_rate(fps):
    track = track_of("wren", fps=fps)
    assert track.rate == pytest.approx(fps, rel=1e-6)


def test_truth_survives_a_round_trip_through_json():
    events, angles, peaks = truth("juno")
    assert json.loads(json.dumps([events, angles, peaks])) == [events, angles, peaks]
