"""Whether the right cause is found: `python -m benchmarks.explain [copies]`.

Pairs of simulated throws with one known difference, right- and left-handed, tall and short, at 240 frames/s. On
clean tracks the factor that was changed must carry the largest share of the gap (the arm, and the turn of hips and
trunk, each as one); from single throws with 3 mm of noise the finding that names it must be first or second, and the
largest bar that is shown is told beside it: a share that is not resolved is merged with others. Then noisy copies of
one delivery: no finding may come up. Both once more as two clips from the side show it. Prints the tables that
docs/method.md carries.
"""

from __future__ import annotations

import sys
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from waxtwin.core.analysis import Delivery, resolve_all
from waxtwin.core.borrowed import LABELS, Borrowed, borrow
from waxtwin.core.camera import Sight
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.findings import Judgement, judge
from waxtwin.core.ledger import ledger
from waxtwin.core.measures import MEASURES
from waxtwin.core.motion import wander_of
from waxtwin.core.rules import Case
from waxtwin.core.steps import finish
from waxtwin.library.playbook import load_playbook, load_schools
from waxtwin.library.simulated import Recording, record
from waxtwin.simulate.delivery import simulate
from waxtwin.simulate.params import DeliveryParams
from waxtwin.simulate.truth import true_peaks

NOISE, RATE, COPIES = 0.003, 240.0, 100
SEPARATE = ("size", "tempo", "pelvis_path", "turn", "arm", "ball")
SHORT = DeliveryParams(height=1.72)
TALL = DeliveryParams(height=1.93, throws="L")
WHO = (("short, right", SHORT), ("tall, left", TALL))


@dataclass(frozen=True)
class Pair:
    """A difference laid on a pitcher: what is changed, which factors and which findings are right, and what the twin
    has that is not the usual.
    """

    name: str
    changes: Mapping[str, Any]
    factors: tuple[str, ...]
    findings: tuple[str, ...]
    twin: Mapping[str, Any] = field(default_factory=dict)


PAIRS = (
    Pair("shorter stride", {"stride": 0.74, "pelvis_travel": 0.07}, ("pelvis_path",), ("short_stride",)),
    Pair("trunk turns early", {"trunk_peak": 0.34}, ("turn",), ("trunk_goes_early",)),
    Pair("separation: shoulders early", {"trunk_landing": 8}, ("turn",), ("shoulders_early",)),
    Pair("separation: hips late", {"pelvis_landing": 12}, (), ("hips_late",)),
    Pair("front knee gives", {"knee_release": 60, "pelvis_travel": 0.08}, ("pelvis_path",),
         ("knee_keeps_bending", "knee_travels")),
    Pair("shorter arm", {"arm_scale": 0.90}, ("size",), ("shorter_levers",)),
    Pair("slower from landing on", {"landing_to_release": 0.172}, ("tempo",), ("slow_through",)),
    Pair("slower elbow", {"peak_elbow_extension": 1500}, ("arm",), ("elbow_slow",)),
    Pair("slower forearm", {"peak_internal_rotation": 4500}, ("arm",), ("arm_slow",)),
    Pair("hitch", {"hitch": 0.05}, (), ("hitch",)),
    Pair("trunk forward at landing", {"tilt_landing": 11}, ("turn",), ("trunk_forward_at_landing",)),
    Pair("pause in the windup", {"rock": 0.06, "lead_in": 1.8, "pause": 0.6}, (), ("windup_stops",)),
    Pair("hands late", {"hands_rise": 30, "hands_lag": 0.15}, (), ("hands_out_of_step",), {"hands_rise": 30}),
    Pair("back foot wobbles", {"foot_wobble": 0.04}, (), ("unsteady_back_foot",)),
    Pair("turned far in", {"lift_turn": -50}, (), ("over_turned_at_lift",)),
    Pair("turned in little", {"lift_turn": -5}, (), ("less_turned_at_lift",)),
    Pair("head behind", {"head_ahead": -0.05}, (), ("head_off_navel", "head_behind_at_landing")),
    Pair("head ahead", {"head_ahead": 0.05}, (), ("head_ahead_at_landing",)),
    Pair("head bobs", {"head_dip": 0.06}, (), ("head_wanders",)),
    Pair("foot leads", {"foot_out": 0.05}, (), ("foot_leads_hip",)),
    Pair("drops first", {"shift_at_load": 0.15, "load_knee": 74}, (), ("drops_first",)),
    Pair("shoulders open in the load", {"load_turn": 18}, (), ("shoulders_open_in_load",)),
    Pair("forearm drops", {"forearm_drop": 75}, (), ("forearm_drops",)),
    Pair("foot closed", {"foot_yaw": -40}, (), ("front_foot_closed",)),
    Pair("foot open", {"foot_yaw": 18}, (), ("front_foot_open", "foot_opens_early")),
    Pair("toe first", {"foot_pitch": 16}, (), ("toe_first",)),
    Pair("leg swings wide", {"swing": 0.25}, (), ("swings_wide",)),
    Pair("elbow straight", {"elbow_landing": 60}, (), ("elbow_straighter",)),
    Pair("elbow bent", {"elbow_landing": 120}, (), ("elbow_more_bent",)),
    Pair("push short", {"heel_up": 75}, (), ("push_not_finished",)),
    Pair("back foot flat", {"heel_up": 22}, (), ("back_foot_flat", "leap")),
    Pair("back shoulder low", {"tilt_landing": -15}, (), ("back_shoulder_lower",)),
    Pair("knee outside", {"knee_out": 0.8}, (), ("knee_outside",)),
    Pair("knee inside", {"knee_out": -0.8}, (), ("knee_inside",), {"knee_out": 0.5}),
    Pair("glove early", {"glove_early": 0.12}, (), ("front_side_early",)),
    Pair("back knee shoots", {"knee_after": 0.3}, (), ("back_knee_shoots",)),
    Pair("folds", {"trunk_landing": 2, "trunk_final": 88, "tilt_release": 46}, (), ("folds", "shoulders_early")),
    Pair("leans aside", {"side_tilt_release": 42}, (), ("leans_aside",)),
    Pair("leans little", {"side_tilt_release": 6}, (), ("leans_less",)),
    Pair("turn cut short", {"trunk_final": 82}, (), ("turn_cut_short",)),
    Pair("weight late", {"shift_at_break": 0.03}, (), ("weight_back_at_break",)),
    Pair("stride open", {"stride_offset": 0.18}, (), ("stride_open",)),
    Pair("stride across", {"stride_offset": -0.26}, (), ("stride_across",)),
    Pair("arm late", {"arm_up_landing": 20}, (), ("arm_late",)),
    Pair("elbow high", {"abduction_landing": 108}, (), ("elbow_above_line",)),
    Pair("elbow trails", {"adduction_landing": -38, "elbow_lag": -34}, (), ("elbow_trails",)),
    Pair("elbow climbs", {"elbow_height_release": 15}, (), ("elbow_climbs",)),
    Pair("upright", {"tilt_release": 18}, (), ("upright_at_release", "little_trunk_travel")),
    Pair("layback small", {"layback": 160}, (), ("layback_small", "arm_slow")),
)  # fmt: skip


def case_of(athlete: Delivery, twin: Delivery) -> Case:
    """Everything worked out for a pair."""
    ours, theirs = resolve_all(analyse_pair(athlete, twin))
    account = finish(borrow((ours,), (theirs,)))
    assert isinstance(account, Borrowed)
    return Case(contrast(ours, theirs), ledger(ours, theirs), account)


def account_of(athlete: Delivery, twin: Delivery) -> Borrowed:
    """Borrowed motion alone."""
    ours, theirs = analyse_pair(athlete, twin)
    account = finish(borrow((ours,), (theirs,)))
    assert isinstance(account, Borrowed)
    return account


def throw_of(params: DeliveryParams, seed: int, noise: float = NOISE) -> Delivery:
    """A throw in space with its ball speed."""
    motion = simulate(params)
    speed = true_peaks(motion)["throwing_hand"] * params.ball_hand_ratio
    return Delivery("", record(motion, Recording(RATE, noise, 0, seed)), params.throws, params.height, None, speed)


def clip_of(params: DeliveryParams, seed: int) -> Delivery:
    """The same throw as a clip from the side shows it to a landmark model, scaled by the body: marks that waver."""
    throw = throw_of(params, seed)
    shift = wander_of(throw.track.times.size, RATE, params.height, np.random.default_rng(seed))
    points = throw.track.points + shift
    points[..., 1] = np.nan
    return replace(throw, track=replace(throw.track, points=points), sight=Sight(by_model=True, by_body=True))


def judged(case: Case) -> Judgement:
    """Its findings in the common ground's eyes."""
    schools, _ = load_schools()
    return judge(case, load_playbook(), schools[0], schools[1:])


@dataclass(frozen=True)
class Told:
    """What was found of one pair: the gap, the largest share on clean tracks and the largest bar shown, the first two
    findings from single throws, and those from side clips.
    """

    gap: float
    largest: tuple[str, float]
    shown: tuple[str, float]
    first: tuple[str, ...]
    by_clip: tuple[str, ...]


def told_of(job: tuple[int, int]) -> Told:
    """A pair of `PAIRS` laid on one of `WHO`."""
    k, who = job
    pair, base = PAIRS[k], WHO[who][1]
    twin = replace(base, **pair.twin)
    changed, seeds = replace(twin, **pair.changes), (2 * k + 1000 * who, 2 * k + 1 + 1000 * who)
    clean = account_of(throw_of(changed, 0, 0.0), throw_of(twin, 0, 0.0))
    case = case_of(throw_of(changed, seeds[0]), throw_of(twin, seeds[1]))
    assert case.borrowed is not None
    largest = max((clean.singles[name] for name in SEPARATE), key=lambda one: abs(one.contribution))
    shown = max(case.borrowed.factors, key=lambda one: abs(one.contribution))
    first = tuple(found.id for found in judged(case).findings[:2])
    by_clip = tuple(found.id for found in judged(seen_of(changed, twin, seeds)).findings[:2])
    return Told(clean.gap, (largest.id, largest.contribution), (shown.label, shown.contribution), first, by_clip)


def seen_of(athlete: DeliveryParams, twin: DeliveryParams, seeds: tuple[int, int]) -> Case:
    """What two side clips tell."""
    ours, theirs = resolve_all(analyse_pair(clip_of(athlete, seeds[0]), clip_of(twin, seeds[1])))
    return Case(contrast(ours, theirs), ledger(ours, theirs))


def quiet(seed: int) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Findings, in any school, between two recordings of one throw: in space, and as side clips."""
    base = (SHORT, TALL, DeliveryParams())[seed % 3]
    seeds = (1000 + seed, 3000 + seed)
    schools, _ = load_schools()
    cases = (case_of(throw_of(base, seeds[0]), throw_of(base, seeds[1])), seen_of(base, base, seeds))
    return tuple(
        tuple(dict.fromkeys(found.id for school in schools
                            for found in judge(case, load_playbook(), school, schools[1:]).findings))
        for case in cases
    )  # type: ignore[return-value]  # fmt: skip


def main() -> None:
    copies = int(sys.argv[1]) if len(sys.argv) > 1 else COPIES
    jobs = [(k, who) for k in range(len(PAIRS)) for who in range(len(WHO))]
    with ProcessPoolExecutor() as workers:
        _print_pairs(jobs, workers.map(told_of, jobs))
        _print_quiet(list(workers.map(quiet, range(copies))))


def _print_pairs(jobs: Sequence[tuple[int, int]], all_told: Iterable[Told]) -> None:
    print("| changed | who | gap, m/s | largest share, clean | largest bar shown at 3 mm | first two findings at 3 mm "
          "| from side clips |")  # fmt: skip
    print("|---|---|---|---|---|---|---|")
    right = dict.fromkeys(("factor", "finding", "finding from side clips that carry it"), 0)
    counted = [0, 0, 0]
    for (k, who), told in zip(jobs, all_told, strict=True):
        pair = PAIRS[k]
        hit = told.largest[0] in pair.factors
        named, by_clip = (bool(set(first) & set(pair.findings)) for first in (told.first, told.by_clip))
        counted[0] += bool(pair.factors)
        counted[1] += 1
        carried = any(_seen_from_side(name) for name in pair.findings)
        counted[2] += carried
        for what, good in zip(right, (bool(pair.factors) and hit, named, carried and by_clip), strict=True):
            right[what] += good
        share = f"{LABELS[told.largest[0]]} {told.largest[1]:+.2f}" + ("" if hit or not pair.factors else " (wrong)")
        words = [_listed(told.first, named, "none"),
                 _listed(told.by_clip, by_clip, "none" if carried else "not seen from there")]  # fmt: skip
        print(f"| {pair.name} | {WHO[who][0]} | {told.gap:+.2f} | {share} | {told.shown[0]} {told.shown[1]:+.2f} "
              f"| {words[0]} | {words[1]} |", flush=True)  # fmt: skip
    for what, of in zip(right, counted, strict=True):
        print(f"\nRight {what}: {right[what]} of {of}.")


def _listed(findings: Sequence[str], right: bool, otherwise: str) -> str:
    said = ", ".join(f"`{name}`" for name in findings)
    return otherwise if not findings else said if right else f"{said} (wrong)"


def _seen_from_side(finding: str) -> bool:
    """Whether a camera at the side shows what a finding asks for."""
    rule = next(rule for rule in load_playbook().rules if rule.id == finding)
    items = [MEASURES[line.subject] for line in rule.when if line.kind == "measure"]
    return bool(items) and all(item.view in ("side", "any") or item.planar == "side" for item in items)


def _print_quiet(found: Sequence[tuple[tuple[str, ...], tuple[str, ...]]]) -> None:
    for which, title in enumerate(("in space", "as side clips")):
        seen = Counter(name for pair in found for name in pair[which])
        calm = sum(not pair[which] for pair in found)
        print(f"\nNo finding in any school between two recordings of one throw, {title}: {calm} of {len(found)}."
              + (f" Else: {dict(seen)}." if seen else ""))  # fmt: skip


if __name__ == "__main__":
    main()
