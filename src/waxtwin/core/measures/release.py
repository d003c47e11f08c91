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

_FLEISIG = "Fleisig et al. 1999 (J Biomech 32)"


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
    curve="trunk_tilt",
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
    curve="side_tilt",
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
    formula="lead knee flexion",
    sign="0 straight",
    gauge="lead_knee",
    curve="lead_knee",
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
    curve="elbow",
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
    curve="elbow_height",
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
    curve="arm_line",
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
    return np.asarray(np.degrees(np.arctan2(d[:, 2], -d[:, 1])))


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


@measure(
    "drive_foot_off",
    "Back foot leaves the ground",
    unit="ms",
    kind="T",
    at="release",
    view="any",
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
    return np.asarray(1000.0 * (np.where(down.any(axis=1), heel_off, toe_off) - r.stop("release")))


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
