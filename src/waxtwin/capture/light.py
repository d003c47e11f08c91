"""A dark or flat picture shown lighter, or with more contrast."""

from __future__ import annotations

import numpy as np

_STOPS = 2.0  # how far the light goes either way, in powers of two of the exponent
_STEEP = 2.0  # how much steeper or flatter contrast makes the middle, in powers of two


def lit(picture: np.ndarray, light: float, contrast: float) -> np.ndarray:
    """A picture `(height, width, 4)` uint8, lighter above 0 and with more contrast above 0, both -1 to 1.

    Light is a power law, so that black and white stay where they are; contrast turns about the middle grey.
    """
    import cv2

    grey = np.linspace(0.0, 1.0, 256)
    grey = grey ** (2.0 ** (-_STOPS * light))
    grey = np.clip(0.5 + (grey - 0.5) * 2.0 ** (_STEEP * contrast), 0.0, 1.0)
    return np.asarray(cv2.LUT(picture, np.round(grey * 255).astype(np.uint8)))
