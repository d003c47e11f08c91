"""Painting the wax figure with QPainter: rounded limbs and one smooth torso, sorted by depth."""

from __future__ import annotations

import math
from functools import cache

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QLinearGradient, QPainter, QPainterPath, QPen, QPolygonF

from waxtwin.core.camera import look_at, project
from waxtwin.core.figure import FIGURE_INDEX, LIMBS, TORSO, figure_points

_TONE = {"skin": 104, "shirt": 100, "legs": 106, "shoe": 58, "glove": 55, "cap": 66}
_LIGHT = (-0.55, -0.83)  # where light comes from on the screen: up and to the left
_CIRCLE = np.array([[math.cos(a), math.sin(a)] for a in np.linspace(0, 2 * math.pi, 12, endpoint=False)])
_TORSO_ENDS = tuple(dict.fromkeys((name, r) for s in TORSO for name, r in ((s.a, s.ra), (s.b, s.rb))))


@cache
def _tones(base: str, material: str) -> tuple[QColor, QColor, QColor]:
    middle = QColor(base).lighter(_TONE[material]) if _TONE[material] > 100 else QColor(base)
    if _TONE[material] < 100:
        middle = QColor(base).darker(round(10000 / _TONE[material]))
    return middle.lighter(113), middle, middle.darker(185)


def figure_matrix(size: tuple[int, int], height: float, azimuth: float, elevation: float) -> np.ndarray:
    """Projection `(3, 4)` of the field into `size` pixels that frames a throw of a body `height` metres tall.

    `azimuth` and `elevation` in radians; 0, 0 looks from the open side of a right-hander.
    """
    away = np.array(
        [math.sin(azimuth) * math.cos(elevation), -math.cos(azimuth) * math.cos(elevation), math.sin(elevation)]
    )
    target = np.array([0.46 * height, 0.0, 0.46 * height])
    distance = 7.5
    focal = distance * min(size[0] / (1.42 * height), (size[1] - 56) / (1.22 * height))
    return look_at(target + distance * away, target, focal, (size[0], size[1] + 10))


def paint_figure(painter: QPainter, matrix: np.ndarray, points: np.ndarray, height: float, base: str) -> None:
    """Paint one body.

    `matrix` (3, 4) maps field metres to widget pixels; `points` (landmarks, 3); `height` in metres; `base` is the
    wax colour as #rrggbb.
    """
    body = figure_points(points)
    flat, depth = project(matrix, body)
    scale = np.linalg.norm(matrix[0, :3]) * height / depth
    torso_depth = float(np.nanmean(depth[[FIGURE_INDEX["chest"], FIGURE_INDEX["belly"]]]))
    parts: list[tuple[float, object]] = []
    for limb in LIMBS:
        i, j = FIGURE_INDEX[limb.a], FIGURE_INDEX[limb.b]
        if np.isfinite(flat[[i, j]]).all():
            parts.append((float(depth[i] + depth[j]) / 2, limb))
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    edge = QColor(base).darker(250)
    edge.setAlpha(120)
    painter.setPen(QPen(edge, 0))  # a hairline: real strokes would double the cost
    if np.isfinite(torso_depth):
        parts.append((torso_depth, None))
    for _, part in sorted(parts, key=lambda p: -p[0]):
        if part is None:
            _paint_torso(painter, flat, scale, base)
        else:
            i, j = FIGURE_INDEX[part.a], FIGURE_INDEX[part.b]  # type: ignore[attr-defined]
            _paint_limb(painter, flat[i], flat[j], part.ra * scale[i], part.rb * scale[j],  # type: ignore[attr-defined]
                        _tones(base, part.material))  # type: ignore[attr-defined]  # fmt: skip
    painter.restore()


def _paint_limb(
    painter: QPainter, a: np.ndarray, b: np.ndarray, ra: float, rb: float, tones: tuple[QColor, QColor, QColor]
) -> None:
    ax, ay, bx, by = float(a[0]), float(a[1]), float(b[0]), float(b[1])
    dx, dy = bx - ax, by - ay
    length = math.hypot(dx, dy)
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    if length <= abs(ra - rb) + 0.5:  # seen end-on
        r = max(ra, rb)
        path.addEllipse(QPointF((ax + bx) / 2, (ay + by) / 2), r, r)
        nx, ny = _LIGHT
    else:
        ux, uy = dx / length, dy / length
        sine = (ra - rb) / length
        cosine = math.sqrt(1 - sine * sine)
        # tangent points of the two circles, then their arcs
        heading = math.degrees(math.atan2(-uy, ux))
        lean = math.degrees(math.asin(sine))
        left = (ux * sine + uy * cosine, uy * sine - ux * cosine)
        path.moveTo(ax + left[0] * ra, ay + left[1] * ra)
        path.lineTo(bx + left[0] * rb, by + left[1] * rb)
        path.arcTo(bx - rb, by - rb, 2 * rb, 2 * rb, heading + 90 - lean, -(180 - 2 * lean))
        path.arcTo(ax - ra, ay - ra, 2 * ra, 2 * ra, heading - 90 + lean, -(180 + 2 * lean))
        path.closeSubpath()
        nx, ny = uy, -ux
    if nx * _LIGHT[0] + ny * _LIGHT[1] < 0:
        nx, ny = -nx, -ny
    r = max(ra, rb)
    mx, my = (ax + bx) / 2, (ay + by) / 2
    painter.setBrush(_shade(QPointF(mx + nx * r, my + ny * r), QPointF(mx - nx * r, my - ny * r), tones))
    painter.drawPath(path)


def _paint_torso(painter: QPainter, flat: np.ndarray, scale: np.ndarray, base: str) -> None:
    rings = []
    for name, radius in _TORSO_ENDS:
        i = FIGURE_INDEX[name]
        rings.append(flat[i] + _CIRCLE * radius * scale[i])
    hull = _hull(np.concatenate(rings))
    polygon = QPolygonF([QPointF(float(x), float(y)) for x, y in hull])
    box = polygon.boundingRect()
    tones = _tones(base, "shirt")
    painter.setBrush(_shade(box.topLeft() + QPointF(box.width() * 0.1, 0), box.bottomRight(), tones))
    painter.drawPolygon(polygon)


def _shade(lit: QPointF, dark: QPointF, tones: tuple[QColor, QColor, QColor]) -> QLinearGradient:
    gradient = QLinearGradient(lit, dark)
    gradient.setColorAt(0.0, tones[1])
    gradient.setColorAt(0.28, tones[0])
    gradient.setColorAt(0.55, tones[1])
    gradient.setColorAt(1.0, tones[2])
    return gradient


def _hull(points: np.ndarray) -> list[tuple[float, float]]:
    """Convex hull by Andrew's monotone chain: scipy.spatial would cost a second at the first paint."""
    ordered = sorted(map(tuple, points.tolist()))

    def half(run: list[tuple[float, float]]) -> list[tuple[float, float]]:
        out: list[tuple[float, float]] = []
        for p in run:
            while len(out) > 1:
                (ax, ay), (bx, by) = out[-2], out[-1]
                if (bx - ax) * (p[1] - ay) - (by - ay) * (p[0] - ax) > 0:
                    break
                out.pop()
            out.append(p)
        return out[:-1]

    return half(ordered) + half(ordered[::-1])
