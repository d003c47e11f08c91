"""The simulated pitcher's proportions, the mound, and the instants of its script."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

# Segment lengths as fractions of standing height, rounded from Winter's anthropometric table.
TRUNK, NECK, UPPER_ARM, FOREARM, HAND = 0.288, 0.118, 0.186, 0.146, 0.056
THIGH, SHANK, ANKLE, HEEL, TOE = 0.245, 0.246, 0.039, 0.035, 0.105
HALF_SHOULDERS, HALF_HIPS = 0.105, 0.052
DRIVE_ANKLE_X = 0.075  # the drive foot stands against the rubber's front edge
UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True)
class Knots:
    """Instants of the script, seconds from the start of the clip."""

    move: float
    lift: float
    part: float
    load: float
    landing: float
    release: float
    end: float


def ground(x: np.ndarray | float) -> np.ndarray:
    """Height of the mound's surface (m) at distance `x` (m) in front of the rubber: flat, then one in twelve."""
    return -np.clip((np.asarray(x) - 0.15) / 12.0, 0.0, 0.254)
