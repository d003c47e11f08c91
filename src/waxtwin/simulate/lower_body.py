"""Legs, feet and the pelvis of the simulated pitcher."""

from __future__ import annotations

import numpy as np

from waxtwin.simulate.params import DeliveryParams
from waxtwin.simulate.script import (
    ANKLE,
    DRIVE_ANKLE_X,
    HALF_HIPS,
    HEEL,
    SHANK,
    THIGH,
    TOE,
    UP,
    Knots,
    ground,
)
from waxtwin.simulate.smooth_curves import (
    FINE_RATE,
    fade,
    middle_joint,
    through,
    unit,
    within_reach,
)

_ASIDE = np.array([0.0, 1.0, 0.0])
_WOBBLE_HZ = 2.5


def _chord(p: DeliveryParams, flexion: float) -> float:
    """Hip-to-ankle distance (m) at a knee flexion (deg)."""
    a, b = THIGH * p.height * p.leg_scale, SHANK * p.height * p.leg_scale
    return float(np.sqrt(a**2 + b**2 + 2 * a * b * np.cos(np.radians(flexion))))


def _foot(
    ankle_or_toe: np.ndarray, yaw: np.ndarray, pitch: np.ndarray, height: float, *, from_toe: bool = False
) -> dict[str, np.ndarray]:
    """Rigid foot from the ankle (or the toe): yaw 0 toward the plate, pitch + toe down, degrees."""
    yaw, pitch = np.radians(yaw), np.radians(pitch)
    forward = np.stack([np.cos(yaw) * np.cos(pitch), np.sin(yaw) * np.cos(pitch), -np.sin(pitch)], axis=-1)
    up = np.stack([np.cos(yaw) * np.sin(pitch), np.sin(yaw) * np.sin(pitch), np.cos(pitch)], axis=-1)
    to_toe = TOE * height * forward - ANKLE * height * up
    ankle = ankle_or_toe - to_toe if from_toe else ankle_or_toe
    return {"ankle": ankle, "toe": ankle + to_toe, "heel": ankle - HEEL * height * forward - ANKLE * height * up}


def lower_body(p: DeliveryParams, k: Knots, t: np.ndarray, a: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
    h = p.height
    thigh, shank = THIGH * h * p.leg_scale, SHANK * h * p.leg_scale
    reach = 0.992 * (thigh + shank)
    yaw = np.radians(a["pelvis_rotation"])
    hip_line = np.stack([np.cos(yaw), np.sin(yaw), np.zeros_like(yaw)], axis=-1)
    facing = np.stack([np.sin(yaw), -np.cos(yaw), np.zeros_like(yaw)], axis=-1)

    lead = _lead_foot(p, k, t)
    pelvis = _pelvis_path(p, k, t, hip_line, lead["ankle"])
    drive_hip, lead_hip = pelvis - HALF_HIPS * h * hip_line, pelvis + HALF_HIPS * h * hip_line
    drive = _drive_foot(p, k, t, drive_hip, reach)
    lead_ankle = within_reach(lead_hip, lead["ankle"], reach)
    shift = lead_ankle - lead["ankle"]
    lead = {name: path + shift for name, path in lead.items()}

    lands = fade(t, k.load, k.landing)[:, None]
    lead_pole = unit(facing + (0.55 * unit(lead["toe"] - lead["heel"]) + p.knee_out * _ASIDE) * lands + 0.12 * UP)
    drive_pole = unit(facing + 0.35 * unit(drive["toe"] - drive["heel"]))
    lead_knee = middle_joint(lead_hip, lead["ankle"], lead_pole, thigh, shank)
    drive_knee = middle_joint(drive_hip, drive["ankle"], drive_pole, thigh, shank)
    body = {"pelvis": pelvis, "drive_hip": drive_hip, "lead_hip": lead_hip}
    body |= {"lead_knee": lead_knee, "drive_knee": drive_knee}
    body |= {f"lead_{part}": path for part, path in lead.items()}
    body |= {f"drive_{part}": path for part, path in drive.items()}
    return body


def _rocked(p: DeliveryParams, k: Knots, t: np.ndarray) -> np.ndarray:
    """How far pelvis and front foot have stepped back before the first move, m; - away from the plate."""
    ends = k.move - p.pause
    return np.asarray(-p.rock * p.height * (fade(t, ends - 0.7, ends - 0.35) - fade(t, ends - 0.35, ends)))


def _lead_foot(p: DeliveryParams, k: Knots, t: np.ndarray) -> dict[str, np.ndarray]:
    """Stance beside the rubber, up with the lift, out with the stride, down at `landing`, then still."""
    h = p.height
    stride = p.stride * h
    stance = 0.19 * h
    crest = k.lift + 0.52 * (k.landing - k.lift)
    raised = fade(t, k.move, k.lift + 0.07)
    x = _rocked(p, k, t) + p.foot_out * h * np.exp(-(((t - k.part) / 0.12) ** 2))
    x += through(
        t,
        [(k.lift - 0.05, stance), (k.lift, stance), (crest, stance + 0.24 * (stride - stance)),
         (k.landing - 0.035, stride - 0.085), (k.landing + 0.006, stride)],
        0.007,
    )  # fmt: skip
    y = -0.20 * h * raised + through(
        t,
        [(k.lift - 0.05, 0), (k.lift, 0), (crest, (0.13 + p.swing) * h + 0.4 * p.stride_offset),
         (k.landing - 0.03, 0.20 * h + p.stride_offset)],
        0.012,
    )  # fmt: skip
    pitch = 18 * raised + through(
        t,
        [(k.lift - 0.04, 0), (k.lift, 0), (crest, -8),
         (k.landing - 0.05, p.foot_pitch - 21), (k.landing, p.foot_pitch - 18),
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
    x = _rocked(p, k, t) + through(
        t,
        [(k.move, x0), (k.lift, x0 + 0.25 * p.shift_at_break * h), (k.part, x0 + p.shift_at_break * h),
         (k.load, x0 + p.shift_at_break * h + p.shift_at_load * (at_landing - x0 - p.shift_at_break * h)),
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
        hip = np.array([x[i], y[i]]) + side * HALF_HIPS * h * hip_line[i, :2]
        flat = hip - ankle[:2]
        return instant, float(ankle[2] + np.sqrt(max(_chord(p, flexion) ** 2 - flat @ flat, 0.01)))

    stand = np.array([DRIVE_ANKLE_X, 0.0, ANKLE * h])
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
        [(k.landing - 0.16, 0), (k.landing - 0.01, p.heel_up), (k.release, p.heel_up + 16),
         (k.release + 0.15, p.heel_up + 20),
         (k.end - 0.12, 15), (k.end, 4.76)],
        0.02,
    )  # fmt: skip
    toe0 = np.array([DRIVE_ANKLE_X, -TOE * h, 0.0])
    toe_x = through(
        t,
        [(k.landing - 0.08, toe0[0]), (k.landing, 0.18 + p.drag), (k.release, 0.62 + p.knee_after),
         (k.release + 0.22, 0.72 * stride),
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
    wavers = p.foot_wobble * h * np.sin(2 * np.pi * _WOBBLE_HZ * (t - k.move))
    toe_y = toe_y + wavers * fade(t, k.move, k.move + 0.2) * (1 - fade(t, k.load, k.load + 0.1))
    toe = np.stack([toe_x, toe_y, ground(toe_x) + clear], axis=-1)
    foot = _foot(toe, yaw, pitch, h, from_toe=True)
    shift = within_reach(hip, foot["ankle"], reach) - foot["ankle"]
    # the reach limiter must not pull the toe under ground
    low = np.minimum(0.0, foot["toe"][:, 2] + shift[:, 2] - ground(foot["toe"][:, 0] + shift[:, 0]))
    shift[:, 2] -= low
    return {name: path + shift for name, path in foot.items()}
