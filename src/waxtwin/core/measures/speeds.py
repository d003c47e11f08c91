"""Peak speeds, turning speeds, their order, and how the hand is brought up to speed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.measures.registry import ARM, HIPS, SHOULDERS, Function, Reading, measure


@dataclass(frozen=True, slots=True, kw_only=True)
class SpeedPoint:
    """A point whose peak speed is looked for; one of the throwing arm is fastest at most `before` seconds before
    release.
    """

    label: str
    needs: tuple[str, ...]
    before: float | None = None

    @property
    def quick(self) -> bool:
        """Whether it belongs to the throwing arm."""
        return self.before is not None

    def since(self, start: np.ndarray | float, release: np.ndarray | float) -> np.ndarray:
        """From when on (s) its peak is looked for, where others' are from `start` on."""
        return np.asarray(start if self.before is None else np.fmax(start, release - self.before))


# in a front view's picture wrist and hand are fastest up to 25 ms before release, the elbow up to 90
_BEFORE: Mapping[str, float] = {"throwing_elbow": 0.15, "throwing_wrist": 0.06, "throwing_hand": 0.06}


def _point(name: str, label: str) -> SpeedPoint:
    return SpeedPoint(label=label, needs=HIPS if name == "pelvis" else (name,), before=_BEFORE.get(name))


SPEED_POINTS: Mapping[str, SpeedPoint] = {
    name: _point(name, label)
    for name, label in (
        ("drive_knee", "Back knee"), ("lead_toe", "Front toe"), ("pelvis", "Pelvis"), ("lead_hip", "Front hip"),
        ("throwing_shoulder", "Throwing shoulder"), ("throwing_elbow", "Throwing elbow"),
        ("throwing_wrist", "Throwing wrist"), ("throwing_hand", "Throwing hand"), ("head", "Head"),
    )
}  # fmt: skip
_TAIL = 0.030
_AROUND = 0.5  # s


def peak_speed(r: Reading, name: str) -> tuple[np.ndarray, np.ndarray]:
    """Peak speed (m/s) of a landmark from load to finish, and its instant (s), both `(copies,)`.

    Where the load or the finish is not known, from the lift, or half a second before release, and to half a second
    after it. The throwing arm is fastest shortly before release; earlier, a peak of it is a landmark misplaced for a
    moment.
    """
    start, end = _window(r, name)
    speed, time = r.peak(r.motion.speed(name), start, end)
    if SPEED_POINTS[name].quick:  # the window cuts off what rises towards earlier: no peak, but marks that are off
        off = time < start + 1.0 / r.motion.rate
        speed, time = np.where(off, np.nan, speed), np.where(off, np.nan, time)
    return speed, time


def _window(r: Reading, name: str) -> tuple[np.ndarray, np.ndarray]:
    release = r.stop("release")
    start = next((r.stops[one] for one in ("drive_start", "peak_knee") if one in r.stops), release - _AROUND)
    return SPEED_POINTS[name].since(start, release), r.stops.get("finish", release + _AROUND)


def peak_spread(r: Reading, name: str, off: float) -> np.ndarray:
    """How far about its peak a landmark is as fast as that but for `off` m/s, `(copies,)` ms, as a root mean square:
    so far the instant of the peak is not known when the speed is known that well.
    """
    speed, time = peak_speed(r, name)
    curve = r.motion.speed(name)
    as_fast = r.within(*_window(r, name)) & (curve >= speed[:, None] - off)
    apart = np.where(as_fast, 1000.0 * (r.motion.times[None] - time[:, None]), 0.0)
    return np.asarray(np.sqrt((apart**2).sum(axis=1) / np.fmax(as_fast.sum(axis=1), 1)))


def _speed_of(name: str) -> tuple[Function, Function]:
    return (
        lambda r: peak_speed(r, name)[0],
        lambda r: r.after_landing(peak_speed(r, name)[1]),
    )


def _declare_point(name: str, point: SpeedPoint) -> None:
    value, time = _speed_of(name)
    curve = f"speed_{name}"
    since = "drive_start" if point.before is None else f"{1000 * point.before:.0f} ms before release"
    measure(
        f"peak_speed_{name}", f"{point.label}, peak speed", unit="m/s", kind="V", at="release", view="any",
        needs=point.needs, text=f"The fastest that the {point.label.lower()} moves in the visible axes.",
        formula=f"largest |d{name}/dt| between {since} and finish", sign="+ faster", gauge=f"trail:{name}",
        quick=point.quick, curve=curve,
    )(value)  # fmt: skip
    measure(
        f"peak_time_{name}", f"{point.label}, when fastest", unit="ms", kind="V", at="release", view="any",
        needs=point.needs, stops=("landing",), text=f"When the {point.label.lower()} is fastest, from landing.",
        formula=f"t(peak speed of {name}) - t(landing), ms", sign="- before landing", gauge=f"trail:{name}",
        quick=point.quick, curve=curve,
    )(time)  # fmt: skip


for _name, _each in SPEED_POINTS.items():
    _declare_point(_name, _each)


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
    curve="speed_pelvis",
)
def pelvis_speed_at_landing(r: Reading) -> np.ndarray:
    return r.value(r.motion.velocity("pelvis")[..., 0], "landing")


def _elbow_rate(r: Reading) -> np.ndarray:
    return -r.motion.rate_of("elbow", r.motion.body.elbow_flexion())


def _internal_rate(r: Reading) -> np.ndarray:
    return -r.motion.rate_of("layback", r.motion.layback(r.stop("foot_contact")))


@dataclass(frozen=True, slots=True, kw_only=True)
class Turn:
    """A turning whose peak is looked for from the stop `start` until shortly after release; `turned` is the formula's
    word for it, `usual` the field's.
    """  # fmt: skip

    label: str
    needs: tuple[str, ...]
    gauge: str
    curve: str
    start: str
    rate: Function
    turned: str
    usual: str
    stops: tuple[str, ...] = ()
    quick: bool = False

    def peak(self, r: Reading) -> tuple[np.ndarray, np.ndarray]:
        """Its largest rate (deg/s) and instant (s), both `(copies,)`."""
        return r.peak(self.rate(r), r.stop(self.start), r.stop("release") + _TAIL)


TURNS: Mapping[str, Turn] = {
    "peak_pelvis_turn": Turn(
        label="Hips, fastest turn", needs=HIPS, gauge="hip_line", curve="pelvis_rotation", start="drive_start",
        rate=lambda r: r.motion.rate_of("pelvis", r.motion.pelvis_rotation()), turned="pelvis rotation",
        usual="peak pelvis rotation velocity",
    ),
    "peak_trunk_turn": Turn(
        label="Shoulders, fastest turn", needs=SHOULDERS, gauge="shoulder_line", curve="trunk_rotation",
        start="drive_start", rate=lambda r: r.motion.rate_of("trunk", r.motion.trunk_rotation()),
        turned="trunk rotation", usual="peak upper trunk rotation velocity",
    ),
    "peak_elbow_extension": Turn(
        label="Elbow, fastest straightening", needs=ARM[2:], gauge="elbow", curve="elbow", start="landing",
        rate=_elbow_rate, turned="-elbow flexion", usual="peak elbow extension velocity", quick=True,
    ),
    "peak_internal_rotation": Turn(
        label="Forearm, fastest forward rotation", needs=ARM, gauge="forearm", curve="layback", start="max_layback",
        rate=_internal_rate, turned="-external rotation", usual="peak shoulder internal rotation velocity",
        stops=("foot_contact",), quick=True,
    ),
}  # fmt: skip


def _declare_turn(turn_id: str, turn: Turn) -> None:
    label = turn.label
    measure(
        turn_id, label, unit="deg/s", kind="V", at="release", view="3D", needs=turn.needs,
        stops=(turn.start, *turn.stops), text=f"{label}, in degrees a second.",
        formula=f"largest d({turn.turned})/dt up to release + 30 ms", sign="+ faster", gauge=turn.gauge,
        usual=turn.usual, reference="Fleisig et al. 1999 (J Biomech 32)", quick=turn.quick, curve=turn.curve,
    )(lambda r: turn.peak(r)[0])  # fmt: skip
    measure(
        f"{turn_id}_time", f"{label}, when", unit="ms", kind="V", at="release", view="3D", needs=turn.needs,
        stops=(turn.start, "landing", *turn.stops), text=f"When this happens, from landing: {label.lower()}.",
        formula=f"t(peak of d({turn.turned})/dt) - t(landing), ms", sign="- before landing", gauge=turn.gauge,
        quick=turn.quick, curve=turn.curve,
    )(lambda r: r.after_landing(turn.peak(r)[1]))  # fmt: skip


for _turn_id, _turning in TURNS.items():
    _declare_turn(_turn_id, _turning)


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
    curve="speed_throwing_hand",
)
def acceleration_path(r: Reading) -> np.ndarray:
    speed = r.motion.speed("throwing_hand")
    steps = np.nan_to_num((speed[:, 1:] + speed[:, :-1]) / (2 * r.motion.rate))
    way = np.concatenate([np.zeros((speed.shape[0], 1)), np.cumsum(steps, axis=1)], axis=1)
    return np.asarray(r.value(way, "release") - r.value(way, "max_layback"))


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
    curve="speed_throwing_hand",
)
def acceleration_mean(r: Reading) -> np.ndarray:
    speed = r.motion.speed("throwing_hand")
    gained = r.value(speed, "release") - r.value(speed, "max_layback")
    return np.asarray(gained / np.maximum(r.stop("release") - r.stop("max_layback"), 1.0 / r.motion.rate))
