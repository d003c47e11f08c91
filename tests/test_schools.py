"""Schools: what they disagree on, pair by pair, and what stands under what they would change."""

import json
from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from test_borrowed import BASE, throw
from waxtwin.core.analysis import resolve
from waxtwin.core.capacity import MEASURED, Capacity, Reading
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.findings import judge
from waxtwin.core.landmarks import INDEX
from waxtwin.core.ledger import ledger
from waxtwin.core.rules import Case
from waxtwin.core.schools import TOPICS
from waxtwin.library.judging import load_screening
from waxtwin.library.playbook import FINDINGS, load_playbook, load_schools, own_schools
from waxtwin.library.poses import shipped_poses

PLAYBOOK = load_playbook()
SCHOOLS = {one.id: one for one in load_schools()[0]}

# topic: what the athlete does otherwise, the finding, who acts on it, who leaves it
PAIRS = {
    "leaving": ({"heel_up": 75.0}, "push_not_finished", "drive", "flow"),
    "pressure": ({"foot_wobble": 0.04}, "unsteady_back_foot", "flow", "line"),
    "load": ({"shift_at_load": 0.15, "load_knee": 74.0}, "knee_over_toe", "coil", "drive"),
    "first_move": ({"shift_at_load": 0.15, "load_knee": 74.0}, "drops_first", "line", "coil"),
    "lift": ({"lift_turn": -50.0}, "over_turned_at_lift", "line", "centre"),
    "head": ({"head_ahead": -0.05}, "head_behind_at_landing", "centre", "drive"),
    "front_leg": ({"swing": 0.25}, "swings_wide", "centre", "coil"),
    "front_foot": ({"foot_yaw": -40.0}, "front_foot_closed", "line", "coil"),
    "back_foot": ({"knee_after": 0.3}, "back_knee_shoots", "coil", "line"),
    "shoulders": ({"tilt_landing": -15.0}, "back_shoulder_lower", "line", "drive"),
    "hand": ({"forearm_drop": 75.0, "arm_up_landing": 30.0}, "hand_reaches_back", "flow", "coil"),
    "glove": ({"tilt_landing": 11.0}, "glove_drawn_in", "flow", "drive"),
    "layback": ({"elbow_landing": 60.0}, "hand_outside", "easy", "drive"),
    "side_tilt": ({"side_tilt_release": 42.0}, "leans_aside", "centre", "drive"),
    "finish": ({"trunk_final": 82.0}, "turn_cut_short", "easy", None),
}


@cache
def case_of(**changes):
    ours, theirs = (resolve(side, 12) for side in analyse_pair(throw(replace(BASE, **changes)), throw(BASE)))
    return Case(contrast(ours, theirs), ledger(ours, theirs))


def told_by(school, case, **more):
    return judge(case, PLAYBOOK, SCHOOLS[school], [one for one in SCHOOLS.values() if one.id != "common"], **more)


@pytest.mark.parametrize("topic", PAIRS)
def test_two_schools_that_disagree_on_a_topic_tell_its_pair_differently(topic):
    changes, finding, acting, leaving = PAIRS[topic]
    assert next(rule for rule in PLAYBOOK.rules if rule.id == finding).topic == topic
    case = case_of(**changes)
    one = next(found for found in told_by(acting, case).findings if found.id == finding)
    assert one.acts and one.reason and acting in one.acting
    if leaving is None:  # all hold with it, and this school puts it higher
        assert one.rank > next(found for found in told_by("common", case).findings if found.id == finding).rank
        return
    other = next(found for found in told_by(leaving, case).findings if found.id == finding)
    assert not other.acts and not other.in_focus and other.reason and leaving not in one.acting
    assert one.rank > other.rank


def test_the_first_point_hangs_on_the_school():
    case = case_of(head_ahead=-0.05, side_tilt_release=42.0, foot_yaw=-40.0)
    first = {name: [found.id for found in told_by(name, case).focus] for name in SCHOOLS}
    assert len({tuple(ids) for ids in first.values()}) >= 4, first
    assert "leans_aside" in first["easy"] and "front_foot_closed" in first["line"] and first["coil"] != first["drive"]


def test_every_topic_moves_a_finding_and_schools_disagree_on_it():
    moved = {rule.topic for rule in PLAYBOOK.rules}
    assert moved - {""} == set(TOPICS) - {"landing"}
    assert {one.landing for one in SCHOOLS.values()} == {"touch", "plant"}
    for topic in moved - {""}:
        stances = [{(one.stance(rule.id).acts, one.stance(rule.id).weight) for one in SCHOOLS.values()}
                   for rule in PLAYBOOK.rules if rule.topic == topic]  # fmt: skip
        assert any(len(each) > 1 for each in stances), topic


def test_every_school_has_tasks_of_its_own_and_one_for_whatever_it_acts_on():
    for name, school in SCHOOLS.items():
        if name == "common":
            continue
        used = [task for task in PLAYBOOK.tasks.values() if name in task.used_by]
        assert used and not any(name in task.shunned_by for task in used), name
        for rule in PLAYBOOK.rules:
            if rule.kind == "technique" and school.stance(rule.id).acts:
                left = [key for key in rule.tasks if name not in PLAYBOOK.tasks[key].shunned_by]
                assert left, (name, rule.id)
    shunning = {name for task in PLAYBOOK.tasks.values() for name in task.shunned_by}
    assert shunning >= {"drive", "coil", "flow", "line", "centre", "easy"}


def test_a_theory_is_one_schools_and_needs_figures_of_the_body():
    case = case_of(layback=192.0, peak_internal_rotation=4300.0)
    theory = next(found for found in told_by("drive", case).findings if found.id == "slack")
    assert not theory.in_focus and theory.rule.kind == "theory" and theory.acting == ("drive",)
    for name in set(SCHOOLS) - {"drive"}:
        assert "slack" not in [found.id for found in told_by(name, case).findings]
    weak = {name: Reading(MEASURED, 0.4) for name in ("press", "pull")}
    known = told_by("drive", case, capacity=Capacity(load_screening(), weak))
    assert next(found for found in known.findings if found.id == "slack").can_be_worked_on


def test_every_task_is_drawn_in_three_to_five_poses_and_none_contradicts_its_finding():
    poses = shipped_poses()
    for key, task in PLAYBOOK.tasks.items():
        assert 3 <= len(task.shows) <= 5 and task.caution and task.dose, key
        assert not {*task.used_by} & {*task.shunned_by}
    for points in poses.points.values():
        assert np.isfinite(points[[INDEX["drive_hip"], INDEX["throwing_hand"], INDEX["lead_toe"]]]).all()
        assert np.nanmax(points[:, 2]) < 1.3 * poses.height
    standing, landed = (poses.points[name] for name in ("set", "land"))
    assert landed[INDEX["lead_ankle"], 0] - standing[INDEX["lead_ankle"], 0] > 0.5 * poses.height


@pytest.mark.parametrize(
    ("change", "says"),
    [(lambda d: d["tasks"]["walk_in"].update(shows=["lift", "cartwheel"]), "no pose named cartwheel"),
     (lambda d: d["tasks"]["walk_in"].update(shunned_by=["line"]), "line both uses it and does not"),
     (lambda d: _rule(d, "hitch").update(explains=["arm_late"]) or _rule(d, "arm_late").update(explains=["hitch"]), "circle"),
     (lambda d: _rule(d, "hitch").update(when=["hand_stall above 20", "hand_stall below 10"]), "cannot both hold"),
     (lambda d: _rule(d, "hitch").update(when=["hand_stall beyond 9", "hand_stall short 9"]), "cannot both hold"),
     (lambda d: _rule(d, "hitch").update(plain=" "), "hitch: it has no “plain”"),
     (lambda d: _rule(d, "hitch").update(topic="shoes"), "no topic named shoes"),
     (lambda d: _rule(d, "hitch").update(kind="belief"), "no kind named belief")],
)  # fmt: skip
def test_a_wrong_findings_file_says_where_and_what(tmp_path, change, says):
    document = json.loads(FINDINGS.read_text())
    change(document)
    path = tmp_path / "findings.json"
    path.write_text(json.dumps(document))
    with pytest.raises(WaxTwinError, match=says) as fault:
        load_playbook(path)
    assert str(fault.value).startswith("findings.json: ") and str(fault.value).count(".") < 6


def _rule(document, name):
    return next(one for one in document["findings"] if one["id"] == name)


def test_a_house_school_with_an_unknown_finding_is_left_out_and_its_file_kept():
    own_schools().mkdir(parents=True)
    path = own_schools() / "ours.json"
    path.write_text(json.dumps({"id": "ours", "label": "Ours", "rejects": ["ghost"]}))
    schools, faults = load_schools()
    assert len(schools) == len(SCHOOLS) and "ours.json" in faults[0] and "no finding named ghost" in faults[0]
    assert path.is_file()
