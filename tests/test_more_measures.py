"""Further measures against the simulated motion itself, and against motions changed by hand in a known way."""

from dataclasses import replace

import numpy as np
import pytest

from conftest import clean, delivery_of, simulated, truth
from test_borrowed import BASE, throw
from waxtwin.core.analysis import analyse
from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.registry import Reading
from waxtwin.core.stops import StopsByHand
from waxtwin.core.track import Track
from waxtwin.simulate.delivery import simulate
from waxtwin.simulate.presets import PRESETS
from waxtwin.simulate.truth import true_events


class Pose:
    """The generated body at an instant, on the canonical side: `pose["lead_knee"]` is (3,) m."""

    def __init__(self, points, throws):
        self._points, self._left = points, throws == "L"

    def __getitem__(self, landmark):
        if landmark in ("pelvis", "chest"):
            a, b = {"pelvis": ("drive_hip", "lead_hip"), "chest": ("throwing_shoulder", "glove_shoulder")}[landmark]
            return (self[a] + self[b]) / 2
        return self._points[LANDMARKS.index(landmark)] * (1, -1 if self._left else 1, 1)


def poses(name, times):
    """The bodies at some instants; all at once, for a motion is sampled by a spline of the whole."""
    return [Pose(points, PRESETS[name].params.throws) for points in simulated(name).sample(np.asarray(times))]


def pose(name, time):
    return poses(name, [time])[0]


def deg(y, x):
    return np.degrees(np.arctan2(y, x))


def level(v):
    return v[:2] / np.hypot(*v[:2])


def between(a, b):
    return np.degrees(np.arccos(a @ b / np.linalg.norm(a) / np.linalg.norm(b)))


# measure: (stop, figure from the pose there and at set, what 1 is), straight from the definitions
AT_STOPS = {
    "lift_trunk_tilt": ("peak_knee", lambda p, s: deg(*(p["chest"] - p["pelvis"])[[0, 2]])),
    "lift_toe_droop": ("peak_knee", lambda p, s: deg((p["lead_heel"] - p["lead_toe"])[2],
                                                     np.hypot(*(p["lead_heel"] - p["lead_toe"])[:2]))),
    "lift_pelvis_turn": ("peak_knee", lambda p, s: deg(*(p["lead_hip"] - p["drive_hip"])[[1, 0]])),
    "hip_ahead_of_foot": ("hand_break", lambda p, s: p["lead_hip"][0] - p["lead_ankle"][0]),
    "load_shin_tilt": ("drive_start", lambda p, s: deg(
        (p["drive_knee"] - p["drive_ankle"])[:2] @ level(p["drive_toe"] - p["drive_heel"]),
        (p["drive_knee"] - p["drive_ankle"])[2])),
    "drive_knee_turn": ("foot_contact", lambda p, s: deg(*(p["drive_hip"] - p["drive_knee"])[[1, 0]])),
    "drive_ankle_extension_at_landing": ("foot_contact", lambda p, s: between(
        p["drive_knee"] - p["drive_ankle"], p["drive_toe"] - p["drive_heel"]) - 90),
    "drive_heel_up_at_landing": ("foot_contact", lambda p, s: deg(
        (p["drive_heel"] - p["drive_toe"])[2], np.hypot(*(p["drive_heel"] - p["drive_toe"])[:2]))),
    "landing_knee_over_ankle": ("foot_contact", lambda p, s: (p["lead_knee"] - p["lead_ankle"])[:2] @ (
        level(p["lead_toe"] - p["lead_heel"])[::-1] * (-1, 1))),
    "landing_hip_shoulder_offset": ("foot_contact", lambda p, s: (
        p["throwing_shoulder"] - p["drive_hip"] - s["throwing_shoulder"] + s["drive_hip"])[1]),
    "glove_height_at_landing": ("foot_contact", lambda p, s: p["glove_hand"][2] - p["chest"][2]),
    "finish_trunk_turn": ("finish", lambda p, s: deg(*(p["glove_shoulder"] - p["throwing_shoulder"])[[1, 0]])),
}  # fmt: skip


@pytest.mark.parametrize("name", PRESETS)
def test_positions_at_stops_against_the_motion_itself(name):
    events, values = truth(name)[0], clean(name).measures
    for measure_id, (stop, figure) in AT_STOPS.items():
        wanted = float(figure(pose(name, events[stop]), pose(name, events["set"])))
        if MEASURES[measure_id].unit == "%":
            wanted *= 100 / PRESETS[name].params.height
        assert values[measure_id].value == pytest.approx(wanted, abs=1.5), measure_id


def over(name, first, last, figure, step=0.001):
    """A figure of the pose over a stretch between two true stops."""
    events = truth(name)[0]
    return np.array([figure(p) for p in poses(name, np.arange(events[first], events[last], step))])


@pytest.mark.parametrize("name", ["wren", "pell"])
def test_extremes_between_stops_against_the_motion_itself(name):
    values, share = clean(name).measures, 100 / PRESETS[name].params.height

    def straight(p):
        return between(p["drive_hip"] - p["drive_knee"], p["drive_ankle"] - p["drive_knee"])

    leg = over(name, "drive_start", "foot_contact", straight)
    assert values["drive_peak_extension"].value == pytest.approx(leg.max(), abs=1.0)
    assert values["drive_refold"].value == pytest.approx(leg.max() - leg[-1], abs=1.0)
    past = over(name, "foot_contact", "release", lambda p: (p["lead_knee"] - p["lead_heel"])[0])
    assert values["knee_past_heel"].value == pytest.approx(share * past.max(), abs=0.5)
    ahead = over(name, "foot_contact", "release", lambda p: (p["drive_knee"] - p["pelvis"])[0])
    assert values["drive_knee_after_landing"].value == pytest.approx(share * (ahead.max() - ahead[0]), abs=0.7)
    heel = over(name, "release", "finish", lambda p: p["drive_heel"][2])
    assert values["finish_drive_heel_height"].value == pytest.approx(share * heel.max(), abs=0.7)
    rubber = pose(name, truth(name)[0]["set"])["drive_ankle"][0]
    back = over(name, "hand_break", "foot_contact", lambda p: rubber - p["throwing_hand"][0])
    assert values["hand_behind_body"].value == pytest.approx(share * back.max(), abs=0.7)
    head = over(name, "peak_knee", "foot_contact", lambda p: p["head"])
    along = (head[-1] - head[0]) / np.linalg.norm(head[-1] - head[0])
    away = (head - head[0]) - np.outer((head - head[0]) @ along, along)
    assert values["head_steadiness"].value == pytest.approx(share * np.sqrt((away**2).sum(axis=1).mean()), abs=0.2)
    way = pose(name, truth(name)[0]["drive_start"])["pelvis"] - pose(name, truth(name)[0]["peak_knee"])["pelvis"]
    assert values["fall_slope"].value == pytest.approx(deg(-way[2], way[0]), abs=1.5)
    assert values["elbow_back_to_pelvis_open"].value == pytest.approx(
        values["elbow_back_time"].value - values["pelvis_open_time"].value
    )


# changed by hand -------------------------------------------------------------------------------------------------------
def changed(name, change):
    """A preset whose canonical points `(frames, landmarks, 3)` were changed, its stops held where they truly are."""
    throw = delivery_of(name)
    points = throw.track.points.copy()
    change(points, throw.track.times, truth(name)[0])
    stops = dict(truth(name)[0])
    return analyse(replace(throw, track=Track(throw.track.times, points, throw.track.confidence),
                           by_hand=StopsByHand(stops))).measures  # fmt: skip


def bump(times, start, stop):
    """0 to 1 and back between two instants."""
    inside = np.clip((times - start) / (stop - start), 0, 1)
    return 0.5 - 0.5 * np.cos(2 * np.pi * inside)


def test_a_forearm_that_drops_again_is_measured():
    def drop(points, times, stops):
        over_elbow = points[:, INDEX["throwing_wrist"], 2] - points[:, INDEX["throwing_elbow"], 2]
        up = times[np.flatnonzero((over_elbow <= 0) & (times < stops["foot_contact"]))[-1]]
        low = bump(times, up + 0.01, stops["foot_contact"])
        for name in ("throwing_wrist", "throwing_hand"):
            points[:, INDEX[name], 2] -= low * (over_elbow.max() + 0.09)

    assert clean("ines").measures["wrist_under_elbow"].value == pytest.approx(0, abs=0.3)
    assert changed("ines", drop)["wrist_under_elbow"].value > 3


def test_hands_that_follow_the_lift_late_have_their_lag():
    def together(late):
        def change(points, times, stops):
            knee = points[:, INDEX["lead_knee"], 2]
            for name in ("throwing_wrist", "glove_wrist"):
                points[:, INDEX[name], 2] = 1.0 + 0.4 * np.interp(times - late, times, knee - knee[0])

        return change

    for late in (0.0, 0.08, -0.05):
        assert changed("wren", together(late))["hands_lift_lag"].value == pytest.approx(1000 * late, abs=8)

    def apart(points, times, stops):
        for name in ("throwing_wrist", "glove_wrist"):
            points[:, INDEX[name], 2] = 1.0

    lost = changed("wren", apart)["hands_lift_lag"]
    assert lost.value is None and "do not move with the lift" in lost.reason


def test_a_pause_in_the_windup_is_its_length():
    throw = delivery_of("wren")
    rate, points = throw.track.rate, throw.track.points
    still, moves = int(0.6 * rate), int(0.5 * rate)
    sway = 0.12 * (1 - np.cos(2 * np.pi * np.arange(moves) / moves))  # a rocking step and back, before it
    rocking = np.repeat(points[:1], moves, axis=0)
    rocking[..., 0] += sway[:, None]
    longer = np.concatenate([np.repeat(points[:1], 60, axis=0), rocking, np.repeat(points[:1], still, axis=0), points])
    times = np.arange(len(longer)) / rate
    before = (60 + moves + still) / rate
    stops = {stop: at + before for stop, at in truth("wren")[0].items()}
    found = analyse(replace(throw, track=Track(times, longer, np.ones(longer.shape[:2])), by_hand=StopsByHand(stops)))
    waited = 1000 * (stops["first_move"] - (60 + moves) / rate)
    assert found.measures["pause_before_lift"].value == pytest.approx(waited, abs=150) and waited > 600
    assert clean("wren").measures["pause_before_lift"].value == 0


def test_heel_or_toe_that_comes_down_later_is_told():
    def late(name, by):
        def change(points, times, stops):
            z = points[:, INDEX[name], 2]
            points[:, INDEX[name], 2] = np.where(
                times < stops["foot_contact"] + 0.2, np.interp(times - by, times, z), z
            )

        return change

    plain = clean("wren").measures["heel_first"].value
    assert changed("wren", late("lead_toe", 0.03))["heel_first"].value == pytest.approx(plain + 30, abs=5)
    assert changed("wren", late("lead_heel", 0.03))["heel_first"].value == pytest.approx(plain - 30, abs=5)


def test_the_chest_goes_to_the_glove_or_the_glove_is_drawn_in():
    def still_glove(points, times, stops):
        k = int(np.argmin(np.abs(times - stops["foot_contact"])))
        points[k:, INDEX["glove_hand"]] = points[k, INDEX["glove_hand"]] + [0.3, 0, 0]
        points[:k, INDEX["glove_hand"]] += [0.3, 0, 0]

    def drawn_in(points, times, stops):
        chest = (points[:, INDEX["throwing_shoulder"]] + points[:, INDEX["glove_shoulder"]]) / 2
        ahead = np.interp(times, [stops["foot_contact"], stops["release"]], [0.6, 0.2])
        points[:, INDEX["glove_hand"]] = chest + np.stack([ahead, 0 * ahead, 0 * ahead], axis=1)

    assert changed("wren", still_glove)["chest_to_glove"].value == pytest.approx(100, abs=3)
    drawn = changed("wren", drawn_in)
    # its own way is what is left of the distance once the chest's is taken off
    assert (
        drawn["chest_to_glove"].value < clean("wren").measures["chest_to_glove"].value
        or drawn["chest_to_glove"].value < 60
    )
    stops = truth("wren")[0]
    half_way = 500 * (stops["release"] - stops["foot_contact"])
    assert drawn["glove_pull_time"].value == pytest.approx(half_way, abs=12)


def test_a_trunk_that_folds_and_one_that_turns():
    """Both begin upright and square to the pelvis; one bends forward by 40 degrees, one turns by 40."""

    def trunk(turn, bend):
        def change(points, times, stops):
            share = np.clip((times - stops["foot_contact"]) / (stops["release"] - stops["foot_contact"]), 0, 1)
            for name, y in (("drive_hip", -0.12), ("lead_hip", 0.12)):
                points[:, INDEX[name]] = [1.0, y, 0.9]  # hips square to the plate
            b, t = np.radians(bend * share), np.radians(turn * share)
            middle = np.stack([1.0 + 0.5 * np.sin(b), 0 * b, 0.9 + 0.5 * np.cos(b)], axis=1)
            half = 0.18 * np.stack([-np.sin(t) * np.cos(b), np.cos(t), np.sin(t) * np.sin(b)], axis=1)
            points[:, INDEX["glove_shoulder"]], points[:, INDEX["throwing_shoulder"]] = middle + half, middle - half

        return change

    assert changed("wren", trunk(0, 40))["trunk_fold_share"].value == pytest.approx(100, abs=3)
    assert changed("wren", trunk(40, 0))["trunk_fold_share"].value == pytest.approx(0, abs=3)
    assert 50 < changed("wren", trunk(30, 30))["trunk_fold_share"].value < 90
    assert changed("wren", trunk(0, 4))["trunk_fold_share"].value is None  # of next to nothing no share is told


def test_where_the_hand_lies_back_is_told_in_space_and_from_the_front():
    from conftest import planar

    def aside(points, times, stops):
        points[:, INDEX["throwing_hand"]] += points[:, INDEX["throwing_shoulder"]] - points[:, INDEX["glove_shoulder"]]

    wide = np.linalg.norm(pose("wren", 1.0)["throwing_shoulder"] - pose("wren", 1.0)["glove_shoulder"])
    plain, moved = clean("wren").measures["layback_place"].value, changed("wren", aside)["layback_place"].value
    assert moved - plain == pytest.approx(100 * wide / 1.76, rel=0.08)
    throw = delivery_of("wren")
    front = analyse(replace(throw, track=planar(throw.track, 0), by_hand=StopsByHand(truth("wren")[0]))).measures
    assert front["layback_place"].planar and front["layback_place"].value is not None
    assert front["landing_knee_over_ankle"].planar and front["landing_hip_shoulder_offset"].value is not None


@pytest.mark.parametrize(
    ("changes", "measure", "moves"),
    [({"foot_pitch": 16}, "heel_first", (-90, -40)), ({"foot_out": 0.05}, "hip_ahead_of_foot", (-7, -3)),
     ({"knee_out": 0.8}, "landing_knee_over_ankle", (3, 9)), ({"swing": 0.25}, "lead_swing_width", (0.06, 0.4)),
     ({"foot_wobble": 0.04}, "drive_foot_wobble", (2, 4)), ({"heel_up": 22}, "drive_heel_up_at_landing", (-34, -22)),
     ({"drag": 0.08, "heel_up": 30}, "drive_refold", (8, 16)), ({"knee_after": 0.3}, "drive_knee_after_landing", (5, 20)),
     ({"load_turn": -18}, "load_trunk_turn", (-20, -10)), ({"trunk_final": 82}, "finish_trunk_turn", (-26, -12)),
     ({"head_ahead": -0.05}, "landing_head_over_navel", (-6, -4)), ({"head_dip": 0.06}, "head_steadiness", (1.5, 4)),
     ({"glove_early": 0.12}, "glove_pull_time", (-135, -100)), ({"forearm_drop": 75}, "wrist_under_elbow", (4, 12)),
     ({"elbow_lag": -34}, "layback_elbow_lag", (-16, -8)), ({"rock": 0.06, "lead_in": 1.8, "pause": 0.6}, "pause_before_lift", (550, 800))],
)  # fmt: skip
def test_what_a_simulated_pitcher_does_otherwise_its_measure_tells(changes, measure, moves):
    usual, other = (analyse(throw(replace(BASE, **one))).measures[measure].value for one in ({}, changes))
    assert moves[0] < other - usual < moves[1]


def test_hands_that_rise_later_are_told_by_how_much():
    lags = [analyse(throw(replace(BASE, hands_rise=30.0, hands_lag=lag))).measures["hands_lift_lag"].value
            for lag in (0.0, 0.15)]  # fmt: skip
    assert lags[1] - lags[0] == pytest.approx(110, abs=45)


def test_a_windup_that_comes_to_rest_has_not_begun():
    """The first move is the one after the last rest, on the track as in the motion itself."""
    params = replace(BASE, rock=0.06, lead_in=1.8, pause=0.6)
    true = true_events(simulate(params))
    found = analyse(throw(params)).events
    assert true["first_move"] > 1.7 and found["first_move"].time == pytest.approx(true["first_move"], abs=0.012)
    going = replace(BASE, rock=0.08, lead_in=1.8)  # it runs into the lift
    assert analyse(throw(going)).events["first_move"].time == pytest.approx(
        true_events(simulate(going))["first_move"], abs=0.012
    )


@pytest.mark.parametrize(
    ("name", "window"),
    [("drive_foot_wobble", ("first_move", "drive_start")), ("head_steadiness", ("peak_knee", "foot_contact"))],
)
def test_what_is_read_over_no_frame_at_all_is_not_known(name, window):
    """A clip that begins just before the load leaves some copies none; a warning fails a test."""
    found = clean("wren")
    stops = {stop: np.full(2, time) for stop, time in found.event_times.items()}
    for stop in window:
        stops[stop][1] = found.motion.times[100] + 0.4 / found.motion.rate  # between two frames
    reading = Reading(found.motion.copies(2, np.random.default_rng(0)), stops, found.landing_stop)
    assert np.isfinite(MEASURES[name].function(reading)).tolist() == [True, False]
