"""Two ordinary clips beside each other before any landmark: stops by hand, and all that needs nothing but stops."""

from __future__ import annotations

from time import sleep

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QMenu, QMessageBox, QPushButton

from conftest import idle, track_of
from films import film, number_of
from test_controls import Witness, put_away
from waxtwin.core.analysis import Delivery, analyse, resolve
from waxtwin.core.camera import Sight
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.stops import ESTIMATED, StopsByHand
from waxtwin.core.track import bare_track
from waxtwin.library.arrays import pack_track
from waxtwin.library.throws import delivery_row, fetch, keep_track
from waxtwin.ui.rooms.bench.entry_model import SUMMARY

FIRST = {"peak_knee": 0.4, "foot_contact": 1.0, "release": 1.15}


def bare(rate: float, last: float, **said) -> Delivery:
    return Delivery("a clip", bare_track(0.0, last, rate), by_hand=StopsByHand(**said))


def test_durations_come_from_stops_alone():
    one = bare(240.0, 2.0, times=FIRST)
    two = bare(120.0, 1.5, times={"foot_contact": 0.8, "release": 0.99}, estimated=frozenset({"foot_contact"}))
    pair = contrast(*map(resolve, analyse_pair(one, two)))
    row = pair.row("landing_to_release")
    assert (row.athlete, row.twin) == (pytest.approx(150), pytest.approx(190)) and row.difference == pytest.approx(-40)
    # a stop outside the picture is known to three frames, one that is seen to half a frame
    assert pair.twin.events["foot_contact"].source == ESTIMATED
    assert pair.twin.events["foot_contact"].interval == pytest.approx(25.0)
    assert pair.athlete.events["release"].interval == pytest.approx(500 / 240)
    assert row.resolution > 15 and pair.athlete.measures["landing_to_release"].sd < 3
    assert pair.row("stride_length").reason == "athlete: there are no landmarks yet"
    assert "not known" in pair.row("touch_to_plant").reason
    assert {name for name, value in pair.athlete.measures.items() if value.available} == {
        "lift_to_landing", "landing_to_release",
    }  # fmt: skip


def test_stops_in_an_impossible_order_give_no_duration():
    found = analyse(bare(240.0, 2.0, times={**FIRST, "release": 0.9})).measures
    assert found["landing_to_release"].value is None
    assert found["landing_to_release"].reason == "the stop “release” is set before “foot touches”"
    assert found["lift_to_landing"].value == pytest.approx(600)


@pytest.fixture
def clips(tmp_path):
    """Two numbered clips: 240 frames/s, and one of uneven steps as phones make them, about 60 frames/s."""
    return [
        film(tmp_path / "first.mp4", rate=240, count=200, g="12"),
        film(tmp_path / "second.mp4", rate=60, count=90, steps=(10, 10, 11, 9, 10), g="12"),
    ]


def drop(window, paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    window.dropEvent(
        QDropEvent(QPointF(400, 300), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.NoModifier)
    )


@pytest.fixture
def app(desk_window, qtbot, clips):
    app = desk_window(demo=False, explained=True)
    drop(app.window, clips)
    qtbot.waitUntil(lambda: app.desk.pair.contrast is not None and not app.jobs.busy, timeout=30000)
    qtbot.waitUntil(lambda: all(seen(app, side) == 0 for side in ("athlete", "twin")), timeout=30000)
    return app


def seen(app, side):
    """The number in the frame on a side's stage."""
    clip = app.pair.stages[side].clip
    time = app.desk.clock.time_of(side)
    if not clip.fetch(time) or clip.late:
        return None
    return number_of(clip._picture[0])


def stand_at(app, qtbot, side, frame):
    """Step a side that was taken to a frame, as somebody would with the keys."""
    rate = app.desk.pair.analysis(side).motion.rate
    at = round(app.desk.clock.time_of(side) * rate)
    key = Qt.Key.Key_Right if frame > at else Qt.Key.Key_Left
    for _ in range(abs(frame - at) // 8):
        qtbot.keyClick(app.pair.seam, key, Qt.KeyboardModifier.ShiftModifier)
    for _ in range(abs(frame - at) % 8):
        qtbot.keyClick(app.pair.seam, key)
    qtbot.waitUntil(lambda: seen(app, side) is not None, timeout=10000)
    assert seen(app, side) == frame


def set_stop(app, qtbot, key):
    before = app.desk.pair.contrast
    qtbot.keyClick(app.pair.seam, key, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: app.desk.pair.contrast is not before and not app.jobs.busy, timeout=20000)


def click(qtbot, stage):
    qtbot.mouseClick(stage, Qt.MouseButton.LeftButton, pos=QPoint(60, 150))


def test_a_talk_of_two_clips_shows_the_frames_that_were_set(app, qtbot):
    from waxtwin.ui.rooms.talk.film_stages import FilmStages

    for time, key in ((0.3, Qt.Key.Key_6), (0.5, Qt.Key.Key_9)):
        app.desk.clock.go(time)
        set_stop(app, qtbot, key)
    app.go_to("Talk")
    qtbot.mouseClick(app.talk.buttons["draft"], Qt.MouseButton.LeftButton)
    scenes = app.talks.talk.scenes
    assert [scene.title for scene in scenes] == [
        "first beside second", "At real speed", "Front foot touches", "Release", "Slowly", "Once more at real speed",
    ]  # fmt: skip
    stages = FilmStages(app.talk.flow.pair)
    for scene in scenes[2:4]:
        assert stages.show(scene.moments[0], 0.0)
        for side, stage in stages.stages.items():
            if stage.side == side:  # exact, without a frame that is shown meanwhile
                assert stage.clip.fetch(stages.desk.clock.time_of(side)) and not stage.clip.late
        told = number_of(stages.stages["athlete"].clip._picture[0])
        assert told == round(app.desk.pair.event_times("athlete")[scene.moments[0].here.stop] * 240)
    stages.close()


def test_two_dropped_clips_are_stitched_by_hand_held_pulled_tight_and_tied(app, qtbot):
    pair, clock = app.desk.pair, app.desk.clock
    assert app.window.title == "Pair" and [one.title for one in pair.stored.values()] == ["first", "second"]
    assert "No landmarks yet" in app.pair.panel._hint.text() and pair.stops() == []
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_9)
    assert "not set yet" in app.notice.text and "Ctrl+9" in app.notice.text
    click(qtbot, app.pair.stages["athlete"])
    for frame, key in ((100, Qt.Key.Key_6), (136, Qt.Key.Key_9)):
        stand_at(app, qtbot, "athlete", frame)
        set_stop(app, qtbot, key)
        assert seen(app, "athlete") == frame and seen(app, "twin") == 0
    click(qtbot, app.pair.stages["twin"])
    for frame, key in ((31, Qt.Key.Key_6), (40, Qt.Key.Key_9)):
        stand_at(app, qtbot, "twin", frame)
        set_stop(app, qtbot, key)
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_Escape)
    assert pair.stops() == ["foot_contact", "release"]
    for key, frames in ((Qt.Key.Key_6, (100, 31)), (Qt.Key.Key_9, (136, 40))):
        qtbot.keyClick(app.pair.seam, key)
        qtbot.waitUntil(lambda frames=frames: tuple(seen(app, side) for side in ("athlete", "twin")) == frames)
    # all stops: both are met; the seam tells the difference of the phase
    clock.pull("all")
    times = [pair.event_times(side) for side in ("athlete", "twin")]
    assert clock.alignment.to_twin(times[0]["foot_contact"]) == pytest.approx(times[1]["foot_contact"])
    row = pair.contrast.row("landing_to_release")
    assert row.athlete == pytest.approx(150, abs=0.1) and row.twin == pytest.approx(150, abs=4)
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_9)
    assert "landing_to_release" in [row.row.measure.id for row in app.pair.panel.rows()]
    # what was set is in the library, is undone in one step and there again when the pair is opened again
    keys = [one.key for one in pair.stored.values()]
    assert set(fetch(app.library.store, keys[1]).delivery.by_hand.times) == {"foot_contact", "release"}
    app.do("undo")
    qtbot.waitUntil(lambda: "release" not in pair.event_times("twin") and not app.jobs.busy, timeout=20000)
    # any moment can be tied as well
    click(qtbot, app.pair.stages["twin"])
    assert app.pair.panel.tie.isVisibleTo(app.window)
    app.do("exchange")
    qtbot.waitUntil(lambda: pair.stored["athlete"].title == "second" and not app.jobs.busy, timeout=20000)


def test_both_sides_are_set_at_once_and_against_the_order_only_when_somebody_insists(app, qtbot):
    pair = app.desk.pair
    for _ in range(5):
        qtbot.keyClick(app.pair.seam, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    set_stop(app, qtbot, Qt.Key.Key_9)
    assert all("release" in pair.event_times(side) for side in ("athlete", "twin")) and app.desk.clock.stop == "release"
    click(qtbot, app.pair.stages["athlete"])
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_6, Qt.KeyboardModifier.ControlModifier)
    assert "would come 33 ms after “release”" in app.pair.edits.doubt.text()
    app.pair.edits.doubt.reject()
    assert "foot_contact" not in pair.event_times("athlete")
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_6, Qt.KeyboardModifier.ControlModifier)
    insist = next(b for b in app.pair.edits.doubt.buttons() if b.text() == "Set it all the same")
    qtbot.mouseClick(insist, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "foot_contact" in pair.event_times("athlete") and not app.jobs.busy, timeout=20000)
    assert "is set before" in pair.contrast.athlete.measures["landing_to_release"].reason
    # outside the picture: an estimate, which looks like one
    qtbot.mouseClick(app.pair.panel.by_hand.outside, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(app.pair.panel.by_hand.sets["peak_knee"], Qt.MouseButton.LeftButton)
    for box in app.window.findChildren(QMessageBox):
        if box.isVisible():
            qtbot.mouseClick(box.buttons()[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "peak_knee" in pair.event_times("athlete") and not app.jobs.busy, timeout=20000)
    assert pair.analysis("athlete").events["peak_knee"].source == ESTIMATED
    assert app.pair.panel.by_hand.times["athlete", "peak_knee"].text().startswith("≈")
    assert not app.pair.panel.by_hand.outside.isChecked()
    assert fetch(app.library.store, pair.stored["athlete"].key).delivery.by_hand.estimated == {"peak_knee"}


def test_other_rooms_say_what_is_missing(app, qtbot):
    idle(qtbot, app)
    for title, said in (("Gap", app.gap._hint), ("Report", app.report.hint)):
        app.go_to(title)
        assert "There are no landmarks yet" in said.text(), title
    app.go_to("Contrast")
    assert "No landmarks yet of the athlete and the twin" in app.contrast.footing.text()


def test_landmarks_join_what_was_set_by_hand_and_a_stopped_search_does_not_begin_again(
    desk_window, qtbot, clips, monkeypatch
):
    begun, track = [], track_of("wren", 60.0)

    def found(library, key, model, *, gentle):
        assert gentle
        begun.append(key)
        while hold:
            sleep(0.01)
            yield 0.5
        with library.change("Find landmarks") as session:
            keep_track(library, session, delivery_row(session, key), pack_track(track), Sight(), "view:1")
        return ["seen from the side"]

    monkeypatch.setattr("waxtwin.library.live_throws.prepare_throw", found)
    hold = [True]
    app = desk_window(demo=False)
    app.settings.finding = True
    drop(app.window, clips)
    pair = app.desk.pair
    qtbot.waitUntil(lambda: pair.contrast is not None and len(begun) == 1, timeout=30000)
    app.desk.clock.go(0.5)
    app.do("set_release")  # the program can be worked with meanwhile
    qtbot.waitUntil(lambda: "release" in pair.event_times("athlete"), timeout=20000)
    mine = pair.event_times("athlete")["release"]
    hold.clear()
    qtbot.waitUntil(lambda: not pair.is_bare and not app.jobs.busy, timeout=60000)
    assert len(begun) == 2 and "seen from the side" in app.notice.text
    assert pair.event_times("athlete")["release"] == mine and len(pair.analysis("athlete").events) > 1
    # another clip, and the search is stopped by hand
    hold.append(True)
    drop(
        app.window, [film(clips[0].with_name("third.mp4"), count=80), film(clips[0].with_name("fourth.mp4"), count=70)]
    )
    qtbot.waitUntil(lambda: len(begun) == 3 and pair.contrast is not None, timeout=30000)
    qtbot.waitUntil(lambda: app.window.busy.isVisible(), timeout=5000)
    qtbot.mouseClick(app.window.busy.findChild(QPushButton, "cancel"), Qt.MouseButton.LeftButton)
    idle(qtbot, app)
    app.desk.clock.go(0.2)
    app.do("set_release")
    qtbot.waitUntil(lambda: pair.stops() == ["release"] and not app.jobs.busy, timeout=20000)
    assert pair.is_bare and len(begun) == 3


def test_clips_that_lie_on_the_bench_are_chosen_like_any_throw(desk_window, qtbot, clips):
    app = desk_window(demo=False)
    app.intake.bring(clips)
    qtbot.waitUntil(lambda: len(app.library.entries) == 2 and not app.jobs.busy, timeout=30000)
    app.go_to("Bench")
    keys = [entry.id for entry in app.library.entries]
    for side, key in zip(("athlete", "twin"), keys, strict=True):
        app.bench.select(key)
        qtbot.mouseClick(app.bench._as[side], Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda side=side: side in app.desk.pair.stored and not app.jobs.busy, timeout=30000)
    assert app.desk.pair.is_bare and app.desk.pair.contrast is not None and not app.bench._find.isEnabled()
    # as long as nobody is named, clips go by their own names
    model = app.bench.model
    assert [model.index(n, 0).data() for n in range(2)] == ["first", "second"]
    assert "nobody named yet" in model.index(0, 0).data(SUMMARY) and app.library.name_of(keys[0]) == "first"
    assert app.bench.recent.item(0).text() == "first beside second" and set(app.library.people.values()) == {
        "first",
        "second",
    }
    app.library.blend(keys, "Both")
    qtbot.waitUntil(lambda: "cannot be blended" in app.notice.text, timeout=20000)


def test_of_two_clips_one_of_which_is_broken_nothing_is_laid(app, qtbot, tmp_path, clips):
    lying = dict(app.desk.pair.stored)
    (tmp_path / "broken.mp4").write_bytes(b"no clip" * 90)
    drop(app.window, [tmp_path / "broken.mp4", clips[0]])
    qtbot.waitUntil(lambda: "broken.mp4" in app.notice.text and not app.jobs.busy, timeout=20000)
    drop(app.window, [film(tmp_path / "two.mp4", count=2), clips[1]])
    qtbot.waitUntil(lambda: "only 2 frames" in app.notice.text and not app.jobs.busy, timeout=20000)
    assert app.desk.pair.stored == lying


def test_every_command_shows_something_or_says_what_is_missing(app, qtbot, monkeypatch):
    witness, silent = Witness(app, monkeypatch), []
    for key, action in app.actions.items():
        app.pair.side.show_panel("stop")
        for menu in app.window.menuBar().findChildren(QMenu):
            menu.aboutToShow.emit()
        if not action.isEnabled() or action.property("menu") not in ("Edit", "Pair", "Stops"):
            continue
        app.notice.hide()
        app.desk.clock.take("")
        witness.look()
        action.trigger()
        idle(qtbot, app)
        if not witness.sees_a_change():
            silent.append(key)
        put_away()
        app.go_to("Pair")
    assert not silent


def test_no_check_is_answered_that_nobody_sees(app, qtbot):
    app.desk.clock.go(0.3)
    set_stop(app, qtbot, Qt.Key.Key_6)
    app.desk.view.show(alone=True)
    app.go_to("Gap")
    app.do("eye_athlete")
    assert app.window.room is app.pair and app.pair.eye_panel.isVisible() and not app.desk.view.display.alone
    check = app.pair.eye.at_hand
    assert app.pair.eye.answer_of("athlete", check) is None
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_J)
    assert app.pair.eye.answer_of("athlete", check) is not None
