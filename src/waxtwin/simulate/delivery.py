"""The linked-body motion of a simulated delivery, built on a right-hander and mirrored at the end.

Every angle curve is the measured angle of the same name, so the truth of a measure is the curve itself.
The body hangs together by construction: pelvis, trunk and throwing arm by forward kinematics, legs and the
held glove arm by two-bone solutions, feet rigid. Field frame, metres, seconds, degrees.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.interpolate import CubicSpline

from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.simulate.lower_body import lower_body
from waxtwin.simulate.params import DeliveryParams
from waxtwin.simulate.script import (
    FOREARM,
    HALF_SHOULDERS,
    HAND,
    NECK,
    TRUNK,
    UP,
    UPPER_ARM,
    Knots,
)
from waxtwin.simulate.smooth_curves import (
    FINE_RATE,
    dot,
    fade,
    middle_joint,
    slerp,
    through,
    turn,
    unit,
    within_reach,
)

_ON_GRID = 1e-6  # of a step of the fine grid: all usual frame rates fall on it


@dataclass(frozen=True)
class SimulatedDelivery:
    """A finished motion on the fine grid.

    `times` (fine,), `points` (fine, landmarks, 3) in the true field frame, `angles` {name: (fine,)} degrees as
    generated, `landing` the constructed instant at which the lead foot meets the ground.
    """

    params: DeliveryParams
    knots: Knots
    times: np.ndarray
    points: np.ndarray
    angles: dict[str, np.ndarray]

    def sample(self, times: np.ndarray) -> np.ndarray:
        """Landmarks `(frames, landmarks, 3)` at any instants within the clip."""
        steps = times * FINE_RATE
        grid = np.rint(steps).astype(int)
        if np.abs(steps - grid).max(initial=0.0) < _ON_GRID:
            return np.asarray(self.points[grid])
        out = np.full((len(times), *self.points.shape[1:]), np.nan)
        out[:, self._known] = self._paths(times)
        return out

    @cached_property
    def _paths(self) -> CubicSpline:
        """Through the landmarks that there are; one of the whole motion takes longer than all that it is asked for."""
        return CubicSpline(self.times, self.points[:, self._known], axis=0)

    @property
    def _known(self) -> np.ndarray:
        return np.asarray(~np.isnan(self.points[0, :, 0]))


def simulate(params: DeliveryParams | None = None) -> SimulatedDelivery:
    """Build the whole delivery from its parameters."""
    params = params or DeliveryParams()
    knots = _knots(params)
    t = np.arange(0.0, knots.end + 0.5 / FINE_RATE, 1.0 / FINE_RATE)
    a = _angles(params, knots, t)
    body = lower_body(params, knots, t, a)
    body |= _upper_body(params, knots, t, a, body)
    points = np.full((t.size, len(LANDMARKS), 3), np.nan)
    for name, path in body.items():
        if name in INDEX:
            points[:, INDEX[name]] = path
    if params.throws == "L":
        points[..., 1] *= -1.0
    return SimulatedDelivery(params, knots, t, points, a)


def _knots(p: DeliveryParams) -> Knots:
    move = p.lead_in
    lift = move + p.first_move_to_lift
    landing = lift + p.lift_to_landing
    return Knots(
        move=move,
        lift=lift,
        part=lift + p.lift_to_break,
        load=lift + 0.60 * p.lift_to_landing,
        landing=landing,
        release=landing + p.landing_to_release,
        end=landing + p.landing_to_release + p.follow_through,
    )


def _angles(p: DeliveryParams, k: Knots, t: np.ndarray) -> dict[str, np.ndarray]:
    """All angle curves over `t`, degrees."""
    span = p.landing_to_release
    after = k.release
    out: dict[str, np.ndarray] = {}

    # pelvis and trunk: a slow part over the stride, then a logistic turn whose peak is the parameter
    def turning(landing: float, peak: float, at: float, final: float, wait: float) -> np.ndarray:
        quick = turn(t, final - landing, peak, at)
        early = float(turn(np.array([k.landing]), final - landing, peak, at)[0])
        slow = through(
            t,
            [(k.move, 0), (k.lift, p.lift_turn), (k.part + 0.1, p.lift_turn),
             (k.landing - wait, landing - early - 2), (k.landing, landing - early), (k.end, landing - early)],
            0.025,
        )  # fmt: skip
        return np.asarray(slow + quick)

    out["pelvis_rotation"] = turning(p.pelvis_landing, p.peak_pelvis_turn, k.landing + p.pelvis_peak * span, 98, 0.04)
    trunk_peaks = k.landing + p.trunk_peak * span
    out["trunk_rotation"] = turning(p.trunk_landing, p.peak_trunk_turn, trunk_peaks, p.trunk_final, 0.16)
    out["trunk_rotation"] += p.load_turn * through(t, [(k.part, 0), (k.load, 1), (k.landing - 0.08, 0)], 0.025)
    out["trunk_tilt"] = through(
        t,
        [(k.move, 1), (k.lift, 0), (k.load, p.tilt_load), (k.landing, p.tilt_landing), (after, p.tilt_release),
         (after + 0.14, 58), (after + 0.35, 66), (k.end, 60)],
        0.022,
    )  # fmt: skip
    out["trunk_side_tilt"] = through(
        t,
        [(k.move, 0), (k.load, -3), (k.landing, p.side_tilt_landing), (after, p.side_tilt_release),
         (after + 0.18, 20), (k.end, 8)],
        0.022,
    )  # fmt: skip
    # throwing arm: held, down and back, up at landing, layback, extension, across
    swing = k.part + 0.42 * (k.landing - k.part)
    out["abduction"] = through(
        t,
        [(k.move, 26), (k.lift, 32), (k.part, 30), (swing, 58), (k.landing, p.abduction_landing),
         (k.release, 90 + p.elbow_height_release), (after + 0.16, 84), (k.end, 62)],
        0.018,
    )  # fmt: skip
    out["horizontal_adduction"] = through(
        t,
        [(k.part, 52), (swing, -14), (k.landing, p.adduction_landing), (k.landing + 0.5 * span, p.elbow_lag),
         (after, 2), (after + 0.18, 58), (k.end, 70)],
        0.016,
    )  # fmt: skip
    out["elbow_flexion"] = (
        through(
            t,
            [(k.move, 116), (k.lift, 112), (k.part, 112), (swing, 52), (k.landing, p.elbow_landing),
             (k.landing + 0.62 * span, p.elbow_landing + 3), (k.end, p.elbow_landing + 3)],
            0.018,
        )
    )  # fmt: skip
    floor = p.elbow_release - 5.0  # straightens on a little past release
    drop = p.elbow_landing + 3 - floor
    # extension leads internal rotation by a fixed share of its own length, whatever its speed
    early = 0.64 * drop / p.peak_elbow_extension
    out["elbow_flexion"] -= turn(t, drop, p.peak_elbow_extension, k.release - early)
    out["elbow_flexion"] += through(t, [(after + 0.04, 0), (after + 0.2, 34), (k.end, 30)], 0.02)
    back = k.release - 0.034
    out["external_rotation"] = through(
        t,
        [(k.move, -28), (k.part, -34), (swing, -48), (k.landing - 0.09, p.arm_up_landing - 66),
         (k.landing, p.arm_up_landing), (back, p.layback + 1.5), (k.end, p.layback + 1.5)],
        0.009,
    )  # fmt: skip
    out["external_rotation"] -= turn(t, p.layback - 18, p.peak_internal_rotation, k.release)
    out["wrist_bend"] = through(t, [(k.landing, 0), (k.release - 0.06, -12), (k.release + 0.05, 8), (k.end, 10)], 0.012)
    out["abduction"] += _hands_rise(p, k, t)
    risen = swing + 0.35 * (k.landing - swing)
    falls = [(swing, 0), (risen, 1), (k.landing - 0.09, -0.25), (k.landing, 0)]
    out["external_rotation"] += p.forearm_drop * through(t, falls, 0.015)
    if p.hitch:
        _wait_on_the_way_up(out, t, k, p.hitch)
    return out


def _hands_rise(p: DeliveryParams, k: Knots, t: np.ndarray) -> np.ndarray:
    """What the upper arms are lifted with the knee, or after it, degrees."""
    top = k.lift + p.hands_lag - 0.08
    begins = top - 0.72 * (k.lift - k.move)
    return np.asarray(p.hands_rise * fade(t, begins, top) * (1 - fade(t, top, top + 0.5)))


def _wait_on_the_way_up(angles: dict[str, np.ndarray], t: np.ndarray, k: Knots, wait: float) -> None:
    """The throwing arm waits (s) on its way up and catches up before landing: its clock is bent, nothing else."""
    late = t - wait * np.exp(-(((t - (k.landing - 0.11)) / 0.055) ** 2))
    for name in ("abduction", "horizontal_adduction", "elbow_flexion", "external_rotation"):
        angles[name] = np.interp(late, t, angles[name])


def _upper_body(
    p: DeliveryParams, k: Knots, t: np.ndarray, a: dict[str, np.ndarray], lower: dict[str, np.ndarray]
) -> dict[str, np.ndarray]:
    h = p.height
    tilt, side = np.tan(np.radians(a["trunk_tilt"])), np.tan(np.radians(a["trunk_side_tilt"]))
    u = unit(np.stack([tilt, side, np.ones_like(tilt)], axis=-1))
    chest = lower["pelvis"] + TRUNK * h * u
    turn_ = np.radians(a["trunk_rotation"])
    flat = np.stack([np.cos(turn_), np.sin(turn_), np.zeros_like(turn_)], axis=-1)
    s = unit(flat - dot(flat, u) / u[:, 2:] * UP)  # square to the trunk, its bearing the trunk rotation
    forward = unit(np.cross(u, -s))
    throwing_shoulder, glove_shoulder = chest - HALF_SHOULDERS * h * s, chest + HALF_SHOULDERS * h * s
    upper, fore, hand = (part * h * p.arm_scale for part in (UPPER_ARM, FOREARM, HAND))

    angles = (a["abduction"], a["horizontal_adduction"], a["elbow_flexion"], a["external_rotation"])
    arm, forearm, elbow_axis = _arm(-s, forward, u, *angles)
    bend = np.radians(a["wrist_bend"])[:, None]
    knuckles = unit(np.cos(bend) * forearm + np.sin(bend) * np.cross(elbow_axis, forearm))
    elbow = throwing_shoulder + upper * arm
    wrist = elbow + fore * forearm

    # glove arm: wrist beside the throwing wrist's held place, then its own way out and back in
    still = [np.full_like(t, float(v)) for v in (30, 52, 112, -34)]
    still[0] += _hands_rise(p, k, t)
    held = [np.where(t < k.part, live, rest) for live, rest in zip(angles, still, strict=True)]
    held_arm, held_forearm, _ = _arm(-s, forward, u, *held)
    held_wrist = throwing_shoulder + upper * held_arm + fore * held_forearm
    target = within_reach(glove_shoulder, held_wrist + 0.055 * s + 0.03 * forward, 0.98 * (upper + fore))
    pole = unit(0.7 * s - u - 0.1 * forward)
    held_elbow = middle_joint(glove_shoulder, target, pole, upper, fore)
    out = k.part + 0.55 * (k.landing - k.part)
    rise, pull = k.release - 0.8 * p.glove_early, k.landing - p.glove_early
    glove_arm, glove_forearm, _ = _arm(
        s,
        forward,
        u,
        through(t, [(k.part, 45), (out, 80), (pull - 0.05, 82), (rise, 30), (k.end, 34)], 0.025),
        through(t, [(k.part, 35), (out, 20), (pull, 18), (rise, -18), (k.end, -10)], 0.025),
        through(t, [(k.part, 90), (out, 28), (pull - 0.04, 40), (rise, 112), (k.end, 95)], 0.025),
        through(t, [(k.part, 0), (out, -16), (k.landing, 0), (rise, 20), (k.end, 10)], 0.025),
        mirrored=True,
    )
    free = fade(t, k.part - 0.01, k.part + 0.30)
    glove_arm = slerp(unit(held_elbow - glove_shoulder), glove_arm, free)
    glove_forearm = slerp(unit(target - held_elbow), glove_forearm, free)
    glove_elbow = glove_shoulder + upper * glove_arm
    glove_wrist = glove_elbow + fore * glove_forearm

    head = chest + NECK * h * unit(0.62 * u + 0.38 * UP + 0.10 * forward)
    head[:, 0] += p.head_ahead * h * through(t, [(k.move, 0), (k.lift, 1), (k.landing, 1), (k.release, 0)], 0.03)
    head[:, 2] -= p.head_dip * h * through(t, [(k.lift, 0), (k.load, 1), (k.landing, 0)], 0.03)
    look = unit(np.array([1.0, 0.0, -0.06]) + 0.22 * forward)
    return {
        "head": head,
        "nose": head + 0.062 * h * look,
        "throwing_shoulder": throwing_shoulder,
        "glove_shoulder": glove_shoulder,
        "throwing_elbow": elbow,
        "glove_elbow": glove_elbow,
        "throwing_wrist": wrist,
        "glove_wrist": glove_wrist,
        "throwing_hand": wrist + hand * knuckles,
        "glove_hand": glove_wrist + hand * glove_forearm,
        "navel": lower["pelvis"] + 0.2 * (chest - lower["pelvis"]),
    }


def _arm(
    r: np.ndarray,
    f: np.ndarray,
    up: np.ndarray,
    abduction: np.ndarray,
    adduction: np.ndarray,
    flexion: np.ndarray,
    rotation: np.ndarray,
    *,
    mirrored: bool = False,
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Unit upper arm, unit forearm and unit elbow axis `(frames, 3)` from joint angles in trunk axes."""  # fmt: skip
    al, be, fl, ro = (np.radians(v)[:, None] for v in (abduction, adduction, flexion, rotation))
    arm = -np.cos(al) * up + np.sin(al) * (np.cos(be) * r + np.sin(be) * f)
    front = unit(f - dot(f, arm) * arm)
    over = np.cross(arm, front) * (-1.0 if mirrored else 1.0)
    aside = np.cos(ro) * front + np.sin(ro) * over
    forearm = np.cos(fl) * arm + np.sin(fl) * aside
    return arm, forearm, np.cross(arm, aside)
