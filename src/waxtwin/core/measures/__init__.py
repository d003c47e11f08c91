"""Every measure of the work, one record each; importing this package fills the registry."""

from waxtwin.core.measures import durations, hitch, landing, landing_arm, load, release, rotations, speeds, to_release
from waxtwin.core.measures.registry import MEASURES, Measure, Reading, Value, evaluate

__all__ = [
    "MEASURES", "Measure", "Reading", "Value", "durations", "evaluate", "hitch", "landing", "landing_arm", "load",
    "release", "rotations", "speeds", "to_release",
]  # fmt: skip
