"""Peak speeds, turning speeds, their order, and how the hand is brought up to speed."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from waxtwin.core.measures.registry import ARM, HIPS, SHOULDERS, Function, Reading, measure

SPEED_POINTS = {
    "drive_knee": "Back knee", "lead_toe": "Front toe", "pelvis": "Pelvis", "lead_hip": "Front hip",
    "throwing_shoulder": "Throwing shoulder", "throwing_elbow": "Throwing elbow", "throwing_wrist": "Throwing wrist",
    "throwing_hand": "Throwing hand", "head": "Head",
}  # fmt: skip
TURNS = ("peak_pelvis_turn", "peak_trunk_turn", "peak_elbow_extension", "peak_internal_rotation")
_TAIL = 0.030
_AROUND = 0.5  # s
_LATE, _LATE_BY = ("throwing_elbow", "throwing_wrist", "throwing_hand"), 0.15  # s before release
Peak = Callable[[Reading], tuple[np.ndarray, np.ndarray]]


def peak_speed(r: Reading, name: str) -> tuple[np.ndarray, np.ndarray]:
    """Peak speed (m/s) of a landmark from load to finish, and its instant (s), both `(copies,)`.

    Where the load or the finish is not known, from the lift, or half a second before release, and to half a second
    after it. The throwing arm is fastest shortly before release; earlier, a peak of it is a landmark misplaced for a
    moment.
    """
    release = r.stop("release")
    start = next((r.stops[one] for one in ("drive_start", "peak_knee") if one in r.stops), release - _AROUND)
    if name in _LATE:
        start = np.fmax(start, release - _LATE_BY)
    return r.peak(r.motion.speed(name), start, r.stops.get("finish", release + _AROUND))


def _speed_of(name: str) -> tuple[Function, Function]:
    return (
        lambda r: peak_speed(r, name)[0],
        lambda r: r.after_landing(peak_speed(r, name)[1]),
    )


for _name, _label in SPEED_POINTS.items():
    _value, _time = _speed_of(_name)
    _needs = HIPS if _name == "pelvis" else (_name,)
    measure(
        f"peak_speed_{_name}", f"{_label}, peak speed", unit="m/s", kind="V", at="release", view="any", needs=_needs,
        text=f"The fastest that the {_label.lower()} moves in the visible axes.",
        formula=f"largest |d{_name}/dt| between drive_start and finish",
        sign="+ faster", gauge=f"trail:{_name}",
    )(_value)  # fmt: skip
    measure(
        f"peak_time_{_name}", f"{_label}, when fastest", unit="ms", kind="V", at="release", view="any", needs=_needs,
        stops=("landing",), text=f"When the {_label.lower()} is fastest, from landing.",
        formula=f"t(peak speed of {_name}) - t(landing), ms", sign="- before landing", gauge=f"trail:{_name}",
    )(_time)  # fmt: skip


@measure(
    "pelvis_speed_at_landing",
    "Pelvis speed at landing",
    unit="m/s",
    kind="V",
    at="landing",
    view="side",
    needs=HIPS,
    text="How fast the pelvis moves toward the plate as the foot lands.",
    formula="forward speed of P",
    sign="+ toward the plate",
    gauge="plumb",
)
def pelvis_speed_at_landing(r: Reading) -> np.ndarray:
    return r.value(r.motion.velocity("pelvis")[..., 0], "landing")


def _elbow_rate(r: Reading) -> np.ndarray:
    return -r.motion.rate_of("elbow", r.motion.body.elbow_flexion())


def _internal_rate(r: Reading) -> np.ndarray:
    return -r.motion.rate_of("layback", r.motion.layback(r.stop("foot_contact")))


def _turn(curve: Function, start: str) -> Peak:
    return lambda r: r.peak(curve(r), r.stop(start), r.stop("release") + _TAIL)


_TURNS: Mapping[str, tuple[str, tuple[str, ...], str, str, tuple[str, ...], Peak]] = {
    "peak_pelvis_turn": (
        "Hips, fastest turn", HIPS, "hip_line", "drive_start", (),
        _turn(lambda r: r.motion.rate_of("pelvis", r.motion.pelvis_rotation()), "drive_start"),
    ),
    "peak_trunk_turn": (
        "Shoulders, fastest turn", SHOULDERS, "shoulder_line", "drive_start", (),
        _turn(lambda r: r.motion.rate_of("trunk", r.motion.trunk_rotation()), "drive_start"),
    ),
    "peak_elbow_extension": (
        "Elbow, fastest straightening", ARM[2:], "elbow", "landing", (), _turn(_elbow_rate, "landing"),
    ),
    "peak_internal_rotation": (
        "Forearm, fastest forward rotation", ARM, "forearm", "max_layback", ("foot_contact",),
        _turn(_internal_rate, "max_layback"),
    ),
}  # fmt: skip


_USUAL = {
    "peak_pelvis_turn": "peak pelvis rotation velocity", "peak_trunk_turn": "peak upper trunk rotation velocity",
    "peak_elbow_extension": "peak elbow extension velocity",
    "peak_internal_rotation": "peak shoulder internal rotation velocity",
}  # fmt: skip
_TURNED = {
    "peak_pelvis_turn": "pelvis rotation", "peak_trunk_turn": "trunk rotation",
    "peak_elbow_extension": "-elbow flexion", "peak_internal_rotation": "-external rotation",
}  # fmt: skip


def _declare_turn(turn_id: str) -> None:
    label, needs, gauge, start, stops, peak = _TURNS[turn_id]
    measure(
        turn_id, label, unit="deg/s", kind="V", at="release", view="3D", needs=needs, stops=(start, *stops),
        text=f"{label}, in degrees a second.", formula=f"largest d({_TURNED[turn_id]})/dt up to release + 30 ms",
        sign="+ faster", gauge=gauge, usual=_USUAL[turn_id],
        reference="Fleisig et al. 1999 (J Biomech 32)",
    )(lambda r: peak(r)[0])  # fmt: skip
    measure(
        f"{turn_id}_time", f"{label}, when", unit="ms", kind="V", at="release", view="3D", needs=needs,
        stops=(start, "landing", *stops), text=f"When this happens, from landing: {label.lower()}.",
        formula=f"t(peak of d({_TURNED[turn_id]})/dt) - t(landing), ms",
        sign="- before landing", gauge=gauge,
    )(lambda r: r.after_landing(peak(r)[1]))  # fmt: skip


for _turn_id in TURNS:
    _declare_turn(_turn_id)


@measure(
    "acceleration_path",
    "Hand path to release",
    unit="m",
    kind="V",
    at="release",
    view="any",
    needs=("throwing_hand",),
    stops=("max_layback",),
    text="How long the hand's way is from layback to release.",
    formula="arc length of throwing_hand, m",
    sign="+ longer",
    gauge="trail:throwing_hand",
)
def acceleration_path(r: Reading) -> np.ndarray:
    speed = r.motion.speed("throwing_hand")
    steps = np.nan_to_num((speed[:, 1:] + speed[:, :-1]) / (2 * r.motion.rate))
    way = np.concatenate([np.zeros((speed.shape[0], 1)), np.cumsum(steps, axis=1)], axis=1)
    return r.value(way, "release") - r.value(way, "max_layback")


@measure(
    "acceleration_mean",
    "Hand acceleration to release",
    unit="m/s2",
    kind="V",
    at="release",
    view="any",
    needs=("throwing_hand",),
    stops=("max_layback",),
    text="How quickly the hand gains speed from layback to release.",
    formula="mean tangential acceleration of throwing_hand, m/s2",
    sign="+ quicker",
    gauge="trail:throwing_hand",
)
def acceleration_mean(r: Reading) -> np.ndarray:
    speed = r.motion.speed("throwing_hand")
    gained = r.value(speed, "release") - r.value(speed, "max_layback")
    return gained / np.maximum(r.stop("release") - r.stop("max_layback"), 1.0 / r.motion.rate)
