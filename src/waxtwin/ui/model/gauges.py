"""Gauges: the lines that a measure is read from, as points in the field, ready to be projected anywhere."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.body import Body
from waxtwin.core.landmarks import INDEX
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.house import GAUGE

ALWAYS = ("plumb", "trunk")
TRAIL = "trail:"  # and a landmark: the path of it


@dataclass(frozen=True, slots=True)
class Stroke:
    """A line through `points` (n, 3) metres; `dashed` for a reference, solid for the body's own line."""

    points: np.ndarray
    dashed: bool = False


@dataclass(frozen=True, slots=True)
class Bend:
    """An angle at the middle of three points (3, 3) metres."""

    points: np.ndarray


Mark = Stroke | Bend
_UP = np.array([0.0, 0.0, 1.0])


def marks(gauge: str, body: Body, trail: np.ndarray | None = None) -> list[Mark]:
    """What a gauge draws on one body `(landmarks, 3)`; `trail` (frames, 3) is the path for a `trail:` gauge."""
    if gauge.startswith(TRAIL):
        return [] if trail is None else [Stroke(trail)]
    if gauge.startswith(GAUGE):
        kind, _, points = gauge.removeprefix(GAUGE).partition(":")
        names = points.split(",")
        return _bend(body, *names) if kind == "angle" else [_line(body, *names)]
    return _GAUGES[gauge](body) if gauge else []


def from_rubber(point: str, body: Body) -> list[Mark]:
    """A point's way from the rubber and its height over it, on one body `(landmarks, 3)`."""
    at = body.at(point)
    return [
        Stroke(np.array([[0.0, at[1], at[2]], at])),
        Stroke(np.array([[0.0, at[1], 0.0], [0.0, at[1], 1.1 * max(float(at[2]), 0.3)]]), True),
        Stroke(np.array([at, [at[0], at[1], 0.0]]), True),
    ]


def _line(body: Body, *names: str, dashed: bool = False) -> Stroke:
    return Stroke(np.array([body.at(name) for name in names]), dashed)


def _beyond(a: np.ndarray, b: np.ndarray, share: float) -> np.ndarray:
    """The line a-b drawn on past both ends by a share of its length."""
    return np.array([a - share * (b - a), b + share * (b - a)])


def _plumb(body: Body) -> list[Mark]:
    pelvis = body.at("pelvis")
    rubber = np.array([[0.0, 0.0, 0.0], [0.0, 0.0, 1.15 * max(pelvis[2], 0.6)]])
    drop = np.array([pelvis, [pelvis[0], pelvis[1], 0.0]])
    return [Stroke(rubber, True), Stroke(drop, True)]


def _trunk(body: Body) -> list[Mark]:
    pelvis, chest = body.at("pelvis"), body.at("chest")
    upright = pelvis + _UP * np.linalg.norm(chest - pelvis)
    return [Stroke(_beyond(pelvis, chest, 0.15)), Stroke(np.array([pelvis, upright]), True)]


def _shoulders(body: Body) -> list[Mark]:
    return [Stroke(_beyond(body.at("throwing_shoulder"), body.at("glove_shoulder"), 0.5))]


def _hips(body: Body) -> list[Mark]:
    return [Stroke(_beyond(body.at("drive_hip"), body.at("lead_hip"), 0.9))]


def _head(body: Body) -> list[Mark]:
    navel, head = body.at("navel"), body.at("head")
    return [Stroke(np.array([navel, navel + _UP * (head[2] - navel[2])]), True), _line(body, "navel", "head")]


def _stride(body: Body) -> list[Mark]:
    ankle = body.at("lead_ankle")
    foot = np.array([ankle[0], ankle[1], ankle[2] - 0.06])
    return [Stroke(np.array([[0.0, 0.0, 0.0], foot])), Stroke(np.array([ankle, foot]), True)]


def _bend(body: Body, a: str, b: str, c: str) -> list[Mark]:
    return [_line(body, a, b, c), Bend(np.array([body.at(a), body.at(b), body.at(c)]))]


def _elbow_line(body: Body) -> list[Mark]:
    line = Stroke(_beyond(body.at("glove_shoulder"), body.at("throwing_shoulder"), 0.7), True)
    return [line, _line(body, "throwing_shoulder", "throwing_elbow")]


_GAUGES: Mapping[str, Callable[[Body], list[Mark]]] = {
    "plumb": _plumb,
    "trunk": _trunk,
    "shoulder_line": _shoulders,
    "hip_line": _hips,
    "separation": lambda b: _shoulders(b) + _hips(b),
    "drive_leg": lambda b: [
        _line(b, "drive_ankle", "drive_hip"),
        Stroke(np.array([b.at("drive_ankle"), b.at("drive_ankle") + _UP * 0.5]), True),
    ],
    "drive_knee": lambda b: _bend(b, "drive_hip", "drive_knee", "drive_ankle"),
    "lead_knee": lambda b: _bend(b, "lead_hip", "lead_knee", "lead_ankle"),
    "elbow": lambda b: _bend(b, "throwing_shoulder", "throwing_elbow", "throwing_wrist"),
    "elbow_line": _elbow_line,
    "forearm": lambda b: [_line(b, "throwing_shoulder", "throwing_elbow", "throwing_wrist")],
    "head_navel": _head,
    "stride": _stride,
    "lead_shin": lambda b: [
        _line(b, "lead_knee", "lead_ankle"),
        Stroke(np.array([b.at("lead_knee"), b.at("lead_knee") - _UP * 0.45]), True),
    ],
    "drive_foot": lambda b: [_line(b, "drive_knee", "drive_ankle", "drive_heel", "drive_toe")],
    "glove": lambda b: [_line(b, "chest", "glove_wrist")],
    "arm_across": lambda b: [
        _line(b, "throwing_shoulder", "throwing_elbow", "throwing_hand"),
        Stroke(np.array([b.at("chest"), b.at("chest") - _UP * 0.5]), True),
    ],
    "lead_foot": lambda b: [Stroke(_beyond(b.at("lead_heel"), b.at("lead_toe"), 0.4))],
}
GAUGES = tuple(_GAUGES)
# the figure's bones, by how their names begin, that a gauge is read from
_PARTS: Mapping[str, tuple[str, ...]] = {
    "trunk": ("spine", "chest"),
    "shoulder_line": ("chest", "throwing_shoulder", "glove_shoulder"),
    "hip_line": ("pelvis", "drive_hip", "lead_hip"),
    "separation": ("pelvis", "drive_hip", "lead_hip", "chest", "throwing_shoulder", "glove_shoulder"),
    "drive_leg": ("drive",),
    "drive_knee": ("drive_thigh", "drive_knee", "drive_shank"),
    "lead_knee": ("lead_thigh", "lead_knee", "lead_shank"),
    "elbow": ("throwing_upper", "throwing_elbow", "throwing_forearm"),
    "elbow_line": ("throwing_shoulder", "throwing_upper"),
    "forearm": ("throwing_upper", "throwing_elbow", "throwing_forearm"),
    "head_navel": ("spine", "neck", "head"),
    "stride": ("lead_shank", "lead_ankle", "lead_foot"),
    "lead_shin": ("lead_shank",),
    "drive_foot": ("drive_ankle", "drive_foot"),
    "glove": ("glove",),
    "arm_across": ("throwing",),
    "lead_foot": ("lead_ankle", "lead_foot"),
}


def parts(gauge: str) -> tuple[str, ...]:
    """The figure's bones, by how their names begin, that a gauge is read from; none for one of the whole body."""
    landmark = gauge.removeprefix(TRAIL)
    return (landmark,) if landmark != gauge else _PARTS.get(gauge, ())


_POINTS = {*INDEX, "pelvis", "chest"}
if _unknown := [item.id for item in MEASURES.values() if item.gauge and item.gauge not in _GAUGES
                and not (item.gauge.startswith(TRAIL) and item.gauge.removeprefix(TRAIL) in _POINTS)]:  # fmt: skip
    raise ValueError(f"drawn by gauges that there are not: {', '.join(_unknown)}")
