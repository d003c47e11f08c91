"""Measures from landing to release, at layback and at release."""

from __future__ import annotations

import numpy as np

from waxtwin.core.measures.registry import (
    ARM,
    ARM_LINE,
    FOOT_OFF,
    LEAD_LEG,
    LEAD_LINES,
    SHOULDER_LINE,
    SHOULDERS,
    TRUNK,
    Reading,
    measure,
)

_AT_END = 0.010  # s: a deepest bend as near to landing or release is no turning point
_FLEISIG = "Fleisig et al. 1999 (J Biomech 32)"


@measure(
    "knee_drift",
    "Front knee drifts forward",
    unit="%",
    kind="P",
    at="release",
    view="side",
    needs=("lead_knee",),
    stops=("landing",),
    text="How far the front knee still travels toward the plate after landing.",
    formula="largest lead_knee.x - lead_knee.x(landing), % height",
    sign="+ toward the plate",
    gauge="lead_knee",
)
def knee_drift(r: Reading) -> np.ndarray:
    x = r.motion.body.at("lead_knee")[..., 0]
    furthest, _ = r.peak(x, r.stop("landing"), r.stop("release"))
    return r.percent(furthest - r.pose("landing").at("lead_knee")[:, 0])


@measure(
    "knee_wobble",
    "Front knee wobble",
    unit="%",
    kind="P",
    at="release",
    view="front",
    needs=("lead_knee",),
    stops=("landing",),
    usual="lead knee valgus and varus",
    text="How far the front knee moves from side to side after landing.",
    formula="range of lead_knee.y, % height",
    sign="0 is still",
    gauge="lead_knee",
)
def knee_wobble(r: Reading) -> np.ndarray:
    y = r.motion.body.at("lead_knee")[..., 1]
    high, _ = r.peak(y, r.stop("landing"), r.stop("release"))
    low, _ = r.peak(-y, r.stop("landing"), r.stop("release"))
    return r.percent(high + low)


@measure(
    "knee_bracing",
    "Front knee straightens",
    unit="deg",
    kind="P",
    at="release",
    view="3D",
    needs=LEAD_LEG,
    stops=("landing",),
    planar="side",
    segments=LEAD_LINES,
    usual="lead knee extension from foot contact to release",
    text="How far the front knee straightens from landing to release.",
    formula="lead-knee flexion at landing - at release",
    sign="+ straightens, - keeps bending",
    gauge="lead_knee",
    reference="Matsuo et al. 2001 (J Appl Biomech 17)",
)
def knee_bracing(r: Reading) -> np.ndarray:
    return r.pose("landing").knee_flexion("lead") - r.pose("release").knee_flexion("lead")


@measure(
    "trunk_travel",
    "Trunk comes forward",
    unit="deg",
    kind="P",
    at="release",
    view="side",
    needs=TRUNK,
    stops=("landing",),
    usual="trunk flexion from foot contact to release",
    text="How much of the forward lean is made between landing and release.",
    formula="trunk tilt at release - at landing",
    sign="+ forward",
    gauge="trunk",
)
def trunk_travel(r: Reading) -> np.ndarray:
    return r.pose("release").trunk_tilt() - r.pose("landing").trunk_tilt()


@measure(
    "head_travel",
    "Head travel after landing",
    unit="%",
    kind="P",
    at="release",
    view="side",
    needs=("head",),
    stops=("landing",),
    text="How far the head travels from landing to release.",
    formula="head.x at release - at landing, % height",
    sign="+ toward the plate",
    gauge="head_navel",
)
def head_travel(r: Reading) -> np.ndarray:
    return r.percent((r.pose("release").at("head") - r.pose("landing").at("head"))[:, 0])


@measure(
    "pelvis_travel",
    "Pelvis travel after landing",
    unit="%",
    kind="P",
    at="release",
    view="side",
    needs=("drive_hip", "lead_hip"),
    stops=("landing",),
    text="How far the pelvis travels from landing to release.",
    formula="P.x at release - at landing, % height",
    sign="+ toward the plate",
    gauge="plumb",
)
def pelvis_travel(r: Reading) -> np.ndarray:
    return r.percent((r.pose("release").at("pelvis") - r.pose("landing").at("pelvis"))[:, 0])


@measure(
    "max_layback_angle",
    "Layback",
    unit="deg",
    kind="P",
    at="max_layback",
    view="3D",
    needs=ARM,
    stops=("foot_contact",),
    planar="side",
    segments=(ARM[-2:],),
    usual="maximum shoulder external rotation (MER)",
    text="How far the forearm is laid back at most.",
    formula="external rotation; planar layback from one camera",
    sign="90 straight up, 180 straight back",
    gauge="forearm",
    reference=_FLEISIG,
)
def max_layback_angle(r: Reading) -> np.ndarray:
    return r.value(r.motion.layback(r.stop("foot_contact")), "max_layback")


@measure(
    "layback_elbow_lag",
    "Elbow lag at layback",
    unit="deg",
    kind="P",
    at="max_layback",
    view="3D",
    needs=ARM[:-1],
    usual="shoulder horizontal adduction at MER",
    text="Whether the elbow trails the shoulders when the forearm is laid back.",
    formula="horizontal adduction",
    sign="- trails behind",
    gauge="elbow_line",
)
def layback_elbow_lag(r: Reading) -> np.ndarray:
    return r.pose("max_layback").horizontal_adduction()


@measure(
    "release_trunk_tilt",
    "Trunk lean at release",
    unit="deg",
    kind="P",
    at="release",
    view="side",
    needs=TRUNK,
    usual="forward trunk tilt at release",
    text="How far the trunk is forward when the ball leaves.",
    formula="trunk tilt",
    sign="+ toward the plate",
    gauge="trunk",
    reference="Matsuo et al. 2001 (J Appl Biomech 17)",
)
def release_trunk_tilt(r: Reading) -> np.ndarray:
    return r.pose("release").trunk_tilt()


@measure(
    "release_side_tilt",
    "Side lean at release",
    unit="deg",
    kind="P",
    at="release",
    view="front",
    needs=TRUNK,
    usual="lateral (contralateral) trunk tilt at release",
    text="How far the trunk leans to the glove side.",
    formula="trunk side tilt",
    sign="+ toward the glove side",
    gauge="trunk",
)
def release_side_tilt(r: Reading) -> np.ndarray:
    return r.pose("release").side_tilt()


@measure(
    "release_knee_flexion",
    "Front knee bend at release",
    unit="deg",
    kind="P",
    at="release",
    view="3D",
    needs=LEAD_LEG,
    planar="side",
    segments=LEAD_LINES,
    usual="lead knee flexion at release",
    text="How far the front knee is bent when the ball leaves.",
    formula="lead-knee flexion",
    sign="0 straight",
    gauge="lead_knee",
)
def release_knee_flexion(r: Reading) -> np.ndarray:
    return r.pose("release").knee_flexion("lead")


@measure(
    "release_elbow_flexion",
    "Elbow bend at release",
    unit="deg",
    kind="P",
    at="release",
    view="3D",
    needs=("throwing_shoulder", "throwing_elbow", "throwing_wrist"),
    usual="elbow flexion at release",
    text="How far the elbow is bent at release.",
    formula="elbow flexion",
    sign="0 straight",
    gauge="elbow",
)
def release_elbow_flexion(r: Reading) -> np.ndarray:
    return r.pose("release").elbow_flexion()


@measure(
    "release_elbow_height",
    "Elbow to the shoulder line at release",
    unit="deg",
    kind="P",
    at="release",
    view="3D",
    needs=ARM[:-1],
    usual="shoulder abduction at release against 90 degrees",
    text="Whether the elbow is above the line of the shoulders at release.",
    formula="abduction - 90",
    sign="+ above the line",
    gauge="elbow_line",
)
def release_elbow_height(r: Reading) -> np.ndarray:
    return r.pose("release").abduction() - 90.0


@measure(
    "release_arm_line",
    "Shoulders and arm in one line",
    unit="deg",
    kind="P",
    at="release",
    view="3D",
    needs=(*SHOULDERS, "throwing_hand"),
    planar="front",
    segments=(SHOULDER_LINE, ARM_LINE),
    text="The angle between the shoulder line and the line to the hand.",
    formula="angle(throwing_shoulder - glove_shoulder, throwing_hand - throwing_shoulder)",
    sign="0 is one straight line",
    gauge="shoulder_line",
)
def release_arm_line(r: Reading) -> np.ndarray:
    return r.pose("release").arm_line()


@measure(
    "release_slot",
    "Arm slot",
    unit="deg",
    kind="P",
    at="release",
    view="front",
    needs=("throwing_shoulder", "throwing_hand"),
    segments=(ARM_LINE,),
    text="The angle of the arm seen from the plate.",
    formula="atan2(d.z, -d.y), d = throwing_hand - throwing_shoulder",
    sign="0 sidearm, 90 overhead",
    gauge="forearm",
)
def release_slot(r: Reading) -> np.ndarray:
    body = r.pose("release")
    d = body.at("throwing_hand") - body.at("throwing_shoulder")
    return np.degrees(np.arctan2(d[:, 2], -d[:, 1]))


@measure(
    "release_extension",
    "Release in front of the rubber",
    unit="%",
    kind="P",
    at="release",
    view="side",
    needs=("throwing_hand",),
    usual="extension",
    text="How far in front of the rubber the hand is at release.",
    formula="throwing_hand.x, % height",
    sign="+ toward the plate",
    gauge="plumb",
)
def release_extension(r: Reading) -> np.ndarray:
    return r.percent(r.pose("release").at("throwing_hand")[:, 0])


@measure(
    "release_extension_lead",
    "Release in front of the front foot",
    unit="%",
    kind="P",
    at="release",
    view="side",
    needs=("throwing_hand", "lead_ankle"),
    text="How far in front of the front ankle the hand is at release.",
    formula="throwing_hand.x - lead_ankle.x, % height",
    sign="+ in front",
    gauge="plumb",
)
def release_extension_lead(r: Reading) -> np.ndarray:
    body = r.pose("release")
    return r.percent((body.at("throwing_hand") - body.at("lead_ankle"))[:, 0])


@measure(
    "release_height",
    "Release height",
    unit="%",
    kind="P",
    at="release",
    view="any",
    needs=("throwing_hand",),
    text="How high the hand is at release, from the level of the rubber.",
    formula="throwing_hand.z, % height",
    sign="+ up",
    gauge="forearm",
)
def release_height(r: Reading) -> np.ndarray:
    return r.percent(r.pose("release").at("throwing_hand")[:, 2])


@measure(
    "release_head_over_knee",
    "Head over the front knee",
    unit="%",
    kind="P",
    at="release",
    view="side",
    needs=("head", "lead_knee"),
    text="Where the head is against the front knee at release.",
    formula="head.x - lead_knee.x, % height",
    sign="+ head in front of the knee",
    gauge="head_navel",
)
def release_head_over_knee(r: Reading) -> np.ndarray:
    body = r.pose("release")
    return r.percent((body.at("head") - body.at("lead_knee"))[:, 0])


def _brace(r: Reading) -> tuple[np.ndarray, np.ndarray]:
    """Instants (s) `(copies,)` of the deepest front-knee bend after landing, and whether it lies off both ends."""
    start, stop = r.stop("landing"), r.stop("release")
    _, time = r.peak(r.motion.body.knee_flexion("lead"), start, stop)
    return time, (time > start + _AT_END) & (time < stop - _AT_END)


def _no_brace(r: Reading) -> str | None:
    time = _brace(r)[0][0]
    if np.isnan(time):
        return None
    early = time - r.stop("landing")[0] <= _AT_END
    return "the front knee straightens from landing on" if early else "the front knee is still bending at release"


@measure(
    "brace_time",
    "Front knee begins to straighten",
    unit="ms",
    kind="T",
    at="release",
    view="3D",
    needs=LEAD_LEG,
    stops=("landing",),
    planar="side",
    segments=LEAD_LINES,
    usual="start of lead knee extension",
    text="When the front knee stops bending, from landing.",
    formula="t(largest lead-knee flexion between landing and release) - t(landing), ms",
    sign="+ late",
    gauge="lead_knee",
    why=_no_brace,
)
def brace_time(r: Reading) -> np.ndarray:
    time, between = _brace(r)
    return np.where(between, r.after_landing(time), np.nan)


@measure(
    "drive_foot_off",
    "Back foot leaves the ground",
    unit="ms",
    kind="T",
    at="release",
    view="side",
    needs=("drive_heel", "drive_toe"),
    stops=("set", "finish"),
    text="When heel and toes of the back foot have left the ground, from release.",
    formula="t(drive heel and toe 0.03 m above their height at set) - t(release), ms",
    sign="- before release",
    gauge="drive_foot",
)
def drive_foot_off(r: Reading) -> np.ndarray:
    level = FOOT_OFF * r.motion.scale
    still = r.pose("set")
    heel, toe = (
        r.motion.body.at(f"drive_{part}")[..., 2] - still.at(f"drive_{part}")[:, 2, None] for part in ("heel", "toe")
    )
    toe_off = r.passes(toe, level, until="finish")
    # the heel is up long before, but for a foot that rolls back: then its next rise counts
    down = r.within(toe_off, r.stop("finish")) & ~(heel > level)
    heel_off = r.passes(np.where(down, -np.inf, heel), level, until="finish")
    return 1000.0 * (np.where(down.any(axis=1), heel_off, toe_off) - r.stop("release"))


@measure(
    "glove_distance_at_release",
    "Glove to the chest at release",
    unit="%",
    kind="P",
    at="release",
    view="3D",
    needs=(*SHOULDERS, "glove_wrist"),
    text="How far the glove is from the middle of the chest when the ball leaves.",
    formula="|glove_wrist - C|, % height",
    sign="+ away from the body",
    gauge="glove",
)
def glove_distance_at_release(r: Reading) -> np.ndarray:
    body = r.pose("release")
    return r.percent(np.linalg.norm(body.at("glove_wrist") - body.at("chest"), axis=-1))


@measure(
    "finish_arm_across",
    "Arm across the body in the finish",
    unit="%",
    kind="P",
    at="finish",
    view="front",
    needs=(*SHOULDERS, "throwing_hand"),
    text="How far the throwing hand has come across to the glove side.",
    formula="throwing_hand.y - C.y, % height",
    sign="+ crosses to the glove side",
    gauge="arm_across",
)
def finish_arm_across(r: Reading) -> np.ndarray:
    body = r.pose("finish")
    return r.percent((body.at("throwing_hand") - body.at("chest"))[:, 1])
