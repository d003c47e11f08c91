"""The fit: a throw's joints over time as splines, by Levenberg and Marquardt's method, from several starts.

Marquardt 1963 (J Soc Ind Appl Math 11). The normal matrix is banded, since a spline's control points only meet their
neighbours; the segment lengths are a border of it. The spread is that of the normal distribution about the best
(Laplace's approximation), widened for marks that are wrong alike from frame to frame.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from scipy.interpolate import BSpline
from scipy.linalg import cholesky_banded, solve_triangular, solveh_banded
from scipy.linalg.lapack import dtbtrs
from scipy.sparse import csr_matrix, identity, kron

from waxtwin.core.camera import Camera
from waxtwin.core.depth.scene import Moments, Sighting, clicks_carried, make_scene, put_right
from waxtwin.core.depth.skeleton import ACCELERATION, COUNT, KIND_NAMES, SHARES, VARIES
from waxtwin.core.depth.starts import starts
from waxtwin.core.depth.terms import Scene, all_rows, robust_rest
from waxtwin.core.estimated import InSpace
from waxtwin.core.marks import Marks
from waxtwin.core.model_offsets import Offsets
from waxtwin.core.steps import Steps

DRAWS = 16
_SLOW_KNOTS, _FAST_KNOTS = 0.040, 0.015  # s
_SLOW_FRAMES = 80.0  # frames a second that are looked at outside the fast stretch
_BEFORE, _AFTER = 0.06, 0.05  # s: the fast stretch reaches from before landing to after release
_FORGETS = 0.11  # s: how long a model's marks are wrong alike
_MOST_STEPS = 14
_ENOUGH = 3e-3  # of the cost: a step that gains less ends it
_SAME = 0.012  # m: two starts that end nearer to one another have found one reading
_LEAST_WEIGHT = 0.01


@dataclass(frozen=True, eq=False)
class OneCamera:
    """What a fit starts from: marks on the throw's clock, their camera, the throwing arm ("R" or "L"), the axis that
    the camera does not see, standing height (m), the moments around which things are quick, and what the marks' model
    is usually off.
    """

    marks: Marks
    camera: Camera
    throws: str
    hidden: int
    height: float
    moments: Moments
    offsets: Offsets | None = None


@dataclass
class _Problem:
    """One least-squares problem over control points and segment lengths."""

    scene: Scene
    basis: np.ndarray
    second: np.ndarray
    spacing: float
    temper: float
    spread: csr_matrix = field(init=False)
    acceleration: np.ndarray = field(init=False)

    def __post_init__(self) -> None:
        self.spread = kron(csr_matrix(self.basis), identity(COUNT * 3), format="csr")
        # accelerations of neighbouring instants are alike for about 20 ms
        per_frame = np.sqrt(0.012 / self.spacing) * 0.6
        self.acceleration = np.repeat(ACCELERATION * self.scene.size, 3) * per_frame
        self.usual = SHARES * self.scene.height
        self.varies = VARIES * self.usual / self.temper

    def points(self, control: np.ndarray) -> np.ndarray:
        """(frames, joints, 3)."""
        return np.asarray((self.basis @ control).reshape(-1, COUNT, 3))

    def cost(self, control: np.ndarray, lengths: np.ndarray) -> float:
        points = self.points(control)
        rows = all_rows(self.scene, points, lengths).residuals
        bend = self.second @ control / self.acceleration
        longer = (lengths - self.usual) / self.varies
        rest = robust_rest(self.scene, points)
        return float(0.5 * (rows @ rows + np.sum(bend**2) + longer @ longer) + rest)

    def normal(self, control: np.ndarray, lengths: np.ndarray) -> tuple[np.ndarray, ...]:
        """Banded normal matrix and gradient, and the lengths' border: `(band, down, border, corner, down_lengths)`.

        The band is the lower one, which is solved a third quicker than the upper.
        """
        rows = all_rows(self.scene, self.points(control), lengths)
        off = rows.residuals
        slopes = rows.slopes() @ self.spread
        of_length = rows.length_slopes()
        bend = self.second @ control / self.acceleration
        down = slopes.T @ off + (self.second.T @ (bend / self.acceleration)).ravel()
        inner = (slopes.T @ slopes).tocoo()
        count, width = self.basis.shape[1], COUNT * 3
        reach = 4 * width - 1
        band = np.zeros((reach + 1, count * width))
        lower = inner.row >= inner.col
        row, col, value = inner.row[lower], inner.col[lower], inner.data[lower]
        band[row - col, col] = value
        for k in range(4):
            stiff = np.sum(self.second[:, : count - k] * self.second[:, k:], axis=0)
            tied = (stiff[:, None] / self.acceleration**2).ravel()
            band[k * width, : tied.size] += tied
        border = np.asarray((slopes.T @ of_length).todense())
        corner = np.asarray((of_length.T @ of_length).todense()) + np.diag(1.0 / self.varies**2)
        down_lengths = of_length.T @ off + (lengths - self.usual) / self.varies**2
        return band, down, border, corner, down_lengths


@dataclass(frozen=True, eq=False)
class _Reading:
    """Where one start ended."""

    problem: _Problem
    control: np.ndarray
    lengths: np.ndarray
    cost: float


def estimate_steps(footage: OneCamera, draws: int = DRAWS, seed: int = 0) -> Steps[InSpace]:
    """Fit the throw from several starts; each round of each start is a step. Raises TrackError when too little is seen.

    Readings of the picture that cost little more than the best share the draws with it.
    """
    sighting = Sighting.of(footage.camera, footage.throws)
    marks = footage.marks
    if footage.offsets is not None:
        marks = put_right(marks, footage.offsets, sighting, footage.hidden, footage.height, footage.moments)
    footage = replace(footage, marks=clicks_carried(marks))
    chosen, basis, second = _clock(footage)
    scene = make_scene(
        footage.marks, footage.camera, sighting, footage.hidden, footage.height, footage.moments, chosen
    )  # fmt: skip
    times = footage.marks.times[chosen]
    spacing = float(np.median(np.diff(times)))
    temper = float(np.sqrt(max(2 * _FORGETS / spacing, 1.0)))
    # what a person clicked is wrong on its own, not alike with its neighbours
    scene = replace(scene, sd=np.where(scene.firm, scene.sd / temper, scene.sd))
    problem = _Problem(scene, basis[chosen], second[chosen], spacing, temper)
    found: list[_Reading] = []
    first = starts(scene, sighting, footage.moments, times)
    for i, start in enumerate(first):
        found.append((yield from _solved(problem, start, i / len(first), 1 / len(first))))
    weighed = _weighed(found, temper)
    best = weighed[0][1]
    points = (basis @ best.control).reshape(-1, COUNT, 3)
    rng = np.random.default_rng(seed)
    taken = rng.choice(len(weighed), draws, p=[weight for weight, _ in weighed])
    parts = [
        _drawn(reading, basis, int(np.sum(taken == k)), rng) for k, (_, reading) in enumerate(weighed) if k in taken
    ]
    return InSpace(footage.marks.times, points, np.concatenate(parts).astype(np.float32))


def _clock(footage: OneCamera) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Frames that are looked at, and the spline basis and its second derivative at every frame."""
    times = footage.marks.times
    start, stop = footage.moments.landing - _BEFORE, footage.moments.release + _AFTER
    inner = [float(times[0])]
    while inner[-1] < times[-1]:
        inner.append(inner[-1] + (_FAST_KNOTS if start <= inner[-1] <= stop else _SLOW_KNOTS))
    inner[-1] = float(times[-1])
    if len(inner) > 3 and inner[-1] - inner[-2] < 0.6 * _SLOW_KNOTS:
        del inner[-2]
    knots = np.r_[[inner[0]] * 3, inner, [inner[-1]] * 3]
    spline = BSpline(knots, np.eye(knots.size - 4), 3)
    rate = (times.size - 1) / (times[-1] - times[0])
    every = max(round(rate / _SLOW_FRAMES), 1)
    fast = (times >= start) & (times <= stop)
    clicked = footage.marks.fixed[:, :COUNT].any(axis=1)
    ends = np.isin(np.arange(times.size), (0, times.size - 1))
    chosen = np.flatnonzero(fast | clicked | ends | (np.arange(times.size) % every == 0))
    return chosen, np.asarray(spline(times)), np.asarray(spline.derivative(2)(times))


def _solved(problem: _Problem, start: np.ndarray, begun: float, share: float) -> Steps[_Reading]:
    """From a start `(frames, joints, 3)` downhill."""
    flat = start.reshape(start.shape[0], -1)
    ridge = 1e-4 * np.eye(problem.basis.shape[1])
    control = np.linalg.solve(problem.basis.T @ problem.basis + ridge, problem.basis.T @ flat)
    lengths = problem.usual.copy()
    cost, damping = problem.cost(control, lengths), 1e-3
    for step in range(_MOST_STEPS):
        yield begun + share * step / _MOST_STEPS
        parts = problem.normal(control, lengths)
        gained = 0.0
        for _ in range(7):
            moved = _step(parts, damping, control, lengths)
            if moved is not None and (after := problem.cost(*moved)) < cost:
                gained, (control, lengths), cost = cost - after, moved, after
                damping = max(damping / 5, 1e-7)
                break
            damping *= 8
        if gained < _ENOUGH * max(cost, 1.0):
            break
    return _Reading(problem, control, lengths, cost)


def _step(
    parts: tuple[np.ndarray, ...], damping: float, control: np.ndarray, lengths: np.ndarray
) -> tuple[np.ndarray, np.ndarray] | None:
    band, down, border, corner, down_lengths = parts
    damped = band.copy()
    damped[0] *= 1.0 + damping
    damped[0] += 1e-9
    try:
        solved = solveh_banded(damped, np.column_stack([down, border]), lower=True, check_finite=False)
    except np.linalg.LinAlgError:
        return None
    rest = corner - border.T @ solved[:, 1:]
    longer = -np.linalg.solve(rest, down_lengths - border.T @ solved[:, 0])
    moved = -(solved[:, 0] + solved[:, 1:] @ longer)
    return control + moved.reshape(control.shape), lengths + longer


def _weighed(found: list[_Reading], temper: float) -> list[tuple[float, _Reading]]:
    """Readings by how likely they are, best first; one that was found twice counts once."""
    ordered = sorted(found, key=lambda one: one.cost)
    weights = np.array([np.exp(-(one.cost - ordered[0].cost) / temper**2) for one in ordered])
    placed = [one.problem.points(one.control) for one in ordered]
    for i in range(1, len(ordered)):
        if any(weights[k] > 0 and np.sqrt(np.mean((placed[i] - placed[k]) ** 2)) < _SAME for k in range(i)):
            weights[i] = 0.0
    weights[weights < _LEAST_WEIGHT * weights.sum()] = 0.0
    weights /= weights.sum()
    return [(float(weight), one) for weight, one in zip(weights, ordered, strict=True) if weight > 0]


def _drawn(reading: _Reading, basis: np.ndarray, count: int, rng: np.random.Generator) -> np.ndarray:
    """`(count, frames, joints, 3)` from the normal distribution about a reading."""
    problem = reading.problem
    band, _, border, corner, _ = problem.normal(reading.control, reading.lengths)
    band[0] *= 1.0 + 1e-9
    band[0] += 1e-9
    lower = cholesky_banded(band, lower=True, check_finite=False)
    tied = solveh_banded(band, border, lower=True, check_finite=False)
    rest = corner - border.T @ tied
    root = np.linalg.cholesky((rest + rest.T) / 2)
    longer = solve_triangular(root.T, rng.standard_normal((len(KIND_NAMES), count)))
    moved, _ = dtbtrs(lower, rng.standard_normal((band.shape[1], count)), uplo="L", trans="T")
    moved = problem.temper * (moved - tied @ longer)
    return np.stack(
        [(basis @ (reading.control + moved[:, k].reshape(reading.control.shape))).reshape(-1, COUNT, 3)
         for k in range(count)]
    )  # fmt: skip
