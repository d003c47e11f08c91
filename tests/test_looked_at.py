"""Two clips that are looked at and not measured: what is sent out shows their frames and what was seen by eye."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from html import unescape

import cv2
import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QInputDialog

from conftest import idle
from test_clips_first import app, bare, clips, set_stop  # noqa: F401 - fixtures
from test_prepare import press
from waxtwin.core.analysis import resolve
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.explain import Perspective, explain
from waxtwin.core.eye import EyeAnswer, Looked
from waxtwin.core.plan import Plan, seen_by_eye
from waxtwin.library.eye import load_checks
from waxtwin.library.playbook import load_schools, shipped_playbook
from waxtwin.report.document import compose
from waxtwin.report.page import html
from waxtwin.report.parts import PARTS, Material, Wish

TODAY = date(2026, 11, 30)
TIMES = {"peak_knee": 0.4, "foot_contact": 1.0, "release": 1.15}


@pytest.fixture
def material():
    """Two bare clips with three stops each, on which somebody saw the chests differ at landing, and the glove alike."""
    pair = contrast(*map(resolve, analyse_pair(bare(240.0, 2.0, times=TIMES), bare(60.0, 2.0, times=TIMES))))
    said = [{"eye_landing_chest": chest, "eye_landing_glove": "closed"} for chest in ("plate", "side")]
    answers = [{check: EyeAnswer(one, "Marla Quay") for check, one in side.items()} for side in said]
    schools = load_schools()[0]
    view = Perspective(
        shipped_playbook(), schools[0], tuple(schools[1:]), looked=Looked(tuple(load_checks()[0]), *answers)
    )
    return Material(pair, explain(pair, view), tasks=shipped_playbook().tasks)


def test_a_report_of_clips_alone_says_what_was_seen_and_claims_no_measure(material):
    report = compose(material, Wish(), TODAY)
    assert not report.measured and not report.things and not report.account
    assert "looked at by eye and not measured" in report.opening and "left open" in report.opening
    assert [(one.answers, one.differs) for one in report.seen] == [
        (("to the plate", "to the side"), True), (("closed, in front", "closed, in front"), False),
    ]  # fmt: skip
    assert [picture.caption.split(".")[0] for picture in report.pictures] == [
        "Top of the lift",
        "Front foot touches",
        "Release",
    ]
    landing = report.pictures[1].caption
    assert "To the plate, the twin: to the side" in landing and "glove" not in landing
    page = unescape(html(report, {}))
    assert "How this was looked at" in page and "What this footage leaves open" not in page
    assert "240 (the athlete's) and 60 (the twin's) frames a second" in page
    assert all(one in page for one in report.cautions)
    assert compose(material, Wish(parts=frozenset(PARTS) - {"eye"}), TODAY).seen == ()


def test_what_was_seen_is_offered_to_be_worked_on_and_never_proposed(material):
    found = material.explanation
    assert not found.judgement.focus
    offered = seen_by_eye(found.judgement, found.perspective.school, found.perspective.playbook)
    [chosen] = [one for one in offered if one.finding == "shoulders_early"]
    assert chosen.tasks and chosen.target is None
    report = compose(replace(material, plan=Plan(1, (chosen,))), Wish(), TODAY)
    assert "one thing to work on, chosen by eye" in report.opening
    assert report.things[0].tasks and report.things[0].picture is None and report.things[0].stands == ""


def test_from_two_clips_to_what_is_handed_over(app, qtbot, tmp_path, monkeypatch):  # noqa: F811
    app.go_to("Report")
    idle(qtbot, app)
    assert "set some in the Pair room" in app.report.hint.text()
    assert not any(button.isEnabled() for button in app.report.buttons.values())
    app.go_to("Pair")
    for time, key in ((0.3, Qt.Key.Key_6), (0.5, Qt.Key.Key_9)):
        app.desk.clock.go(time)
        set_stop(app, qtbot, key)
    answer(app, qtbot, "eye_release_head")
    # what was seen is at hand in the plan, and nothing is lost where the Gap room proposes nothing
    titles = []
    monkeypatch.setattr(
        QInputDialog, "getItem", lambda *words: titles.append(words[3]) or (words[3][min(1, len(titles))], True)
    )
    app.go_to("Plan")
    idle(qtbot, app)
    qtbot.mouseClick(app.plan.sheet.buttons["own"], Qt.MouseButton.LeftButton)
    assert [card.focus.title for card in app.plan.sheet.cards] == titles[0][1:] == ["More upright at release"]
    qtbot.mouseClick(app.plan.sheet.buttons["propose"], Qt.MouseButton.LeftButton)
    assert "proposes nothing" in app.notice.text and len(app.plan.sheet.cards) == 1
    # the report shows the frames that were set
    app.go_to("Report")
    idle(qtbot, app)
    assert app.report.form.footage.isHidden() and "so the clip is shown" in app.report.form.drawn.text()
    report, images = app.report.flow._made(app.report.flow.wish)
    assert [thing.title for thing in report.things] == titles[0][1:] and len(report.seen) == 1
    for stop in ("foot_contact", "release"):
        for side, rate in (("athlete", 240), ("twin", 60)):
            shown = block_of(images.picture(stop, ()), side)
            at = app.desk.pair.event_times(side)[stop]
            frames = {round(at * rate) + by for by in ((0,) if side == "athlete" else (-1, 0, 1))}
            assert any(abs(shown - ((frame * 5) % 300 + 10)) < 4 for frame in frames), (stop, side)
    whole = block_of(images.picture("foot_contact", ()), "athlete")
    app.desk.closeups.nearer("athlete", 2.0, (0.25, 0.5), ("athlete", "twin"))  # as the stages are looked at
    near = app.report.flow._made(app.report.flow.wish)[1].picture("foot_contact", ())
    assert block_of(near, "athlete") == pytest.approx(80 + 2 * (whole - 80), abs=4)
    monkeypatch.setattr("waxtwin.ui.rooms.report.flow.ask_save", lambda *words: tmp_path / "looked.html")
    monkeypatch.setattr(app.report.flow, "_not_agreed", lambda: ["Somebody is under age."])
    qtbot.mouseClick(app.report.buttons["html"], Qt.MouseButton.LeftButton)
    assert "under age" in app.report.flow.agreed.text() and not (tmp_path / "looked.html").exists()
    press(qtbot, app.report.flow.agreed, "Save")
    qtbot.waitUntil(lambda: "Written: looked.html" in app.notice.text, timeout=20000)
    assert "More upright at release" in (tmp_path / "looked.html").read_text()
    # data hold what there is, and the film goes on to what is to be done
    app.report.flow.save("data", tmp_path / "data")
    qtbot.waitUntil(lambda: "Written: data" in app.notice.text and not app.jobs.busy, timeout=20000)
    assert {one.suffix for one in (tmp_path / "data").iterdir()} == {".csv", ".json"}
    assert not [one for one in (tmp_path / "data").iterdir() if "curves" in one.name]
    app.go_to("Talk")
    qtbot.mouseClick(app.talk.buttons["draft"], Qt.MouseButton.LeftButton)
    scenes = [scene.title for scene in app.talks.talk.scenes]
    assert scenes[:4] == ["first beside second", "At real speed", "Front foot touches", "Release"]
    assert "More upright at release" in scenes and scenes[-1] == "Until then"


def answer(app, qtbot, check):  # noqa: F811
    """Answer a check by keys: its second answer for the athlete, its first for the twin."""
    flow = app.pair.eye
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_B)
    for _ in range(40):
        if flow.at_hand.id != check:
            qtbot.keyClick(app.pair.seam, Qt.Key.Key_M)
    for key in (Qt.Key.Key_J, Qt.Key.Key_J, Qt.Key.Key_L):
        qtbot.keyClick(app.pair.seam, key)
    assert flow.at_hand.id == check and flow.answer_of("twin", flow.at_hand).answer == "over"


def block_of(jpeg, side):
    """The middle of the coloured block in one half of a picture, in pixels of the clip seen whole."""
    picture = cv2.imdecode(np.frombuffer(jpeg, np.uint8), cv2.IMREAD_COLOR)
    half = picture.shape[1] // 2
    low = (picture[:, :half] if side == "athlete" else picture[:, half:]).astype(int)
    red = (low[..., 2] > 150) & (low[..., 1] < 110)
    return float(np.flatnonzero(red.any(axis=0)).mean()) * 320 / half
