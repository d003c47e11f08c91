"""Whether the right cause is found: `python -m benchmarks.explain [copies]`.

Pairs of simulated throws with one known difference, right- and left-handed, tall and short, at 240 frames/s. On
clean tracks the factor that was changed must carry the largest share of the gap (the arm, and the turn of hips and
trunk, each as one); from single throws with 3 mm of noise the finding that names it must be first or second, and the
largest bar that is shown is told beside it: a share that is not resolved is merged with others. Then noisy copies of
one delivery: no finding may come up. Prints the tables that docs/method.md carries.
"""

from __future__ import annotations

import sys
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from waxtwin.core.analysis import Delivery, resolve_all
from waxtwin.core.borrowed import Borrowed, borrow
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.findings import Judgement, judge
from waxtwin.core.ledger import ledger
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


def throw_of(params: DeliveryParams, seed: int, noise: float = NOISE) -> Delivery:
    """A throw with its ball speed."""
    motion = simulate(params)
    speed = true_peaks(motion)["throwing_hand"] * params.ball_hand_ratio
    return Delivery("", record(motion, Recording(RATE, noise, 0, seed)), params.throws, params.height, None, speed)


def judged(case: Case) -> Judgement:
    """Its findings in the common ground's eyes."""
    schools, _ = load_schools()
    return judge(case, load_playbook(), schools[0], schools[1:])


def main() -> None:
    copies = int(sys.argv[1]) if len(sys.argv) > 1 else COPIES
    print(
        "| changed | who | gap, m/s | largest share, clean | largest bar shown at 3 mm | first two findings at 3 mm |"
    )
    print("|---|---|---|---|---|---|")
    right, counted = dict.fromkeys(("factor", "finding"), 0), dict.fromkeys(("factor", "finding"), 0)
    for k, pair in enumerate(PAIRS):
        for who, base in (("short, right", SHORT), ("tall, left", TALL)):
            changed = replace(base, **pair.changes)
            clean = case_of(throw_of(changed, 0, 0.0), throw_of(base, 0, 0.0)).borrowed
            case = case_of(throw_of(changed, 2 * k), throw_of(base, 2 * k + 1))
            assert clean is not None and case.borrowed is not None
            largest = max((clean.singles[name] for name in SEPARATE), key=lambda one: abs(one.contribution))
            shown = max(case.borrowed.factors, key=lambda one: abs(one.contribution))
            first = [found.id for found in judged(case).findings[:2]]
            hit = largest.id in pair.factors
            named = bool(set(first) & set(pair.findings))
            for what, asked, good in (("factor", bool(pair.factors), hit), ("finding", True, named)):
                counted[what] += asked
                right[what] += asked and good
            share = f"{largest.label} {largest.contribution:+.2f}" + ("" if hit or not pair.factors else " (wrong)")
            words = ", ".join(f"`{name}`" for name in first) + ("" if named else " (wrong)")
            bar = f"{shown.label} {shown.contribution:+.2f}"
            print(f"| {pair.name} | {who} | {clean.gap:+.2f} | {share} | {bar} | {words} |", flush=True)
    for what, count in counted.items():
        print(f"\nRight {what}: {right[what]} of {count}.")
    quiet = 0
    seen: dict[str, int] = {}
    for seed in range(copies):
        base = (SHORT, TALL, DeliveryParams())[seed % 3]
        found = judged(case_of(throw_of(base, 1000 + seed), throw_of(base, 3000 + seed))).findings
        quiet += not found
        for one in found:
            seen[one.id] = seen.get(one.id, 0) + 1
    print(
        f"\nNo finding between two noisy copies of one delivery: {quiet} of {copies}."
        + (f" Else: {seen}." if seen else "")
    )


if __name__ == "__main__":
    main()
