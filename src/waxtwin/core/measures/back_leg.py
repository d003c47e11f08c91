"""The back leg from the load to the finish."""

from __future__ import annotations

import numpy as np

from waxtwin.core.body import angle_between, degrees, dot
from waxtwin.core.measures.landing import drive_extension_at_landing
from waxtwin.core.measures.registry import DRIVE_LEG, DRIVE_LINES, HIPS, Reading, measure

_SHIN = ("drive_ankle", "drive_knee")
_FOOT = ("drive_heel", "drive_toe")


@measure(
    "load_shin_tilt",
    "Back shin in the load",
    unit="deg",
    kind="P",
    at="drive_start",
    view="3D",
    needs=(*_SHIN, *_FOOT),
    planar="side",
    segments=(_SHIN,),
    usual="drive shank angle, knee over the toe",
    text="How far the back shin leans over the foot; from the side, toward the plate.",
    formula="tilt of drive ankle to knee from the vertical, toward the toes (from the side: toward the plate)",
    sign="+ knee over the toe",
    gauge="drive_leg",
)
def load_shin_tilt(r: Reading) -> np.ndarray:
    body = r.pose("drive_start")
    shin = body.at("drive_knee") - body.at("drive_ankle")
    if r.motion.flat is not None:
        return degrees(shin[:, 0], shin[:, 2])
    return degrees(dot(shin, body.foot_along("drive")), shin[:, 2])


@measure(
    "drive_knee_turn",
    "Back thigh at landing",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=("drive_hip", "drive_knee"),
    text="Whether the back thigh, knee to hip, points along the line to the plate at landing.",
    formula="atan2(k.y, k.x), k = drive_hip - drive_knee",
    sign="0 along it, + toward the open side",
    gauge="drive_knee",
)
def drive_knee_turn(r: Reading) -> np.ndarray:
    body = r.pose("landing")
    thigh = body.at("drive_hip") - body.at("drive_knee")
    return degrees(thigh[:, 1], thigh[:, 0])


@measure(
    "drive_peak_extension",
    "Back leg at its straightest",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=DRIVE_LEG,
    stops=("drive_start",),
    planar="side",
    segments=DRIVE_LINES,
    usual="peak drive knee extension",
    text="The largest inner angle of the back knee between the load and landing; 180 is straight.",
    formula="largest 180 - drive knee flexion, load to landing",
    sign="180 straight",
    gauge="drive_knee",
    curve="drive_knee",
)
def drive_peak_extension(r: Reading) -> np.ndarray:
    straight = 180.0 - r.motion.body.knee_flexion("drive")
    return r.peak(straight, r.stop("drive_start"), r.stop("landing"))[0]


@measure(
    "drive_refold",
    "Back leg folds again",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=DRIVE_LEG,
    stops=("drive_start",),
    planar="side",
    segments=DRIVE_LINES,
    text="How far the back knee bends again between its straightest and landing.",
    formula="largest 180 - drive knee flexion, load to landing, less its value at landing",
    sign="+ folds again, 0 straightest at landing",
    gauge="drive_knee",
    curve="drive_knee",
)
def drive_refold(r: Reading) -> np.ndarray:
    return drive_peak_extension(r) - drive_extension_at_landing(r)


@measure(
    "drive_ankle_extension_at_landing",
    "Back ankle pushed through",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=(*_SHIN, *_FOOT),
    planar="side",
    segments=(_SHIN, _FOOT),
    usual="drive ankle plantar flexion at foot contact",
    text="How far the back foot is pointed at landing.",
    formula="angle between shin (ankle to knee) and foot (heel to toe), less 90",
    sign="+ pointed, 0 square",
    gauge="drive_foot",
)
def drive_ankle_extension_at_landing(r: Reading) -> np.ndarray:
    body = r.pose("landing")
    shin, foot = (body.seen(body.at(last) - body.at(first)) for first, last in (_SHIN, _FOOT))
    return angle_between(shin, foot) - 90.0


@measure(
    "drive_heel_up_at_landing",
    "Back heel up at landing",
    unit="deg",
    kind="P",
    at="landing",
    view="any",
    needs=_FOOT,
    text="How far the back foot is turned over, heel to the sky.",
    formula="atan2(drive_heel.z - drive_toe.z, their horizontal distance)",
    sign="90 heel to the sky",
    gauge="drive_foot",
)
def drive_heel_up_at_landing(r: Reading) -> np.ndarray:
    return r.pose("landing").foot_pitch("drive")


@measure(
    "drive_knee_after_landing",
    "Back knee shoots forward",
    unit="%",
    kind="P",
    at="release",
    view="side",
    needs=("drive_knee", *HIPS),
    stops=("landing",),
    text="How far the back knee overtakes the pelvis after landing.",
    formula="largest drive_knee.x - P.x, landing to release, less its value at landing, % height",
    sign="+ shoots forward",
    gauge="drive_knee",
)
def drive_knee_after_landing(r: Reading) -> np.ndarray:
    body = r.motion.body
    ahead = (body.at("drive_knee") - body.at("pelvis"))[..., 0]
    furthest, _ = r.peak(ahead, r.stop("landing"), r.stop("release"))
    return r.percent(furthest - r.value(ahead, "landing"))


@measure(
    "finish_drive_heel_height",
    "Back leg comes over",
    unit="%",
    kind="P",
    at="finish",
    view="any",
    needs=("drive_heel",),
    stops=("release",),
    text="How high the back heel comes after release.",
    formula="largest drive_heel.z, release to finish, % height",
    sign="+ higher",
    gauge="trail:drive_heel",
)
def finish_drive_heel_height(r: Reading) -> np.ndarray:
    height = r.motion.body.at("drive_heel")[..., 2]
    return r.percent(r.peak(height, r.stop("release"), r.stop("finish"))[0])
