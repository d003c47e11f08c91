"""Twin choice, several twins, one athlete before and now, and pairs that reopen as they were left."""

import json
import sqlite3
from dataclasses import replace

import numpy as np
import pytest
from sqlalchemy import text

from conftest import DEMO, clean, idle, planar
from test_borrowed import BASE, throw
from waxtwin.core.against_twins import among, supported
from waxtwin.core.analysis import Delivery, analyse, resolve
from waxtwin.core.before_after import CHANGED, UNCHANGED, UNRESOLVABLE, change_of, compensations
from waxtwin.core.blend import blend
from waxtwin.core.contrast import BEYOND, LEVEL, SHORT, UNTOLD, analyse_alike, analyse_pair, contrast, verdict_of
from waxtwin.core.errors import TrackError
from waxtwin.core.explain import Perspective, explain
from waxtwin.core.landmarks import INDEX
from waxtwin.core.rules import Case
from waxtwin.core.steps import finish
from waxtwin.core.twins import CRITERIA, FEATURES, WEIGHTS, Profile, Shelf, Wish, features_of, rank
from waxtwin.library.pairs import PAST, TWIN, forget_pair, keep_state, open_pair, pin_note, recent, unpin_note
from waxtwin.library.playbook import load_playbook, load_schools
from waxtwin.library.profiles import fill, missing, profiles, twins_for
from waxtwin.library.store import Library
from waxtwin.library.throws import remove


def profile(key, athlete=None, **changes):
    usual = Profile(key, athlete or key, f"P{key}", "R", 1.80, 1.80, 36.0, "fastball", "2026-11-01", "3D", 240.0,
                    np.zeros(len(FEATURES)))  # fmt: skip
    return replace(usual, **changes)


ME = profile(1, ball_speed=33.0)


def order(*others, wish=None):
    return [one.profile.key for one in rank(ME, Shelf.of([ME, *others]), wish)]


# ranking ------------------------------------------------------------------------------------------------------------
def test_the_nearer_build_slot_and_tempo_come_first():
    slot = np.zeros(len(FEATURES))
    slot[FEATURES.index("release_slot")] = 30.0
    assert order(profile(2, height=1.95), profile(3), profile(4, features=slot)) == [3, 4, 2]
    heavy = Wish(WEIGHTS | {"slot": 5.0, "build": 0.0})
    assert order(profile(2, height=1.95), profile(4, features=slot), wish=heavy) == [2, 4]


def test_a_twin_is_faster_but_not_out_of_reach():
    only = Wish({"speed": 1.0})
    assert (
        order(profile(2, ball_speed=30.0), profile(3, ball_speed=36.0), profile(4, ball_speed=45.0), wish=only)[0] == 3
    )


def test_filters_keep_the_bigger_or_the_same_build():
    others = [profile(2, height=1.90), profile(3, height=1.81), profile(4, height=1.81, span=1.98)]
    assert order(*others, wish=Wish(WEIGHTS, bigger=True)) == [2]
    assert set(order(*others, wish=Wish(WEIGHTS, same_build=True))) == {3}


def test_reasons_and_warnings_are_said():
    other = profile(2, throws="L", height=1.87, span=1.87, view="side", rate=60.0, pitch="slider", ball_speed=36.3)
    [one] = rank(ME, Shelf.of([ME, other]))
    said = " ".join((*one.reasons, *one.warnings))
    for words in ("7 cm taller", "arms alike", "10 % faster", "other hand", "from the side", "60 frames", "slider"):
        assert words in said
    assert set(one.closeness) == set(CRITERIA) and all(0 <= close <= 1 for close in one.closeness.values())


def test_each_pitcher_stands_once_and_own_earlier_throws_are_always_offered():
    mine = [profile(5, athlete=1, recorded="2026-09-01"), profile(6, athlete=1, recorded="2026-09-01"),
            profile(7, athlete=1, recorded="2026-10-01")]  # fmt: skip
    found = rank(ME, Shelf.of([ME, *mine, profile(2), profile(3, athlete=2, height=1.7)]), Wish(WEIGHTS, bigger=True))
    assert [one.profile.key for one in found if one.own] == [7, 5]
    assert order(profile(2), profile(3, athlete=2, height=1.7)) == [2]


def test_what_is_not_known_neither_helps_nor_ends_it():
    blank = profile(2, height=None, span=None, ball_speed=None, features=np.full(len(FEATURES), np.nan))
    found = rank(ME, Shelf.of([ME, blank, profile(3)]))
    assert [one.profile.key for one in found] == [3, 2] and np.isfinite([one.score for one in found]).all()


def test_features_come_from_the_throw():
    features, view, rate = features_of(clean("ines"))
    assert view == "3D" and rate == pytest.approx(240, abs=0.1)
    assert features[FEATURES.index("release_slot")] == clean("ines").measures["release_slot"].value


# the library --------------------------------------------------------------------------------------------------------
def test_profiles_are_worked_out_once_and_again_for_another_track(library):
    assert len(missing(library)) == 4 and profiles(library) is None
    assert finish(fill(library)) is None and missing(library) == [] and len(profiles(library)) == 4
    with library.quietly() as session:
        session.execute(text("update profile set track = 'another' where delivery_id = 2"))
    assert missing(library) == [2] and len(profiles(library)) == 3
    found = twins_for(profiles(library), 1)
    assert len(found) == 2 and all(found[i].score >= found[i + 1].score for i in range(len(found) - 1))
    remove(library, [1])
    assert 1 not in profiles(library).keys
    library.undo()
    assert missing(library) == [1, 2]


def test_a_pair_is_kept_with_state_and_notes_and_goes_with_its_throws(library):
    pair = open_pair(library, 4, 1)
    assert pair.kind == TWIN and pair.title == "Wren Tollander beside Ines Corvane"
    keep_state(library, pair.id, {"stop": "release"})
    pin_note(library, pair.id, "release", "twin", "look: <b>here</b>")
    again = open_pair(library, 4, 1)
    assert again.id == pair.id and again.state == {"stop": "release"} and again.notes[0].text == "look: <b>here</b>"
    unpin_note(library, pair.id, again.notes[0])
    assert open_pair(library, 4, 1).notes == ()
    library.undo()
    assert len(open_pair(library, 4, 1).notes) == 1
    other = open_pair(library, 4, 2)
    assert [one.id for one in recent(library)] == [other.id, pair.id]
    remove(library, [2])
    assert [one.id for one in recent(library)] == [pair.id]
    forget_pair(library, pair.id)
    assert recent(library) == []


@pytest.mark.folder
def test_a_library_of_the_first_schema_is_brought_up_to_date(library):
    folder = library.folder
    library.close()
    with sqlite3.connect(folder / "library.sqlite") as connection:
        for table in ("pair", "profile", "plan", "arm_note", "task", "figures", "talk"):
            connection.execute(f"drop table {table}")
        for table, column in (
            ("view", "likely_fps"),
            ("delivery", "in_space"),
            ("athlete", "limits"),
            ("session", "thrown"),
            ("session", "log"),
        ):
            connection.execute(f"alter table {table} drop column {column}")
        for table in ("athlete", "session", "delivery", "clip", "view", "event", "tag"):
            connection.execute(f"alter table {table} drop column edition")
        connection.execute("drop index ix_change_person")
        for column in ("person", "client"):
            connection.execute(f"alter table change drop column {column}")
        connection.execute("update alembic_version set version_num = '0001'")
    opened = Library(folder)
    try:
        assert open_pair(opened, 4, 1).id == 1 and len(opened.backups()) >= 1
    finally:
        opened.close()


# the command line ---------------------------------------------------------------------------------------------------
@pytest.mark.folder
def test_twins_are_ranked_without_a_screen(run, library, tmp_path):
    folder = library.folder
    library.close()
    for place in (DEMO, folder):
        code, out, _ = run("twins", DEMO / "wren-tollander.csv", "--library", place, "--json")
        found = json.loads(out)["twins"]
        assert code == 0 and next(one["name"] for one in found if not one["own"]) == "Ines Corvane"
        assert found[0]["reasons"] and "other hand" in " ".join(w for one in found for w in one["warnings"])
    code, _, said = run("twins", DEMO / "wren-tollander.csv", "--library", DEMO, "--weight", "shoes=3")
    assert code == 2 and "no criterion named shoes" in said
    code, _, said = run("twins", DEMO / "wren-tollander.csv", "--library", tmp_path / "nowhere")
    assert code == 2 and "neither a library nor a throw" in said


def test_several_twins_on_the_command_line(run):
    files = [DEMO / f"{name}.csv" for name in ("wren-tollander", "ines-corvane", "juno-wexcombe")]
    document = json.loads(run("contrast", *files, "--json")[1])
    row = next(row for row in document["rows"] if row["id"] == "landing_trunk_tilt")
    assert len(document["twins"]) == 2 and row["among"]["beyond"] == 2 and row["among"]["verdict"] == BEYOND
    found = json.loads(run("explain", *files, "--json")[1])["findings"]
    first = next(one for one in found if one["id"] == "trunk_forward_at_landing")
    assert (first["twins"], first["of_twins"]) == (2, 2)
    code, _, said = run("contrast", *files, *files[1:], files[1])
    assert code == 2 and "at most 4 twins" in said


# several twins ------------------------------------------------------------------------------------------------------
def test_several_twins_show_a_range_and_support():
    athlete, near, far = (resolve(one, 40) for one in analyse_alike(
        [throw(replace(BASE, tilt_landing=12), 0.002, 1), throw(BASE, 0.002, 2), throw(replace(BASE, tilt_landing=11), 0.002, 3)]
    ))  # fmt: skip
    pairs = [contrast(athlete, near), contrast(athlete, far)]
    tilt = among(pairs)["landing_trunk_tilt"]
    assert tilt.low < tilt.high and (tilt.short, tilt.beyond + tilt.level) == (0, 2) and tilt.figures[0] == tilt.low
    assert among(pairs)["stride_length"].verdict == LEVEL
    schools, _ = load_schools()
    support = supported(pairs, Perspective(load_playbook(), schools[0], ()))
    assert support["trunk_forward_at_landing"] == 1


# blends -------------------------------------------------------------------------------------------------------------
def test_a_blend_lies_between_its_throws_and_keeps_its_arms():
    throws = analyse_alike([throw(BASE), throw(replace(BASE, stride=0.78, landing_to_release=0.155, throws="L"))])
    track, height, speed = blend(throws)
    made = analyse(Delivery("blend", track, "R", height, None, speed))
    assert made.warnings == () and speed == pytest.approx(np.mean([t.delivery.ball_speed for t in throws]))
    for name in ("stride_length", "landing_to_release", "landing_separation", "peak_speed_throwing_hand"):
        low, high = sorted(t.measures[name].value for t in throws)
        slack = 0.02 * abs(high) + 0.5
        assert low - slack <= made.measures[name].value <= high + slack, name
    arm = [np.linalg.norm(track.points[:, INDEX["throwing_elbow"]] - track.points[:, INDEX["throwing_wrist"]], axis=1)]
    assert np.ptp(arm) < 1e-6


def test_what_cannot_be_blended_says_why():
    with pytest.raises(TrackError, match="at least two"):
        blend([clean("wren")])
    flat = analyse(replace(throw(BASE), track=planar(throw(BASE).track)))
    with pytest.raises(TrackError, match="in space"):
        blend([clean("wren"), flat])
    lost = replace(clean("wren"), events={k: e for k, e in clean("wren").events.items() if k != "release"})
    with pytest.raises(TrackError, match="do not share the stops release"):
        blend([clean("ines"), lost])


# before and now -----------------------------------------------------------------------------------------------------
def test_a_change_counts_when_it_is_resolved_and_no_change_only_when_it_would_show():
    now, before = (
        resolve(s, 40) for s in analyse_pair(throw(replace(BASE, stride=0.78), 0.003, 1), throw(BASE, 0.003, 2))
    )
    pair = contrast(now, before)
    assert change_of(pair.row("stride_length")) == CHANGED and change_of(pair.row("landing_trunk_tilt")) == UNCHANGED
    row = pair.row("landing_trunk_tilt")
    coarse = verdict_of(row.difference, 30.0, row.alike_within)
    assert coarse == UNTOLD and change_of(replace(row, resolution=30.0, verdict=coarse)) == UNRESOLVABLE


def test_compensations_are_found_and_told_from_what_cannot_be_seen():
    sides = [throw(replace(BASE, tilt_release=24, elbow_height_release=10), 0.002, 1), throw(BASE, 0.002, 2)]
    now, before = (resolve(s, 40) for s in analyse_pair(*(replace(s, name="Wren") for s in sides)))
    found = {one.title: one.present for one in compensations(Case(contrast(now, before)), load_playbook())}
    assert found["Standing up at release"] is True and found["Pushing with a high elbow"] is True
    assert found["The front knee wobbles"] is False
    schools, _ = load_schools()
    words = explain(contrast(now, before), Perspective(load_playbook(), schools[0], ())).in_words()
    assert "Wren now" in words and "Wren before" in words


# in the window ------------------------------------------------------------------------------------------------------
def settled(app, qtbot):
    qtbot.waitUntil(lambda: app.desk.pair.contrast is not None and app.desk.pair.contrast.twin.resolved, timeout=60000)
    idle(qtbot, app)


def test_a_twin_is_found_taken_and_why_is_remembered(desk_window, qtbot):
    app = desk_window()
    app.bench.select(app.library.find("pell-ardmoor"))
    app.go_to("Bench")
    app.bench._find.click()
    dialog = app.bench.flow.dialog
    qtbot.waitUntil(lambda: dialog.list.count() > 0, timeout=60000)
    assert "3 pitchers" in dialog.state.text()
    dialog.weights["hand"].setValue(50)
    dialog.fill()
    assert dialog.list.item(0).text() == "Juno Wexcombe"  # the other left-hander
    dialog.bigger.setChecked(True)
    assert {dialog.list.item(i).text() for i in range(dialog.list.count())} == {"Juno Wexcombe"}
    dialog.why.setPlainText("same arm, taller")
    dialog.take()
    qtbot.waitUntil(
        lambda: app.desk.pair.kept is not None and app.desk.pair.kept.why == "same arm, taller", timeout=30000
    )
    assert app.desk.pair.stored["athlete"].title == "Pell Ardmoor"
    settled(app, qtbot)


def test_a_pair_reopens_as_it_was_left(desk_window, qtbot):
    app = desk_window()
    app.desk.clock.hold("peak_knee")
    app.desk.clock.go(app.desk.clock.time + 0.05)
    app.desk.clock.pull("all")
    app.desk.view.show(shown="figure", camera="front", azimuth=90.0)
    app.desk.view.select("lift_height")
    app.kept.pin("peak_knee", "athlete", "quiet head")
    state = app.desk.state()
    app.pairs.take_pair(app.library.find("pell-ardmoor"), app.library.find("juno-wexcombe"))
    qtbot.waitUntil(lambda: app.desk.pair.stored["athlete"].title == "Pell Ardmoor", timeout=30000)
    settled(app, qtbot)
    app.desk.clock.pull("one")
    listed = [app.bench.recent.item(i).text() for i in range(app.bench.recent.count())]
    assert listed[0].startswith("Pell Ardmoor beside") and "1 note" in listed[1]
    app.bench.recent.setCurrentRow(1)
    app.bench.recent.itemActivated.emit(app.bench.recent.currentItem())
    qtbot.waitUntil(lambda: app.desk.pair.stored["athlete"].title == "Wren Tollander", timeout=30000)
    settled(app, qtbot)
    again = app.desk.state()
    for name in ("mode", "display", "landing", "selected", "whole"):
        assert again[name] == state[name], name
    assert again["time"] == pytest.approx(state["time"], abs=1e-6)
    app.desk.clock.hold("peak_knee")
    assert app.desk.pair.kept.notes[0].text == "quiet head"


def test_several_twins_stand_on_stages_seam_and_table(desk_window, qtbot):
    app = desk_window()
    for title in ("juno-wexcombe", "pell-ardmoor"):
        app.kept.add_twin(app.library.find(title))
    qtbot.waitUntil(lambda: len(app.desk.pair.other_contrasts) == 2 and not app.jobs.busy, timeout=60000)
    app.go_to("Pair")
    app.desk.clock.hold("foot_contact")
    assert [side for side, stage in app.pair.stages.items() if stage.isVisible()] == [
        "athlete",
        "twin",
        "twin2",
        "twin3",
    ]
    for side in ("twin2", "twin3"):  # all held at the same stop
        assert app.desk.clock.time_of(side) == pytest.approx(app.desk.pair.analysis(side).event_times["foot_contact"])
        assert app.pair.seam.rail_y(side) > app.pair.seam.rail_y("twin")
    app.desk.view.show(wall=True)
    assert not app.pair.stages["athlete"].isVisible()
    model = app.contrast.model
    at = next(
        i for i, item in enumerate(model.items) if not isinstance(item, str) and item.measure.id == "stride_length"
    )
    assert " to " in model.data(model.index(at, 2)) and "less than all 3" in model.data(model.index(at, 5))
    assert app.desk.pair.contrast.row("stride_length").verdict == SHORT
    app.kept.add_twin(app.library.find("wren-tollander"))  # the athlete is nobody's twin here
    assert len(app.desk.pair.others) == 2
    app.actions["undo"].trigger()
    qtbot.waitUntil(lambda: list(app.desk.pair.others) == ["twin2"], timeout=30000)
    app.kept.only_one_twin()
    assert not app.desk.pair.others and not app.pair.stages["twin2"].isVisible()
    settled(app, qtbot)


def test_throws_are_blended_on_the_bench_into_a_twin_that_says_so(desk_window, qtbot, monkeypatch):
    app = desk_window()
    app.go_to("Bench")
    monkeypatch.setattr("waxtwin.ui.rooms.bench.flow.QInputDialog.getText", lambda *a, **k: ("The <two> of them", True))
    keys = [app.library.find(title) for title in ("ines-corvane", "juno-wexcombe")]
    app.bench.select(keys[0])
    assert not app.bench._more["blend"].isEnabled()
    app.bench.select(keys[1], keep=True)
    app.bench._more["blend"].click()
    qtbot.waitUntil(lambda: app.library.find("The <two> of them") is not None, timeout=30000)
    entry = next(one for one in app.library.entries if one.title == "The <two> of them")
    assert entry.tags == ("blend",) and "Nobody threw it" in entry.notes and entry.ready
    app.pairs.take("twin", entry.id)
    qtbot.waitUntil(lambda: app.desk.pair.stored["twin"].key == entry.id, timeout=30000)
    settled(app, qtbot)
    assert any("blend of several throws" in words for words in app.desk.pair.analysis("twin").warnings)
    app.actions["undo"].trigger()
    assert app.library.find("The <two> of them") is None


def test_before_and_now_is_said_in_its_own_words(desk_window, qtbot):
    app = desk_window(explained=True)
    app.intake.bring([DEMO / "wren-tollander-2.csv"])
    qtbot.waitUntil(lambda: len(app.library.entries) == 5, timeout=30000)
    app.pairs.take_pair(app.library.find("wren-tollander-2"), app.library.find("wren-tollander"))
    qtbot.waitUntil(lambda: app.desk.pair.kind == PAST, timeout=30000)
    settled(app, qtbot)
    qtbot.waitUntil(lambda: app.desk.pair.explanation is not None, timeout=30000)
    app.go_to("Contrast")
    model = app.contrast.model
    heads = [model.headerData(i, app.contrast.table.horizontalHeader().orientation()) for i in range(6)]
    assert heads[1:3] == ["Now", "Before"] and heads[5] == "What changed"
    said = {model.data(model.index(i, 5)) for i in range(model.rowCount()) if not isinstance(model.items[i], str)}
    assert "unchanged" in said and not any(words.startswith("short") for words in said)
    # two throws of one session are held against each other, not the session against itself
    assert app.desk.pair.throws is None and len(app.desk.pair.sessions["athlete"]) == 2
    app.go_to("Gap")
    app.gap.turn_to("return")
    assert "measures changed" in app.gap.returning.count.text()
    assert "between now and before" in app.gap.sentence.text() or "link by link" in app.gap.sentence.text()
