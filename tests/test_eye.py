"""Eye checks: asked at their stop, answered by one key a side, kept with who and when, evidence and never a figure."""

from __future__ import annotations

import json

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from conftest import clean
from waxtwin.core.contrast import contrast
from waxtwin.core.explain import Perspective, explain
from waxtwin.core.eye import UNSEEN, EyeAnswer, EyeCheck, Feed, Looked, asked_by
from waxtwin.core.measures import MEASURES
from waxtwin.core.steps import finish
from waxtwin.library.bundles import bundle_pair, open_bundle
from waxtwin.library.eye import answers_of, load_checks, own_file, read_checks
from waxtwin.library.pairs import open_pair
from waxtwin.library.playbook import load_schools, shipped_playbook
from waxtwin.library.store import Library
from waxtwin.library.throws import fetch
from waxtwin.ui.model.gauges import GAUGES


def test_shipped_checks_are_whole():
    checks, said = load_checks()
    rules, schools = {rule.id for rule in shipped_playbook().rules}, {one.id for one in load_schools()[0]}
    assert len(checks) >= 20 and not said and len({one.id for one in checks}) == len(checks)
    for one in checks:
        assert {feed.finding for feed in one.feeds} <= rules and set(one.schools) <= schools, one.id
        assert one.gauge in ("", *GAUGES) and one.question.endswith("?") and one.look, one.id
    assert len({one.at for one in checks}) == 10
    assert all(len(asked_by(checks, one)) >= 4 for one in schools)


def looked(athlete, twin=None):
    checks = tuple(load_checks()[0])
    answers = [{} if one is None else {"eye_landing_chest": EyeAnswer(one, "Marla Quay", "2026-11-29T09:00:00")}
               for one in (athlete, twin)]  # fmt: skip
    return Looked(checks, *answers)


def test_answers_speak_for_and_against_findings_and_count_in_nothing():
    pair = contrast(clean("wren"), clean("ines"))
    schools = load_schools()[0]
    views = {
        key: Perspective(shipped_playbook(), schools[0], tuple(schools[1:]), looked=given)
        for key, given in (("none", None), ("for", looked("plate", "side")), ("alike", looked("plate", "plate")),
                           ("unseen", looked(UNSEEN, "side")), ("against", looked("side")))
    }  # fmt: skip
    found = {key: explain(pair, view).judgement for key, view in views.items()}

    def said(key):
        one = next((one for one in found[key].findings if one.id == "shoulders_early"), None)
        if one is None:
            return found[key].by_eye.get("Less separation: the shoulders are earlier", ()), ()
        return one.seen, one.seen_against

    [words] = said("for")[0]
    assert words.startswith(
        "Seen by eye: Which way do the chest letters look as the foot touches? To the plate, the twin: "
    )
    assert "Marla Quay, 2026-11-29" in words
    assert said("unseen") == said("none") == ((), ()) and said("alike")[0] == () == said("against")[0]
    for key in found:
        assert [(one.id, one.rank, one.share, one.confidence, one.in_focus) for one in found[key].findings] == [
            (one.id, one.rank, one.share, one.confidence, one.in_focus) for one in found["none"].findings
        ]
    assert not set(MEASURES) & {one.id for one in load_checks()[0]}


def test_a_check_that_makes_no_sense_is_one_sentence(tmp_path):
    with pytest.raises(ValueError, match="2 to 4 answers"):
        EyeCheck("x", "set", "Why?", {"yes": "yes"}, "it")
    with pytest.raises(ValueError, match="no answer named maybe"):
        EyeCheck("x", "set", "Why?", {"yes": "yes", UNSEEN: "no"}, "it", feeds=(Feed("leap", ("maybe",)),))
    own = own_file()
    own.parent.mkdir(parents=True)
    for text in ("{", "[]", '{"checks": [{"id": 1}]}', '{"checks": [{"id": "a", "at": "moon", "question": "", "answers": {}}]}',
                 '{"checks": {"a": 3}}'):  # fmt: skip
        own.write_text(text)
        checks, said = load_checks()
        assert len(checks) >= 20 and "eye_checks.json" in said and "\n" not in said
    own.write_text(json.dumps({"checks": [{"id": "eye_set_eyes", "at": "set", "question": "Mine?",
                                           "answers": {"a": "<b>yes</b>", UNSEEN: "no"}}]}))  # fmt: skip
    [mine] = read_checks(own, own=True)
    assert next(one for one in load_checks()[0] if one.id == "eye_set_eyes") == mine


def test_keys_answer_both_sides_and_go_through_the_list(desk_window, qtbot):
    app = desk_window()
    seam, flow, pair = app.pair.seam, app.pair.eye, app.desk.pair
    app.settings.analyst = "Marla Quay"
    qtbot.keyClick(seam, Qt.Key.Key_6)
    qtbot.keyClick(seam, Qt.Key.Key_B)
    panel = app.pair.eye_panel
    check = flow.at_hand
    first, second = list(check.answers)[:2]
    qtbot.keyClick(seam, Qt.Key.Key_J)
    qtbot.keyClick(seam, Qt.Key.Key_J)
    qtbot.keyClick(seam, Qt.Key.Key_L)
    assert [flow.answer_of(side, check).answer for side in ("athlete", "twin")] == [second, first]
    assert (
        panel.answers["athlete", check.id, second].isChecked()
        and not panel.answers["athlete", check.id, first].isChecked()
    )
    kept = answers_of(fetch(app.library.store, pair.stored["athlete"].key))[check.id]
    assert (kept.answer, kept.by) == (second, "Marla Quay") and kept.at.startswith("20")
    figures = pair.contrast
    # the list goes on stop by stop, and comes round
    seen = [check.id]
    for _ in flow.asked:
        qtbot.keyClick(seam, Qt.Key.Key_M)
        seen.append(flow.at_hand.id)
        assert flow.at_hand.at == app.desk.clock.stop
    assert set(seen) == {one.id for one in flow.asked} and seen[-1] == check.id
    qtbot.mouseClick(panel.answers["athlete", check.id, second], Qt.MouseButton.LeftButton)
    assert flow.answer_of("athlete", check) is None and pair.contrast is figures
    app.do("undo")
    qtbot.waitUntil(lambda: flow.answer_of("athlete", check) is not None and not app.jobs.busy, timeout=60000)
    flow.switch_school(False)
    assert len(flow.asked) >= 20


def test_the_list_is_changed_and_a_shipped_check_comes_back(desk_window, qtbot):
    app = desk_window()
    app.pair.edit_eye_checks()
    dialog, flow = app.pair.eye_dialog, app.pair.eye
    before = len(flow.checks)

    def press(words):
        qtbot.mouseClick(
            next(b for b in dialog.findChildren(QPushButton) if b.text() == words), Qt.MouseButton.LeftButton
        )

    press("Keep as changed")
    assert flow.checks[0].own and flow.checks[0].feeds and len(flow.checks) == before
    press("Take away")
    assert not any(one.own for one in flow.checks)
    press("New check")
    press("Keep as changed")
    assert "Please give a question" in dialog.said.text() and len(flow.checks) == before
    dialog.question.setText("Is the <i>cap</i> straight?")
    qtbot.keyClick(dialog.question, Qt.Key.Key_Return)  # begins no other one over what was typed
    dialog.answers.setPlainText("yes\n\nno\n")
    press("Keep as changed")
    made = next(one for one in flow.checks if one.own)
    assert list(made.answers.values()) == ["yes", "no", "cannot be seen"] and made.at == "set"
    dialog.close()
    app.desk.clock.hold("set")
    flow.switch_school(False)
    app.do("eye")
    qtbot.mouseClick(app.pair.eye_panel.answers["twin", made.id, "answer_2"], Qt.MouseButton.LeftButton)
    assert flow.answer_of("twin", made).answer == "answer_2"


def test_answers_travel_in_a_bundle(library, tmp_path):
    from waxtwin.library.eye_answers import keep_answer

    check = load_checks()[0][0]
    keep_answer(library, 1, check, EyeAnswer("heel", "Marla Quay", "2026-11-29T09:00:00"))
    finish(bundle_pair(library, open_pair(library, 1, 2).id, tmp_path / "pair.waxtwin"))
    other = Library(tmp_path / "other")
    opened = finish(open_bundle(other, tmp_path / "pair.waxtwin"))
    assert answers_of(fetch(other, opened.pair[0])) == answers_of(fetch(library, 1))
    other.close()
