"""The Plan room as an analyst uses it: take over the focus, set targets, hand over, note, look back."""

from dataclasses import replace

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QPushButton

from conftest import DEMO, idle
from films import film
from waxtwin.core.trend import ArmNote
from waxtwin.library.plans import catalogue, plans_of
from waxtwin.ui.rooms.plan.arm_dialogs import ArmDialog, LimitsDialog


@pytest.fixture
def room(desk_window, qtbot):
    """The window in the Plan room on the demo's pair, explained."""
    app = desk_window(explained=True)
    qtbot.waitUntil(lambda: app.desk.pair.explanation is not None and not app.jobs.busy, timeout=60000)
    app.go_to("Plan")
    idle(qtbot, app)
    return app


def press(qtbot, dialog, words):
    button = next(one for one in dialog.findChildren(QPushButton) if one.text() == words)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)


def kept(app):
    return plans_of(app.library.store, app.plan.flow.athlete)


def test_from_the_gap_to_a_plan_that_is_handed_over_and_gone_on_from(room, qtbot, monkeypatch):
    sheet = room.plan.sheet
    assert sheet.cards == [] and not sheet.buttons["sent"].isEnabled()
    qtbot.mouseClick(sheet.buttons["propose"], Qt.MouseButton.LeftButton)
    focus = [one.id for one in room.desk.pair.explanation.judgement.focus]
    assert [card.focus.finding for card in sheet.cards] == focus == [f.finding for f in kept(room)[0].focus]
    card = sheet.cards[0]
    assert "the twin's figure" in card.said.text() and not sheet.buttons["own"].isEnabled()
    # a figure of one's own
    card.aim.setValue(card.aim.value() + 3)
    card.aim.editingFinished.emit()
    target = kept(room)[0].focus[0].target
    assert target.source == "own" and "chosen by hand" in sheet.cards[0].said.text()
    # another measure, and back to what the twin shows
    card = sheet.cards[0]
    at = card.measure.findData("stride_length")
    card.measure.activated.emit(at)
    assert kept(room)[0].focus[0].target.measure == "stride_length"
    assert sheet.cards[0].source.currentData().source == "twin"
    # one task less
    card, before = sheet.cards[0], len(kept(room)[0].focus[0].tasks)
    button = next(b for b in card.findChildren(type(sheet.buttons["own"])) if b.text() == "Leave out")
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert len(kept(room)[0].focus[0].tasks) == before - 1
    for _ in range(2):
        room.library.undo()
    assert sheet.cards[0].focus.target == target
    qtbot.mouseClick(sheet.buttons["sent"], Qt.MouseButton.LeftButton)
    first = kept(room)[0]
    assert first.sent and first.start == first.sent and "handed over" in sheet.versions.text()
    sheet.notes.setText("two weeks of easy throws")
    sheet.notes.editingFinished.emit()
    assert [p.version for p in kept(room)] == [1, 2] and kept(room)[0] == first
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Quiet head", True))
    sheet.cards[1].changed.emit(None, "off")
    qtbot.mouseClick(sheet.buttons["own"], Qt.MouseButton.LeftButton)
    assert [f.title for f in kept(room)[1].focus][1] == "Quiet head"


def test_targets_follow_the_units_tasks_the_catalogue_and_plans_the_athlete(room):
    room.plan.flow.propose()
    sheet = room.plan.sheet
    at = sheet.cards[0].measure.findData("peak_speed_hand")
    sheet.cards[0].measure.activated.emit(at if at >= 0 else 1)
    sheet.cards[0].measure.activated.emit(sheet.cards[0].measure.findData("peak_speed_throwing_shoulder"))
    metric = sheet.cards[0].aim.value()
    room.desk.view.set_imperial(True)
    card = sheet.cards[0]
    assert card.aim.suffix() == " mph" and card.aim.value() == pytest.approx(metric * 2.237, rel=0.02)
    sheet.speed.lineEdit().setText("75")  # in the units that are chosen
    sheet.speed.interpretText()
    sheet.speed.editingFinished.emit()
    assert sheet.speed.text() == "75.0 mph"
    assert kept(room)[0].speed_aim == pytest.approx(33.53, abs=0.01)
    # the practice catalogue
    room.plan.flow.show_catalogue(0)
    dialog = room.plan.flow.dialog
    dialog.search.setText("wall")
    shown = [dialog.list.item(i).text() for i in range(dialog.list.count())]
    assert (
        shown and all("all" in name.lower() or name for name in shown) and len(shown) < len(room.plan.flow.state.tasks)
    )
    dialog.start_new()
    dialog.title.setText("Towel throws <b>")
    QTest.keyClick(dialog.title, Qt.Key.Key_Return)  # begins no other one over what was typed
    dialog.fields["how"].setPlainText("with a towel, =1+1")
    dialog.keep()
    assert any(task.title == "Towel throws <b>" for task in room.plan.flow.state.tasks.values())
    dialog._take()
    assert any("Towel" in room.plan.flow.state.tasks[key].title for key in kept(room)[0].focus[0].tasks)
    assert "Towel throws <b>  ·" in " ".join(
        label.text() for label in room.plan.sheet.cards[0].findChildren(type(room.plan.hint))
    )
    # another athlete has another plan
    mine = room.plan.flow.athlete
    other = next(key for key, name in room.plan.flow.state.people.items() if name == "Pell Ardmoor")
    room.plan.flow.choose(other)
    assert room.plan.sheet.cards == [] and not room.plan.sheet.buttons["propose"].isEnabled()
    room.plan.flow.propose()
    assert "nothing for this athlete" in room.notice.text and plans_of(room.library.store, other) == ()
    room.plan.flow.choose(mine)
    assert room.plan.sheet.cards


def test_the_log_says_whether_it_worked(desk_window, qtbot, monkeypatch):
    monkeypatch.setattr(
        "waxtwin.library.log.resolve",
        lambda analysis: __import__("waxtwin.core.analysis").core.analysis.resolve(analysis, 16),
    )
    app = desk_window()
    done = []
    files = [DEMO / f"wren-tollander-october-{n}.csv" for n in (1, 2, 3)] + [
        DEMO / f"wren-tollander-{n}.csv" for n in (2, 3)
    ]
    app.library.bring(files, then=done.append)
    qtbot.waitUntil(lambda: bool(done), timeout=60000)
    from waxtwin.library.athletes import take_person

    take_person(app.library.store, DEMO / "wren-tollander.athlete.json")
    app.go_to("Plan")
    app.plan.flow.read()
    qtbot.waitUntil(lambda: not app.jobs.busy and app.plan.flow.state.figures != (), timeout=60000)
    app.plan.turn_to("log")
    log = app.plan.log
    assert [card.says.text()[3:] for card in log.cards][0::2] == ["yes, it did", "sore, 2 of 10"]
    assert log.measures.item(0).text().startswith("★ Trunk lean") and "changed" in log.measures.item(0).text()
    assert "Within what was entered" in log.limits.text() and log.days.count() == 5
    # a note, a count and limits
    dialog = ArmDialog(__import__("datetime").date(2026, 11, 15), log)
    dialog.kept.connect(app.plan.flow.note_arm)
    dialog.soreness.setValue(4)
    dialog.place.setText("elbow")
    dialog.since.setText("yesterday")
    dialog.keep()
    assert "not a date" in dialog.fault.text() and "4 of 10" in dialog.said.text()
    dialog.since.setText("2026-11-14")
    dialog.keep()
    assert "sore, 4 of 10" in log.cards[2].says.text()
    monkeypatch.setattr(QInputDialog, "getInt", lambda *a, **k: (90, True))
    log._ask_thrown()
    assert "the limit entered for Saltmarrow Sound" in log.limits.text() and log.limits.text().startswith("▲")
    limits = LimitsDialog(app.plan.flow.state.limits, log)
    assert limits.most.value() == 75 and [a.value() for a, _ in limits.rest] == [31, 46, 61]
    app.plan.flow.forget_note(next(n for n in app.plan.flow.state.notes if n.soreness == 4))
    assert "sore, 2 of 10" in log.cards[2].says.text()
    app.plan.flow.note_arm(ArmNote("2026-11-15", 0))
    assert log.notes.count() == 6


def test_an_empty_room_says_what_to_do(desk_window):
    app = desk_window(demo=False)
    app.go_to("Plan")
    assert "open a library" in app.plan.hint.text()
    assert not app.plan.athlete.isVisible()
    app.plan.flow.note_arm(replace(ArmNote("2026-11-15", 1)))  # with nobody there, nothing happens


def test_an_own_clip_stands_where_a_task_is_drawn_and_goes_again(room, qtbot, monkeypatch, tmp_path):
    room.plan.flow.show_catalogue(None)
    dialog = room.plan.flow.dialog
    key = dialog._key
    figures = dialog.strip.grab().toImage()
    film(tmp_path / "towel.mp4", count=30)
    (tmp_path / "broken.png").write_bytes(b"no picture")
    chosen = tmp_path / "broken.png"
    monkeypatch.setattr("waxtwin.ui.rooms.plan.flow.ask_one", lambda *a: chosen)
    press(qtbot, dialog, "Own picture or clip…")
    qtbot.waitUntil(lambda: "broken.png" in dialog.said.text() and not room.jobs.busy, timeout=20000)
    chosen = tmp_path / "towel.mp4"
    press(qtbot, dialog, "Own picture or clip…")
    qtbot.waitUntil(lambda: not dialog.strip.picture.isNull() and not room.jobs.busy, timeout=20000)
    assert dialog.strip.grab().toImage() != figures
    press(qtbot, dialog, "Keep as changed")
    assert catalogue(room.library.store)[key].picture.startswith(b"\x89PNG")
    assert catalogue(room.library.store)[key].shows == catalogue(None)[key].shows
    press(qtbot, dialog, "The figures again")
    press(qtbot, dialog, "Keep as changed")
    assert dialog.strip.picture.isNull() and not catalogue(room.library.store)[key].picture
    room.actions["undo"].trigger()
    assert catalogue(room.library.store)[key].picture
    dialog.reject()
