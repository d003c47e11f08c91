"""Measures at landing and up to it."""

from __future__ import annotations

import numpy as np

from waxtwin.core.measures.registry import (
    DRIVE_LEG,
    DRIVE_LINES,
    FOOT_OFF,
    LEAD_LEG,
    LEAD_LINES,
    SHOULDER_LINE,
    SHOULDERS,
    TRUNK,
    Reading,
    measure,
)
from waxtwin.core.motion import unwrapped

_FLEISIG = "Fleisig et al. 1999 (J Biomech 32)"


@measure(
    "stride_length",
    "Stride length",
    unit="%",
    kind="P",
    at="landing",
    view="side",
    needs=("lead_ankle",),
    text="How far in front of the rubber the front ankle lands.",
    formula="lead_ankle.x, % height",
    sign="+ toward the plate",
    gauge="stride",
    reference=_FLEISIG,
)
def stride_length(r: Reading) -> np.ndarray:
    return r.percent(r.pose("landing").at("lead_ankle")[:, 0])


@measure(
    "stride_offset",
    "Stride direction",
    unit="m",
    kind="P",
    at="landing",
    view="front",
    needs=("lead_ankle", "drive_ankle"),
    stops=("set",),
    usual="stride direction, closed or open",
    text="How far to the side of the back foot the front foot lands.",
    formula="lead_ankle.y - drive_ankle.y(set), m",
    sign="+ open side, - closed side",
    gauge="stride",
)
def stride_offset(r: Reading) -> np.ndarray:
    return np.asarray((r.pose("landing").at("lead_ankle") - r.pose("set").at("drive_ankle"))[:, 1])


@measure(
    "lead_foot_yaw",
    "Front foot direction",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=("lead_heel", "lead_toe"),
    usual="stride foot angle",
    text="Where the front foot points as it lands.",
    formula="foot yaw of the lead foot",
    sign="0 to the plate, + open, - closed",
    gauge="lead_foot",
    curve="lead_foot",
)
def lead_foot_yaw(r: Reading) -> np.ndarray:
    return r.pose("landing").foot_yaw("lead")


@measure(
    "drive_extension_at_landing",
    "Back leg straightness",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=DRIVE_LEG,
    planar="side",
    segments=DRIVE_LINES,
    usual="drive knee extension at foot contact",
    text="The inner angle of the back knee at landing; 180 is straight.",
    formula="180 - drive knee flexion",
    sign="180 straight",
    gauge="drive_knee",
    curve="drive_knee",
)
def drive_extension_at_landing(r: Reading) -> np.ndarray:
    return 180.0 - r.pose("landing").knee_flexion("drive")


@measure(
    "drive_hip_extension_at_landing",
    "Back hip extension",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=(*TRUNK, "drive_knee"),
    usual="drive hip extension at foot contact",
    text="How far the back thigh is behind the pelvis.",
    formula="atan2(-k.p, -k.unit(u)), k = drive_knee - drive_hip, p behind the pelvis",
    sign="+ behind the pelvis, - in front",
    gauge="drive_leg",
)
def drive_hip_extension_at_landing(r: Reading) -> np.ndarray:
    return r.pose("landing").hip_extension("drive")


@measure(
    "landing_knee_flexion",
    "Front knee bend",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=LEAD_LEG,
    planar="side",
    segments=LEAD_LINES,
    usual="lead knee flexion at foot contact",
    text="How far the front knee is bent as the foot lands.",
    formula="lead knee flexion",
    sign="0 straight",
    gauge="lead_knee",
    reference="Matsuo et al. 2001 (J Appl Biomech 17)",
    curve="lead_knee",
)
def landing_knee_flexion(r: Reading) -> np.ndarray:
    return r.pose("landing").knee_flexion("lead")


@measure(
    "landing_trunk_tilt",
    "Trunk lean",
    unit="deg",
    kind="P",
    at="landing",
    view="side",
    needs=TRUNK,
    usual="forward trunk tilt at foot contact",
    text="How far the trunk leans toward the plate when the front foot is down.",
    formula="trunk tilt",
    sign="+ toward the plate, - back",
    gauge="trunk",
    curve="trunk_tilt",
)
def landing_trunk_tilt(r: Reading) -> np.ndarray:
    return r.pose("landing").trunk_tilt()


@measure(
    "landing_side_tilt",
    "Trunk side lean",
    unit="deg",
    kind="P",
    at="landing",
    view="front",
    needs=TRUNK,
    usual="lateral trunk tilt at foot contact",
    text="Which way the trunk leans to the side.",
    formula="trunk side tilt",
    sign="+ toward the glove side",
    gauge="trunk",
    curve="side_tilt",
)
def landing_side_tilt(r: Reading) -> np.ndarray:
    return r.pose("landing").side_tilt()


@measure(
    "landing_shoulder_tilt",
    "Shoulder line tilt",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=SHOULDERS,
    planar="front",
    segments=(SHOULDER_LINE,),
    text="Whether the glove shoulder is higher than the throwing shoulder.",
    formula="shoulder line tilt",
    sign="+ glove shoulder higher",
    gauge="shoulder_line",
    curve="shoulder_tilt",
)
def landing_shoulder_tilt(r: Reading) -> np.ndarray:
    return r.pose("landing").shoulder_tilt()


@measure(
    "landing_head_position",
    "Head between the feet",
    unit="%",
    kind="P",
    at="landing",
    view="side",
    needs=("head", "drive_ankle", "lead_ankle"),
    text="Where the head is between back foot (0) and front foot (100).",
    formula="(head.x - drive_ankle.x)/(lead_ankle.x - drive_ankle.x), %",
    sign="50 is the middle",
    gauge="head_navel",
    relative=True,
)
def landing_head_position(r: Reading) -> np.ndarray:
    body = r.pose("landing")
    back, front = body.at("drive_ankle")[:, 0], body.at("lead_ankle")[:, 0]
    return np.asarray(100.0 * (body.at("head")[:, 0] - back) / (front - back))


@measure(
    "landing_head_over_navel",
    "Head over navel",
    unit="%",
    kind="P",
    at="landing",
    view="side",
    needs=("head", *TRUNK),
    text="Where the head is against the navel.",
    formula="head.x - navel.x, % height",
    sign="+ head toward the plate",
    gauge="head_navel",
)
def landing_head_over_navel(r: Reading) -> np.ndarray:
    body = r.pose("landing")
    return r.percent((body.at("head") - body.at("navel"))[:, 0])


@measure(
    "lead_foot_open_lead",
    "Front foot opens before landing",
    unit="ms",
    kind="T",
    at="landing",
    view="3D",
    needs=("lead_heel", "lead_toe"),
    stops=("release",),
    text="How long before landing the front foot has turned half way to the plate for good.",
    formula="t(landing) - t(lead foot yaw passes -45 for good), ms",
    sign="+ early",
    gauge="lead_foot",
    curve="lead_foot",
)
def lead_foot_open_lead(r: Reading) -> np.ndarray:
    return -r.after_landing(r.passes(unwrapped(r.motion.body.foot_yaw("lead")), -45.0))


@measure(
    "heel_rise_lead",
    "Back heel rises before landing",
    unit="ms",
    kind="T",
    at="landing",
    view="any",
    needs=("drive_heel",),
    stops=("set",),
    text="How long before landing the back heel has left the ground for good.",
    formula="t(landing) - t(drive heel stays 0.03 m above its height at set), ms",
    sign="+ early",
    gauge="drive_foot",
)
def heel_rise_lead(r: Reading) -> np.ndarray:
    up = r.motion.body.at("drive_heel")[..., 2] - r.pose("set").at("drive_heel")[:, 2, None]
    return -r.after_landing(r.passes(up, FOOT_OFF * r.motion.scale, until="landing"))


@measure(
    "lead_swing_width",
    "Front foot swings wide",
    unit="m",
    kind="P",
    at="landing",
    view="front",
    needs=("lead_ankle", "drive_ankle"),
    stops=("drive_start", "set"),
    text="How far the front foot strays at most from the line to the plate on its way.",
    formula="largest distance of lead_ankle from the plane y = drive_ankle.y(set), m",
    sign="0 straight along the line",
    gauge="trail:lead_ankle",
)
def lead_swing_width(r: Reading) -> np.ndarray:
    aside = np.abs(r.motion.body.at("lead_ankle")[..., 1] - r.pose("set").at("drive_ankle")[:, 1, None])
    return r.peak(aside, r.stop("drive_start"), r.stop("landing"))[0]
