"""Filling, filtering, derivatives, and the noise that is found."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import track_of
from waxtwin.core import butterworth
from waxtwin.core.landmarks import INDEX, LANDMARKS, anatomical_names
from waxtwin.core.motion import prepare, unwrapped
from waxtwin.core.smoothing import choose_cutoffs, derivative, fill_gaps, filtered, low_pass, noise_level
from waxtwin.core.track import Track

RATE = 240.0
T = np.arange(480) / RATE


def wave(hertz):
    return np.sin(2 * np.pi * hertz * T)[None, :, None]


@pytest.mark.parametrize("cutoff", [6.0, 12.0, 20.0, 40.0])
def test_named_cutoff_is_the_effective_one(cutoff):
    """At the cut-off the two passes together leave 1/sqrt(2), and phase is untouched."""
    out = filtered(wave(cutoff), RATE, cutoff)[0, :, 0]
    middle = slice(120, 360)
    left = np.std(out[middle]) / np.std(wave(cutoff)[0, middle, 0])
    assert left == pytest.approx(1 / np.sqrt(2), abs=0.01)
    assert np.corrcoef(out[middle], wave(cutoff)[0, middle, 0])[0, 1] > 0.999


def test_filter_keeps_what_is_slow_and_straight():
    slow = filtered(wave(1.0), RATE, 12.0)
    np.testing.assert_allclose(slow[0, 60:-60], wave(1.0)[0, 60:-60], atol=0.005)
    line = (3 * T + 1)[None, :, None]
    np.testing.assert_allclose(filtered(line, RATE, 10.0), line, atol=1e-6)


def test_stretches_between_long_gaps_are_filtered_apart():
    values = wave(2.0).copy()
    values[0, 200:260] = np.nan
    out = filtered(values, RATE, 12.0)
    assert np.isnan(out[0, 200:260]).all() and np.isfinite(out[0, :200]).all() and np.isfinite(out[0, 260:]).all()


@pytest.mark.parametrize("order", [1, 2, 3])
def test_derivative_is_exact_for_polynomials(order):
    values = (T**order)[None, :, None]
    inner = slice(2, -2)
    np.testing.assert_allclose(derivative(values, RATE)[0, inner, 0], (order * T ** (order - 1))[inner], atol=1e-7)


def test_derivative_beside_a_missing_frame_uses_its_neighbours():
    values = (5 * T)[None, :, None].copy()
    values[0, 100] = np.nan
    slope = derivative(values, RATE)[0, :, 0]
    assert np.isnan(slope[[99, 101]]).all() and slope[102] == pytest.approx(5) and slope[98] == pytest.approx(5)


@settings(max_examples=40, deadline=None)
@given(st.integers(20, 400), st.integers(1, 12), st.integers(0, 2**31))
def test_short_gaps_are_filled_close_to_the_truth(start, length, seed):
    rng = np.random.default_rng(seed)
    path = np.stack([np.sin(2 * np.pi * 2 * T), T**2, np.cos(2 * np.pi * T)], axis=-1)[:, None, :]
    noisy = path + rng.normal(0, 0.001, path.shape)
    holed = noisy.copy()
    holed[start : start + length] = np.nan
    filled = fill_gaps(holed, RATE)
    assert np.isfinite(filled).all()
    assert np.abs(filled - path).max() < 0.02
    keep = np.r_[0:start, start + length : 480]
    np.testing.assert_array_equal(filled[keep], noisy[keep])


def test_long_gaps_and_open_ends_stay_missing():
    path = np.repeat(T[:, None, None], 3, axis=2).copy()
    path[100:130] = np.nan
    path[:4] = np.nan
    filled = fill_gaps(path, RATE)
    assert np.isnan(filled[100:130]).all() and np.isnan(filled[:4]).all()


@pytest.mark.parametrize("noise", [0.001, 0.003, 0.008])
def test_noise_is_found_at_its_level(noise):
    track = track_of("ines", noise=noise, seed=3)
    cutoffs = choose_cutoffs(track.points, RATE)
    found = noise_level(track.points, low_pass(track.points[None], RATE, cutoffs)[0], RATE, cutoffs)
    seen = [INDEX[n] for n in LANDMARKS if n != "ball"]
    np.testing.assert_allclose(found[seen], noise, rtol=0.25)


def test_cutoffs_stay_in_their_ranges_and_fall_with_noise():
    clean, loud = (choose_cutoffs(track_of("ines", noise=n, seed=3).points, RATE) for n in (0.0, 0.010))
    for name, low, high in (
        ("head", 8, 14),
        ("lead_knee", 10, 20),
        ("throwing_elbow", 14, 30),
        ("throwing_hand", 20, 40),
    ):
        for cutoffs in (clean, loud):
            assert low - 1e-9 <= cutoffs[INDEX[name]] <= high + 1e-9
    assert loud[INDEX["lead_knee"]] <= clean[INDEX["lead_knee"]]
    assert loud[INDEX["throwing_hand"]] <= clean[INDEX["throwing_hand"]]


def test_slow_footage_lowers_every_cutoff():
    assert choose_cutoffs(track_of("ines", fps=60.0).points, 60.0).max() <= 15.0


def test_uneven_clock_is_made_even():
    track = track_of("wren")
    rng = np.random.default_rng(2)
    times = track.times + rng.uniform(-0.3, 0.3, track.times.size) / RATE
    from conftest import simulated

    uneven = Track(times, simulated("wren").sample(np.clip(times, 0, None)), track.confidence)
    motion = prepare(uneven, 1.76)
    assert np.ptp(np.diff(motion.times)) < 1e-9
    assert motion.times.size == pytest.approx(times.size, abs=1)
    hand = INDEX["throwing_hand"]
    exact = simulated("wren").sample(np.clip(motion.times, 0, simulated("wren").times[-1]))[:, hand]
    assert np.nanmax(np.abs(motion.raw[5:-5, hand] - exact[5:-5])) < 0.01


def test_a_hole_in_the_clock_stays_a_hole():
    track = track_of("wren")
    keep = (track.times < 1.0) | (track.times > 1.3)
    motion = prepare(Track(track.times[keep], track.points[keep], track.confidence[keep]), 1.76)
    hole = (motion.times > 1.02) & (motion.times < 1.28)
    assert np.isnan(motion.points[0, hole, INDEX["head"]]).all()


def test_unwrapping_bridges_missing_frames():
    turn = np.linspace(150, 400, 100)
    wrapped = ((turn + 180) % 360 - 180)[None].copy()
    wrapped[0, 40:45] = np.nan
    out = unwrapped(wrapped)
    assert np.isnan(out[0, 40:45]).all()
    np.testing.assert_allclose(np.delete(out[0], range(40, 45)), np.delete(turn, range(40, 45)))


def test_a_rounded_clock_keeps_its_rate():
    times = np.round(np.arange(700) / 240.0, 6)
    track = Track(times, np.zeros((700, len(LANDMARKS), 3)), np.ones((700, len(LANDMARKS))))
    assert track.rate == pytest.approx(240.0, rel=1e-5)


def test_sides_follow_the_throwing_hand():
    right, left = anatomical_names("R"), anatomical_names("L")
    assert right["right_shoulder"] == "throwing_shoulder" and right["left_ankle"] == "lead_ankle"
    assert left["left_shoulder"] == "throwing_shoulder" and left["right_ankle"] == "lead_ankle"
    assert set(right) == set(left) and len(set(right.values())) == len(right)


@settings(max_examples=30, deadline=None)
@given(st.integers(13, 700), st.floats(2.0, 100.0), st.integers(0, 12), st.integers(0, 2**32 - 1))
def test_the_recursion_gives_what_scipys_filters_give(frames, cutoff, pad, seed):
    from scipy.signal import butter, lfilter, sosfiltfilt  # over a second to import, in each process that collects

    values = np.cumsum(np.random.default_rng(seed).standard_normal((frames, 3)), axis=0)
    sos = butter(2, cutoff, fs=RATE, output="sos")
    np.testing.assert_allclose(
        butterworth.low_pass(cutoff, RATE).there_and_back(values, pad),
        sosfiltfilt(sos, values, axis=0, padlen=pad), atol=1e-10,
    )  # fmt: skip
    np.testing.assert_allclose(
        butterworth.forgetting(0.97).from_rest(values), lfilter([1.0], [1.0, -0.97], values, axis=0), atol=1e-10
    )
