"""Plans and the log: targets, versions, whether it moved, the arm, the league's limits."""

from dataclasses import replace
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import clean
from waxtwin.core.analysis import resolve
from waxtwin.core.before_after import CHANGED, UNCHANGED, UNRESOLVABLE
from waxtwin.core.contrast import Band, Standards, contrast
from waxtwin.core.findings import Task
from waxtwin.core.plan import Aim, Focus, Plan, Target, proposed, targets_for, tasks_of
from waxtwin.core.progress import NO, OPEN, YES, answers
from waxtwin.core.schools import School
from waxtwin.core.steps import finish
from waxtwin.core.stops import StopsByHand
from waxtwin.core.trend import (
    RADAR_SD,
    SPEED,
    ArmNote,
    Figures,
    Limits,
    against_limits,
    outcome,
    shift,
    suspect_speeds,
    trend,
)
from waxtwin.library.faults import LibraryError
from waxtwin.library.log import (
    arm_notes,
    days_of,
    figures_of,
    forget_arm_note,
    limits_of,
    note_arm,
    set_day,
    set_limits,
)
from waxtwin.library.plans import catalogue, forget_task, hand_over, keep_plan, keep_task, new_key, plans_of, with_own
from waxtwin.library.playbook import shipped_playbook
from waxtwin.library.throws import delivery_row, set_events, set_fields

TILT = "landing_trunk_tilt"
COMMON = School("common", "Common ground", "", "touch", {}, {}, {})


@pytest.fixture(scope="module")
def pair():
    sides = [resolve(clean(name), 24) for name in ("wren", "ines")]
    return contrast(*sides, Standards({TILT: Band(-5.0, 5.0, "test", True, "inside")}))


def day(when, *values, speed=None, sd=0.5, planar=False):
    """Throws of a day with these trunk leans."""
    speeds = speed if isinstance(speed, list) else [speed] * len(values)
    return [
        Figures(n, when, s, {TILT: v}, {TILT: sd}, planar) for n, (v, s) in enumerate(zip(values, speeds, strict=True))
    ]


def plan_for(aim=5.0, start="2026-10-01"):
    return Plan(1, (Focus("", "Trunk back", "", Target(TILT, 14.0, aim, "own")),), start=start)


# targets --------------------------------------------------------------------------------------------------------------
def test_a_target_comes_from_school_twin_what_if_and_band(pair):
    row, rule = pair.row(TILT), next(r for r in shipped_playbook().rules if r.id == "trunk_forward_at_landing")
    school = replace(COMMON, targets={TILT: (-4.0, 2.0)})
    found = targets_for(row, rule, school, Aim({"trunk": 0.5, "ball": 1.0}, 35.0))
    assert [one.source for one in found] == ["school", "twin", "what-if", "band"]
    aims = {one.source: one.aim for one in found}
    assert aims["school"] == 2.0 and aims["twin"] == row.twin and aims["band"] == 5.0
    assert aims["what-if"] == pytest.approx((row.athlete + row.twin) / 2)
    assert all(one.direction == -1 for one in found)


def test_no_target_from_a_band_that_the_athlete_is_inside_of(pair):
    row = replace(pair.row(TILT), athlete=1.0)
    assert [one.source for one in targets_for(row, None, COMMON)] == ["twin"]
    assert targets_for(replace(row, athlete=None), None, COMMON) == ()


def test_the_focus_that_is_proposed_carries_targets_and_tasks(pair):
    from waxtwin.core.explain import Perspective, explain

    found = explain(pair, Perspective(shipped_playbook(), COMMON, ()))
    focus = proposed(found.judgement, pair, COMMON, found.perspective.playbook.tasks)
    assert 0 < len(focus) <= 2
    assert [one.finding for one in focus] == [one.id for one in found.judgement.focus]
    for one in focus:
        row = pair.row(one.target.measure)
        assert one.target.start == row.athlete and one.target.aim == row.twin and one.tasks


def test_never_more_than_two_in_focus():
    plan = Plan(1, ())
    for n in range(4):
        plan = plan.with_focus(len(plan.focus), Focus("", f"thing {n}", "", None))
    assert [one.title for one in plan.focus] == ["thing 0", "thing 1"]
    assert plan.with_focus(0, None).focus[0].title == "thing 1"


def test_a_task_that_left_the_catalogue_is_left_out():
    known = {"a": Task("A", "", "", ""), "b": Task("B", "", "", "")}
    plan = Plan(1, (Focus("", "", "", None, ("a", "gone")), Focus("", "", "", None, ("b", "a"))))
    assert [task.title for task in tasks_of(plan, known)] == ["A", "B"]


# over time ------------------------------------------------------------------------------------------------------------
def test_a_session_is_the_mean_of_its_throws_with_what_it_resolves():
    [point] = trend(day("2026-10-01", 10.0, 12.0, 14.0, sd=0.5), TILT)
    assert (point.value, point.low, point.high, point.count) == (12.0, 10.0, 14.0, 3)
    # Student for three throws: 4.303 / 2 = 2.151 times the standard error 2 / sqrt(3), and what one clip resolves
    assert point.error == pytest.approx((0.5**2 + (2.1513 * 2 / 3**0.5) ** 2) ** 0.5, rel=1e-3)


def test_one_throw_says_nothing_about_ball_speed():
    [one] = trend(day("2026-10-01", 10.0, speed=33.0), SPEED)
    [two] = trend(day("2026-10-01", 10.0, 10.0, speed=[33.0, 33.0]), SPEED)
    assert one.error is None and two.error == pytest.approx(RADAR_SD)


@pytest.mark.parametrize(
    ("after", "sd", "state", "toward", "tone"),
    [
        ((8.0, 8.2, 7.8), 0.3, CHANGED, True, YES),
        ((20.0, 20.2, 19.8), 0.3, CHANGED, False, NO),
        ((14.1, 14.2, 13.9), 0.3, UNCHANGED, None, NO),
        ((12.0, 13.0, 14.0), 4.0, UNRESOLVABLE, None, OPEN),
    ],
)
def test_a_change_counts_only_when_it_is_resolved(after, sd, state, toward, tone):
    throws = [*day("2026-10-01", 14.0, 14.2, 13.8, sd=sd), *day("2026-11-01", *after, sd=sd)]
    found = outcome(plan_for(), throws, ())
    assert found.moved[0][1].state == state and found.toward == (toward,)
    assert answers(found, False)[0].tone == tone


def test_what_is_seen_in_space_is_not_held_against_a_picture():
    throws = [*day("2026-10-01", 14.0, 14.0, planar=True), *day("2026-11-01", 8.0, 8.0)]
    assert len(trend(throws, TILT)) == 2
    assert shift(trend(throws, TILT), TILT, "2026-10-15") is None


def test_the_speed_and_the_arm_are_answered_too():
    throws = [*day("2026-10-01", 1.0, 1.0, 1.0, speed=[30.0, 30.2, 29.8]),
              *day("2026-11-01", 1.0, 1.0, 1.0, speed=[33.0, 33.2, 32.8])]  # fmt: skip
    sore = [ArmNote("2026-09-01", 9), ArmNote("2026-10-10", 3, "elbow", "2026-10-08"), ArmNote("2026-10-20", 0)]
    _, speed, arm = answers(outcome(plan_for(), throws, sore), False)
    assert speed.tone == YES and "+3.00 m/s" in speed.because[0]
    assert arm.tone == NO and arm.says == "sore, 3 of 10" and "elbow" in arm.because[0]
    assert any("clinician" in line for line in arm.because)
    _, speed, arm = answers(outcome(plan_for(), [], []), False)
    assert (speed.tone, arm.tone, arm.says) == (OPEN, OPEN, "nothing was noted")
    assert answers(outcome(plan_for(), throws, sore[2:]), False)[2].tone == YES


def test_a_plan_without_a_start_has_no_outcome():
    assert outcome(replace(plan_for(), start=None), day("2026-10-01", 1.0), ()) is None


def test_a_radar_that_read_something_else_is_pointed_at():
    assert suspect_speeds([33.0, 32.6, 33.4, 21.0, None, 33.1]) == (3,)
    assert suspect_speeds([33.0, 31.0]) == () and suspect_speeds([33.0, 33.1, 33.0, 34.0]) == ()


@given(st.lists(st.floats(25, 40), min_size=3, max_size=12))
def test_never_half_of_the_readings_are_suspects(speeds):
    assert len(suspect_speeds(speeds)) <= len(speeds) / 2


# the league's limits --------------------------------------------------------------------------------------------------
def test_limits_are_only_counted_against_when_they_were_entered():
    thrown = [("2026-10-01", 80), ("2026-10-02", 20), ("2026-10-09", 20)]
    assert against_limits(Limits(), thrown) == ()
    said = against_limits(Limits("Sound league", "", 75, ((31, 1), (61, 3))), thrown)
    assert len(said) == 2 and "75" in said[0] and "3 days of rest" in said[1] and "0 were kept" in said[1]


# kept -----------------------------------------------------------------------------------------------------------------
def athlete_of(library, title="wren-tollander"):
    from waxtwin.library.catalogue import entries

    with library.reading() as session:
        entry = next(e for e in entries(session) if e.title == title)
        return entry.athlete_id, entry.id


def test_a_version_that_was_handed_over_stays_as_it_is(library):
    athlete, _ = athlete_of(library)
    keep_plan(library, athlete, plan_for(start=None), "first")
    keep_plan(library, athlete, replace(plan_for(start=None), notes="easy throws"), "still the first")
    assert [(p.version, p.notes) for p in plans_of(library, athlete)] == [(1, "easy throws")]
    hand_over(library, athlete, date(2026, 11, 20))
    first = plans_of(library, athlete)[0]
    assert (first.sent, first.start, first.next_look) == ("2026-11-20", "2026-11-20", "2026-12-18")
    keep_plan(library, athlete, replace(first, notes="another"), "second")
    kept = plans_of(library, athlete)
    assert [p.version for p in kept] == [1, 2] and kept[0] == first
    assert kept[1].sent is None and kept[1].focus == first.focus
    library.undo()
    assert plans_of(library, athlete) == (first,)


def test_plans_of_nobody_cannot_be_kept(library):
    with pytest.raises(LibraryError, match="athlete is not in the library"):
        keep_plan(library, 999, plan_for(), "x")
    with pytest.raises(LibraryError, match="no plan yet"):
        hand_over(library, athlete_of(library)[0], date(2026, 1, 1))


def test_a_malformed_plan_in_the_store_is_read_as_far_as_it_goes(library):
    from waxtwin.library.records import PlanRow

    athlete, _ = athlete_of(library)
    odd = [5, {"title": "good", "target": {"measure": "no such", "aim": 1, "source": "own"}, "tasks": "x"}]
    with library.change("odd") as session:
        session.add(PlanRow(athlete_id=athlete, version=1, made="", focus=odd, notes=""))
    [focus] = plans_of(library, athlete)[0].focus
    assert (focus.title, focus.target, focus.tasks) == ("good", None, ())


def test_the_practice_catalogue_is_changed_added_to_and_taken_back(library):
    shipped = catalogue(None)
    assert all(task.purpose and task.how and task.dose and task.caution for task in shipped.values())
    keep_task(library, "stay_tall", replace(shipped["stay_tall"], dose="5 only"))
    key = new_key(catalogue(library), "Towel throws")
    keep_task(library, key, Task("Towel throws", "feel", "with a towel", "10", "none"))
    found = catalogue(library)
    assert found["stay_tall"].dose == "5 only" and found[key].how == "with a towel"
    assert with_own(found, library) == {"stay_tall", key} and new_key(found, "Towel throws") != key
    forget_task(library, "stay_tall")
    assert catalogue(library)["stay_tall"] == shipped["stay_tall"]
    library.undo()
    assert catalogue(library)["stay_tall"].dose == "5 only"


def test_figures_are_worked_out_once_and_again_when_something_changed(library, monkeypatch):
    athlete, key = athlete_of(library)
    worked = []
    import waxtwin.library.log as log

    real = log.resolve
    monkeypatch.setattr(log, "resolve", lambda analysis: worked.append(1) or real(analysis))

    def figures(landing="touch"):
        return finish(figures_of(library, athlete, landing))

    [one] = figures()
    assert one.key == key and one.date == "2026-11-14" and one.ball_speed == pytest.approx(33.23)
    assert one.values[TILT] == pytest.approx(8.2, abs=0.5) and one.sds[TILT] > 0
    assert figures() == (one,) and len(worked) == 1
    set_fields(library, key, "speed", ball_speed_mps=31.0)
    assert figures()[0].ball_speed == 31.0 and len(worked) == 1
    set_events(library, {key: StopsByHand({"foot_contact": 2.0})}, "by hand")
    figures()
    library.smoothing = 0.75
    figures()
    assert len(worked) == 3
    before = figures()[0].values[TILT]
    turned = log._names()[::-1]  # a version that lists as many measures in another order
    monkeypatch.setattr(log, "_names", lambda: turned)
    assert figures()[0].values[TILT] == pytest.approx(before) and len(worked) == 4
    with library.reading() as session:
        assert delivery_row(session, key).figures is not None


def test_arm_notes_throws_and_limits_are_kept_and_undone(library):
    athlete, _ = athlete_of(library)
    note_arm(library, athlete, ArmNote("2026-11-15", 2, "elbow", "2026-11-14", "after the game"))
    note_arm(library, athlete, ArmNote("2026-11-15", 3, "elbow", "2026-11-14"))
    assert arm_notes(library, athlete) == (ArmNote("2026-11-15", 3, "elbow", "2026-11-14"),)
    with pytest.raises(LibraryError, match="0 \\(none\\) to 10"):
        note_arm(library, athlete, ArmNote("2026-11-15", 11))
    set_day(library, athlete, "2026-11-15", thrown=44)
    assert [(d.date, d.thrown, d.kept) for d in days_of(library, athlete)] == [
        ("2026-11-14", None, 1),
        ("2026-11-15", 44, 0),
    ]
    limits = Limits("Sound league", "https://example.org", 75, ((31, 1),))
    set_limits(library, athlete, limits)
    assert limits_of(library, athlete) == limits
    for _ in range(2):
        library.undo()
    assert limits_of(library, athlete) == Limits() and len(days_of(library, athlete)) == 1
    forget_arm_note(library, athlete, arm_notes(library, athlete)[0])
    assert arm_notes(library, athlete) == ()


def test_erasing_an_athlete_leaves_nothing_of_plan_and_log(library):
    from waxtwin.library.erasing import erase

    athlete, _ = athlete_of(library)
    secret = "only-the-elbow-knows"
    keep_plan(library, athlete, replace(plan_for(), notes=secret), secret)
    note_arm(library, athlete, ArmNote("2026-11-15", 2, secret))
    set_limits(library, athlete, Limits(secret))
    set_day(library, athlete, "2026-11-15", thrown=44, notes=secret)
    finish(figures_of(library, athlete, "touch"))
    erase(library, athlete)
    library.close()
    for file in library.folder.rglob("*"):
        assert not file.is_file() or secret.encode() not in file.read_bytes(), file.name
