"""Alignment, resolution, contrast and the ledger."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import clean, delivery_of, planar
from waxtwin.core.alignment import align
from waxtwin.core.analysis import Analysis, Value, analyse, jittered, resolve, resolve_all, resolve_steps
from waxtwin.core.contrast import BEYOND, LEVEL, SHORT, UNAVAILABLE, UNTOLD, Band, Standards, analyse_pair, contrast
from waxtwin.core.ledger import CHAIN, LINKS, ledger
from waxtwin.core.stops import ORDER


@pytest.fixture(scope="module")
def demo_pair():
    pair = resolve_all(analyse_pair(delivery_of("wren", noise=0.002, seed=1), delivery_of("ines", noise=0.002, seed=2)))
    return contrast(*pair, Standards({"stride_length": Band(78, 90, "adults", "somewhere")}))


# alignment --------------------------------------------------------------------------------------------------------
steps = st.lists(st.floats(0.02, 0.8), min_size=10, max_size=10)


@settings(deadline=None)  # a shared machine may be slow for one example; nothing here is timed
@given(steps, steps)
def test_all_stops_meet_and_time_never_runs_back(a, b):
    one, two = (dict(zip(ORDER, np.cumsum(s).tolist(), strict=True)) for s in (a, b))
    held = align(one, two, "all")
    for stop in ORDER:
        assert held.to_twin(one[stop]) == pytest.approx(two[stop], abs=1e-9)
    times = np.linspace(-0.5, 9, 400)
    mapped = np.array([held.to_twin(t) for t in times])
    assert (np.diff(mapped) >= -1e-12).all()
    # no kink: the slope never jumps between neighbouring points
    fine = np.array([held.to_twin(t) for t in np.linspace(one["set"] + 0.001, one["finish"] - 0.001, 4000)])
    slope = np.diff(fine)
    assert np.abs(np.diff(slope)).max() <= 0.35 * slope.max()


def test_one_stop_and_clock_keep_real_time():
    one = {"first_move": 0.5, "release": 2.0}
    two = {"first_move": 0.8, "release": 2.1}
    assert align(one, two, "one", "release").to_twin(1.0) == pytest.approx(1.1)
    assert align(one, two, "clock").to_twin(1.0) == pytest.approx(1.3)
    back = align(one, two, "clock")
    assert back.to_athlete(back.to_twin(1.7)) == pytest.approx(1.7)
    assert align({}, {}, "all").to_twin(1.0) == 1.0
    with pytest.raises(ValueError, match="mode"):
        align(one, two, "sideways")


# resolution -------------------------------------------------------------------------------------------------------
def test_two_noisy_copies_of_one_delivery_do_not_differ():
    apart, level = [], []
    for seed in range(3):
        d = [delivery_of("ines", noise=0.003, seed=10 * seed + k) for k in (1, 2)]
        pair = contrast(*resolve_all(analyse_pair(*d)))
        known = [row for row in pair.rows if row.verdict != UNAVAILABLE]
        apart += [row.apart for row in known]
        level += [row.verdict == LEVEL for row in known]
    assert np.mean(apart) <= 0.05 and np.mean(level) > 0.6  # the rest cannot be told


def test_more_noise_resolves_less():
    quiet, loud = (resolve(analyse(delivery_of("wren", noise=n, seed=1)), 60) for n in (0.001, 0.008))
    for name in ("landing_separation", "stride_length", "peak_speed_throwing_hand", "landing_knee_flexion"):
        assert loud.measures[name].sd > quiet.measures[name].sd > 0


def test_resolution_is_repeatable_and_reports_progress(anew):
    a, again = clean("wren"), analyse(delivery_of("wren"))
    shares = list(resolve_steps(a, 60))
    assert shares == sorted(shares) and shares[-1] == 1.0 and len(shares) > 1
    resolve(again, 12)  # whatever was asked of it before
    assert resolve(a, 60).measures["stride_length"].sd == resolve(again, 60).measures["stride_length"].sd
    assert not a.resolved and resolve(a, 60).resolved


# contrast ---------------------------------------------------------------------------------------------------------
def test_verdicts_follow_difference_and_resolution(demo_pair):
    for row in demo_pair.rows:
        if row.verdict == UNAVAILABLE:
            assert row.difference is None and row.reason
            continue
        assert row.difference == pytest.approx(row.athlete - row.twin)
        if abs(row.difference) <= row.resolution:
            alike = abs(row.difference) + row.resolution <= row.alike_within
            assert row.verdict == (LEVEL if alike else UNTOLD) and not row.small
        else:
            assert row.verdict == (SHORT if row.difference < 0 else BEYOND)
        if row.measure.unit == "ms":
            assert row.resolution >= 1000 / 240 - 1e-9


def test_what_the_demo_athlete_lacks_is_found(demo_pair):
    assert demo_pair.row("stride_length").verdict == SHORT
    assert demo_pair.row("landing_separation").verdict == SHORT
    assert demo_pair.row("landing_trunk_tilt").verdict == BEYOND
    assert demo_pair.row("stride_length").band.low == 78


def test_nothing_is_claimed_before_the_resolution_is_known():
    pair = contrast(clean("wren"), clean("ines"))
    assert {row.verdict for row in pair.rows} <= {UNTOLD, UNAVAILABLE}


def test_planar_and_3d_are_never_contrasted():
    d = delivery_of("wren")
    one, two = analyse_pair(replace(d, track=planar(d.track)), delivery_of("ines"))
    row = contrast(one, two, Standards({"landing_knee_flexion": Band(1, 2, "", "")})).row("landing_knee_flexion")
    assert row.verdict == UNAVAILABLE and "single picture" in row.reason and row.band is None


def test_a_pair_shares_its_smoothing():
    one, two = analyse_pair(delivery_of("wren", noise=0.008, seed=1), delivery_of("ines"))
    np.testing.assert_array_equal(one.motion.cutoffs, two.motion.cutoffs)


def test_left_and_right_hander_make_a_pair():
    pair = contrast(*analyse_pair(delivery_of("pell"), delivery_of("ines")))
    assert pair.row("landing_trunk_rotation").athlete == pytest.approx(
        clean("pell").measures["landing_trunk_rotation"].value, abs=0.5
    )


# ledger -----------------------------------------------------------------------------------------------------------
def _side(speeds, length, height, ball) -> Analysis:
    base = clean("ines")
    values = {f"peak_speed_{name}": Value(v) for name, v in zip(CHAIN, speeds, strict=True)}
    values["landing_to_release"] = Value(length)
    delivery = replace(base.delivery, ball_speed=ball, span=None)
    return replace(base, measures=values, delivery=delivery, motion=replace(base.motion, height=height, _cache={}))


def test_account_adds_up_and_names_the_break(demo_pair):
    account = ledger(demo_pair.athlete, demo_pair.twin)
    assert [link.id for link in account.links] == list(LINKS)
    assert sum(link.contribution for link in account.links) == pytest.approx(account.gap, abs=1e-6)
    assert account.gap == pytest.approx(demo_pair.twin.delivery.ball_speed - demo_pair.athlete.delivery.ball_speed)
    assert account.broken_at == "shoulder" and "shoulder" in account.sentence
    assert account.links[-1].ratio == pytest.approx(account.athlete / account.twin)


def test_hand_worked_account():
    # the same body and tempo; only the elbow gains less: 4/2 against 6/2 and everything after keeps its gain
    athlete = _side((1, 2, 4, 8, 10), 150, 1.8, 20.0)
    twin = _side((1, 2, 6, 12, 15), 150, 1.8, 30.0)
    shares = {link.id: link.contribution for link in ledger(athlete, twin).links}
    assert shares["elbow"] == pytest.approx(10.0)
    assert all(abs(v) < 1e-9 for k, v in shares.items() if k != "elbow")
    assert ledger(athlete, twin).broken_at == "elbow"


def test_size_and_tempo_are_taken_out_first():
    athlete = _side((2, 4, 6, 10, 12), 150, 1.6, 20.0)
    twin = _side((2 * 1.2, 4 * 1.2, 6 * 1.2, 10 * 1.2, 12 * 1.2), 150, 1.6 * 1.2, 24.0)
    shares = {link.id: link.contribution for link in ledger(athlete, twin).links}
    assert shares["size"] == pytest.approx(4.0) and shares["pelvis"] == pytest.approx(0, abs=1e-9)


def test_equal_speeds_and_missing_ball():
    athlete = _side((1, 2, 4, 8, 10), 150, 1.8, 20.0)
    same = ledger(athlete, _side((1, 2, 5, 8, 10), 150, 1.8, 20.0))
    assert sum(link.contribution for link in same.links) == pytest.approx(0, abs=1e-9)
    assert {link.id: link.contribution for link in same.links}["elbow"] == pytest.approx(20 * np.log(5 / 4))
    assert same.broken_at is None
    hand = ledger(athlete, _side((1, 2, 4, 8, 12), 150, 1.8, None))
    assert hand.basis == "hand" and [link.id for link in hand.links] == list(LINKS)[:-1]
    assert sum(link.contribution for link in hand.links) == pytest.approx(2.0)


def test_no_break_when_links_give_and_take_too_much():
    account = ledger(_side((1, 2, 4, 8, 10), 150, 1.8, 20.0), _side((1, 6, 4, 8, 10), 150, 1.8, 20.5))
    assert account.broken_at is None and "to and fro" in account.sentence


def test_no_account_without_a_speed():
    d = delivery_of("wren")
    points = d.track.points.copy()
    points[:, 4] = np.nan  # the throwing elbow
    broken = analyse(replace(d, track=replace(d.track, points=points)))
    assert ledger(broken, clean("ines")) is None


def test_one_camera_is_enough_for_an_account():
    sides = [replace(delivery_of(n), track=planar(delivery_of(n).track)) for n in ("wren", "ines")]
    account = ledger(*analyse_pair(*sides))
    assert account is not None and account.basis == "ball"
    assert sum(link.contribution for link in account.links) == pytest.approx(account.gap, abs=1e-6)


def test_an_ahead_athlete_has_nothing_to_lose():
    account = ledger(clean("ines"), clean("wren"))
    assert account.gap < 0 and account.broken_at is None and "no loss" in account.sentence


def test_a_loss_within_its_resolution_is_not_named():
    # everything level but for a term smaller than its own spread
    athlete, twin = (resolve(analyse(delivery_of("ines", noise=0.006, seed=s)), 40) for s in (1, 2))
    twin = replace(twin, delivery=replace(twin.delivery, ball_speed=athlete.delivery.ball_speed + 0.05))
    account = ledger(athlete, twin)
    assert account.broken_at is None


def test_the_story_can_be_told_in_any_unit(demo_pair):
    account = ledger(demo_pair.athlete, demo_pair.twin)
    assert account.told(lambda v: f"<{v:.2f}>").count("<") == len(account.figures) == 2
    assert f"{account.gap:.1f} m/s" in account.sentence


def test_a_flat_moment_does_not_push_a_sharp_one_away():
    """A load that may lie anywhere in the stride must not move the landing that follows it."""
    analysis = clean("wren")
    load = replace(analysis.events["drive_start"], time=analysis.time("foot_contact") - 0.002, interval=250.0)
    vague = replace(analysis, events={**analysis.events, "drive_start": load})
    stops = jittered(vague, 300, np.random.default_rng(1))
    landing = stops["foot_contact"] - analysis.time("foot_contact")
    assert np.abs(landing).max() < 0.02 and np.std(stops["drive_start"]) > 0.01
    for before, after in pairwise(analysis.events):
        assert (stops[after] >= stops[before]).all()
