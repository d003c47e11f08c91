"""Every measure of the work, one record each; importing this package fills the registry."""

from waxtwin.core.measures import (
    back_leg,
    durations,
    front_leg,
    glove_side,
    hand_path,
    head_and_trunk,
    hitch,
    landing,
    landing_arm,
    load,
    release,
    rotations,
    speeds,
    to_release,
    windup,
)
from waxtwin.core.measures.registry import MEASURES, Measure, Reading, Value, evaluate
from waxtwin.core.stops import ORDER

__all__ = [
    "MEASURES", "Measure", "Reading", "Value", "back_leg", "durations", "evaluate", "front_leg", "glove_side",
    "hand_path", "head_and_trunk", "hitch", "landing", "landing_arm", "load", "release", "rotations", "speeds",
    "to_release", "windup",
]  # fmt: skip

# in the order of the delivery, whatever module they stand in
_AT = {stop: n for n, stop in enumerate(ORDER)} | {"landing": ORDER.index("foot_contact")}
for _name in sorted(MEASURES, key=lambda name: _AT[MEASURES[name].at]):
    MEASURES[_name] = MEASURES.pop(_name)
