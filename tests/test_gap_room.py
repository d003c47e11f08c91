"""The Gap room as an analyst uses it: what to look at, rulings, schools, what if, the body."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QLabel, QPushButton

from waxtwin.core.capacity import FAILED, MEASURED, Reading
from waxtwin.core.contrast import UNAVAILABLE
from waxtwin.core.measures.registry import NO_HEIGHT
from waxtwin.library.playbook import own_schools
from waxtwin.library.throws import fetch
from waxtwin.ui.shared.measure_row import MeasureRow
from waxtwin.ui.shared.posed_figure import PosedFigure


@pytest.fixture
def gap(desk_window, qtbot):
    """The room on the demo's pair, explained."""
    app = desk_window(explained=True)
    qtbot.waitUntil(lambda: app.desk.pair.explanation is not None and not app.jobs.busy, timeout=60000)
    app.go_to("Gap")
    return app


def focus_of(app):
    return [one.id for one in app.desk.pair.explanation.judgement.focus]


def test_the_room_says_where_the_speed_is_lost_and_what_to_look_at(gap):
    room = gap.gap
    assert "m/s of ball speed to the twin" in room.sentence.text() and "not proof of cause" in room.account.text()
    listed = [room.findings.list.item(i).text() for i in range(room.findings.list.count())]
    found = gap.desk.pair.explanation.judgement
    assert len(listed) == len(found.findings) and listed[0] == found.focus[0].rule.title
    assert room.findings.detail.plain.text() == found.focus[0].rule.plain
    assert "Known to be alike" in room.findings.beside.text() and "Style, leave it" in room.findings.beside.text()
    gap.desk.view.set_imperial(True)
    assert "mph" in room.account.text() and "mph" in room.sentence.text()


def test_where_nothing_was_found_it_says_what_differs_and_what_would_tell_more(gap, qtbot):
    room, pair = gap.gap, gap.desk.pair.contrast
    missing = ("twin: the stop “lift” is not known", "athlete: the stop “lift” is not known", f"athlete: {NO_HEIGHT}")
    vague = {f"Question {n}?": (replace(pair.rows[n], verdict=UNAVAILABLE, difference=None, reason=reason),)
             for n, reason in enumerate(missing)}  # fmt: skip
    found = gap.desk.pair.explanation
    none = replace(found, judgement=replace(found.judgement, findings=(), told=(), open=vague))
    room.findings.show_explanation(none)
    view = room.findings.open
    assert view.isVisible() and not room.findings.list.isVisible() and "only 0 of 3 questions" in view.says.text()
    rows = view.findChildren(MeasureRow)
    assert [one.row for one in rows] == list(pair.differing[: len(rows)]) and len(rows) > 5
    assert all(one.text() for one in view.findChildren(QLabel) if "alike" in one.text())
    posed = view.findChildren(PosedFigure)
    assert [one.item.id for one in posed] == [rows[0].row.measure.id] * 2
    qtbot.mouseClick(rows[2], Qt.MouseButton.LeftButton)
    assert posed[0].item.id == rows[2].row.measure.id
    qtbot.mouseClick(view.see, Qt.MouseButton.LeftButton)
    assert gap.window.room is gap.pair and gap.desk.view.selected == rows[2].row.measure.id
    gap.go_to("Gap")
    helped = [b for b in view.findChildren(QPushButton) if b.text() == "Do it"]
    assert ["lift" in b.accessibleName() for b in helped] == [True, False]  # two questions, then one
    qtbot.mouseClick(helped[0], Qt.MouseButton.LeftButton)
    assert gap.window.room is gap.pair and gap.desk.clock.stop == "peak_knee"
    gap.go_to("Gap")
    qtbot.mouseClick(helped[1], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: gap.window.room is gap.prepare and gap.prepare.state.work is not None, timeout=20000)
    assert gap.prepare.state.work.key == gap.desk.pair.stored["athlete"].key
    room.findings.show_explanation(found)
    assert not view.isVisible()


def test_hovering_evidence_lights_it_and_it_can_be_seen_on_the_pair(gap):
    room = gap.gap
    room.findings.choose("trunk_forward_at_landing")
    rows = room.findings.detail.findChildren(MeasureRow)
    assert "landing_trunk_tilt" in [row.row.measure.id for row in rows]
    posed = room.findings.detail.findChildren(PosedFigure)
    gap.desk.view.hover(rows[1].row.measure.id)
    assert [one.item.id for one in posed] == [rows[1].row.measure.id] * 2
    gap.desk.view.hover(None)
    assert posed[0].item.id == "landing_trunk_tilt"
    room.findings.detail.buttons["see"].click()
    assert gap.window.room is gap.pair and gap.desk.view.selected == "landing_trunk_tilt"
    assert gap.desk.clock.stop == "foot_contact"


def test_a_finding_is_set_aside_with_a_reason_kept_and_taken_back(gap, qtbot, monkeypatch):
    room = gap.gap
    first = focus_of(gap)[0]
    room.findings.choose(first)
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("her <i>own</i> way", True))
    room.findings.detail.buttons["aside"].click()
    assert first not in focus_of(gap)
    last = gap.desk.pair.explanation.judgement.findings[-1]
    assert last.id == first and last.set_aside == "her <i>own</i> way"
    key = gap.desk.pair.stored["athlete"].key
    kept = fetch(gap.library.store, key).sidecar.model_extra["rulings"]
    assert kept["set_aside"] == {first: "her <i>own</i> way"}
    gap.actions["undo"].trigger()
    qtbot.waitUntil(lambda: not gap.jobs.busy and first in focus_of(gap), timeout=60000)


def test_a_finding_is_taken_into_the_focus_and_left_to_its_rank(gap):
    room = gap.gap
    before = focus_of(gap)
    other = next(one.id for one in gap.desk.pair.explanation.judgement.findings
                 if one.id not in before and one.rule.kind == "technique")  # fmt: skip
    room.findings.choose(other)
    room.findings.detail.buttons["accept"].click()
    assert other in focus_of(gap) and len(focus_of(gap)) == 2
    room.findings.detail.buttons["open"].click()
    assert focus_of(gap) == before


def test_another_school_speaks_and_landing_goes_with_it(gap, qtbot):
    room = gap.gap
    box = room.school
    box.setCurrentIndex(box.findData("coil"))
    box.activated.emit(box.currentIndex())
    assert gap.desk.pair.explanation.perspective.school.id == "coil" and gap.desk.pair.landing == "plant"
    assert gap.settings.school == "coil"
    qtbot.waitUntil(lambda: not gap.jobs.busy and gap.desk.pair.contrast.athlete.landing == "plant", timeout=60000)
    acts = {one.id: one.acts for one in gap.desk.pair.explanation.judgement.findings}
    assert acts.get("weight_back_at_break", False) is False


def test_a_house_school_is_copied_changed_kept_and_removed(gap, qtbot):
    gap.gap.flow.show_schools()
    dialog = gap.gap.flow.dialog
    assert dialog.compare.columnCount() == 8 and dialog.compare.rowCount() == len(dialog._findings)
    first = {dialog.first.item(n, 0).text(): dialog.first.item(n, 1).text() for n in range(dialog.first.rowCount())}
    assert len(first) == 7 and first["Drive school"] == "Head further forward at landing" != first["Common ground"]
    dialog.copy_as("Lanterns")
    acts, weight, why = dialog._rows["trunk_forward_at_landing"]
    acts.setChecked(False)
    why.setText("we land forward")
    weight.setValue(0.2)
    dialog.keep()
    assert (own_schools() / "house1.json").is_file() and gap.settings.school == "house1"
    seen = {one.id: one for one in gap.desk.pair.explanation.judgement.findings}
    assert not seen["trunk_forward_at_landing"].acts and "trunk_forward_at_landing" not in focus_of(gap)
    assert seen["trunk_forward_at_landing"].reason == "we land forward"
    gap.gap.flow.show_schools()
    gap.gap.flow.dialog._turn_to("house1")
    gap.gap.flow.dialog._remove()
    assert not list(own_schools().glob("*.json")) and gap.settings.school == "common"


def test_what_if_moves_the_figure_and_says_the_speed(gap, qtbot):
    room, what = gap.gap, gap.gap.whatif
    room.turn_to("whatif")
    mine = what.speed.text()
    assert "33.23 m/s" in mine
    still = what.chimera.grab().toImage()
    what.sliders["trunk"].setValue(100)
    assert what.speed.text() != mine and what.chimera.grab().toImage() != still
    qtbot.waitUntil(lambda: "known to" in what.spread.text(), timeout=10000)
    what.preset("all")
    assert what.speed.text().startswith("38.88 m/s")
    what.preset("none")
    assert what.speed.text() == mine and what.chimera.grab().toImage() == still
    what.preset("first")
    wanted = set(gap.desk.pair.explanation.judgement.focus[0].rule.factors)
    assert {name for name, share in what.shares.items() if share} == wanted
    what.play.setChecked(True)
    at = what.phase.value()
    qtbot.waitUntil(lambda: what.phase.value() != at, timeout=5000)
    what.keep.click()
    kept = fetch(gap.library.store, gap.desk.pair.stored["athlete"].key).sidecar.model_extra["target"]
    assert set(kept["shares"]) == wanted and kept["speed_mps"] > 30
    room.turn_to("chain")
    assert not what.play.isChecked()


def test_screening_is_kept_with_its_states_and_speaks(gap, qtbot):
    room, body = gap.gap, gap.gap.body
    room.turn_to("body")
    assert "Nothing was screened" in body.said.text()
    body.fields["single_leg:glove"].value.setValue(0.3)
    body.fields["press"].failed.setChecked(True)
    body.fields["hip_extension:throwing"].value.setValue(4)
    body.by.setText("R. Tollander")
    body.pain.setText("elbow, since May")
    body.dates["single_leg"].setText("yesterday")
    body.keep.click()
    assert "not a date" in body.fault.text()
    body.dates["single_leg"].setText("2026-11-20")
    body.keep.click()
    readings = gap.desk.pair.explanation.perspective.capacity.readings
    assert readings["single_leg:glove"].state == MEASURED and readings["single_leg:glove"].date == "2026-11-20"
    assert readings["press"].state == FAILED and readings["press"].value is None
    assert "failed on the day" in body.said.text() and "below the band" in body.said.text()
    assert "Pain was reported (elbow, since May)" in room.cautions.text
    assert "not held against its band: say how it was tested" in body.said.text()
    body.tests["hip_extension"].setCurrentIndex(1)
    body.keep.click()
    assert "Hip extension, throwing side: 4 deg, below the band" in body.said.text()
    kept = gap.desk.pair.explanation.perspective.capacity.readings["hip_extension:throwing"]
    assert kept.test.mode == "passive" and kept.by == "R. Tollander"
    gap.actions["undo"].trigger()
    qtbot.waitUntil(lambda: not gap.jobs.busy, timeout=60000)
    gap.actions["undo"].trigger()
    qtbot.waitUntil(
        lambda: not gap.jobs.busy and not gap.desk.pair.explanation.perspective.capacity.pain, timeout=60000
    )


def test_the_form_of_one_body_holds_nothing_of_another(gap):
    body, found = gap.gap.body, gap.desk.pair.explanation
    gap.gap.turn_to("body")
    capacity, item = found.perspective.capacity, found.perspective.capacity.screening.items["hip_extension"]
    kept = {"hip_extension:glove": Reading(MEASURED, 12.0, "2026-11-20", item.tests[1], "R. Tollander")}
    for who, readings in (("one", kept), ("two", {})):
        seen = replace(capacity, readings=readings)
        body.show_explanation(replace(found, perspective=replace(found.perspective, capacity=seen)), who)
        filled = bool(readings)
        assert bool(body.dates["hip_extension"].text()) is filled and bool(body.by.text()) is filled
        assert (body.tests["hip_extension"].currentData() == item.tests[1]) is filled
        assert (body.fields["hip_extension:glove"].value.value() == 12.0) is filled


def test_the_arm_opens_into_its_parts(gap):
    shares = gap.gap.shares
    gap.gap.turn_to("shares")
    account = gap.desk.pair.explanation.case.borrowed
    shares.show_account(replace(account, factors=(account.singles["size"], account.singles["arm"])))
    assert [one.id for one, _ in shares.bars()] == ["size", "arm"]
    shares.setFocus()
    QTest.keyClick(shares, Qt.Key.Key_Return)
    assert [(one.id, part) for one, part in shares.bars()] == [
        ("size", False), ("arm", False), ("shoulder", True), ("elbow_hand", True)
    ]  # fmt: skip
    QTest.mouseClick(shares, Qt.MouseButton.LeftButton, pos=QPoint(20, round(1.5 * shares._step())))
    assert len(shares.bars()) == 2


def test_an_empty_room_says_what_to_do(desk_window):
    app = desk_window(demo=False)
    app.go_to("Gap")
    assert "Choose a pair on the Bench" in app.gap._hint.text() and not app.gap.pages.isVisible()
