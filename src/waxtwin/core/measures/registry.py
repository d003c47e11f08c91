"""The registry of measures and how one is evaluated.

A measure's function takes a Reading and returns one figure per copy, `(copies,)`: the same code gives the value
(one copy) and its resolution (hundreds of jittered copies).
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Container, Iterable, Mapping
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from waxtwin.core.body import Body
from waxtwin.core.landmarks import INDEX
from waxtwin.core.motion import Motion
from waxtwin.core.stops import EVENTS, ORDER

KINDS: Mapping[str, str] = {"P": "Position", "T": "Timing", "S": "Separation", "V": "Speed"}
FOOT_OFF = 0.03  # m above its height at set, for a standing height of 1.80 m: a foot that has left the ground
HIPS = ("drive_hip", "lead_hip")
SHOULDERS = ("throwing_shoulder", "glove_shoulder")
TRUNK = HIPS + SHOULDERS
ARM = (*TRUNK, "throwing_elbow", "throwing_wrist")
LEAD_LEG = ("lead_hip", "lead_knee", "lead_ankle")
DRIVE_LEG = ("drive_hip", "drive_knee", "drive_ankle")
LEAD_LINES = (("lead_hip", "lead_knee"), ("lead_knee", "lead_ankle"))
DRIVE_LINES = (("drive_hip", "drive_knee"), ("drive_knee", "drive_ankle"))
SHOULDER_LINE = ("throwing_shoulder", "glove_shoulder")
ARM_LINE = ("throwing_shoulder", "throwing_hand")
# The axes that each view must show.
_VIEW_AXES = {"3D": "xyz", "side": "xz", "front": "yz", "any": "z"}
VIEW_REASON = {
    "3D": "needs depth, which one camera does not see",
    "side": "needs a view from the side",
    "front": "needs a view from the front",
    "any": "needs heights",
}

# What formulas speak of; P pelvis centre, C chest centre, r f t the trunk's axes (throwing side, forward, up).
ANGLES: Mapping[str, str] = {
    "pelvis rotation": "atan2(h.y, h.x), h = lead_hip - drive_hip; 0 sideways, 90 facing the plate",
    "trunk rotation": "atan2(s.y, s.x), s = glove_shoulder - throwing_shoulder; 0 sideways, 90 facing the plate",
    "separation": "pelvis rotation - trunk rotation",
    "trunk tilt": "atan2(u.x, u.z), u = C - P",
    "trunk side tilt": "atan2(u.y, u.z), u = C - P",
    "shoulder line tilt": "atan2(s.z, hypot(s.x, s.y)), s = glove_shoulder - throwing_shoulder",
    "knee flexion": "180 - inner angle of hip, knee and ankle",
    "elbow flexion": "180 - inner angle of shoulder, elbow and wrist",
    "hip flexion": "angle between thigh and P - C",
    "abduction": "acos(-a.t), a = unit(throwing_elbow - throwing_shoulder)",
    "horizontal adduction": "atan2(a.f, a.r), a = unit(throwing_elbow - throwing_shoulder)",
    "external rotation": "atan2(w.tp, w.fp), w = throwing_wrist - throwing_elbow, fp = unit(f - (f.a)a), tp = a x fp",
    "drive-leg tilt": "atan2(k.x, k.z), k = drive_hip - drive_ankle",
    "foot yaw": "atan2 of toe - heel in the ground plane; 0 to the plate",
}

_SLACK_FRAMES = 1.5  # two stops in one frame may be found the wrong way round
_LENGTHS = ("m", "%", "m/s", "m/s2")
TIMED = ("ms", "m/s", "m/s2", "deg/s")  # units with time in them
NO_LANDMARKS = "there are no landmarks yet"
MISSED = "a landmark is missing at this stop, or it never happens in this throw"
_PLANE = {"side": 1, "front": 0}  # the axis that a picture-plane stand-in's view does not show
OUT_OF_VIEW = frozenset(VIEW_REASON.values())  # reasons of what one camera does not see
NO_SCALE = "needs a known length or a solved camera"
NO_HEIGHT = "needs the standing height"
LEAST_RATE = 60.0  # frames a second: below, the arm passes layback and release between two frames
TOO_QUICK = f"the arm is too quick for fewer than {LEAST_RATE:.0f} frames a second"
HIDDEN = "the throwing arm is hardly seen when it is fastest"
WHIPPED = ("throwing_elbow", "throwing_wrist", "throwing_hand")
# around release (s) the arm is fastest; a mark of less trust was made up or hardly seen, and a curve through more than
# this share of such marks says nothing about how high it rises between them
FASTEST, _HARDLY_SEEN, _MADE_UP = 0.030, 0.6, 0.4
NO_PACE = "the clip seems slowed, and at which rate it was taken is not stated"
END_ON = "seen end-on"
LOST_IN_NOISE = "the marks are too vague to tell whether it happens"
_SHORTEST = 0.35  # of its own length: a segment seen shorter than this has no direction in the picture


@dataclass(frozen=True)
class Reading:
    """What a measure may look at: the motion, the stops of every copy, and which stop counts as landing.

    `stops` {event id: (copies,) seconds}; `landing` is an event id.
    """

    motion: Motion
    stops: Mapping[str, np.ndarray]
    landing: str

    def stop(self, name: str) -> np.ndarray:
        """Instants of a stop, `(copies,)` seconds; `landing` is whichever stop counts as landing."""
        return self.stops[self.landing if name == "landing" else name]

    def first(self, name: str) -> float | None:
        """The instant (s) of a stop as it was found, in no jittered copy; None where it is not known."""
        return float(self.stops[name][0]) if name in self.stops else None

    def pose(self, name: str) -> Body:
        """Every copy's body at a stop."""
        return self.motion.pose(self.stop(name))

    def percent(self, metres: np.ndarray) -> np.ndarray:
        """A length in % of standing height."""
        return 100.0 * metres / self.motion.height

    def value(self, curve: np.ndarray, name: str) -> np.ndarray:
        """A curve `(copies, frames)` at a stop."""
        return self.motion.sample(curve, self.stop(name))

    def within(self, start: np.ndarray, stop: np.ndarray, span: slice = slice(None)) -> np.ndarray:
        """Mask `(copies, frames)` of the frames, of a span of them, between two instants per copy."""
        t = self.motion.times[None, span]
        return (t >= start[:, None] - 1e-9) & (t <= stop[:, None] + 1e-9)

    def peak(self, curve: np.ndarray, start: np.ndarray, stop: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Largest value of a curve `(copies, frames)` between two instants per copy, refined below the frame.

        Returns values and instants (s), both `(copies,)`; NaN where nothing is seen.
        """
        first, last = np.searchsorted(self.motion.times, [np.fmin.reduce(start) - 1e-9, np.fmax.reduce(stop) + 1e-9])
        span = slice(min(first, curve.shape[1] - 1), max(last, first + 1))  # of all copies: a peak's window is short
        seen = curve[:, span]
        masked = np.where(self.within(start, stop, span) & ~np.isnan(seen), seen, -np.inf)
        rows = np.arange(curve.shape[0])
        i = np.argmax(masked, axis=1)
        best = masked[rows, i]
        i += span.start
        inner = np.clip(i, 1, curve.shape[1] - 2)
        a, b, c = curve[rows, inner - 1], curve[rows, inner], curve[rows, inner + 1]
        bend = a - 2 * b + c
        with np.errstate(all="ignore"):
            shift = np.where((bend < 0) & (inner == i), 0.5 * (a - c) / bend, 0.0)
        shift = np.where(np.abs(shift) <= 1.0, shift, 0.0)
        value = np.where(shift != 0, b - 0.25 * (a - c) * shift, best)
        time = self.motion.times[0] + (i + shift) / self.motion.rate
        # a peak at the edge of the window is the value there, not beyond it
        time = np.clip(time, start, stop)
        lost = ~np.isfinite(best)
        return np.where(lost, np.nan, value), np.where(lost, np.nan, time)

    def after_landing(self, time: np.ndarray) -> np.ndarray:
        """Milliseconds from landing."""
        return np.asarray(1000.0 * (time - self.stop("landing")))

    def passes(self, curve: np.ndarray, level: float, until: str = "release") -> np.ndarray:
        """Instant (s) per copy from which a rising curve stays above `level` until a stop; NaN if it never does."""
        rate, times = self.motion.rate, self.motion.times
        inside = self.within(np.full(curve.shape[0], times[0]), self.stop(until))
        below = inside & ~(curve > level)
        last = curve.shape[1] - 1 - np.argmax(below[:, ::-1], axis=1)
        rows = np.arange(curve.shape[0])
        nxt = np.clip(last + 1, 0, curve.shape[1] - 1)
        a, b = curve[rows, last], curve[rows, nxt]
        with np.errstate(all="ignore"):
            share = np.clip((level - a) / (b - a), 0, 1)
        time = times[0] + (last + share) / rate
        never = ~below.any(axis=1) | (time > self.stop(until))
        return np.where(never, np.nan, time)


def spelled_out(formula: str) -> str:
    """A formula with the angles that it names."""
    named = [f"{name} = {text}" for name, text in ANGLES.items() if name in formula]
    return "; ".join(named if formula in ANGLES else [formula, *named])


Function = Callable[[Reading], np.ndarray]
Why = Callable[[Reading], str | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """One record per measure; documentation, tables, gauges and JSON all derive from it.

    `kind` P position, T timing, S separation, V speed; `at` the stop where it is read (or `landing`), `view` what
    is enough to see it; `stops` and `needs` what must be present; `planar` the one view ("side" or "front") that
    gives a picture-plane stand-in, if any; `segments` (from, to) are those whose direction in the picture it reads,
    which must not be seen end-on; `why` says why it never happens where that is more than a missing landmark;
    `relative` a share of another length in the picture, so that no scale is needed; `quick` reads what the throwing arm
    does around layback and release, which few frames a second miss; `by_picture` stands for the picture plane wherever
    one camera shows it; `gauge` the drawing on the figure; `curve` the one over time that it is read off; `text` its
    plain explanation, `usual` what the field calls it where its label is in our words, `formula` the arithmetic (P
    pelvis centre, C chest centre, t() the instant of), `sign` what + and - mean.
    """

    id: str
    label: str
    unit: str
    kind: str
    at: str
    view: str
    function: Function
    text: str
    formula: str
    sign: str
    needs: tuple[str, ...]
    stops: tuple[str, ...]
    planar: str
    gauge: str
    reference: str
    relative: bool
    why: Why | None
    segments: tuple[tuple[str, str], ...]
    usual: str
    quick: bool
    by_picture: bool
    curve: str

    def __reduce__(self) -> tuple[Callable[[str], Measure], tuple[str]]:
        """Another process has the same record."""
        return _of_id, (self.id,)


MEASURES: dict[str, Measure] = {}


def _of_id(measure_id: str) -> Measure:
    return MEASURES[measure_id]


_STOPS = frozenset({*EVENTS, "landing"})


def unknown(names: Iterable[str], known: Container[str]) -> list[str]:
    """Names that are not known."""
    return [name for name in names if name not in known]


def measure(  # noqa: PLR0913 - one keyword a field of the record
    measure_id: str,
    label: str,
    *,
    unit: str,
    kind: str,
    at: str,
    view: str,
    needs: tuple[str, ...],
    stops: tuple[str, ...] = (),
    text: str,
    formula: str,
    sign: str = "",
    planar: str = "",
    gauge: str = "",
    reference: str = "",
    relative: bool = False,
    why: Why | None = None,
    segments: tuple[tuple[str, str], ...] = (),
    usual: str = "",
    quick: bool = False,
    by_picture: bool = False,
    curve: str = "",
) -> Callable[[Function], Function]:
    """Declare a measure; a second one of the same id is a fault."""  # fmt: skip

    def register(function: Function) -> Function:
        if measure_id in MEASURES:
            raise ValueError(f"two measures named {measure_id}")
        if kind not in KINDS or view not in _VIEW_AXES or unknown(needs, INDEX) or unknown((*stops, at), _STOPS):
            raise ValueError(f"{measure_id} names a kind, view, landmark or stop that there is not")
        wanted = tuple(dict.fromkeys((*stops, at)))
        MEASURES[measure_id] = Measure(
            id=measure_id, label=label, unit=unit, kind=kind, at=at, view=view, function=function, text=text,
            formula=formula, sign=sign, needs=needs, stops=wanted, planar=planar, gauge=gauge, reference=reference,
            relative=relative, why=why, segments=segments, usual=usual, quick=quick or "max_layback" in wanted,
            by_picture=by_picture or kind == "V", curve=curve,
        )  # fmt: skip
        return function

    return register


@dataclass(frozen=True, slots=True)
class Value:
    """A measure's outcome: `value` is None when not available, and `reason` says why.

    `order` holds the list of a measure whose value is a list; `sd` and `bias` come with the jittered copies. `planar`
    is seen in the picture plane only; `estimated` is not seen, but worked out from what is (core/depth).
    """

    value: float | None
    planar: bool = False
    reason: str | None = None
    order: tuple[str | float, ...] | None = None
    sd: float | None = None
    bias: float | None = None
    estimated: bool = False

    @property
    def depth(self) -> str:
        """How it is known: "measured", "planar" or "estimated"."""
        return "planar" if self.planar else "estimated" if self.estimated else "measured"

    @property
    def available(self) -> bool:
        return self.value is not None or self.order is not None


def evaluate(item: Measure, reading: Reading, withheld: Collection[str] = ()) -> tuple[np.ndarray | None, str | None]:
    """Figures `(copies,)`, or None and the reason in plain words; `withheld` are stops that were found but not used."""
    reason = _unavailable(item, reading, withheld)
    if reason:
        return None, reason
    figures = item.function(reading)
    if np.isnan(figures).all():
        return None, (item.why and item.why(reading)) or MISSED
    return figures, None


def hindered(reason: str) -> bool:
    """Whether it is the footage that hinders a measure, and not the throw, in which it never happens."""
    reason = reason.removeprefix("athlete: ").removeprefix("twin: ")
    return reason in _OF_FOOTAGE or reason.startswith(("the stop", "the landmark", "one side is seen"))


_OF_FOOTAGE = frozenset({*VIEW_REASON.values(), NO_SCALE, NO_HEIGHT, NO_PACE, TOO_QUICK, HIDDEN, END_ON, MISSED,
                         NO_LANDMARKS, LOST_IN_NOISE})  # fmt: skip


def is_planar(item: Measure, motion: Motion) -> bool:
    """Whether the figure is a picture-plane one: a stand-in, or a speed in the visible axes only."""
    return motion.flat is not None and (item.by_picture or _PLANE.get(item.planar) == motion.flat)


def _unavailable(item: Measure, reading: Reading, withheld: Collection[str]) -> str | None:
    if hinders := _stops_hinder(item, reading, withheld):
        return hinders
    if reading.motion.is_bare and item.needs:
        return NO_LANDMARKS
    if reading.motion.rate < LEAST_RATE and item.quick:
        return TOO_QUICK
    sight = reading.motion.sight
    if not sight.scaled and item.unit in _LENGTHS and not item.relative and not (sight.by_body and item.unit == "%"):
        return NO_HEIGHT if sight.by_body else NO_SCALE
    if not sight.paced and item.unit in TIMED:
        return NO_PACE
    flat = reading.motion.flat
    if flat is not None:
        seen = "xyz".replace("xyz"[flat], "")
        enough = all(axis in seen for axis in _VIEW_AXES[item.view])
        if not enough and _PLANE.get(item.planar) != flat:
            return VIEW_REASON[item.view]
    for name in item.needs:
        if name in reading.motion.missing:
            return f"the landmark {name} is missing"
    return _sight_hinders(item, reading)


def _sight_hinders(item: Measure, reading: Reading) -> str | None:
    # where its marks are made up, the arm is not only as quick as they happen to be, it is also elsewhere
    if (item.quick or item.at == "release") and is_hidden(reading.motion, item.needs, reading.first("release")):
        return HIDDEN
    return END_ON if _seen_end_on(item, reading) else None


def _stops_hinder(item: Measure, reading: Reading, withheld: Collection[str]) -> str | None:
    """Why a measure's stops give no figure: one is not known, or somebody set them in an impossible order."""
    stops = sorted((reading.landing if s == "landing" else s for s in item.stops), key=ORDER.index)
    for stop in stops:
        if stop not in reading.stops:
            return f"the stop “{EVENTS[stop].short}” is {'not certain enough' if stop in withheld else 'not known'}"
    for before, after in pairwise(stops):
        if reading.stops[after][0] < reading.stops[before][0] - _SLACK_FRAMES / reading.motion.rate:
            return f"the stop “{EVENTS[after].short}” is set before “{EVENTS[before].short}”"
    return None


def is_hidden(motion: Motion, names: Collection[str], release: float | None) -> bool:
    """Whether one of the named landmarks is of the throwing arm and hardly seen where that is fastest, around `release`
    (s), so that its marks there are mostly made up.
    """
    whipped = [INDEX[name] for name in WHIPPED if name in names]
    if motion.trust is None or release is None or not whipped:
        return False
    near = np.abs(motion.times - release) <= FASTEST
    hardly_seen = motion.trust[near][:, whipped] < _HARDLY_SEEN
    return bool(hardly_seen.size) and bool(hardly_seen.mean(axis=0).max() > _MADE_UP)


def _seen_end_on(item: Measure, reading: Reading) -> bool:
    """Whether a segment that a planar angle is read from points at the camera at one of its stops."""
    motion = reading.motion
    if motion.flat is None or not item.segments:
        return False
    poses = [reading.pose(stop) for stop in (item.at, *(one for one in item.stops if one == "landing"))]
    return any(
        float(np.linalg.norm(pose.seen(pose.at(last) - pose.at(first))[0])) < _SHORTEST * motion.own_length(first, last)
        for pose in poses for first, last in item.segments
    )  # fmt: skip
