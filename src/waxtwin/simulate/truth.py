"""What really happened in a simulated delivery: events and angles from the motion itself.

Instants are found on the 2400 Hz grid by the definitions of the stops, with no noise and no smoothing except
where a definition names a slow copy; they share no code with the detectors that they judge.
"""

from __future__ import annotations

import numpy as np

from waxtwin.core.butterworth import low_pass
from waxtwin.core.landmarks import INDEX
from waxtwin.core.smoothing import TWO_PASS
from waxtwin.simulate.delivery import SimulatedDelivery
from waxtwin.simulate.smooth_curves import FINE_RATE


def true_events(delivery: SimulatedDelivery) -> dict[str, float]:
    """Event times in seconds from the start of the clip."""
    t, h = delivery.times, delivery.params.height / 1.80
    at = {name: delivery.points[:, i] for name, i in INDEX.items()}
    pelvis = (at["drive_hip"] + at["lead_hip"]) / 2

    hand = _speed(at["throwing_hand"])
    near = np.flatnonzero(np.abs(t - delivery.knots.release) < 0.06)
    release = _peak_time(t, hand, near[np.argmax(hand[near])])
    contact = _ground_time(t, at, release, h)
    lift_range = np.flatnonzero((t < contact) & (t > contact - 2.5))
    lift = _peak_time(t, at["lead_knee"][:, 2], lift_range[np.argmax(at["lead_knee"][lift_range, 2])])

    slow = np.maximum(_speed(_slow(pelvis, 6.0)), _speed(_slow(at["lead_ankle"], 6.0)))
    rests = slow[t < lift] < 0.10 * h
    held = np.convolve(rests, np.ones(int(0.2 * FINE_RATE)), "valid") >= int(0.2 * FINE_RATE)
    moving = _first_stay(slow > 0.25 * h, int(0.1 * FINE_RATE), int(np.flatnonzero(held)[-1]) if held.any() else 0)
    first_move = _crossing(t, slow, 0.25 * h, moving)
    still = np.flatnonzero(slow[:moving] < 0.10 * h)
    set_ = t[still[-1]] if still.size else 0.0

    gap = np.linalg.norm(at["throwing_wrist"] - at["glove_wrist"], axis=-1)
    held = np.median(gap[(t > lift - 0.3) & (t < lift)])
    closed = np.flatnonzero((gap < held + 0.01) & (t < contact))
    hand_break = _crossing(t, gap, held + 0.01, closed[-1] + 1)

    knee = _flexion(at["drive_hip"], at["drive_knee"], at["drive_ankle"])
    between = np.flatnonzero((t > lift) & (t < contact))
    deep = between[knee[between] > knee[between].max() - 1.0]

    ankle = _speed(_slow(at["lead_ankle"], 12.0))
    planted = (ankle < 0.5 * h) & (t >= contact)
    for part in ("lead_heel", "lead_toe"):
        height = at[part][:, 2]
        rest = np.median(height[(t > release - 0.03) & (t < release)])
        planted &= np.abs(height - rest) < 0.01 * h
    plant = t[_first_stay(planted, int(0.02 * FINE_RATE), 0)]

    window = np.flatnonzero((t > contact) & (t < release))
    rotation = delivery.angles["external_rotation"]
    layback = _peak_time(t, rotation, window[np.argmax(rotation[window])])
    tail = np.flatnonzero(t > release)
    finish = _first_stay(hand < 0.2 * hand.max(), int(0.05 * FINE_RATE), tail[0])
    return {
        "set": set_,
        "first_move": first_move,
        "peak_knee": lift,
        "hand_break": hand_break,
        "drive_start": float(t[deep[-1]]),
        "foot_contact": contact,
        "foot_plant": float(min(plant, release)),
        "max_layback": layback,
        "release": release,
        "finish": float(t[finish]),
    }


def true_angles(delivery: SimulatedDelivery, events: dict[str, float]) -> dict[str, dict[str, float]]:
    """Every generated angle, and both knee bends, at every event: {event: {angle: degrees}}."""
    at = {name: delivery.points[:, i] for name, i in INDEX.items()}
    curves = dict(delivery.angles)
    curves.pop("wrist_bend")
    curves["separation"] = curves["pelvis_rotation"] - curves["trunk_rotation"]
    for side in ("drive", "lead"):
        curves[f"{side}_knee_flexion"] = _flexion(at[f"{side}_hip"], at[f"{side}_knee"], at[f"{side}_ankle"])
    return {
        event: {name: float(np.interp(instant, delivery.times, curve)) for name, curve in curves.items()}
        for event, instant in events.items()
    }


def true_peaks(delivery: SimulatedDelivery) -> dict[str, float]:
    """Peak speeds: linear in m/s for the moving points, angular in deg/s for the four turns."""
    at = {name: delivery.points[:, i] for name, i in INDEX.items()}
    at["pelvis"] = (at["drive_hip"] + at["lead_hip"]) / 2
    t, k = delivery.times, delivery.knots
    throw = (t > k.load) & (t < k.release + 0.03)
    names = ("pelvis", "drive_knee", "lead_toe", "lead_hip", "head", "throwing_shoulder", "throwing_elbow",
             "throwing_wrist", "throwing_hand")  # fmt: skip
    peaks = {name: float(_speed(at[name])[throw].max()) for name in names}
    rate = {name: np.gradient(curve, t) for name, curve in delivery.angles.items()}
    peaks["pelvis_turn"] = float(rate["pelvis_rotation"][throw].max())
    peaks["trunk_turn"] = float(rate["trunk_rotation"][throw].max())
    peaks["elbow_extension"] = float(-rate["elbow_flexion"][throw].min())
    peaks["internal_rotation"] = float(-rate["external_rotation"][throw].min())
    return peaks


def _ground_time(t: np.ndarray, at: dict[str, np.ndarray], release: float, h: float) -> float:
    """Ground contact by the two-height rule on the true heights of heel and toe."""
    over = []
    for part in ("lead_heel", "lead_toe"):
        height = at[part][:, 2]
        rest = np.median(height[(t > release - 0.06) & (t < release)])
        over.append(height - rest)
    lower = np.minimum(*over)
    before = np.flatnonzero((t < release) & (t > release - 0.6))
    marks = []
    for level in (0.06 * h, 0.02 * h):
        above = before[lower[before] > level]
        marks.append(_crossing(t, lower, level, above[-1] + 1))
    return marks[1] + 0.5 * (marks[1] - marks[0])


def _speed(path: np.ndarray) -> np.ndarray:
    return np.asarray(np.linalg.norm(np.gradient(path, 1 / FINE_RATE, axis=0, edge_order=2), axis=-1))


def _slow(path: np.ndarray, cutoff: float) -> np.ndarray:
    return low_pass(cutoff / TWO_PASS, FINE_RATE).there_and_back(path, 9)


def _flexion(a: np.ndarray, b: np.ndarray, c: np.ndarray) -> np.ndarray:
    one, two = a - b, c - b
    cosine = np.sum(one * two, -1) / np.linalg.norm(one, axis=-1) / np.linalg.norm(two, axis=-1)
    return np.asarray(180.0 - np.degrees(np.arccos(np.clip(cosine, -1, 1))))


def _first_stay(flags: np.ndarray, count: int, start: int) -> int:
    """First index from `start` at which `flags` begins to hold for `count` samples."""
    run = np.convolve(flags[start:], np.ones(count), "valid")
    hits = np.flatnonzero(run >= count - 0.5)
    return start + int(hits[0]) if hits.size else flags.size - 1


def _crossing(t: np.ndarray, curve: np.ndarray, level: float, after: int) -> float:
    """Instant between samples `after - 1` and `after` at which the curve meets `level`."""
    a, b = curve[after - 1], curve[after]
    return float(t[after - 1] + (level - a) / (b - a) / FINE_RATE) if a != b else float(t[after])


def _peak_time(t: np.ndarray, curve: np.ndarray, i: int) -> float:
    """Instant of the parabola's top through samples i-1, i, i+1."""
    if i in (0, curve.size - 1):
        return float(t[i])
    a, b, c = curve[i - 1 : i + 2]
    return float(t[i] + 0.5 * (a - c) / (a - 2 * b + c) / FINE_RATE)
