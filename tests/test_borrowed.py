"""Borrowed motion: the linked body, exact shares, what may be shown, and what if."""

from dataclasses import replace
from functools import cache, lru_cache
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import clean, delivery_of, planar, track_of
from waxtwin.core.analysis import Delivery, analyse
from waxtwin.core.body import Body
from waxtwin.core.borrowed import (
    ARM,
    FACTORS,
    GROUPS,
    Borrowed,
    NotBorrowable,
    borrow,
    far_apart,
    side_of,
    worth,
)
from waxtwin.core.contrast import analyse_alike, analyse_pair
from waxtwin.core.landmarks import INDEX
from waxtwin.core.linked import angle_apart, hand_of, linked, matrices, mixed, quaternions
from waxtwin.core.shapley import joint_marginals, shapley
from waxtwin.core.steps import finish
from waxtwin.core.whatif import WhatIf
from waxtwin.library.simulated import Recording, record
from waxtwin.simulate.delivery import simulate
from waxtwin.simulate.params import DeliveryParams
from waxtwin.simulate.truth import true_peaks

BASE = DeliveryParams(height=1.72)


@lru_cache(64)
def moved(params):
    return simulate(params)


@cache
def throw(params, noise=0.0, seed=0, fps=240.0):
    motion = moved(params)
    speed = true_peaks(motion)["throwing_hand"] * params.ball_hand_ratio
    return Delivery("", record(motion, Recording(fps, noise, 0, seed)), params.throws, params.height, None, speed)


def account(athlete, twin):
    ours, theirs = analyse_pair(athlete, twin)
    found = finish(borrow((ours,), (theirs,)))
    assert isinstance(found, Borrowed)
    return found


@pytest.fixture(scope="module")
def demo():
    return analyse_pair(delivery_of("wren"), delivery_of("ines"))


@pytest.fixture(scope="module")
def demo_account(demo):
    found = finish(borrow(*((side,) for side in demo)))
    return found


# the linked body ----------------------------------------------------------------------------------------------------
@pytest.mark.parametrize("name", ["wren", "pell"])
def test_a_body_taken_apart_and_put_together_again_is_the_same(name):
    analysis = clean(name)
    body = linked(analysis.motion, analysis.time("foot_contact"), analysis.time("release") + 0.05)
    parts = {key: getattr(body, key) for key in ("pelvis", "turn", "trunk", "shoulder", "upper", "forearm", "hand")}
    made = hand_of(parts, body.height, body.lengths[:, None])[0]
    times = body.times[None]
    true = analysis.motion.sample(analysis.motion.points, times[0])[:, INDEX["throwing_hand"]]
    # arm lengths are held at their medians: what skin and smoothing stretch is all that may be off
    assert np.abs(made - true).max() < 0.012


def test_a_nearly_straight_elbow_keeps_its_axis():
    analysis = clean("ines")
    release = analysis.time("release")
    body = linked(analysis.motion, release - 0.08, release + 0.08)
    straight = np.degrees(np.arccos(np.clip(body.forearm[0, :, 0], -1, 1)))
    assert straight.min() < 25
    steps = angle_apart(body.upper[0, 1:], body.upper[0, :-1])
    assert steps.max() < 45  # no flip from frame to frame at 240 frames a second


@given(st.integers(0, 2**32 - 1))
@settings(deadline=None, max_examples=40)
def test_rotations_survive_the_way_through_quaternions_and_mixing(seed):
    from scipy.spatial.transform import Rotation

    a, b = Rotation.random(2, random_state=seed).as_matrix()
    q = quaternions(np.stack([a, b])[None])[0]
    assert np.allclose(matrices(q), [a, b], atol=1e-9)
    assert np.allclose(matrices(mixed(q[0], q[1], 0.0)), a, atol=1e-6)
    assert np.allclose(matrices(mixed(q[0], q[1], 1.0)), b, atol=1e-6)
    half = mixed(q[0], q[1], 0.5)
    assert angle_apart(q[0], half) == pytest.approx(angle_apart(half, q[1]), abs=1e-4)


# shares -------------------------------------------------------------------------------------------------------------
@given(st.lists(st.floats(-5, 5), min_size=16, max_size=16))
def test_shares_are_the_mean_over_all_orders(values):
    game = np.array(values).reshape(1, 2, 2, 2, 2)
    shares, low, high = shapley(game)
    by_order = np.zeros((24, 4))
    for k, order in enumerate(permutations(range(4))):
        state = [0, 0, 0, 0]
        for one in order:
            before = game[0][tuple(state)]
            state[one] = 1
            by_order[k, one] = game[0][tuple(state)] - before
    assert np.allclose(shares[0], by_order.mean(axis=0)) and shares.sum() == pytest.approx(
        game[0, 1, 1, 1, 1] - game[0, 0, 0, 0, 0]
    )
    assert np.allclose(low[0], by_order.min(axis=0)) and np.allclose(high[0], by_order.max(axis=0))
    both = [game[0][1, 1, c, d] - game[0][0, 0, c, d] for c in (0, 1) for d in (0, 1)]
    assert [float(end[0]) for end in joint_marginals(game, [0, 1])] == pytest.approx([min(both), max(both)])


def test_the_account_adds_up_to_the_measured_gap(demo, demo_account):
    gap = demo[1].delivery.ball_speed - demo[0].delivery.ball_speed
    assert demo_account.gap == pytest.approx(gap, abs=1e-6)
    assert sum(f.contribution for f in demo_account.factors) == pytest.approx(gap, abs=1e-6)
    assert sum(demo_account.singles[name].contribution for name in FACTORS) == pytest.approx(gap, abs=1e-6)
    for group, members in GROUPS.items():
        parts = sum(demo_account.singles[name].contribution for name in members)
        assert demo_account.singles[group].contribution == pytest.approx(parts, abs=1e-9)


def test_each_side_is_rebuilt_within_two_percent(demo):
    found = worth(*demo, (30.0, 36.0))
    assert found.rebuilt == pytest.approx((1, 1), abs=0.02) and found.warnings == ()


def test_every_bar_holds_its_share_and_says_what_it_merged(demo_account):
    names = [part for one in demo_account.factors for part in (one.parts or (one.id,))]
    assert sorted(names) == sorted(FACTORS)  # every factor stands in exactly one bar
    for one in demo_account.factors:
        assert one.low <= one.contribution <= one.high
    assert sum(not one.resolved for one in demo_account.factors) <= 1


def test_more_noise_never_shows_more_than_it_can(demo_account):
    loud = account(delivery_of("wren", noise=0.008, seed=1), delivery_of("ines", noise=0.008, seed=2))
    assert len(loud.factors) <= len(demo_account.factors)
    assert loud.singles["size"].resolved and loud.gap == pytest.approx(demo_account.gap)


def test_several_throws_give_a_mean_and_the_spread_between_them():
    throws = [throw(replace(BASE, trunk_peak=0.38 + 0.004 * k), 0.002, k) for k in range(3)]
    twins = [throw(BASE, 0.002, 10 + k) for k in range(2)]
    analyses = analyse_alike([*throws, *twins])
    found = finish(borrow(analyses[:3], analyses[3:]))
    assert found.throws == (3, 2)
    means = [np.mean([side.delivery.ball_speed for side in group]) for group in (analyses[:3], analyses[3:])]
    assert found.gap == pytest.approx(means[1] - means[0], abs=1e-9)


@pytest.mark.parametrize(
    ("changes", "right"),
    [({"arm_scale": 0.9}, "size"), ({"trunk_peak": 0.38}, "turn"), ({"peak_internal_rotation": 4500}, ARM),
     ({"landing_to_release": 0.172}, "tempo"), ({"pelvis_travel": 0.05}, "pelvis_path"),
     ({"ball_hand_ratio": 1.42}, "ball")],
)  # fmt: skip
@pytest.mark.parametrize("base", [BASE, DeliveryParams(height=1.93, throws="L")], ids=["short right", "tall left"])
def test_a_known_difference_carries_the_largest_share(changes, right, base):
    found = account(throw(replace(base, **changes)), throw(base))
    groups = ("size", "tempo", "pelvis_path", "turn", ARM, "ball")
    assert max(groups, key=lambda name: abs(found.singles[name].contribution)) == right


def test_a_left_hander_borrows_from_a_right_hander():
    found = account(delivery_of("pell"), delivery_of("ines"))
    mirrored = replace(delivery_of("pell"), throws="R", track=delivery_of("pell").track.canonical("L"))
    same = account(mirrored, delivery_of("ines"))
    for name in FACTORS:
        assert found.singles[name].contribution == pytest.approx(same.singles[name].contribution, abs=1e-6)


def test_other_frame_rates_give_the_same_account():
    slow = account(throw(replace(BASE, arm_scale=0.9), fps=500.0), throw(BASE, fps=500.0))
    usual = account(throw(replace(BASE, arm_scale=0.9)), throw(BASE))
    assert slow.singles["size"].contribution == pytest.approx(usual.singles["size"].contribution, abs=0.1)


def test_what_cannot_be_borrowed_says_why():
    side = analyse(replace(delivery_of("wren"), track=planar(track_of("wren"))))
    with pytest.raises(NotBorrowable, match="depth"):
        side_of(side, "athlete")
    track = track_of("wren")
    track.points[:, INDEX["throwing_wrist"]] = np.nan
    with pytest.raises(NotBorrowable, match=r"not known|not seen"):
        side_of(analyse(replace(delivery_of("wren"), track=track)), "athlete")


def test_without_a_ball_speed_the_hand_is_explained():
    found = account(replace(delivery_of("wren"), ball_speed=None), delivery_of("ines"))
    assert found.basis == "hand"
    assert sum(f.contribution for f in found.factors) == pytest.approx(found.gap, abs=1e-9)


# what if ------------------------------------------------------------------------------------------------------------
def test_nothing_borrowed_is_mine_and_everything_is_the_twins(demo):
    what = WhatIf(*demo)
    assert what.predict({}).ball == pytest.approx(demo[0].delivery.ball_speed)
    assert what.predict(dict.fromkeys(FACTORS, 1.0)).ball == pytest.approx(demo[1].delivery.ball_speed)
    assert what.problems({}) == [] and far_apart(*what._sides) == ""


def test_a_single_factor_gives_what_borrowing_it_first_gives(demo):
    what = WhatIf(*demo)
    values = worth(*demo, tuple(side.delivery.ball_speed for side in demo)).values[0].reshape(-1)
    for i, name in enumerate(FACTORS):
        alone = values[1 << (len(FACTORS) - 1 - i)]
        assert what.predict({name: 1.0}).ball == pytest.approx(alone, rel=2e-3), name


def test_the_spread_grows_with_what_is_borrowed(demo):
    what = WhatIf(*demo)
    little, much = what.predict({"trunk": 0.3}), what.predict({"trunk": 1.0})
    assert 0 < little.high - little.low < much.high - much.low
    assert much.low < much.ball < much.high


def test_the_figure_is_the_athletes_own_until_something_is_borrowed(demo):
    what = WhatIf(*demo)
    knots = what.clock({})
    for phase in (0.2, 0.6, 0.9):
        time = knots[0] + phase * (knots[3] - knots[0])
        own = demo[0].motion.sample(demo[0].motion.points, np.array([time]))[0]
        assert np.nanmax(np.linalg.norm(what.body({}, phase) - own, axis=1)) < 0.02
    leaning = Body(what.body({"trunk": 1.0}, 0.6)).trunk_tilt(), Body(what.body({}, 0.6)).trunk_tilt()
    assert leaning[0] < leaning[1] - 2  # the twin's trunk stays further back around landing


def test_an_impossible_body_is_said_to_be_one():
    long_legs = WhatIf(*analyse_pair(throw(BASE), throw(replace(BASE, leg_scale=1.15))))
    assert any("leg would have to be" in said for said in long_legs.problems({"pelvis_path": 1.0}))
    twisted = (replace(BASE, pelvis_landing=-5, trunk_landing=-30), replace(BASE, pelvis_landing=65, trunk_landing=-30))
    apart = WhatIf(*analyse_pair(*(throw(params) for params in twisted)))
    assert any("turned further apart" in said for said in apart.problems({"trunk": 1.2}))
    assert apart.problems({"size": 1.0}) == []
