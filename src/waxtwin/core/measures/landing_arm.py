"""The throwing arm at landing."""

from __future__ import annotations

import numpy as np

from waxtwin.core.measures.registry import (
    ARM,
    Reading,
    measure,
)

_FLEISIG = "Fleisig et al. 1999 (J Biomech 32)"


@measure(
    "landing_elbow_flexion",
    "Elbow bend",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=("throwing_shoulder", "throwing_elbow", "throwing_wrist"),
    usual="elbow flexion at foot contact",
    text="How far the throwing elbow is bent.",
    formula="throwing elbow flexion",
    sign="0 straight",
    gauge="elbow",
    reference=_FLEISIG,
    curve="elbow",
)
def landing_elbow_flexion(r: Reading) -> np.ndarray:
    return r.pose("landing").elbow_flexion()


@measure(
    "landing_abduction",
    "Upper arm from the side",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=ARM[:-1],
    usual="shoulder abduction at foot contact",
    text="How far the upper arm is lifted from the side of the trunk.",
    formula="abduction",
    sign="90 on the shoulder line",
    gauge="elbow_line",
    reference=_FLEISIG,
    curve="elbow_height",
)
def landing_abduction(r: Reading) -> np.ndarray:
    return r.pose("landing").abduction()


@measure(
    "landing_elbow_height",
    "Elbow to the shoulder line",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=ARM[:-1],
    usual="shoulder abduction against 90 degrees",
    text="Whether the elbow is above the line of the shoulders.",
    formula="abduction - 90",
    sign="+ above the line",
    gauge="elbow_line",
    curve="elbow_height",
)
def landing_elbow_height(r: Reading) -> np.ndarray:
    return r.pose("landing").abduction() - 90.0


@measure(
    "landing_horizontal_adduction",
    "Elbow behind the shoulders",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=ARM[:-1],
    usual="shoulder horizontal adduction at foot contact",
    text="Whether the elbow trails behind the line of the shoulders.",
    formula="horizontal adduction",
    sign="- behind the line, + in front",
    gauge="elbow_line",
    reference=_FLEISIG,
    curve="elbow_lag",
)
def landing_horizontal_adduction(r: Reading) -> np.ndarray:
    return r.pose("landing").horizontal_adduction()


@measure(
    "landing_arm_up",
    "Forearm up at landing",
    unit="deg",
    kind="P",
    at="landing",
    view="3D",
    needs=ARM,
    stops=("foot_contact",),
    usual="shoulder external rotation at foot contact",
    text="How far the forearm has come up when the front foot is down.",
    formula="external rotation",
    sign="0 forward, 90 straight up, 180 laid back",
    gauge="forearm",
    reference=_FLEISIG,
    curve="layback",
)
def landing_arm_up(r: Reading) -> np.ndarray:
    return r.value(r.motion.layback(r.stop("foot_contact")), "landing")


@measure(
    "arm_up_lead",
    "Arm up before landing",
    unit="ms",
    kind="T",
    at="landing",
    view="any",
    needs=("throwing_wrist", "throwing_shoulder"),
    stops=("release",),
    text="How long before landing the hand is above the shoulder for good.",
    formula="t(landing) - t(throwing_wrist above throwing_shoulder for good), ms",
    sign="+ early, - late",
    gauge="forearm",
)
def arm_up_lead(r: Reading) -> np.ndarray:
    body = r.motion.body
    over = body.at("throwing_wrist")[..., 2] - body.at("throwing_shoulder")[..., 2]
    return -r.after_landing(r.passes(over, 0.0))
