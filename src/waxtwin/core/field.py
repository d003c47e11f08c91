"""Known points of the field, in field metres, by the distance that is thrown over.

The rubber is 24 by 6 inches and the plate 17 inches wide by the usual rules; the plate's point lies at the distance
from the rubber's front edge. The mound's height is that of the preset.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

LEAST_POINTS = 5  # of known places, to solve a camera from
_INCH = 0.0254
_RUBBER_HALF, _RUBBER_DEEP = 12 * _INCH, 6 * _INCH
_PLATE_HALF, _PLATE_SIDE = 8.5 * _INCH, 8.5 * _INCH


@dataclass(frozen=True)
class FieldSize:
    """A distance from rubber to plate, and how much higher the rubber lies (metres)."""

    id: str
    label: str
    distance: float
    mound: float


@dataclass(frozen=True)
class FieldPoint:
    """A point that can be clicked: its name and its place `(x, y, z)` in field metres."""

    id: str
    label: str
    place: tuple[float, float, float]


SIZES: Mapping[str, FieldSize] = {
    size.id: size
    for size in (
        FieldSize("adult", "adult, 18.44 m (60 ft 6 in)", 18.44, 10 * _INCH),
        FieldSize("youth_54", "youth, 16.46 m (54 ft)", 16.46, 8 * _INCH),
        FieldSize("youth_50", "youth, 15.24 m (50 ft)", 15.24, 6 * _INCH),
        FieldSize("youth_46", "youth, 14.02 m (46 ft)", 14.02, 6 * _INCH),
        FieldSize("flat", "flat ground, 18.44 m", 18.44, 0.0),
    )
}


def field_points(size: FieldSize) -> dict[str, FieldPoint]:
    """The points of a field: corners of rubber and plate. First base lies to the left as seen by the pitcher."""
    d, z = size.distance, -size.mound
    front, back = d - 2 * _PLATE_SIDE, d - _PLATE_SIDE
    points = (
        FieldPoint("rubber_front_first", "rubber, front corner, first-base side", (0.0, _RUBBER_HALF, 0.0)),
        FieldPoint("rubber_front_third", "rubber, front corner, third-base side", (0.0, -_RUBBER_HALF, 0.0)),
        FieldPoint("rubber_back_first", "rubber, back corner, first-base side", (-_RUBBER_DEEP, _RUBBER_HALF, 0.0)),
        FieldPoint("rubber_back_third", "rubber, back corner, third-base side", (-_RUBBER_DEEP, -_RUBBER_HALF, 0.0)),
        FieldPoint("plate_front_first", "plate, front corner, first-base side", (front, _PLATE_HALF, z)),
        FieldPoint("plate_front_third", "plate, front corner, third-base side", (front, -_PLATE_HALF, z)),
        FieldPoint("plate_side_first", "plate, shoulder, first-base side", (back, _PLATE_HALF, z)),
        FieldPoint("plate_side_third", "plate, shoulder, third-base side", (back, -_PLATE_HALF, z)),
        FieldPoint("plate_point", "plate, point", (d, 0.0, z)),
    )
    return {point.id: point for point in points}
