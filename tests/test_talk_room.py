"""The Talk room in the real window: recording while somebody goes through the pair, scenes, and the film."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from conftest import idle
from waxtwin.formats.talk import CARD
from waxtwin.library.talks import talks_of
from waxtwin.talk.sound import samples

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton


@pytest.fixture
def app(desk_window):
    return desk_window()


def titles(app) -> list[str]:
    return [scene.title for scene in app.talks.talk.scenes]


def into_talk(app, row: int) -> None:
    app.go_to("Talk")
    app.talk.scenes.setCurrentRow(row)


def test_what_is_driven_and_spoken_becomes_scenes(app, qtbot):
    app.do("remove_talk")
    assert app.talks.talk is None
    app.do("talk")
    bar, stage = app.pair.talk_bar, app.pair.stages["twin"]
    assert bar.isVisible() and app.window.title == "Pair" and not bar.pause.isVisible()
    QTest.keyClick(app.pair.seam, Qt.Key.Key_3)
    qtbot.mouseClick(bar.record, LEFT)
    qtbot.wait(1200)
    assert bar.meter.accessibleDescription() and bar._words.text().startswith("recording  0:0")
    QTest.keyClick(app.pair.seam, Qt.Key.Key_6)
    spot = QPoint(stage.width() // 2, stage.height() // 2)
    QTest.mousePress(stage, RIGHT, pos=spot)
    for n in range(6):
        qtbot.wait(40)
        QTest.mouseMove(stage, spot + QPoint(0, -4 * n))
    assert stage.pointer is not None
    QTest.mouseRelease(stage, RIGHT, pos=spot)
    assert stage.pointer is None and app.desk.clock.alone == ""  # it points, it takes no side and moves nothing
    qtbot.wait(700)
    qtbot.mouseClick(bar.pause, LEFT)
    app.desk.clock.hold("release")  # nobody is to see this
    qtbot.mouseClick(bar.pause, LEFT)
    app.desk.clock.set_rate(0.25)
    app.desk.clock.play(1)
    qtbot.wait(600)
    app.desk.clock.play(0)
    qtbot.mouseClick(bar.done, LEFT)
    idle(qtbot, app)
    assert not app.recording.is_on and app.notice.text == f"Recorded as {len(app.talks.talk.scenes)} scenes."
    scenes = app.talks.talk.scenes
    assert [scene.title for scene in scenes][:2] == ["Top of the lift", "Front foot touches"]
    touch = scenes[1]
    assert all(point.side == "twin" and point.body for point in touch.pointer) and len(touch.pointer) >= 2
    played = [moment for scene in scenes for moment in scene.moments if moment.rate]
    assert {moment.rate for moment in played} == {0.25} and len(played) <= 2  # not a state for every frame of it
    spoken = [scene.spoken for scene in scenes]
    assert all(spoken) and sum(one.seconds for one in spoken) == pytest.approx(
        len(samples(app.talks.voices / spoken[0].file)) / 48000, abs=1e-3
    )
    qtbot.mouseClick(app.notice.action, LEFT)
    assert app.window.title == "Talk" and app.talk.scenes.count() == len(scenes)
    app.talk.scenes.setCurrentRow(1)
    stages = app.talk.preview._stages
    app.talk.preview.picture()
    assert stages.desk.clock.stop == "foot_contact"


def test_scenes_are_written_moved_left_out_and_undone(app, qtbot):
    into_talk(app, 3)
    before = titles(app)
    room, form = app.talk, app.talk.form
    form.caption.setFocus()
    form.caption.selectAll()
    QTest.keyClicks(form.caption, "Stay back longer.")
    room.scenes.setCurrentRow(1)  # another scene at once: what was written stays with its own
    assert (
        app.talks.talk.scenes[3].caption == "Stay back longer."
        and app.talks.talk.scenes[1].caption != "Stay back longer."
    )
    room.scenes.setCurrentRow(3)
    qtbot.mouseClick(room.does["up"], LEFT)
    assert titles(app)[2] == before[3] and app.talks.scene.title == before[3]
    seconds = room.preview.seconds
    qtbot.mouseClick(room.does["hide"], LEFT)
    assert room.preview.seconds < seconds and room.does["hide"].text() == "Take in again"
    room.slider.setValue(room.slider.value() + 20)
    shown = room.preview.at().scene.id
    qtbot.mouseClick(room.does["cut"], LEFT)
    assert len(titles(app)) == len(before) + 1
    next(action for action in room.more.menu().actions() if action.text() == "A card with words").trigger()
    assert [scene.kind for scene in app.talks.talk.scenes].count(CARD) == 3
    while app.library.undo_label() and app.library.undo_label() != "Demo talk":
        app.library.undo()
    assert titles(app) == before and shown in [scene.id for scene in app.talks.talk.scenes]


def test_a_stop_and_a_picture_of_the_pair_are_chosen_for_a_scene(app, qtbot):
    into_talk(app, 3)
    form = app.talk.form
    form.stop.setCurrentIndex(form.stop.findData("release"))
    form.stop.activated.emit(form.stop.currentIndex())
    assert app.talks.scene.moments[0].here.stop == "release"
    app.desk.clock.hold("peak_knee")
    app.desk.view.show(ghost="rubber")
    qtbot.mouseClick(form.as_desk, LEFT)
    moment = app.talks.scene.moments[0]
    assert moment.here.stop == "peak_knee" and moment.shown["display"]["ghost"] == "rubber"


def test_the_film_is_played_and_stepped_through_with_the_keys(app, qtbot):
    into_talk(app, 1)
    preview, start = app.talk.preview, app.talk.preview.time
    app.talk.scenes.clearFocus()
    app.do("next8")
    assert preview.time == pytest.approx(start + 8 / 30, abs=0.02) and app.desk.clock.playing == 0
    app.do("play")
    qtbot.waitUntil(lambda: preview.playing, timeout=20000)
    qtbot.waitUntil(lambda: preview.at().scene.id != app.talks.talk.scenes[1].id, timeout=20000)
    assert app.talks.scene.id == preview.at().scene.id and app.talk.form.title.text() == app.talks.scene.title
    app.do("play")
    assert not preview.playing and not app.desk.clock.playing


def test_a_scene_is_spoken_anew_and_trimmed(app, qtbot):
    into_talk(app, 3)
    form, bar, key = app.talk.form, app.talk.bar, app.talks.talk.scenes[3].id
    qtbot.mouseClick(form.speak, LEFT)
    qtbot.mouseClick(bar.record, LEFT)
    qtbot.wait(900)
    qtbot.mouseClick(bar.done, LEFT)
    scene = app.talks.talk.scene(key)
    assert len(scene.takes) == 2 and scene.take == 1 and 0.5 < scene.seconds < 2.0
    form.end.setValue(0.5)
    form.end.editingFinished.emit()
    assert app.talks.talk.scene(key).seconds == pytest.approx(0.5)
    form.take.setCurrentIndex(form.take.findData(0))
    form.take.activated.emit(form.take.currentIndex())
    assert app.talks.talk.scene(key).seconds == pytest.approx(6.0)
    app.recording.start("77")  # a microphone that there is not
    assert (not app.recording.is_on and "microphone" in app.notice.text) or "sound system" in app.notice.text


def test_a_talk_gets_a_name(app, qtbot, monkeypatch):
    app.go_to("Talk")
    asked = []
    monkeypatch.setattr(
        "PySide6.QtWidgets.QInputDialog.getText",
        lambda *_, text: asked.append(text) or (f"  For {len(asked)}\nMarch ", True),
    )
    qtbot.mouseClick(app.talk.name, LEFT)
    assert app.talks.talk.title == "For 1 March" and app.talk.which.currentText().startswith("For 1 March, ")
    app.do("name_talk")
    assert app.talks.talk.title == "For 2 March" and asked[1] == "For 1 March"
    app.library.undo()
    assert app.talks.talk.title == "For 1 March"
    app.talks.forget()
    assert app.talks.talk is None and app.talk.name.isHidden()


def test_a_talk_is_drafted_from_what_the_pair_shows(desk_window, qtbot):
    app = desk_window(explained=True)
    qtbot.waitUntil(lambda: app.desk.pair.explanation is not None and not app.jobs.busy, timeout=60000)
    app.go_to("Talk")
    qtbot.mouseClick(app.talk.buttons["draft"], LEFT)
    assert len(app.talks.kept) == 2 and app.talk.which.isVisible()
    found = app.desk.pair.explanation.judgement
    focus = [one.rule.title for one in found.focus]
    assert focus and all(title in titles(app) for title in focus)
    for scene in app.talks.talk.scenes:
        assert scene.title or scene.caption


def test_a_film_is_saved_once_consent_was_looked_at(app, qtbot, monkeypatch, tmp_path):
    from datetime import date

    from waxtwin.library.records import Athlete

    store, keys = app.library.store, app.talks.throws
    app.talks.edit("Short", lambda talk: talk.but(scenes=talk.scenes[:1]))
    app.go_to("Talk")
    qtbot.mouseClick(app.talk.buttons["film"], LEFT)
    dialog = app.talk.flow.dialog
    assert "no guardian is noted to have agreed" in dialog.hint.text() and not dialog.save.isEnabled()
    dialog.figures.setChecked(True)
    assert not dialog.save.isEnabled()
    dialog.athlete.setText("Your delivery")
    dialog.twin.setText("The twin")
    assert dialog.save.isEnabled()
    dialog.reject()
    with store.change("Consent") as session:
        for athlete in session.query(Athlete):
            athlete.consent_on, athlete.guardian, athlete.born = (
                "2026-09-01",
                "Marn Tollander",
                f"{date.today().year - 15}-01-01",
            )
    qtbot.mouseClick(app.talk.buttons["film"], LEFT)
    dialog = app.talk.flow.dialog
    assert "Marn Tollander agreed on 2026-09-01" in dialog._noted.text() and not dialog.save.isEnabled()
    dialog.looked.setChecked(True)
    out = tmp_path / "film.mp4"
    monkeypatch.setattr("waxtwin.ui.rooms.talk.flow.ask_save", lambda *_: out)
    qtbot.mouseClick(dialog.save, LEFT)
    idle(qtbot, app)
    assert app.notice.text == "Written: film.mp4." and out.stat().st_size > 5000 and out.with_suffix(".vtt").is_file()
    assert talks_of(store, *keys)[0].talk.athlete == "Wren Tollander"  # other names are for that film


def test_an_athlete_who_is_erased_takes_talks_and_voices_along(library):
    from waxtwin.library.erasing import erase
    from waxtwin.library.records import DeliveryRow, TalkRow

    voices = list((library.folder / "voices").iterdir())
    assert voices and all(voice.stat().st_mode & 0o077 == 0 for voice in voices)
    with library.reading() as session:
        talk = session.query(TalkRow).one()
        athlete = session.get(DeliveryRow, talk.twin_throw).athlete_id
    erase(library, athlete)
    with library.reading() as session:
        assert not session.query(TalkRow).count()
    assert not list((library.folder / "voices").iterdir())


def test_talk_and_film_on_the_command_line(run, tmp_path):
    from conftest import DEMO

    out, small = tmp_path / "one.talk.json", tmp_path / "film.mp4"
    assert run("talk", DEMO / "wren-tollander.csv", DEMO / "ines-corvane.csv", "-o", out, "--name", "You")[0] == 0
    from waxtwin.formats.talk import read_talk, write_talk

    talk = read_talk(out)
    assert (
        talk.athlete == "You"
        and (tmp_path / talk.throws["athlete"]).resolve() == (DEMO / "wren-tollander.csv").resolve()
    )
    write_talk(talk.but(scenes=talk.scenes[:1]), out)
    assert run("film", out, "-o", small, "--shape", "phone")[0] == 0 and small.stat().st_size > 5000
    code, _, said = run("film", out, "-o", small, "--shape", "round")
    assert code == 2 and "films are 720, 1080, phone" in said
    write_talk(talk.but(throws={}), out)
    code, _, said = run("film", out, "-o", small)
    assert code == 2 and said.startswith("one.talk.json: it does not say which throws")
