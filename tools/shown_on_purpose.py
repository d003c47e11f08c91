"""Makes the demo's throws of Yarrow Brindlemoor, who shows faults on purpose: `python -m tools.shown_on_purpose`.

The made-up pitching coach is built as the demo's reference pitcher is and moves as she does, but for a few things in
each throw, so that every kind of finding can be looked at somewhere in the demo. There is no radar reading, so that
these throws come last where a twin is looked for.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from waxtwin.formats.place import SUFFIX
from waxtwin.library.simulated import Recording, write_simulated
from waxtwin.simulate.presets import PRESETS

DEMO = Path(__file__).parent.parent / "src" / "waxtwin" / "assets" / "demo"
NAME, DAY, FPS, NOISE = "yarrow-brindlemoor", "2026-11-21", 120.0, 0.003
ATHLETE = {"name": "Yarrow Brindlemoor", "height_m": 1.83, "mass_kg": 86.0, "span_m": 1.88, "throws": "R"}
USUAL = replace(PRESETS["ines"].params, hands_rise=30, knee_out=0.5)


@dataclass(frozen=True)
class Shown:
    """A throw: how its file is called, what is shown in words, and what is moved otherwise for it."""

    file: str
    words: str
    changes: Mapping[str, Any] = field(default_factory=dict)


THROWS = (
    Shown("as-usual", "Nothing is shown on purpose. The hands rise with the knee."),
    Shown("start", "A pause in the windup; the forearm drops again on its way.",
          {"rock": 0.06, "lead_in": 1.8, "pause": 0.6, "forearm_drop": 75}),
    Shown("hands", "The hands rise late; the head stays back; the front foot lands closed.",
          {"hands_lag": 0.15, "head_ahead": -0.06, "foot_yaw": -40}),
    Shown("lift", "Turned far in at the lift; an unsteady back foot; the elbow nearly straight at landing.",
          {"foot_wobble": 0.04, "lift_turn": -50, "elbow_landing": 60}),
    Shown("stride", "Turned in little; the foot leads the hip; the knee outside the ankle; the elbow bent far.",
          {"foot_out": 0.05, "lift_turn": -5, "elbow_landing": 120, "knee_out": 0.8}),
    Shown("drop", "Drops before it goes; lands on the toe; the front side is pulled early.",
          {"shift_at_load": 0.15, "load_knee": 74, "foot_pitch": 16, "glove_early": 0.12}),
    Shown("head", "A hitch on the way; the head bobs; the back foot stays flat; the elbow climbs.",
          {"hitch": 0.05, "head_dip": 0.06, "heel_up": 22, "elbow_height_release": 15}),
    Shown("elbow", "The elbow above the shoulders' line; the knee inside the ankle; the turn cut short.",
          {"abduction_landing": 108, "knee_out": -0.8, "trunk_final": 82}),
    Shown("trail", "The elbow trails and straightens slowly.",
          {"adduction_landing": -38, "elbow_lag": -34, "peak_elbow_extension": 1500}),
    Shown("range", "Laid back far, and the forearm comes forward slowly.",
          {"layback": 192, "peak_internal_rotation": 3500, "landing_to_release": 0.172}),
)  # fmt: skip


def main() -> None:
    for n, shown in enumerate(THROWS):
        track = write_simulated(
            DEMO, f"{NAME}-{shown.file}", replace(USUAL, **shown.changes), ATHLETE,
            recording=Recording(FPS, NOISE, 0, 500 + n), notes=shown.words,
        )  # fmt: skip
        beside = track.with_name(track.stem + SUFFIX)
        said = json.loads(beside.read_text(encoding="utf-8"))
        said |= {"recorded": DAY, "effort": "shown on purpose"}
        del said["ball_speed_mps"]
        beside.write_text(json.dumps(said, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
        track.with_name(f"{track.stem}.truth.json").unlink()
        print(track.name)


if __name__ == "__main__":
    main()
