"""Every measure of the work, one record each; importing this package fills the registry."""

from waxtwin.core.measures import durations, hitch, landing, load, release, rotations, speeds
from waxtwin.core.measures.registry import MEASURES, Measure, Reading, Value, evaluate

__all__ = [
    "MEASURES", "Measure", "Reading", "Value", "durations", "evaluate", "hitch", "landing", "load", "release",
    "rotations", "speeds",
]  # fmt: skip
