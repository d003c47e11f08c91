"""Measures of the lift, the load and the first part of the stride."""

from __future__ import annotations

import numpy as np

from waxtwin.core.body import degrees, dot
from waxtwin.core.measures.registry import DRIVE_LEG, DRIVE_LINES, HIPS, LEAD_LINES, TRUNK, Reading, measure


@measure(
    "lift_height",
    "Lift height",
    unit="%",
    kind="P",
    at="peak_knee",
    view="any",
    needs=("lead_knee", *HIPS),
    usual="leg lift height",
    text="How high the front knee comes against the pelvis.",
    formula="lead_knee.z - P.z, % height",
    sign="+ knee above the pelvis",
    gauge="lead_knee",
)
def lift_height(r: Reading) -> np.ndarray:
    body = r.pose("peak_knee")
    return r.percent((body.at("lead_knee") - body.at("pelvis"))[:, 2])


@measure(
    "lift_foot_swing",
    "Front foot swing at the lift",
    unit="deg",
    kind="P",
    at="peak_knee",
    view="side",
    needs=("lead_knee", "lead_ankle"),
    segments=LEAD_LINES[1:],
    text="How far the front shin hangs off straight down at the top of the lift.",
    formula="atan2(a.x, -a.z), a = lead_ankle - lead_knee",
    sign="+ foot swung toward the plate",
    gauge="lead_shin",
)
def lift_foot_swing(r: Reading) -> np.ndarray:
    body = r.pose("peak_knee")
    shin = body.at("lead_ankle") - body.at("lead_knee")
    return degrees(shin[:, 0], -shin[:, 2])


@measure(
    "lift_turn",
    "Turn at the lift",
    unit="deg",
    kind="P",
    at="peak_knee",
    view="3D",
    needs=TRUNK,
    usual="trunk rotation at peak knee height",
    text="How far the shoulders are turned at the top of the lift.",
    formula="trunk rotation",
    sign="- turned away from the plate",
    gauge="shoulder_line",
    curve="trunk_rotation",
)
def lift_turn(r: Reading) -> np.ndarray:
    return r.value(r.motion.trunk_rotation(), "peak_knee")


@measure(
    "lift_head_over_navel",
    "Head over navel at the lift",
    unit="%",
    kind="P",
    at="peak_knee",
    view="side",
    needs=("head", *TRUNK),
    text="Where the head is against the navel at the top of the lift.",
    formula="head.x - navel.x, % height",
    sign="+ head toward the plate",
    gauge="head_navel",
)
def lift_head_over_navel(r: Reading) -> np.ndarray:
    body = r.pose("peak_knee")
    return r.percent((body.at("head") - body.at("navel"))[:, 0])


@measure(
    "first_move_direction",
    "First move of the head",
    unit="%",
    kind="P",
    at="peak_knee",
    view="side",
    needs=("head",),
    stops=("set",),
    text="Which way the head travels from set to the top of the lift.",
    formula="head.x at the lift - at set, % height",
    sign="+ toward the plate",
    gauge="plumb",
)
def first_move_direction(r: Reading) -> np.ndarray:
    return r.percent((r.pose("peak_knee").at("head") - r.pose("set").at("head"))[:, 0])


@measure(
    "pelvis_lead_at_break",
    "Weight moved before the hands part",
    unit="%",
    kind="P",
    at="hand_break",
    view="side",
    needs=HIPS,
    stops=("set",),
    usual="pelvis lead at hand separation",
    text="How far the pelvis has travelled toward the plate when the hands part.",
    formula="P.x - P.x(set), % height",
    sign="+ moved toward the plate",
    gauge="plumb",
)
def pelvis_lead_at_break(r: Reading) -> np.ndarray:
    return r.percent((r.pose("hand_break").at("pelvis") - r.pose("set").at("pelvis"))[:, 0])


@measure(
    "drive_leg_tilt_at_break",
    "Lean of the back leg as the hands part",
    unit="deg",
    kind="P",
    at="hand_break",
    view="side",
    needs=DRIVE_LEG,
    segments=(("drive_hip", "drive_ankle"),),
    text="How far the back leg, ankle to hip, leans toward the plate.",
    formula="drive-leg tilt",
    sign="+ toward the plate",
    gauge="drive_leg",
    curve="drive_leg",
)
def drive_leg_tilt_at_break(r: Reading) -> np.ndarray:
    return r.pose("hand_break").leg_tilt("drive")


@measure(
    "drive_knee_travel_at_break",
    "Back knee travel before the hands part",
    unit="%",
    kind="P",
    at="hand_break",
    view="side",
    needs=("drive_knee",),
    stops=("set",),
    text="How far the back knee has gone toward the plate.",
    formula="drive_knee.x - drive_knee.x(set), % height",
    sign="+ toward the plate",
    gauge="drive_leg",
)
def drive_knee_travel_at_break(r: Reading) -> np.ndarray:
    return r.percent((r.pose("hand_break").at("drive_knee") - r.pose("set").at("drive_knee"))[:, 0])


@measure(
    "load_knee_flexion",
    "Back knee bend in the load",
    unit="deg",
    kind="P",
    at="drive_start",
    view="3D",
    needs=DRIVE_LEG,
    planar="side",
    segments=DRIVE_LINES,
    usual="drive knee flexion",
    text="How deep the back knee bends before it pushes.",
    formula="drive knee flexion",
    sign="0 straight",
    gauge="drive_knee",
    curve="drive_knee",
)
def load_knee_flexion(r: Reading) -> np.ndarray:
    return r.pose("drive_start").knee_flexion("drive")


@measure(
    "load_hip_flexion",
    "Hip hinge in the load",
    unit="deg",
    kind="P",
    at="drive_start",
    view="3D",
    needs=(*TRUNK, "drive_knee"),
    planar="side",
    segments=DRIVE_LINES[:1],
    usual="drive hip flexion (hinge)",
    text="How far the trunk and the back thigh fold toward each other.",
    formula="drive hip flexion",
    sign="0 straight",
    gauge="drive_leg",
    curve="drive_hip",
)
def load_hip_flexion(r: Reading) -> np.ndarray:
    return r.pose("drive_start").hip_flexion("drive")


@measure(
    "load_trunk_tilt",
    "Trunk lean in the load",
    unit="deg",
    kind="P",
    at="drive_start",
    view="side",
    needs=TRUNK,
    text="Which way the trunk leans when the back leg is most loaded.",
    formula="trunk tilt",
    sign="+ toward the plate, - back",
    gauge="trunk",
    curve="trunk_tilt",
)
def load_trunk_tilt(r: Reading) -> np.ndarray:
    return r.pose("drive_start").trunk_tilt()


@measure(
    "load_trunk_turn",
    "Shoulder turn in the load",
    unit="deg",
    kind="P",
    at="drive_start",
    view="3D",
    needs=TRUNK,
    usual="trunk rotation in the load",
    text="How far the shoulders are turned when the back leg is most loaded.",
    formula="trunk rotation",
    sign="- turned away from the plate",
    gauge="shoulder_line",
    curve="trunk_rotation",
)
def load_trunk_turn(r: Reading) -> np.ndarray:
    return r.value(r.motion.trunk_rotation(), "drive_start")


@measure(
    "load_knee_over_toe",
    "Back knee over the toe in the load",
    unit="m",
    kind="P",
    at="drive_start",
    view="3D",
    needs=("drive_knee", "drive_toe", "drive_heel"),
    text="How far the back knee goes out past the toes when the back leg is most loaded.",
    formula="(drive_knee - drive_toe).unit(toe - heel of the drive foot, horizontal), m",
    sign="+ knee beyond the toe",
    gauge="drive_foot",
)
def load_knee_over_toe(r: Reading) -> np.ndarray:
    body = r.pose("drive_start")
    return dot(body.at("drive_knee") - body.at("drive_toe"), body.foot_along("drive"))


@measure(
    "load_knee_inset",
    "Back knee falls in under load",
    unit="m",
    kind="P",
    at="drive_start",
    view="side",
    needs=DRIVE_LEG,
    usual="drive knee valgus toward the plate",
    text="How far the back knee lies toward the plate of the line from ankle to hip.",
    formula="drive_knee.x - x of the line drive_ankle to drive_hip at knee height, m",
    sign="+ collapsed toward the plate",
    gauge="drive_leg",
)
def load_knee_inset(r: Reading) -> np.ndarray:
    body = r.pose("drive_start")
    ankle, knee, hip = (body.at(f"drive_{part}") for part in ("ankle", "knee", "hip"))
    with np.errstate(divide="ignore", invalid="ignore"):
        share = (knee[:, 2] - ankle[:, 2]) / (hip[:, 2] - ankle[:, 2])
    return np.asarray(knee[:, 0] - (ankle[:, 0] + share * (hip[:, 0] - ankle[:, 0])))
