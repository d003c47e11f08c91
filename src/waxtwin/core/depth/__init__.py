"""A throw in space from one camera: an estimate with its doubt, from marks, segment lengths and how bodies move."""

from waxtwin.core.depth.fit import OneCamera, estimate_steps
from waxtwin.core.depth.scene import Moments

__all__ = ["Moments", "OneCamera", "estimate_steps"]
