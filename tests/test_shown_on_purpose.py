"""Every kind of finding can be looked at somewhere in the demo: a made-up coach shows faults on purpose."""

import pytest

from conftest import DEMO
from waxtwin.core.analysis import resolve
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.findings import judge
from waxtwin.core.ledger import ledger
from waxtwin.core.rules import Case
from waxtwin.library.playbook import load_playbook, load_schools
from waxtwin.library.stored import load

SHOWN = {
    "start": {"windup_stops", "forearm_drops"},
    "hands": {"head_off_navel", "head_behind_at_landing", "front_foot_closed", "hands_out_of_step"},
    "lift": {"over_turned_at_lift", "unsteady_back_foot", "elbow_straighter"},
    "stride": {"less_turned_at_lift", "foot_leads_hip", "knee_outside", "elbow_more_bent"},
    "drop": {"drops_first", "toe_first", "front_side_early"},
    "head": {"hitch", "head_wanders", "back_foot_flat", "elbow_climbs"},
    "elbow": {"elbow_above_line", "knee_inside", "turn_cut_short"},
    "trail": {"elbow_trails", "elbow_slow"},
    "range": {"slack", "arm_slow", "slow_through"},
}


@pytest.mark.parametrize("throw", SHOWN)
def test_what_the_coach_shows_is_found_beside_the_usual_throw(throw):
    shown, usual = (load(DEMO / f"yarrow-brindlemoor-{name}.csv").delivery for name in (throw, "as-usual"))
    ours, theirs = (resolve(one, 60) for one in analyse_pair(shown, usual))
    case = Case(contrast(ours, theirs), ledger(ours, theirs))
    schools, _ = load_schools()
    book = load_playbook()
    found = {one.id for school in schools for one in judge(case, book, school, schools[1:]).findings}
    assert found >= SHOWN[throw], SHOWN[throw] - found
    assert shown.ball_speed is None  # so that they come last where a twin is looked for
