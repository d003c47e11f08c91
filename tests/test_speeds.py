"""Ball speeds without footage: typed, from a file, logged by devices; in the log's speed beside the throws."""

import pytest
from PySide6.QtWidgets import QLabel, QPushButton
from sqlalchemy import select

from conftest import idle
from waxtwin.core.arm_sensor import ArmReading
from waxtwin.core.plan import Plan
from waxtwin.core.progress import answers
from waxtwin.core.steps import finish
from waxtwin.core.trend import SPEED, outcome, trend
from waxtwin.formats.files import FormatError
from waxtwin.library.arm_sensor import arm_readings, read_arm_readings
from waxtwin.library.log import figures_of
from waxtwin.library.plans import keep_plan
from waxtwin.library.records import Athlete, ThrowingSession
from waxtwin.library.speeds import read_speeds, set_speeds, speeds_of, typed_speeds


@pytest.fixture
def wren(library):
    with library.reading() as session:
        return session.scalars(select(Athlete.id).where(Athlete.name == "Wren Tollander")).one()


def test_typed_speeds_stand_in_the_trend_and_answer_whether_the_speed_moved(library, wren):
    set_speeds(library, wren, {"2026-09-01": [31.0, 31.4, 31.2], "2026-11-20": [33.4, 33.1, 33.6]})
    assert typed_speeds(library, wren, "2026-09-01") == (31.0, 31.4, 31.2)
    throws = finish(figures_of(library, wren, "touch"))
    points = {point.date: point for point in trend(throws, SPEED)}
    assert points["2026-09-01"].count == 3 and points["2026-11-20"].value == pytest.approx(33.37, abs=0.01)
    assert any(one.key for one in throws)  # the throws that are kept are there too
    found = outcome(Plan(1, (), "2026-10-01"), [one for one in throws if not one.key], ())
    assert answers(found, False)[1].says == "yes, it is up"
    library.undo()
    assert speeds_of(library, wren) == ()
    library.redo()
    set_speeds(library, wren, {"2026-09-01": [30.5]})  # what was typed for a day is replaced, other days stay
    assert [one.ball_speed for one in speeds_of(library, wren)] == [30.5, 33.4, 33.1, 33.6]


def test_throws_that_devices_logged_without_a_clip_count_and_those_with_one_do_not_count_twice(library, wren):
    def logged(key, value, state="read", device="radar"):
        return {
            "at": 1.0,
            "delivery": key,
            "run": 5.0,
            "readings": [{"device": device, "state": state, "value": value}],
        }

    with library.change("a session") as session:
        row = ThrowingSession(athlete_id=wren, date="2026-11-21", log=[
            logged(None, 32.0), logged(1, 33.0), logged(None, None, "misread"), logged(None, 700.0, device="back plate"),
            "nonsense", {"readings": 3}, logged(None, True)])  # fmt: skip
        session.add(row)
    assert [one.ball_speed for one in speeds_of(library, wren)] == [32.0]
    set_speeds(library, wren, {"2026-11-21": [31.0]})  # what devices logged stays
    assert sorted(one.ball_speed for one in speeds_of(library, wren)) == [31.0, 32.0]


@pytest.mark.parametrize(
    ("text", "found"),
    [("date,speed_mph\n2026-11-01,74\n2026-11-01,75\n", {"2026-11-01": [33.08, 33.53]}),
     ("Date;x\n".replace(";", ",") + "2026-11-01,1\n", "needs a column"),
     ("\ufeffdate,speed_kmh\n2026-11-02,120\n", {"2026-11-02": [33.33]}),
     ("date,speed\n2026-11-02,33.2 m/s\n2026-11-03,74 mph\n", {"2026-11-02": [33.2], "2026-11-03": [33.08]}),
     ("date,speed_mps\n02.11.2026,33\n", "line 2: a day is written"), ("date,speed_mps\n2026-11-02,fast\n", "line 2: “fast"),
     ("date,speed_mps\n2026-11-02,330\n", "line 2: “330 m/s” is no ball speed"), ("date,speed_mps\n", "no speeds in it")],
)  # fmt: skip
def test_a_file_of_speeds_is_read_or_refused_in_words(tmp_path, text, found):
    path = tmp_path / "radar.csv"
    path.write_text(text)
    if isinstance(found, str):
        with pytest.raises(FormatError, match=found) as fault:
            read_speeds(path)
        assert str(fault.value).startswith("radar.csv: ")
    else:
        assert read_speeds(path) == {day: pytest.approx(speeds, abs=0.01) for day, speeds in found.items()}


def test_speeds_are_typed_in_the_log_and_read_again(desk_window, qtbot, tmp_path, monkeypatch):
    app = desk_window()
    app.go_to("Plan")
    app.plan.turn_to("log")
    press = next(one for one in app.plan.findChildren(QPushButton) if one.text() == "Speeds without footage…")
    press.click()
    dialog = app.plan.flow.dialog
    dialog.typed.setPlainText("33,1; 32.8 m/s, 74 mph 33")
    save = dialog.buttons.button(dialog.buttons.StandardButton.Save)
    dialog.day.setDate(dialog.day.date().addDays(-3))  # the day's own are shown: none yet
    assert dialog.typed.toPlainText() == ""
    dialog.typed.setPlainText("33.1; quick")
    save.click()
    assert dialog.isVisible() and "quick” is not understood" in dialog.fault.text()
    dialog.typed.setPlainText("33.1; 32.8 m/s, 74 mph\n33")
    day = dialog.day.date().toString("yyyy-MM-dd")
    save.click()
    library, wren = app.library.store, app.plan.flow.athlete
    idle(qtbot, app)
    assert typed_speeds(library, wren, day) == pytest.approx((33.1, 32.8, 33.081, 33.0), abs=0.01)
    log = app.plan.log
    qtbot.waitUntil(lambda: log.measures.count() and not app.jobs.busy, timeout=60000)
    assert any(log.measures.item(n).text().startswith("Ball speed") for n in range(log.measures.count()))
    press.click()
    path = tmp_path / "days.csv"
    path.write_text("date,speed_mph\n2026-11-02,70\n")
    monkeypatch.setattr("waxtwin.ui.rooms.plan.day_dialog.ask_one", lambda *_: path)
    next(one for one in app.plan.flow.dialog.findChildren(QPushButton) if "CSV" in one.text()).click()
    assert typed_speeds(library, wren, "2026-11-02") == pytest.approx((31.29,), abs=0.01)


def test_what_an_arm_sensor_said_is_kept_by_throw_told_by_kind_and_judged_by_nothing(
    desk_window, qtbot, tmp_path, monkeypatch
):
    app = desk_window()
    app.go_to("Plan")
    app.plan.turn_to("log")
    log, flow = app.plan.log, app.plan.flow
    app.library.change(lambda library: keep_plan(library, flow.athlete, Plan(1, (), "2026-10-01"), "A plan"), 0)
    press = next(one for one in app.plan.findChildren(QPushButton) if one.text() == "Arm sensor…")
    press.click()
    dialog = flow.dialog
    save = dialog.buttons.button(dialog.buttons.StandardButton.Save)
    dialog.typed.setPlainText("52,5; third: 48")
    save.click()
    assert dialog.isVisible() and "third” is not the number of a throw" in dialog.fault.text()
    dialog.typed.setPlainText("52,5; 3: 48")
    dialog.unit.setText("N·m")
    dialog.make.setText("cuff")
    day = dialog.iso_day
    save.click()
    library, wren = app.library.store, flow.athlete
    assert arm_readings(library, wren) == (
        ArmReading(day, 52.5, "N·m", "cuff"),
        ArmReading(day, 48.0, "N·m", "cuff", 3),
    )
    assert speeds_of(library, wren) == () and not any(
        one.thrown == 2 for one in flow.state.days
    )  # no throws of its own
    arm = log.cards[-1]
    says = arm.says.text()
    assert any("Arm sensor (N·m, cuff): 50.2 on" in one.text() for one in arm.findChildren(QLabel))
    path = tmp_path / "cuff.csv"
    path.write_text("date,value,unit,make,throw\n2026-09-01,61,N·m,cuff,1\n2026-09-01,200,,other,\n")
    monkeypatch.setattr("waxtwin.ui.rooms.plan.day_dialog.ask_one", lambda *_: path)
    press.click()
    assert (flow.dialog.typed.toPlainText(), flow.dialog.unit.text()) == ("52.5; 3: 48", "N·m")
    next(one for one in flow.dialog.findChildren(QPushButton) if "CSV" in one.text()).click()
    told = next(one.text() for one in log.cards[-1].findChildren(QLabel) if "Arm sensor" in one.text())
    assert "61 on 1 Sep (1 read, 61 to 61), 50.2 on" in told and "200" not in told  # another kind is not put among them
    assert log.cards[-1].says.text() == says
    assert "Arm sensor: N·m, cuff" in [one.titleLabel.text for one in log.trend.plots.ci.items]
    app.library.undo()
    assert len(arm_readings(library, wren)) == 2


@pytest.mark.parametrize(
    ("text", "fault"),
    [("date,value\n2026-11-02,much\n", "line 2: “much” is not a number"), ("date\n2026-11-02\n", "needs a column “value”"),
     ("date,value,throw\n2026-11-02,3,0\n", "line 2: “0” is not the number"), ("date,value\n2026-11-02,-3\n", "no reading of an arm sensor"),
     ("date,value\nyesterday,3\n", "line 2: a day is written")],
)  # fmt: skip
def test_a_file_of_an_arm_sensor_is_refused_in_words(tmp_path, text, fault):
    path = tmp_path / "cuff.csv"
    path.write_text(text)
    with pytest.raises(FormatError, match=fault) as found:
        read_arm_readings(path)
    assert str(found.value).startswith("cuff.csv: ")
