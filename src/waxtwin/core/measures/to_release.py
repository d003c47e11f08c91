"""From landing to release: the front knee, what travels on, layback."""

from __future__ import annotations

import numpy as np

from waxtwin.core.measures.registry import (
    ARM,
    LEAD_LEG,
    LEAD_LINES,
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
    formula="lead knee flexion at landing - at release",
    sign="+ straightens, - keeps bending",
    gauge="lead_knee",
    reference="Matsuo et al. 2001 (J Appl Biomech 17)",
    curve="lead_knee",
)
def knee_bracing(r: Reading) -> np.ndarray:
    return np.asarray(r.pose("landing").knee_flexion("lead") - r.pose("release").knee_flexion("lead"))


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
    curve="trunk_tilt",
)
def trunk_travel(r: Reading) -> np.ndarray:
    return np.asarray(r.pose("release").trunk_tilt() - r.pose("landing").trunk_tilt())


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
    curve="layback",
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
    curve="elbow_lag",
)
def layback_elbow_lag(r: Reading) -> np.ndarray:
    return r.pose("max_layback").horizontal_adduction()


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
    formula="t(largest lead knee flexion between landing and release) - t(landing), ms",
    sign="+ late",
    gauge="lead_knee",
    why=_no_brace,
    curve="lead_knee",
)
def brace_time(r: Reading) -> np.ndarray:
    time, between = _brace(r)
    return np.where(between, r.after_landing(time), np.nan)
