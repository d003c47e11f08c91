"""Findings as data: rules, ranking, schools, the body, cautions, the account in words, the command line."""

import json
from dataclasses import replace
from datetime import date
from functools import cache

import pytest

from conftest import DEMO
from test_borrowed import BASE, throw
from waxtwin.core.analysis import resolve
from waxtwin.core.borrowed import FACTORS, borrow
from waxtwin.core.capacity import FAILED, MEASURED, Capacity, Examination, Reading
from waxtwin.core.cautions import CAUTIONS, cautions_for
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.explain import Perspective, explain
from waxtwin.core.findings import Rulings, judge
from waxtwin.core.ledger import LINKS, ledger
from waxtwin.core.rules import Case, RuleError, parse
from waxtwin.core.schools import TOPICS, School, Stance
from waxtwin.core.steps import finish
from waxtwin.library.judging import load_screening, readings_of, screening_document
from waxtwin.library.playbook import FINDINGS, load_playbook, load_school, load_schools, save_school

PLAYBOOK = load_playbook()
SCHOOLS, _ = load_schools()
COMMON = SCHOOLS[0]
FACTORS_APART = ("size", "tempo", "pelvis_path", "turn", "arm", "ball")
SCREENING = load_screening()


@cache
def case_of(athlete, twin, noise=0.003):
    ours, theirs = (resolve(side, 40) for side in analyse_pair(throw(athlete, noise, 1), throw(twin, noise, 2)))
    account = finish(borrow((ours,), (theirs,)))
    return Case(contrast(ours, theirs), ledger(ours, theirs), account)


def found_in(case, school=COMMON, **more):
    return judge(case, PLAYBOOK, school, SCHOOLS[1:], **more)


@pytest.fixture(scope="module")
def leaning():
    """The trunk already forward at landing, and nothing else."""
    return case_of(replace(BASE, tilt_landing=11), BASE)


# rules --------------------------------------------------------------------------------------------------------------
def test_there_are_enough_findings_and_each_is_whole():
    assert len(PLAYBOOK.rules) >= 24
    for rule in PLAYBOOK.rules:
        assert rule.title and rule.plain and rule.when
        assert rule.kind == "body" or (
            rule.tasks and rule.asks and set(rule.factors) <= set(FACTORS) and rule.link in LINKS
        )


@pytest.mark.parametrize(
    ("text", "word"),
    [("stride_lenght short 4", "no measure"), ("stride_length short", "say short"), ("stride_length short four", "number"),
     ("link:knee loses", "no link"), ("factor:arm up", "loses"), ("", "empty"), ("stride_length shrinks 4", "say")],
)  # fmt: skip
def test_a_line_that_cannot_be_understood_is_refused_in_words(text, word):
    with pytest.raises(RuleError, match=word):
        parse(text)


@pytest.mark.parametrize(
    ("change", "word"),
    [(lambda d: d["findings"][0].update(at="nowhere"), "no stop"), (lambda d: d["findings"][0].update(when=[]), "when"),
     (lambda d: d["findings"][1].update(explains=["ghost"]), "no finding"), (lambda d: d["tasks"].clear(), "no task"),
     (lambda d: d["findings"].append(d["findings"][0]), "share an id"), (lambda d: d.pop("findings"), "findings file")],
)  # fmt: skip
def test_a_wrong_findings_file_says_what_is_wrong(tmp_path, change, word):
    document = json.loads(FINDINGS.read_text())
    change(document)
    path = tmp_path / "findings.json"
    path.write_text(json.dumps(document))
    with pytest.raises(WaxTwinError, match=word) as fault:
        load_playbook(path)
    assert "findings.json" in str(fault.value)


def test_lines_ask_what_they_say(leaning):
    row = leaning.row("landing_trunk_tilt")
    for text, holds in (
        ("landing_trunk_tilt beyond 5", True), ("landing_trunk_tilt beyond 50", False),
        ("landing_trunk_tilt short 1", False), ("landing_trunk_tilt not-short", True),
        (f"landing_trunk_tilt above {row.athlete - 3}", True), (f"landing_trunk_tilt above {row.athlete}", False),
        ("landing_trunk_tilt below 60", True), ("stride_length level", True),
        ("factor:size gains", False), ("landing_trunk_tilt band-above", None),
    ):  # fmt: skip
        assert parse(text).ask(leaning).holds is holds, text


# findings -----------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("changes", "wanted"),
    [({"stride": 0.74}, "short_stride"), ({"trunk_peak": 0.34}, "trunk_goes_early"), ({"hitch": 0.05}, "hitch"),
     ({"trunk_landing": 8}, "shoulders_early"), ({"pelvis_landing": 12}, "hips_late"), ({"arm_scale": 0.9}, "shorter_levers"),
     ({"knee_release": 60}, "knee_keeps_bending"), ({"landing_to_release": 0.172}, "slow_through"),
     ({"peak_elbow_extension": 1500}, "elbow_slow"), ({"arm_up_landing": 20}, "arm_late")],
)  # fmt: skip
def test_a_known_difference_is_found_first_or_second(changes, wanted):
    found = found_in(case_of(replace(BASE, **changes), BASE))
    assert wanted in [one.id for one in found.findings[:2]]


@pytest.mark.parametrize("seed", range(3))
def test_two_noisy_copies_of_one_delivery_give_no_finding(seed):
    ours, theirs = (resolve(s, 60) for s in analyse_pair(throw(BASE, 0.003, seed), throw(BASE, 0.003, 90 + seed)))
    account = finish(borrow((ours,), (theirs,)))
    found = found_in(Case(contrast(ours, theirs), ledger(ours, theirs), account))
    assert found.findings == () and found.focus == ()


def test_a_finding_shows_its_proof_and_its_share(leaning):
    found = found_in(leaning)
    first = found.findings[0]
    assert first.id == "trunk_forward_at_landing" and first.in_focus
    assert 0 < first.carries <= leaning.borrowed.gap and 0 < first.share <= 1 and 0.05 <= first.confidence <= 1
    assert any(one.row.measure.id == "landing_trunk_tilt" for one in first.proof)
    downstream = next(one for one in found.findings if one.id == "little_trunk_travel")
    assert "trunk_forward_at_landing" in downstream.caused_by and "little_trunk_travel" in first.leads_to
    # of a cause and what it leads to, only the cause is worked on
    assert [one.id for one in found.focus] == ["trunk_forward_at_landing"]


def test_at_most_two_are_in_focus_and_rulings_decide(leaning):
    many = case_of(
        replace(BASE, tilt_landing=11, trunk_landing=10, stride=0.72, knee_release=62, arm_up_landing=15), BASE
    )
    found = found_in(many)
    assert len(found.findings) > 3 and len(found.focus) == 2
    gone = found.focus[0].id
    other = next(one.id for one in found.findings if not one.in_focus and one.rule.kind == "technique")
    ruled = found_in(many, rulings=Rulings(frozenset({other}), {gone: "his own way"}))
    assert other in [one.id for one in ruled.focus] and gone not in [one.id for one in ruled.focus]
    last = ruled.findings[-1]
    assert last.id == gone and last.set_aside == "his own way" and len(ruled.focus) <= 2


def test_what_is_as_good_and_what_is_style_stand_beside(leaning):
    taller = case_of(replace(BASE, tilt_landing=11, lift_height=0.0, side_tilt_release=34), BASE)
    found = found_in(taller)
    assert "short_stride" in found.good and "trunk_forward_at_landing" not in found.good
    assert {row.measure.id for _, row in found.style} >= {"lift_height", "release_slot"}


def test_everything_lower_is_better_but_the_arm_is_slower_names_the_arm():
    # the trunk stays further back and so reaches a higher speed, the hips travel further; the arm comes forward slowly
    athlete = replace(BASE, tilt_landing=-8, pelvis_travel=0.14, peak_internal_rotation=4300)
    case = case_of(athlete, BASE)
    assert case.borrowed.gap > 0 and case.ledger.broken_at in ("elbow", "wrist", "hand")
    assert max(FACTORS_APART, key=lambda name: case.borrowed.singles[name].contribution) == "arm"
    names = {one.id for one in found_in(case).findings}
    assert names & {"arm_slow", "elbow_slow"} and not names & {"trunk_slow", "hips_slow"}


def test_one_camera_is_enough_for_findings_of_one_camera():
    from conftest import planar

    sides = [throw(replace(BASE, stride=0.74), 0.003, 1), throw(BASE, 0.003, 2)]
    flat = [resolve(s, 40) for s in analyse_pair(*(replace(d, track=planar(d.track)) for d in sides))]
    found = explain(contrast(*flat), Perspective(PLAYBOOK, COMMON, tuple(SCHOOLS[1:])))
    assert found.case.borrowed is None and "depth" in found.unborrowed
    # nothing is shared out here: what shows earlier under load may stand before it
    assert {one.id for one in found.judgement.findings[:2]} == {"short_stride", "knee_falls_in"}
    assert "one camera" in found.in_words()


# schools ------------------------------------------------------------------------------------------------------------
def test_the_shipped_schools_are_sound():
    assert [one.id for one in SCHOOLS] == ["common", "centre", "coil", "drive", "easy", "flow", "line"]
    for one in SCHOOLS:
        assert one.id == "common" or set(one.topics) == set(TOPICS)
    assert {one.id: one.landing for one in SCHOOLS}["coil"] == "plant"


def test_schools_differ_on_what_to_act_on():
    case = case_of(replace(BASE, shift_at_break=0.02), BASE)
    found = next(one for one in found_in(case).findings if one.id == "weight_back_at_break")
    assert set(found.acting) == {"centre", "drive", "flow", "line"} and found.acts
    coil = next(one for one in SCHOOLS if one.id == "coil")
    seen = next(one for one in found_in(case, coil).findings if one.id == "weight_back_at_break")
    assert not seen.acts and not seen.in_focus and "hip" in seen.reason


def test_a_house_school_is_kept_and_a_damaged_one_left_out(tmp_path):
    from waxtwin.library.playbook import own_schools

    house = School("house1", "Lanterns <b>house</b>", "our own", "plant", {"head": "still"},
                   {"hitch": Stance(True, 2.0, "rhythm first")}, {"stride_length": (80.0, 88.0)}, own=True)  # fmt: skip
    path = save_school(house, own_schools())
    assert load_school(path, own=True) == house
    (own_schools() / "broken.json").write_text('{"id": "x"}')
    schools, faults = load_schools()
    assert schools[-1] == house and len(faults) == 1 and "broken.json" in faults[0]
    for wrong, word in (({"landing": "air"}, "no landing"), ({"topics": {"shoes": ""}}, "no topic"),
                        ({"stances": {"hitch": {"acts": True, "weight": 9}}}, "weight"),
                        ({"targets": {"stride_length": [9, 1]}}, "ends before")):  # fmt: skip
        document = json.loads(path.read_text()) | wrong
        (tmp_path / "school.json").write_text(json.dumps(document))
        with pytest.raises(WaxTwinError, match=word):
            load_school(tmp_path / "school.json")


# the body -----------------------------------------------------------------------------------------------------------
def capacity(readings=None, **more):
    return Capacity(SCREENING, readings or {}, **more)


def test_screening_reads_back_what_was_kept_and_drops_what_is_malformed():
    readings = {"press": Reading(MEASURED, 0.7, "2026-11-20"), "hip_internal_rotation:glove": Reading(FAILED, None, ""),
                "hip_extension:throwing": Reading(MEASURED, 8.0, "2026-11-20", Examination("passive", "seated"), "a coach"),
                "grip:throwing": Reading(MEASURED, 0.6, "")}  # fmt: skip
    document = screening_document(readings, " elbow, since May ")
    assert readings_of(document, SCREENING.items) == readings and document["pain"] == "elbow, since May"
    for wrong in ({"press": 3}, {"press": {"state": "guessed", "value": 1}}, {"press": {"state": MEASURED, "value": "x"}},
                  {"grip": [1, 2]}, {"press": {"state": MEASURED, "value": True}}, {"unknown": {}}):  # fmt: skip
        assert readings_of(wrong, SCREENING.items) == {}


def test_capacity_stands_against_its_bands_and_joins_findings():
    body = capacity({"press": Reading(MEASURED, 0.6), "pull": Reading(FAILED, None), "jump": Reading(MEASURED, 50)})
    assert body.standing("press") == "low" and body.standing("pull") is None and body.standing("jump") == "in band"
    assert any("qualified coach" in said for said in body.said_of("arm_slow"))
    assert capacity({"pull": Reading(FAILED, None)}).said_of("arm_slow") == ()
    front = capacity({"single_leg:glove": Reading(MEASURED, 0.3)})
    assert front.said_of("knee_travels") and not front.said_of("short_stride")


def test_a_range_stands_only_against_the_band_of_its_own_test():
    key, ways = "hip_internal_rotation:throwing", SCREENING.items["hip_internal_rotation"].tests
    assert capacity({key: Reading(MEASURED, 20.0, "", ways[0])}).standing(key) == "low"
    for other in (None, ways[1], Examination("passive", "standing on one leg")):
        assert capacity({key: Reading(MEASURED, 20.0, "", other)}).standing(key) is None


def test_long_limbs_and_stiffness_soften_positions_but_no_caution():
    long = capacity(height=1.80, span=1.92)
    stiff = capacity({f"{name}:throwing": Reading(MEASURED, 1.0, "", SCREENING.items[name].tests[0])
                      for name in ("hip_extension", "thoracic_rotation")})  # fmt: skip
    for body in (long, stiff):
        assert body.softens("short_stride") and not body.softens("elbow_above_line")
    case = case_of(replace(BASE, stride=0.74), BASE)
    plain, soft = (found_in(case, capacity=body).findings[0] for body in (capacity(height=1.8, span=1.8), long))
    assert soft.rank < plain.rank and soft.body and not plain.body


# cautions -----------------------------------------------------------------------------------------------------------
def test_arm_positions_growth_and_pain_are_always_said():
    high = case_of(replace(BASE, abduction_landing=102), replace(BASE, abduction_landing=102)).contrast
    said = cautions_for(high, "2010-01-01", date(2026, 11, 26), "elbow\nsince May")
    assert "Pain was reported (elbow since May)" in said[0] and "licensed clinician" in said[0]
    assert any("above the shoulder line at landing" in one for one in said)
    assert any("growing athlete" in one for one in said) and said[-len(CAUTIONS) :] == list(CAUTIONS)
    adult = cautions_for(case_of(BASE, BASE).contrast, "1990-01-01", date(2026, 11, 26))
    assert adult == list(CAUTIONS)


def test_no_school_hides_a_caution():
    case = case_of(replace(BASE, abduction_landing=104, arm_up_landing=20), BASE)
    body = capacity(pain="shoulder")
    seen = [explain(case.contrast, Perspective(PLAYBOOK, one, tuple(SCHOOLS[1:]), body)).cautions for one in SCHOOLS]
    assert all(one == seen[0] for one in seen) and seen[0][0].startswith("Pain was reported")


# in words and on the command line -----------------------------------------------------------------------------------
def test_the_account_says_what_is_certain_and_what_is_not(leaning):
    found = explain(leaning.contrast, Perspective(PLAYBOOK, COMMON, tuple(SCHOOLS[1:])))
    words = found.in_words()
    assert "not proof of cause" in words and "Look at this first" in words
    assert "Your trunk is further forward than the twin's when the front foot is down" in words
    level = explain(case_of(BASE, BASE).contrast, Perspective(PLAYBOOK, COMMON, ()))
    assert "would have to change" in level.in_words() or "no loss to explain" in level.in_words()


def test_explain_gives_all_of_it(run):
    code, out, _ = run("explain", DEMO / "wren-tollander.csv", DEMO / "ines-corvane.csv", "--json")
    document = json.loads(out)
    assert code == 0
    gap = document["ball_speed"]["gap"]
    for part in ("links", "factors"):
        assert sum(one["contribution"] for one in document[part]) == pytest.approx(gap, abs=1e-6)
    ids = {name for one in document["factors"] for name in one.get("ids", [one["id"]])}
    assert ids <= {"size", "tempo", "pelvis_path", "pelvis_rotation", "trunk", "arm", "ball", "shoulder", "elbow_hand"}
    assert all("ids" in one for one in document["factors"] if one["id"] == "unresolved")
    first = document["findings"][0]
    assert {"id", "title", "evidence", "against", "share"} <= set(first) and first["evidence"][0]["text"]
    assert sum(one["focus"] for one in document["findings"]) <= 2
    assert document["cautions"][-1] == CAUTIONS[-1] and document["text"]


def test_explain_asks_for_a_school_that_there_is(run):
    files = (DEMO / "pell-ardmoor.csv", DEMO / "juno-wexcombe.csv")
    code, _, said = run("explain", *files, "--school", "moon")
    assert code == 2 and "no school named moon" in said and "coil" in said
    code, out, _ = run("explain", *files, "--school", "coil", "--json")
    document = json.loads(out)
    assert code == 0 and document["school"]["id"] == "coil" and len(document["schools"]) == 6
