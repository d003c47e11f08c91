"""One body laid over another: where the other pitcher stands when both share an origin and, if wished, a height."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.body import Body

ORIGINS: Mapping[str, str] = {
    "rubber": "at the rubber", "pelvis": "at the pelvis", "lead_foot": "at the front foot",
}  # fmt: skip


def placing(
    points: np.ndarray, other: Analysis, onto: np.ndarray, under: Analysis, *, origin: str, matched: bool
) -> tuple[float, np.ndarray]:
    """Scale and shift `(3,)` metres that lay another body `points` `(landmarks, 3)` over a body `onto`.

    `origin` is "rubber" (both fields laid together), "pelvis" (at this instant) or "lead_foot" (where the front foot
    landed); `matched` scales the other body to this one's standing height first. An origin that is not seen leaves
    the fields laid together. Raises ValueError for another origin.
    """
    if origin not in ORIGINS:
        raise ValueError(f"no origin named {origin}")
    scale = under.motion.height / other.motion.height if matched else 1.0
    shift = np.zeros(3)
    if origin == "pelvis":
        shift = Body(onto).at("pelvis") - Body(points * scale).at("pelvis")
    elif origin == "lead_foot":
        shift = _landed(under) - _landed(other) * scale
    return scale, np.nan_to_num(shift)


def laid_over(
    points: np.ndarray, other: Analysis, onto: np.ndarray, under: Analysis, *, origin: str, matched: bool
) -> np.ndarray:
    """The other body's landmarks `(landmarks, 3)` in metres, placed over a body `onto`; see `placing`."""
    scale, shift = placing(points, other, onto, under, origin=origin, matched=matched)
    return np.asarray(points * scale + shift)


def _landed(analysis: Analysis) -> np.ndarray:
    """Where the front ankle is at landing `(3,)` metres, NaN where that is not known."""
    time = analysis.time("landing")
    if time is None:
        return np.full(3, np.nan)
    return np.asarray(Body(analysis.motion.sample(analysis.motion.points, np.array([time]))[0]).at("lead_ankle"))
