"""Signed distances of round solids, and shapes that melt several of them into one surface."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

Distance = Callable[[np.ndarray], np.ndarray]  # points (..., 3) to distances (...), negative inside
Vector = Sequence[float] | np.ndarray

MIRROR = np.array([-1.0, 1.0, 1.0], np.float32)


@dataclass(frozen=True)
class Solid:
    """A distance and the box `low` to `high` that it lies in."""

    distance: Distance
    low: np.ndarray
    high: np.ndarray

    def mirrored(self) -> Solid:
        """The same on the other side of the body."""
        low, high = self.low * MIRROR, self.high * MIRROR
        return Solid(lambda p: self.distance(p * MIRROR), np.minimum(low, high), np.maximum(low, high))


def cone(a: Vector, b: Vector, ra: float, rb: float) -> Solid:
    """A ball-ended limb that tapers (Quilez, "Round Cone - exact")."""
    start, end = np.asarray(a, np.float32), np.asarray(b, np.float32)
    along = end - start
    l2 = float(along @ along)
    rr = ra - rb
    a2, il2 = l2 - rr * rr, 1.0 / l2

    def distance(p: np.ndarray) -> np.ndarray:
        pa = p - start
        y = pa @ along
        z = y - l2
        off = pa * l2 - y[..., None] * along
        x2 = np.einsum("...i,...i", off, off)
        y2, z2 = y * y * l2, z * z * l2
        k = np.sign(rr) * rr * rr * x2
        middle = (np.sqrt(x2 * a2 * il2) + y * rr) * il2 - ra
        out = np.where(np.sign(y) * a2 * y2 < k, np.sqrt(x2 + y2) * il2 - ra, middle)
        return np.where(np.sign(z) * a2 * z2 > k, np.sqrt(x2 + z2) * il2 - rb, out)

    return Solid(distance, np.minimum(start - ra, end - rb), np.maximum(start + ra, end + rb))


def ellipsoid(centre: Vector, radii: Vector, axes: np.ndarray | None = None) -> Solid:
    """An ellipsoid (Quilez' bound); `axes` (3, 3) has its own axes as columns."""
    c, r = np.asarray(centre, np.float32), np.asarray(radii, np.float32)
    own = np.eye(3, dtype=np.float32) if axes is None else np.asarray(axes, np.float32)

    def distance(p: np.ndarray) -> np.ndarray:
        q = (p - c) @ own
        k0 = np.linalg.norm(q / r, axis=-1)
        k1 = np.linalg.norm(q / (r * r), axis=-1)
        return np.asarray(k0 * (k0 - 1) / np.maximum(k1, 1e-9))

    reach = np.abs(own) @ r
    return Solid(distance, c - reach, c + reach)


def ball(centre: Vector, radius: float) -> Solid:
    """A ball."""
    return ellipsoid(centre, (radius, radius, radius))


def ring(centre: Vector, radii: tuple[float, float], thick: float, axes: np.ndarray | None = None) -> Solid:
    """A ring of oval outline `radii` in the plane of the first two `axes`, round in section."""
    c = np.asarray(centre, np.float32)
    own = np.eye(3, dtype=np.float32) if axes is None else np.asarray(axes, np.float32)
    rx, ry = radii

    def distance(p: np.ndarray) -> np.ndarray:
        q = (p - c) @ own
        x, y = q[..., 0] / rx, q[..., 1] / ry
        k = np.sqrt(x * x + y * y)
        slope = np.sqrt((x * ry) ** 2 + (y * rx) ** 2) / np.maximum(k, 1e-6)
        off = (k - 1) * (rx * ry) / np.maximum(slope, 1e-6)
        return np.sqrt(off * off + q[..., 2] ** 2) - thick

    reach = np.abs(own) @ np.array([rx + thick, ry + thick, thick], np.float32)
    return Solid(distance, c - reach, c + reach)


def bent(solid: Solid, shift: Callable[[np.ndarray], np.ndarray], reach: float, shrink: float) -> Solid:
    """A solid whose points are shifted first by at most `reach`; `shrink` keeps the distance a safe one."""
    return Solid(lambda p: solid.distance(p + shift(p)) * shrink, solid.low - reach, solid.high + reach)


def melt(a: np.ndarray, b: np.ndarray, k: float) -> np.ndarray:
    """Smooth minimum of two distances, over a width `k` (Quilez, quadratic)."""
    h = np.clip(0.5 + 0.5 * (b - a) / k, 0, 1)
    return b + (a - b) * h - k * h * (1 - h)


@dataclass
class Shape:
    """Solids melted together, then cut; each with the width over which it blends."""

    solids: list[tuple[Solid, float]] = field(default_factory=list)
    cuts: list[tuple[Distance, float]] = field(default_factory=list)

    def add(self, solid: Solid, blend: float = 0.02) -> Shape:
        """Melt a solid in."""
        self.solids.append((solid, blend))
        return self

    def both(self, solid: Solid, blend: float = 0.02) -> Shape:
        """Melt a solid in on both sides of the body."""
        return self.add(solid, blend).add(solid.mirrored(), blend)

    def cut(self, outside: Distance, blend: float = 0.006) -> Shape:
        """Take away what lies where `outside` is positive."""
        self.cuts.append((outside, blend))
        return self

    def mirrored(self) -> Shape:
        """The whole shape on the other side of the body."""

        def turned(distance: Distance) -> Distance:
            return lambda p: distance(p * MIRROR)

        return Shape([(s.mirrored(), k) for s, k in self.solids], [(turned(c), k) for c, k in self.cuts])

    def __call__(self, points: np.ndarray) -> np.ndarray:
        out = self.solids[0][0].distance(points)
        for solid, k in self.solids[1:]:
            out = melt(out, solid.distance(points), k)
        for outside, k in self.cuts:
            out = -melt(-out, -outside(points), k)
        return out

    def box(self, margin: float) -> tuple[np.ndarray, np.ndarray]:
        """The corners of the box that it lies in."""
        low = np.min([s.low for s, _ in self.solids], axis=0) - margin
        high = np.max([s.high for s, _ in self.solids], axis=0) + margin
        return low, high

    def gradient(self, points: np.ndarray, step: float = 6e-4) -> np.ndarray:
        """How the distance grows `(..., 3)`, by central differences."""
        columns = []
        for i in range(3):
            d = np.zeros(3, np.float32)
            d[i] = step
            columns.append((self(points + d) - self(points - d)) / (2 * step))
        return np.stack(columns, axis=-1).astype(np.float32)
