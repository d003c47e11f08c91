"""Whether the stated standard deviations are right: `python -m benchmarks.coverage [repeats]`.

Noisy copies of the four presets are analysed and resolved; a measure's truth - its value on the noise-free track at the
simulator's own stops, which share no code with the detectors - must lie within two standard deviations in 90 to 99 % of
the repeats. Prints the table that docs/method.md carries: per kind of track how many measures hold, and the worst.
`model` is a track whose landmarks waver as those of a landmark model do.
"""

from __future__ import annotations

import sys
from collections import defaultdict
from dataclasses import replace

import numpy as np

from waxtwin.core.analysis import Delivery, analyse, resolve
from waxtwin.core.camera import FIELD_SIGHT, Sight
from waxtwin.core.measures import MEASURES
from waxtwin.core.motion import wander_of
from waxtwin.core.stops import StopsByHand
from waxtwin.core.track import Track
from waxtwin.library.simulated import Recording, record
from waxtwin.simulate.delivery import simulate
from waxtwin.simulate.presets import PRESETS
from waxtwin.simulate.truth import true_events

REPEATS, COPIES, RATE = 200, 100, 240.0
KINDS = {"3 mm": (0.003, False), "8 mm": (0.008, False), "model": (0.003, True)}


def main() -> None:
    repeats = int(sys.argv[1]) if len(sys.argv) > 1 else REPEATS
    print("| track | measures whose truth lies within 2 sd in 90 to 99 % | in at least 90 % | the worst |")
    print("|---|---|---|---|")
    for title, (noise, by_model) in KINDS.items():
        held = _coverage(noise, by_model, repeats)
        between = sum(0.90 <= share <= 0.99 for share in held.values())
        enough = sum(share >= 0.90 for share in held.values())
        worst = ", ".join(f"`{name}` {held[name]:.0%}" for name in sorted(held, key=held.__getitem__)[:6])
        print(f"| {title} | {between} of {len(held)} | {enough} of {len(held)} | {worst} |", flush=True)


def _coverage(noise: float, by_model: bool, repeats: int) -> dict[str, float]:
    """Share of the repeats in which each measure's truth lies within two standard deviations."""
    inside: dict[str, list[bool]] = defaultdict(list)
    motions = {name: simulate(preset.params) for name, preset in PRESETS.items()}
    clean = {
        name: analyse(
            replace(
                _delivery(name, record(motion, Recording(RATE)), FIELD_SIGHT),
                by_hand=StopsByHand(true_events(motion)),
            )
        )
        for name, motion in motions.items()
    }
    sight = Sight(by_model=by_model)
    for seed in range(repeats):
        name = list(PRESETS)[seed % len(PRESETS)]
        track = record(motions[name], Recording(RATE, noise, 0, seed))
        if by_model:
            shift = wander_of(track.times.size, RATE, PRESETS[name].params.height, np.random.default_rng(seed))
            track = replace(track, points=track.points + shift)
        found = resolve(analyse(_delivery(name, track, sight)), COPIES, seed)
        for item in MEASURES.values():
            value, true = found.measures[item.id], clean[name].measures[item.id].value
            if value.value is not None and value.sd is not None and true is not None:
                inside[item.id].append(abs(value.value - true) <= 2 * value.sd)
    return {name: float(np.mean(flags)) for name, flags in inside.items() if len(flags) >= repeats / 4}


def _delivery(name: str, track: Track, sight: Sight) -> Delivery:
    preset = PRESETS[name]
    return Delivery(preset.name, track, preset.params.throws, preset.params.height, preset.span, sight=sight)


if __name__ == "__main__":
    main()
