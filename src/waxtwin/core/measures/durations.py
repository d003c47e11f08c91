"""How long the phases take."""

from __future__ import annotations

import numpy as np

from waxtwin.core.measures.registry import Function, Reading, measure

_PHASES = (
    ("first_move_to_lift", "First move to lift", "first_move", "peak_knee"),
    ("lift_to_landing", "Lift to landing", "peak_knee", "landing"),
    ("break_to_landing", "Hands part to landing", "hand_break", "landing"),
    ("touch_to_plant", "Touch to weight", "foot_contact", "foot_plant"),
    ("landing_to_layback", "Landing to layback", "landing", "max_layback"),
    ("layback_to_release", "Layback to release", "max_layback", "release"),
    ("landing_to_release", "Landing to release", "landing", "release"),
)


def _between(first: str, last: str) -> Function:
    def duration(r: Reading) -> np.ndarray:
        return np.asarray(1000.0 * (r.stop(last) - r.stop(first)))

    return duration


for _id, _label, _first, _last in _PHASES:
    measure(
        _id, _label, unit="ms", kind="T", at=_last, view="any", needs=(), stops=(_first,),
        text=f"Time from “{_first.replace('_', ' ')}” to “{_last.replace('_', ' ')}”.",
        formula=f"t({_last}) - t({_first}), ms", sign="+ longer",
        # the planar layback is a stand-in, and so is what hangs on it
        by_picture="max_layback" in (_first, _last), curve="layback" if "max_layback" in (_first, _last) else "",
    )(_between(_first, _last))  # fmt: skip
