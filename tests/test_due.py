"""Who is due: what asks for attention first, over everybody, and the way into a log."""

from dataclasses import replace
from datetime import date

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QToolButton

from waxtwin.core.due import Standing, by_urgency, standing
from waxtwin.core.plan import Focus, Plan, Target
from waxtwin.core.steps import finish
from waxtwin.core.trend import ArmNote, Figures
from waxtwin.library.due import standings_of
from waxtwin.library.log import note_arm
from waxtwin.library.plans import keep_plan
from waxtwin.library.privacy import set_athlete_facts

TODAY = date(2026, 11, 29)
TILT = "landing_trunk_tilt"
FOCUS = Focus("trunk_forward_at_landing", "Trunk further forward at landing", "", Target(TILT, 10.0, 4.0, "twin"))


def figures(day, tilt, speed, n=3):
    return [Figures(k, day, speed + 0.1 * k, {TILT: tilt + 0.1 * k}, {TILT: 0.5}, False) for k in range(n)]


def told(one, throws=()):
    found = standing(one, throws, TODAY)
    return found, [ask.says for ask in found.asks]


@pytest.mark.parametrize(
    ("one", "says"),
    [(Standing(1, "A", notes=(ArmNote("2026-11-27", 4, "elbow"),)), "Arm on 27 Nov: 4 of 10, elbow"),
     (Standing(1, "A", keep_until="2026-11-01"), "Data was to be kept until 1 Nov 2026"),
     (Standing(1, "A", keep_until="2026-12-10"), "Data is kept until 10 Dec 2026"),
     (Standing(1, "A", born="2011-02-03", keep_until="2027-12-10"), "no consent is noted"),
     (Standing(1, "A", plan=Plan(1, (FOCUS,), "2026-10-01", "2026-11-20")), "due since 9 days"),
     (Standing(1, "A", plan=Plan(1, (FOCUS,), "2026-10-01", "2026-11-28")), "due since 1 day."),
     (Standing(1, "A", plan=Plan(1, (FOCUS,), "2026-10-01", "2026-12-02")), "next look is on 2 Dec"),
     (Standing(1, "A", plan=Plan(1, (FOCUS,), "2026-10-01")), "No day is set"),
     (Standing(1, "A", "2026-08-01", Plan(1, (FOCUS,), "2026-07-01", "2026-12-24")), "last throw kept is of 1 Aug")],
)  # fmt: skip
def test_what_asks_for_attention_is_said(one, says):
    assert one.known and any(says in words for words in told(one)[1])


def test_nothing_is_asked_for_where_all_is_well():
    looked = Standing(1, "A", "2026-11-21", Plan(1, (FOCUS,), "2026-10-01", "2026-11-20"))
    old = replace(looked, notes=(ArmNote("2026-10-02", 3),), born="2011-02-03", consent_on="2026-01-01")
    assert told(looked)[1] == [] and told(old)[1] == [] and not Standing(1, "B").known


def test_a_focus_that_goes_the_wrong_way_comes_before_a_look_that_is_due():
    plan = Plan(1, (FOCUS,), "2026-10-01", "2026-11-20")
    worse = figures("2026-09-20", 10.0, 33.0) + figures("2026-11-10", 16.0, 34.5)
    found, asks = told(Standing(1, "A", "2026-11-10", plan), worse)
    assert asks[0] == "The focus moves the wrong way." and "due since 9 days" in asks[1]
    assert [one.tone for one in found.answers] == ["no", "yes", "open"]
    better = standing(Standing(2, "B", "2026-11-10", plan), figures("2026-09-20", 10.0, 33.0)
                      + figures("2026-11-10", 5.0, 33.0), TODAY)  # fmt: skip
    sore = standing(Standing(3, "C", notes=(ArmNote("2026-11-28", 1),)), (), TODAY)
    calm = standing(Standing(4, "Aa", plan=Plan(1, (), None, "2027-02-01")), (), TODAY)
    assert [one.name for one in by_urgency([calm, better, found, sore])] == ["C", "A", "B", "Aa"]


def test_everybody_is_read_from_the_library(library):
    people = _people(library)
    assert finish(standings_of(library, "touch", TODAY)) == []
    keep_plan(library, people["Wren Tollander"], Plan(1, (FOCUS,), "2026-10-01", "2026-11-20"), "A plan")
    note_arm(library, people["Pell Ardmoor"], ArmNote("2026-11-28", 5, "shoulder"))
    set_athlete_facts(library, people["Juno Wexcombe"], {"name": "Juno Wexcombe", "keep_until": "2026-11-01"})
    found = finish(standings_of(library, "touch", TODAY))
    assert [one.name for one in found][:3] == ["Pell Ardmoor", "Juno Wexcombe", "Wren Tollander"]
    assert found[2].plan.focus[0].title == FOCUS.title and found[2].last_look and found[2].answers


def _people(library):
    from sqlalchemy import select

    from waxtwin.library.records import Athlete

    with library.reading() as session:
        return {row.name: row.id for row in session.scalars(select(Athlete))}


def test_from_the_page_into_a_log(desk_window, qtbot):
    app = desk_window()
    app.go_to("Plan")
    wren = app.library.athlete_of(app.desk.pair.stored["athlete"].key)
    plan = Plan(1, (FOCUS,), "2026-10-01", "2026-11-20")
    app.library.change(lambda library: keep_plan(library, wren, plan, "A plan"), 0)
    next(one for one in app.plan.findChildren(QToolButton) if one.text() == "Who is due").click()
    due = app.plan.due
    qtbot.waitUntil(lambda: due.table.rowCount() >= 1 and not app.jobs.busy, timeout=60000)
    row = next(n for n in range(due.table.rowCount()) if due.table.item(n, 0).text() == "Wren Tollander")
    assert FOCUS.title in due.table.item(row, 4).text() and "due since" in due.table.item(row, 1).text()
    assert not due.opens.isEnabled()
    due.table.item(row, 0).setText("as it was")
    app.desk.pair.set_landing("plant")  # other figures: everybody is looked at again
    qtbot.waitUntil(lambda: due.table.item(row, 0).text() == "Wren Tollander" and not app.jobs.busy, timeout=60000)
    due.table.selectRow(row)
    due.opens.click()
    assert app.plan.view == "log" and app.plan.flow.athlete == wren
    app.plan.turn_to("due")
    due.table.setFocus()
    QTest.keyClick(due.table, Qt.Key.Key_Return)  # the same by key
    assert app.plan.view == "log"
