"""The linked-body motion of a simulated delivery, built on a right-hander and mirrored at the end.

Every angle curve is the measured angle of the same name, so the truth of a measure is the curve itself.
The body hangs together by construction: pelvis, trunk and throwing arm by forward kinematics, legs and the
held glove arm by two-bone solutions, feet rigid. Field frame, metres, seconds, degrees.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import CubicSpline

from waxtwin.core.landmarks import INDEX, LANDMARKS
from waxtwin.simulate.params import DeliveryParams
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

# Segment lengths as fractions of standing height, rounded from Winter's anthropometric table.
_TRUNK, _NECK, _UPPER_ARM, _FOREARM, _HAND = 0.288, 0.118, 0.186, 0.146, 0.056
_THIGH, _SHANK, _ANKLE, _HEEL, _TOE = 0.245, 0.246, 0.039, 0.035, 0.105
_HALF_SHOULDERS, _HALF_HIPS = 0.105, 0.052
_DRIVE_ANKLE_X = 0.075  # the drive foot stands against the rubber's front edge
_UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True)
class Knots:
    """Instants of the script, seconds from the start of the clip."""

    move: float
    lift: float
    part: float
    load: float
    landing: float
    release: float
    end: float


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
        out = np.full((len(times), *self.points.shape[1:]), np.nan)
        known = ~np.isnan(self.points[0, :, 0])
        out[:, known] = CubicSpline(self.times, self.points[:, known], axis=0)(times)
        return out


def ground(x: np.ndarray | float) -> np.ndarray:
    """Height of the mound's surface (m) at distance `x` (m) in front of the rubber: flat, then one in twelve."""
    return -np.clip((np.asarray(x) - 0.15) / 12.0, 0.0, 0.254)


def simulate(params: DeliveryParams | None = None) -> SimulatedDelivery:
    """Build the whole delivery from its parameters."""
    params = params or DeliveryParams()
    knots = _knots(params)
    t = np.arange(0.0, knots.end + 0.5 / FINE_RATE, 1.0 / FINE_RATE)
    a = _angles(params, knots, t)
    body = _lower_body(params, knots, t, a)
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
        return slow + quick

    out["pelvis_rotation"] = turning(p.pelvis_landing, p.peak_pelvis_turn, k.landing + p.pelvis_peak * span, 98, 0.04)
    out["trunk_rotation"] = turning(p.trunk_landing, p.peak_trunk_turn, k.landing + p.trunk_peak * span, 106, 0.16)
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
        [(k.part, 52), (swing, -14), (k.landing, p.adduction_landing), (k.landing + 0.5 * span, -14),
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
    if p.hitch:
        _wait_on_the_way_up(out, t, k, p.hitch)
    return out


def _wait_on_the_way_up(angles: dict[str, np.ndarray], t: np.ndarray, k: Knots, wait: float) -> None:
    """The throwing arm waits (s) on its way up and catches up before landing: its clock is bent, nothing else."""
    late = t - wait * np.exp(-(((t - (k.landing - 0.11)) / 0.055) ** 2))
    for name in ("abduction", "horizontal_adduction", "elbow_flexion", "external_rotation"):
        angles[name] = np.interp(late, t, angles[name])


def _chord(p: DeliveryParams, flexion: float) -> float:
    """Hip-to-ankle distance (m) at a knee flexion (deg)."""
    a, b = _THIGH * p.height * p.leg_scale, _SHANK * p.height * p.leg_scale
    return float(np.sqrt(a**2 + b**2 + 2 * a * b * np.cos(np.radians(flexion))))


def _foot(
    ankle_or_toe: np.ndarray, yaw: np.ndarray, pitch: np.ndarray, height: float, *, from_toe: bool = False
) -> dict:
    """Rigid foot from the ankle (or the toe): yaw 0 toward the plate, pitch + toe down, degrees."""
    yaw, pitch = np.radians(yaw), np.radians(pitch)
    forward = np.stack([np.cos(yaw) * np.cos(pitch), np.sin(yaw) * np.cos(pitch), -np.sin(pitch)], axis=-1)
    up = np.stack([np.cos(yaw) * np.sin(pitch), np.sin(yaw) * np.sin(pitch), np.cos(pitch)], axis=-1)
    to_toe = _TOE * height * forward - _ANKLE * height * up
    ankle = ankle_or_toe - to_toe if from_toe else ankle_or_toe
    return {"ankle": ankle, "toe": ankle + to_toe, "heel": ankle - _HEEL * height * forward - _ANKLE * height * up}


def _lower_body(p: DeliveryParams, k: Knots, t: np.ndarray, a: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
    h = p.height
    thigh, shank = _THIGH * h * p.leg_scale, _SHANK * h * p.leg_scale
    reach = 0.992 * (thigh + shank)
    yaw = np.radians(a["pelvis_rotation"])
    hip_line = np.stack([np.cos(yaw), np.sin(yaw), np.zeros_like(yaw)], axis=-1)
    facing = np.stack([np.sin(yaw), -np.cos(yaw), np.zeros_like(yaw)], axis=-1)

    lead = _lead_foot(p, k, t)
    pelvis = _pelvis_path(p, k, t, hip_line, lead["ankle"])
    drive_hip, lead_hip = pelvis - _HALF_HIPS * h * hip_line, pelvis + _HALF_HIPS * h * hip_line
    drive = _drive_foot(p, k, t, drive_hip, reach)
    lead_ankle = within_reach(lead_hip, lead["ankle"], reach)
    shift = lead_ankle - lead["ankle"]
    lead = {name: path + shift for name, path in lead.items()}

    lead_pole = unit(
        facing + 0.55 * unit(lead["toe"] - lead["heel"]) * fade(t, k.load, k.landing)[:, None] + 0.12 * _UP
    )
    drive_pole = unit(facing + 0.35 * unit(drive["toe"] - drive["heel"]))
    lead_knee = middle_joint(lead_hip, lead["ankle"], lead_pole, thigh, shank)
    drive_knee = middle_joint(drive_hip, drive["ankle"], drive_pole, thigh, shank)
    body = {"pelvis": pelvis, "drive_hip": drive_hip, "lead_hip": lead_hip}
    body |= {"lead_knee": lead_knee, "drive_knee": drive_knee}
    body |= {f"lead_{part}": path for part, path in lead.items()}
    body |= {f"drive_{part}": path for part, path in drive.items()}
    return body


def _lead_foot(p: DeliveryParams, k: Knots, t: np.ndarray) -> dict[str, np.ndarray]:
    """Stance beside the rubber, up with the lift, out with the stride, down at `landing`, then still."""
    h = p.height
    stride = p.stride * h
    stance = 0.19 * h
    crest = k.lift + 0.52 * (k.landing - k.lift)
    raised = fade(t, k.move, k.lift + 0.07)
    x = through(
        t,
        [(k.lift - 0.05, stance), (k.lift, stance), (crest, stance + 0.24 * (stride - stance)),
         (k.landing - 0.035, stride - 0.085), (k.landing + 0.006, stride)],
        0.007,
    )  # fmt: skip
    y = -0.20 * h * raised + through(
        t,
        [(k.lift - 0.05, 0), (k.lift, 0), (crest, 0.13 * h + 0.4 * p.stride_offset),
         (k.landing - 0.03, 0.20 * h + p.stride_offset)],
        0.012,
    )  # fmt: skip
    pitch = 18 * raised + through(
        t,
        [(k.lift - 0.04, 0), (k.lift, 0), (crest, -8), (k.landing - 0.05, -27), (k.landing, -24),
         (k.landing + 0.028, 4.76 - 18)],
        0.006,
    )  # fmt: skip
    yaw = through(
        t,
        [(k.move, -88), (k.lift, -80), (crest, -78), (k.landing - 0.12, -0.25 * 78 + 0.75 * p.foot_yaw - 24),
         (k.landing - 0.01, p.foot_yaw), (k.end, p.foot_yaw)],
        0.012,
    )  # fmt: skip
    # Clearance of the lower of heel and toe: falls at a steady pace and meets the ground at `landing`.
    fall = 1.25
    lift_clear = (0.33 + p.lift_height) * h
    free = lift_clear * raised + through(
        t,
        [(k.lift - 0.04, 0.0), (k.lift, 0.0), (crest, 0.11 * h - lift_clear), (k.landing - 0.11, 0.13 - lift_clear),
         (k.landing - 0.05, fall * 0.05 - lift_clear), (k.landing, -lift_clear),
         (k.landing + 0.05, -fall * 0.05 - lift_clear)],
        0.004,
    )  # fmt: skip
    corner = 0.0015
    clearance = np.where(t < k.lift, free, corner * np.logaddexp(0.0, free / corner))
    ankle = np.stack([x, y, np.zeros_like(x)], axis=-1)
    foot = _foot(ankle, yaw, pitch, h)
    heel_gap = foot["heel"][:, 2] - ground(foot["heel"][:, 0])
    toe_gap = foot["toe"][:, 2] - ground(foot["toe"][:, 0])
    lowest = -0.002 * np.logaddexp(-heel_gap / 0.002, -toe_gap / 0.002) + 0.002 * np.log(2)
    rise = np.stack([np.zeros_like(x), np.zeros_like(x), clearance - lowest], axis=-1)
    return {name: path + rise for name, path in foot.items()}


def _pelvis_path(
    p: DeliveryParams, k: Knots, t: np.ndarray, hip_line: np.ndarray, lead_ankle: np.ndarray
) -> np.ndarray:
    """Pelvis centre: the way forward is chosen, the height follows from the leg that carries."""
    h = p.height
    stride = p.stride * h
    at_landing = p.pelvis_at_landing * stride
    x0 = 0.115 * h
    x = through(
        t,
        [(k.move, x0), (k.lift, x0 + 0.25 * p.shift_at_break * h), (k.part, x0 + p.shift_at_break * h),
         (k.load, x0 + p.shift_at_break * h + 0.36 * (at_landing - x0 - p.shift_at_break * h)),
         (k.landing, at_landing), (k.release, at_landing + p.pelvis_travel * h),
         (k.release + 0.2, at_landing + (p.pelvis_travel + 0.06) * h),
         (k.end, at_landing + (p.pelvis_travel + 0.08) * h)],
        0.020,
    )  # fmt: skip
    y = through(
        t,
        [(k.move, -0.015), (k.lift, 0.02), (k.load, -0.01), (k.landing, 0.4 * p.stride_offset - 0.04),
         (k.release, 0.6 * p.stride_offset - 0.02), (k.end, 0.8 * p.stride_offset)],
        0.03,
    )  # fmt: skip

    def index(instant: float) -> int:
        return min(round(instant * FINE_RATE), t.size - 1)

    def carried(instant: float, flexion: float, side: int, ankle: np.ndarray) -> tuple[float, float]:
        i = index(instant)
        hip = np.array([x[i], y[i]]) + side * _HALF_HIPS * h * hip_line[i, :2]
        flat = hip - ankle[:2]
        return instant, float(ankle[2] + np.sqrt(max(_chord(p, flexion) ** 2 - flat @ flat, 0.01)))

    stand = np.array([_DRIVE_ANKLE_X, 0.0, _ANKLE * h])
    front = lead_ankle[index(k.landing + 0.05)]
    heights = [
        carried(k.move, 20, -1, stand),
        carried(k.lift, 21, -1, stand),
        carried(k.part, 28, -1, stand),
        carried(k.load, p.load_knee, -1, stand),
    ]
    span = k.release - k.landing
    for share in (0.0, 0.35, 0.7, 1.0):
        bend = p.knee_landing + share * (p.knee_release - p.knee_landing) + 3.0 * np.sin(np.pi * share)
        heights.append(carried(k.landing + share * span, bend, 1, front))
    heights.append(carried(k.release + 0.2, p.knee_release + 1, 1, front))
    heights.append(carried(k.end, p.knee_release + 6, 1, front))
    z = through(t, heights, 0.014)
    return np.stack([x, y, z], axis=-1)


def _drive_foot(p: DeliveryParams, k: Knots, t: np.ndarray, hip: np.ndarray, reach: float) -> dict[str, np.ndarray]:
    """Planted along the rubber, heel up late in the stride, toe dragging, then swinging through."""
    h = p.height
    stride = p.stride * h
    yaw = through(
        t, [(k.landing - 0.20, -90), (k.landing, -52), (k.release, -14), (k.release + 0.25, -20), (k.end, -8)], 0.02
    )
    pitch = through(
        t,
        [(k.landing - 0.16, 0), (k.landing - 0.01, 50), (k.release, 66), (k.release + 0.15, 70),
         (k.end - 0.12, 15), (k.end, 4.76)],
        0.02,
    )  # fmt: skip
    toe0 = np.array([_DRIVE_ANKLE_X, -_TOE * h, 0.0])
    toe_x = through(
        t,
        [(k.landing - 0.08, toe0[0]), (k.landing, 0.18), (k.release, 0.62), (k.release + 0.22, 0.72 * stride),
         (k.end - 0.06, stride + 0.05), (k.end, stride + 0.06)],
        0.02,
    )  # fmt: skip
    toe_y = through(
        t,
        [(k.landing - 0.1, toe0[1]), (k.landing, -0.13), (k.release, -0.12), (k.release + 0.22, -0.30),
         (k.end - 0.1, -0.36), (k.end, -0.36)],
        0.02,
    )  # fmt: skip
    clear = through(
        t,
        [(k.landing, 0), (k.release - 0.01, 0.005), (k.release + 0.2, 0.30), (k.end - 0.06, 0.01), (k.end, 0.0)],
        0.02,
    )
    toe = np.stack([toe_x, toe_y, ground(toe_x) + clear], axis=-1)
    foot = _foot(toe, yaw, pitch, h, from_toe=True)
    shift = within_reach(hip, foot["ankle"], reach) - foot["ankle"]
    # the reach limiter must not pull the toe under ground
    low = np.minimum(0.0, foot["toe"][:, 2] + shift[:, 2] - ground(foot["toe"][:, 0] + shift[:, 0]))
    shift[:, 2] -= low
    return {name: path + shift for name, path in foot.items()}


def _upper_body(
    p: DeliveryParams, k: Knots, t: np.ndarray, a: dict[str, np.ndarray], lower: dict[str, np.ndarray]
) -> dict[str, np.ndarray]:
    h = p.height
    tilt, side = np.tan(np.radians(a["trunk_tilt"])), np.tan(np.radians(a["trunk_side_tilt"]))
    u = unit(np.stack([tilt, side, np.ones_like(tilt)], axis=-1))
    chest = lower["pelvis"] + _TRUNK * h * u
    turn_ = np.radians(a["trunk_rotation"])
    flat = np.stack([np.cos(turn_), np.sin(turn_), np.zeros_like(turn_)], axis=-1)
    s = unit(flat - dot(flat, u) / u[:, 2:] * _UP)  # square to the trunk, its bearing the trunk rotation
    forward = unit(np.cross(u, -s))
    throwing_shoulder, glove_shoulder = chest - _HALF_SHOULDERS * h * s, chest + _HALF_SHOULDERS * h * s
    upper, fore, hand = (part * h * p.arm_scale for part in (_UPPER_ARM, _FOREARM, _HAND))

    angles = (a["abduction"], a["horizontal_adduction"], a["elbow_flexion"], a["external_rotation"])
    arm, forearm, elbow_axis = _arm(-s, forward, u, *angles)
    bend = np.radians(a["wrist_bend"])[:, None]
    knuckles = unit(np.cos(bend) * forearm + np.sin(bend) * np.cross(elbow_axis, forearm))
    elbow = throwing_shoulder + upper * arm
    wrist = elbow + fore * forearm

    # glove arm: wrist beside the throwing wrist's held place, then its own way out and back in
    still = [np.full_like(t, float(v)) for v in (30, 52, 112, -34)]
    held = [np.where(t < k.part, live, rest) for live, rest in zip(angles, still, strict=True)]
    held_arm, held_forearm, _ = _arm(-s, forward, u, *held)
    held_wrist = throwing_shoulder + upper * held_arm + fore * held_forearm
    target = within_reach(glove_shoulder, held_wrist + 0.055 * s + 0.03 * forward, 0.98 * (upper + fore))
    pole = unit(0.7 * s - u - 0.1 * forward)
    held_elbow = middle_joint(glove_shoulder, target, pole, upper, fore)
    out = k.part + 0.55 * (k.landing - k.part)
    rise = k.release
    glove_arm, glove_forearm, _ = _arm(
        s,
        forward,
        u,
        through(t, [(k.part, 45), (out, 80), (k.landing - 0.05, 82), (rise, 30), (k.end, 34)], 0.025),
        through(t, [(k.part, 35), (out, 20), (k.landing, 18), (rise, -18), (k.end, -10)], 0.025),
        through(t, [(k.part, 90), (out, 28), (k.landing - 0.04, 40), (rise, 112), (k.end, 95)], 0.025),
        through(t, [(k.part, 0), (out, -16), (k.landing, 0), (rise, 20), (k.end, 10)], 0.025),
        mirrored=True,
    )
    free = fade(t, k.part - 0.01, k.part + 0.30)
    glove_arm = slerp(unit(held_elbow - glove_shoulder), glove_arm, free)
    glove_forearm = slerp(unit(target - held_elbow), glove_forearm, free)
    glove_elbow = glove_shoulder + upper * glove_arm
    glove_wrist = glove_elbow + fore * glove_forearm

    head = chest + _NECK * h * unit(0.62 * u + 0.38 * _UP + 0.10 * forward)
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
