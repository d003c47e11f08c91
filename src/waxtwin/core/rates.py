"""What a low frame rate costs the quick measures: they read the arm between two frames.

Measured on the four simulated pitchers without noise, against 240 frames a second (docs/method.md): the mean error at
60, 80, 100 and 120 frames a second, as a share of the figure or in its own unit. The copies cannot show it, since they
are made from what the smoothing has left.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

_RATES = (60.0, 80.0, 100.0, 120.0, 240.0)
_SHARES: Mapping[str, tuple[float, float, float, float]] = {
    "peak_speed_throwing_elbow": (-0.012, -0.003, -0.001, 0.0),
    "peak_speed_throwing_wrist": (-0.112, -0.055, -0.027, -0.016),
    "peak_speed_throwing_hand": (-0.121, -0.062, -0.032, -0.019),
    "peak_elbow_extension": (-0.098, -0.075, -0.053, -0.032),
    "peak_internal_rotation": (-0.258, -0.154, -0.094, -0.053),
    "acceleration_path": (-0.272, -0.224, -0.173, -0.106),
    "acceleration_mean": (-0.185, 0.043, 0.068, 0.039),
}
_OWN_UNIT: Mapping[str, tuple[float, float, float, float]] = {
    "landing_to_layback": (-2.7, -1.1, -0.4, 0.1),
    "layback_to_release": (-5.8, -5.5, -4.5, -2.8),
    "max_layback_angle": (-0.6, 0.3, 0.2, 0.0),
    "peak_time_throwing_wrist": (-9.0, -6.3, -4.5, -3.1),
    "peak_time_throwing_hand": (-9.0, -6.5, -4.7, -3.2),
    "peak_elbow_extension_time": (2.5, 2.1, 1.2, 0.3),
}


# What peak speeds of a model's marks are off beyond all else, as shares, by the axis that is not seen: end-on, where it
# takes the sides for each other and back, and from the side.
_BY_MODEL = (0.20, 0.08)


def model_doubt(measure: str, value: float, hidden: int) -> float:
    """Standard deviation that a peak speed of a landmark model's marks from one camera has by itself; `hidden` is the
    axis that the camera does not see.
    """
    return _BY_MODEL[hidden] * abs(value) if measure.startswith("peak_speed_") else 0.0


def cost(measure: str, value: float, rate: float) -> float:
    """How much too high (+) or too low (-) a figure is read at so many frames a second, in its own unit."""
    for table, size in ((_SHARES, abs(value)), (_OWN_UNIT, 1.0)):
        if measure in table:
            return size * float(np.interp(rate, _RATES, (*table[measure], 0.0)))
    return 0.0
