"""Who throws: bodies, clothes, places and deliveries drawn at random, other ones for teaching than for judging."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from tools.people.body import Build
from tools.people.outfit import Look
from tools.people.scene import Scene

from waxtwin.simulate.params import RANGES, DeliveryParams

_JUDGING = 50_000  # where the seeds of the judging cast begin
_SKINS = ((0.87, 0.68, 0.56), (0.78, 0.58, 0.44), (0.62, 0.43, 0.31), (0.45, 0.30, 0.21), (0.34, 0.22, 0.16))
_CLOTHS = {
    "teach": ((0.75, 0.75, 0.78), (0.16, 0.20, 0.34), (0.55, 0.14, 0.14), (0.20, 0.34, 0.24), (0.32, 0.33, 0.35)),
    "judge": ((0.85, 0.82, 0.72), (0.10, 0.11, 0.13), (0.20, 0.42, 0.52), (0.72, 0.45, 0.16), (0.36, 0.20, 0.40)),
}
_TROUSERS = {
    "teach": ((0.80, 0.80, 0.80), (0.55, 0.56, 0.58), (0.14, 0.15, 0.18)),
    "judge": ((0.70, 0.68, 0.62), (0.22, 0.23, 0.26), (0.86, 0.86, 0.84)),
}
_PLACES = {"teach": ("park", "hall"), "judge": ("cage", "yard")}
# what varies from delivery to delivery: how far to either side of the usual, in shares of what a body can do
_SPREAD = {
    "first_move_to_lift": 0.18, "lift_to_break": 0.2, "lift_to_landing": 0.14, "landing_to_release": 0.14,
    "lift_height": 0.25, "stride": 0.2, "stride_offset": 0.2, "foot_yaw": 0.2, "load_knee": 0.18,
    "shift_at_break": 0.2, "pelvis_at_landing": 0.14, "pelvis_travel": 0.14, "knee_landing": 0.2, "knee_release": 0.15,
    "lift_turn": 0.2, "pelvis_landing": 0.22, "peak_pelvis_turn": 0.16, "pelvis_peak": 0.16, "trunk_landing": 0.2,
    "peak_trunk_turn": 0.14, "trunk_peak": 0.1, "tilt_load": 0.15, "tilt_landing": 0.16, "tilt_release": 0.16,
    "side_tilt_landing": 0.16, "side_tilt_release": 0.2, "abduction_landing": 0.14, "adduction_landing": 0.2,
    "arm_up_landing": 0.2, "elbow_landing": 0.16, "layback": 0.12, "elbow_release": 0.14, "elbow_height_release": 0.2,
    "peak_elbow_extension": 0.1, "peak_internal_rotation": 0.08,
}  # fmt: skip


@dataclass(frozen=True)
class Person:
    """One of the cast."""

    name: str
    seed: int
    build: Build
    look: Look
    scene: Scene
    params: DeliveryParams


def person(purpose: str, number: int) -> Person:
    """The `number`-th of those who "teach" or "judge", always the same one; every third throws with the left arm."""
    seed = number + (_JUDGING if purpose == "judge" else 0)
    rng = np.random.default_rng(seed)
    throws = "L" if number % 3 == 1 else "R"
    young = rng.random() < 0.35
    height = float(rng.uniform(1.52, 1.74) if young else rng.uniform(1.72, 1.98))
    params = _delivery(rng, throws, height)
    light = (float(rng.uniform(-0.8, 0.8)), float(rng.uniform(-0.8, 0.8)), float(rng.uniform(0.7, 1.2)))
    scene = Scene(str(rng.choice(_PLACES[purpose])), seed, light, float(rng.uniform(0.4, 0.7)))
    return Person(f"{purpose}-{number:03d}", seed, _build(rng, height, young), _look(rng, purpose), scene, params)


def _build(rng: np.random.Generator, height: float, young: bool) -> Build:
    macro = "macrodetails/"
    roots = rng.dirichlet((0.6, 0.6, 0.6))
    shapes: dict[str, float] = {}
    child = float(rng.uniform(0.2, 0.45)) if young else 0.0
    for root, share in zip(("caucasian", "african", "asian"), roots, strict=True):
        shapes[f"{macro}{root}-male-young.target.gz"] = share * (1 - child)
        if child:
            shapes[f"{macro}{root}-male-child.target.gz"] = share * child
    muscle, weight = float(rng.uniform(0.1, 0.9)), float(rng.uniform(-0.8, 0.8))
    heavy = "maxweight" if weight > 0 else "minweight"
    for age, of_age in (("young", 1 - child), ("child", child)):
        for built, of_muscle in (("averagemuscle", 1 - muscle), ("maxmuscle", muscle)):
            for fed, of_weight in (("averageweight", 1 - abs(weight)), (heavy, abs(weight))):
                if of_age * of_muscle * of_weight > 0.01:
                    path = f"{macro}universal-male-{age}-{built}-{fed}.target.gz"
                    shapes[path] = of_age * of_muscle * of_weight
    kind = "idealproportions" if rng.random() < 0.6 else "uncommonproportions"
    shapes[f"{macro}proportions/male-young-averagemuscle-averageweight-{kind}.target.gz"] = float(rng.uniform(0, 0.5))
    return Build(height, shapes)


def _look(rng: np.random.Generator, purpose: str) -> Look:
    def of(colours: tuple[tuple[float, ...], ...]) -> tuple[float, ...]:
        return tuple(np.clip(np.array(colours[int(rng.integers(len(colours)))]) * rng.uniform(0.85, 1.15, 3), 0, 1))

    cap = of(_CLOTHS[purpose]) if rng.random() < 0.75 else None
    sleeves = of(_CLOTHS[purpose]) if rng.random() < 0.35 else None
    return Look(
        of(_SKINS), of(_CLOTHS[purpose]), of(_TROUSERS[purpose]), cap=cap, sleeves=sleeves,
        sleeve=float(rng.uniform(0.5, 0.95) if rng.random() < 0.7 else rng.uniform(1.5, 1.95)),
        loose=float(rng.uniform(0.006, 0.018)), glove=of(((0.42, 0.27, 0.14), (0.12, 0.11, 0.11), (0.55, 0.40, 0.22))),
    )  # fmt: skip


def _delivery(rng: np.random.Generator, throws: str, height: float) -> DeliveryParams:
    usual = DeliveryParams()
    values = {}
    for name, share in _SPREAD.items():
        low, high = RANGES[name]
        value = getattr(usual, name) + share * (high - low) * rng.uniform(-1, 1)
        values[name] = float(np.clip(value, low, high))
    return DeliveryParams(throws=throws, height=height, leg_scale=0.97, **values)
