"""The Prepare room, driven as an analyst would: a raw clip becomes a throw that can be measured."""

from pathlib import Path

import av
import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QAbstractButton, QLabel, QMessageBox

from conftest import DEMO, idle
from films import film
from test_lab import skin_markers, write_c3d
from test_marks import seen_from_side
from waxtwin.capture.clip import ClipReader
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import HAND, MODEL, Marks
from waxtwin.library.preparing import preparation_of
from waxtwin.library.throws import fetch
from waxtwin.ui.rooms.prepare.state import CLICK_ORDER
from waxtwin.ui.shared.athlete_dialog import AthleteDialog
from waxtwin.ui.shell.marker_dialog import MappingDialog

CLIP = DEMO / "wren-tollander-side.mp4"


def phone_clip(folder):
    """The demo's side clip as a phone would have named it; a different stream, so that it counts as new."""
    path = folder / "IMG_2041.mp4"
    if not path.exists():
        path.write_bytes(CLIP.read_bytes())
    return path


@pytest.fixture
def prepared(desk_window, qtbot, tmp_path):
    """A window with a raw clip in the Prepare room; the throw is nobody's yet."""
    app = desk_window(demo=False)
    app.intake.bring([phone_clip(tmp_path)])
    idle(qtbot, app)
    qtbot.waitUntil(lambda: app.prepare.state.times.size > 0, timeout=20000)
    return app


def give_marks(app, marks=None):
    """What the model would have found, without waiting for it."""
    true = seen_from_side(jitter=1.0) if marks is None else marks
    app.prepare.flow.landmarks._keep_marks(
        (app.prepare.state.marks or Marks.empty(app.prepare.state.times)).merged(true, MODEL), "Find landmarks"
    )


def press(qtbot, page, text):
    button = next(b for b in page.findChildren(QAbstractButton) if b.text() == text)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)


def shown_text(page):
    return "\n".join(words.text() for words in page.findChildren(QLabel) if words.isVisibleTo(page))


def click_picture(qtbot, app, x, y):
    at = app.prepare.picture.to_widget(x, y)
    qtbot.mouseClick(app.prepare.picture, Qt.MouseButton.LeftButton, pos=at.toPoint())


def test_an_empty_room_says_what_to_do(desk_window):
    app = desk_window(demo=False)
    app.go_to("Prepare")
    assert "Bench" in app.prepare.picture._words()
    assert not app.prepare.pages["clip"].isEnabled()


def test_a_raw_clip_goes_to_the_room_and_says_what_is_left(prepared):
    app = prepared
    assert app.window.room is app.prepare
    left = app.prepare.state.left()
    assert any("who throws" in one for one in left["clip"]) and any("filmed" in one for one in left["clip"])
    assert left["landmarks"] and left["ready"] == ["There is no track yet."]
    assert "669 frames" in app.prepare.pages["clip"].facts.text() and "240" in app.prepare.pages["clip"].facts.text()


def test_from_raw_clip_to_the_desk(prepared, qtbot):
    app, piece = prepared, prepared.prepare.state
    pages = app.prepare.pages
    pages["clip"].name.setText("Sam Netherby")
    pages["clip"].tall.setValue(1.76)
    pages["clip"].name.editingFinished.emit()
    idle(qtbot, app)
    assert piece.work.named and piece.work.athlete.height_m == 1.76
    give_marks(app)
    idle(qtbot, app)
    assert piece.view.view == "open side" and "taken as filmed from the open side" in app.notice.text
    assert piece.analysis is not None and "release" in piece.analysis.events
    for box in (pages["clip"].tall, pages["clip"].speed):  # what was typed, or is asked for, can be read
        assert box.lineEdit().width() > box.fontMetrics().horizontalAdvance(box.lineEdit().text())
    # the body itself is the scale, and the typed height makes metres of it
    assert 70 < piece.analysis.measures["stride_length"].value < 95
    assert piece.analysis.motion.sight.by_body and "Scale ±" in pages["camera"].result.text()
    # a known length is a better one
    piece.go_to_step("camera")
    pages["camera"]._choose_kind("planar")
    pages["camera"].metres.setValue(1.5)
    pages["camera"].metres.editingFinished.emit()
    press(qtbot, pages["camera"], "Click its ends")
    for x in (432.0, 432.0 + 1.5 * 256):
        click_picture(qtbot, app, x, 590)
    press(qtbot, pages["camera"], "Click the rubber's edge")
    click_picture(qtbot, app, 432, 590)
    idle(qtbot, app)
    assert piece.view.camera.scale == "planar" and piece.aim.kind == "look"
    assert 70 < piece.analysis.measures["stride_length"].value < 95
    # thought better of: the body itself again, and back by undo
    press(qtbot, pages["camera"], "the body itself")
    idle(qtbot, app)
    assert piece.analysis.motion.sight.by_body and "own size" in shown_text(pages["camera"])
    app.actions["undo"].trigger()
    idle(qtbot, app)
    assert piece.view.camera.scale == "planar" and not piece.analysis.motion.sight.by_body
    # a stop set by hand, then taken back
    piece.go_to_step("stops")
    stops = pages["stops"]
    stops.list.setCurrentRow(8)
    piece.go(522)
    press(qtbot, stops, "Set it at this frame")
    idle(qtbot, app)
    assert piece.analysis.events["release"].source == "set by hand"
    assert piece.analysis.events["release"].time == pytest.approx(522 / 240, abs=1e-4)
    app.actions["undo"].trigger()
    idle(qtbot, app)
    assert piece.analysis.events["release"].source == "detected"
    # and on to the desk
    piece.go_to_step("ready")
    assert "measures" in pages["ready"].sum.text() and "Add a clip" in shown_text(pages["ready"])
    press(qtbot, pages["ready"], "Take as athlete")
    idle(qtbot, app)
    assert app.desk.pair.stored["athlete"].title == "Sam Netherby"
    assert app.desk.pair.stored["athlete"].clips[0].camera.scale == "planar"


def test_everything_can_be_undone_back_to_the_raw_clip(prepared, qtbot):
    app = prepared
    give_marks(app)
    app.prepare.flow.say_who("Sam Netherby", "R", 1.8)
    app.prepare.flow.trim(0.5, 2.5)
    app.prepare.flow.landmarks.put_mark("throwing_hand", 100, 100)
    idle(qtbot, app)
    for _ in range(4):
        app.actions["undo"].trigger()
    idle(qtbot, app)
    work = app.prepare.state.work
    assert not work.named and work.views[0].marks is None and work.track is None and work.views[0].trim[0] == 0


def test_marks_are_clicked_in_order_dragged_and_cleared(prepared, qtbot):
    app, piece = prepared, prepared.prepare.state
    piece.go_to_step("landmarks")
    piece.go(480)
    page = app.prepare.pages["landmarks"]
    press(qtbot, page, "Click in order")
    assert piece.aim.target == "head"
    click_picture(qtbot, app, 640, 200)
    assert piece.aim.target == "throwing_shoulder"
    assert piece.point_of("head") == pytest.approx((640, 200), abs=1.5)
    marks = piece.view.marks
    assert marks.source[480, INDEX["head"]] == HAND and marks.seen.sum() == 1
    press(qtbot, page, "Stop clicking")
    picture = app.prepare.picture
    start, end = (picture.to_widget(x, 200).toPoint() for x in (640, 700))
    qtbot.mousePress(picture, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(picture, end)
    qtbot.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=end)
    assert piece.point_of("head") == pytest.approx((700, 200), abs=1.5)
    press(qtbot, page, "Clear here")
    assert piece.point_of("head") is None
    app.actions["undo"].trigger()
    assert piece.point_of("head") == pytest.approx((700, 200), abs=1.5)


def test_clicking_goes_on_at_the_next_frame_or_stop(prepared, qtbot):
    app, piece = prepared, prepared.prepare.state
    give_marks(app)
    idle(qtbot, app)
    piece.go_to_step("landmarks")
    piece.go(10)
    page = app.prepare.pages["landmarks"]
    last = CLICK_ORDER[-1]
    for where, expected in (
        ("stay", 10),
        ("next frame", 11),
        ("next stop", min(k for k in piece.stop_frames() if k > 11)),
    ):
        press(qtbot, page, where)
        piece.aim_at("mark", last)
        click_picture(qtbot, app, 640, 200)
        assert piece.frame == expected and piece.aim.target == CLICK_ORDER[0]
    piece.go(max(piece.stop_frames()))  # nothing ahead
    piece.aim_at("mark", last)
    click_picture(qtbot, app, 640, 200)
    assert piece.frame == max(piece.stop_frames())


def test_the_keyboard_alone_can_mark(prepared, qtbot):
    app, piece = prepared, prepared.prepare.state
    app.window.activateWindow()
    piece.go_to_step("landmarks")
    piece.aim_at("mark", "lead_knee")
    picture = app.prepare.picture
    picture.setFocus()
    picture._pointer = picture.to_widget(500, 400)
    for _ in range(3):
        qtbot.keyClick(picture, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    qtbot.keyClick(picture, Qt.Key.Key_Return)
    assert piece.point_of("lead_knee") == pytest.approx((503, 400), abs=0.6)
    qtbot.keyClick(picture, Qt.Key.Key_Escape)
    assert piece.aim.kind == "look"
    before = piece.frame
    qtbot.keyClicks(picture, "...")
    assert piece.frame == before + 3
    qtbot.keyClicks(picture, ",")
    assert piece.frame == before + 2


def test_the_lens_shows_what_is_aimed_at(prepared, qtbot):
    app = prepared
    picture = app.prepare.picture
    qtbot.waitUntil(lambda: picture._shown is not None, timeout=10000)
    app.prepare.state.go_to_step("landmarks")
    plain = picture.grab().toImage()
    app.prepare.state.aim_at("mark", "head")
    picture._pointer = QPointF(300, 300)
    assert picture.grab().toImage() != plain


def test_swaps_are_offered_and_strays_dropped(prepared, qtbot):
    app, piece = prepared, prepared.prepare.state
    wrong = seen_from_side(jitter=1.0).exchange("legs", 400, 470)
    points = wrong.points.copy()
    points[300, INDEX["head"]] += 150
    give_marks(app, Marks(wrong.times, points, wrong.confidence, wrong.source))
    idle(qtbot, app)
    piece.go_to_step("landmarks")
    left = " ".join(piece.left()["landmarks"])
    assert "legs may have changed places" in left and "lie off their path" in left
    page = app.prepare.pages["landmarks"]
    offer = next(b for b in page.findChildren(QAbstractButton) if b.text().startswith("Exchange legs"))
    qtbot.mouseClick(offer, Qt.MouseButton.LeftButton)
    press(qtbot, page, "Drop strays")
    idle(qtbot, app)
    assert not [one for one in piece.left()["landmarks"] if "changed places" in one]
    true = seen_from_side(jitter=1.0).points
    at = piece.view.marks.points[430, INDEX["lead_ankle"]]
    assert at == pytest.approx(true[430, INDEX["lead_ankle"]], abs=6)
    assert piece.point_of("head") is None if piece.frame == 300 else not piece.view.marks.seen[300, INDEX["head"]]


def test_trimming_on_the_tape_leaves_the_file_alone(prepared, qtbot):
    app, piece = prepared, prepared.prepare.state
    before = piece.view.path.read_bytes()
    tape = app.prepare.tape
    low = tape.height() - 18
    start, end = QPoint(round(tape._x(0.0)), low), QPoint(round(tape._x(0.6)), low)
    qtbot.mousePress(tape, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(tape, end)
    qtbot.mouseRelease(tape, Qt.MouseButton.LeftButton, pos=end)
    assert piece.view.trim[0] == pytest.approx(0.6, abs=0.02) and piece.view.path.read_bytes() == before
    qtbot.mouseClick(tape, Qt.MouseButton.LeftButton, pos=QPoint(round(tape._x(1.5)), 40))
    assert piece.time == pytest.approx(1.5, abs=0.01)


def test_the_other_arm_turns_every_name_over(prepared, qtbot):
    app = prepared
    give_marks(app)
    idle(qtbot, app)
    before = app.prepare.state.view.marks.points
    app.prepare.flow.say_who("Sam Netherby", "L", 1.8)
    idle(qtbot, app)
    after = app.prepare.state.view.marks.points
    np.testing.assert_array_equal(after[400, INDEX["glove_hand"]], before[400, INDEX["throwing_hand"]])
    np.testing.assert_array_equal(after[400, INDEX["lead_knee"]], before[400, INDEX["drive_knee"]])
    assert "view may be named wrongly" in app.notice.text  # seen from the open side he would throw backwards
    app.actions["undo"].trigger()
    np.testing.assert_array_equal(app.prepare.state.view.marks.points, before)


def test_slow_motion_is_stated(prepared, qtbot):
    app, page = prepared, prepared.prepare.pages["clip"]
    give_marks(app)
    page.rate.setValue(480)
    page.rate.editingFinished.emit()
    idle(qtbot, app)
    assert app.prepare.state.view.clock.slow == pytest.approx(2.0, rel=0.01)
    assert app.prepare.state.work.track.times[-1] == pytest.approx(668 / 480, rel=0.01)


def test_a_clip_that_vanishes_is_told_and_nothing_breaks(desk_window, qtbot, tmp_path):
    app = desk_window(demo=False)
    clip = film(tmp_path / "gone.mp4", count=60)
    app.library.bring([clip], link=True, then=lambda found: app.prepare_throw(found[0].key))
    idle(qtbot, app)
    qtbot.waitUntil(lambda: app.prepare.state.times.size == 60, timeout=20000)
    clip.unlink()
    app.prepare.flow.landmarks.find_landmarks()
    idle(qtbot, app)
    assert "gone.mp4" in app.notice.text
    app.prepare.flow._altered(-1)
    assert any("missing" in one for one in app.prepare.state.left()["clip"])
    assert app.window.isVisible()


@pytest.mark.parametrize("content", [b"", b"not a film", bytes(range(256)) * 30])
def test_what_is_no_clip_is_refused_in_one_sentence(desk_window, qtbot, tmp_path, content):
    app = desk_window()
    (tmp_path / "x.mp4").write_bytes(content)
    app.intake.bring([tmp_path / "x.mp4"])
    idle(qtbot, app)
    assert "x.mp4" in app.notice.text and len(app.library.entries) == 4


def test_sound_alone_a_still_picture_and_one_frame(desk_window, qtbot, tmp_path):
    with av.open(str(tmp_path / "sound.mp4"), "w") as out:
        stream = out.add_stream("aac", rate=8000)
        samples = av.AudioFrame.from_ndarray(np.zeros((1, 8000), np.float32), format="fltp", layout="mono")
        samples.rate = 8000
        out.mux(stream.encode(samples))
        out.mux(stream.encode())
    film(tmp_path / "one.mp4", count=1)
    app = desk_window()
    app.intake.bring([tmp_path / "sound.mp4"])
    idle(qtbot, app)
    assert "sound.mp4" in app.notice.text and len(app.library.entries) == 4
    app.intake.bring([tmp_path / "one.mp4"])
    idle(qtbot, app)
    qtbot.waitUntil(lambda: app.prepare.state.times.size == 1, timeout=10000)
    app.prepare.flow.landmarks.find_landmarks()
    idle(qtbot, app)
    assert "one.mp4" in app.notice.text and app.window.isVisible()


def test_the_model_runs_from_the_window_and_can_be_cancelled(prepared, qtbot):
    app = prepared
    app.prepare.flow.trim(1.96, 2.04)
    idle(qtbot, app)
    press(qtbot, app.prepare.pages["landmarks"], "quick")
    seen = []
    app.jobs.progressed.connect(lambda name, share: seen.append(share) if name == "landmarks" else None)
    press(qtbot, app.prepare.pages["landmarks"], "Find landmarks")
    qtbot.waitUntil(lambda: app.window.busy.isVisible(), timeout=20000)
    idle(qtbot, app)
    marks = app.prepare.state.view.marks
    assert 15 < marks.seen[:, INDEX["drive_hip"]].sum() < 25 and max(seen) == 1.0
    app.prepare.flow.trim(1.0, 2.5)
    app.prepare.flow.landmarks.find_landmarks()
    qtbot.waitUntil(lambda: app.jobs.busy, timeout=5000)
    app.window.busy.cancelled.emit()
    assert not app.jobs.busy and app.prepare.state.view.marks.seen[:, INDEX["drive_hip"]].sum() < 25


def test_two_clips_become_a_throw_in_space(desk_window, qtbot):
    app = desk_window()
    key = app.library.find("wren-tollander")
    app.prepare_throw(key)
    idle(qtbot, app)
    from dataclasses import replace as changed

    from test_placing import marks_in

    for view, name in zip(list(app.prepare.state.work.views), ("side", "front"), strict=True):
        app.prepare.state.choose_view(view.id)
        seen = marks_in("wren", "R", name)
        with ClipReader(view.path) as reader:
            times = reader.times
        count = min(times.size, seen.times.size)
        whole = Marks.empty(times)
        whole.points[:count], whole.confidence[:count], whole.source[:count] = seen.points[:count], 1.0, MODEL
        app.prepare.flow.landmarks._keep_marks(changed(whole), "Find landmarks")
    idle(qtbot, app)
    app.prepare.state.go_to_step("ready")
    press(qtbot, app.prepare.pages["ready"], "Join them in space")
    idle(qtbot, app)
    assert "pixels" in app.prepare.pages["ready"].space.text()
    assert preparation_of(app.library.store, key).track_from == "space"
    assert app.prepare.state.analysis.measures["landing_separation"].available
    true = fetch(app.library.store, key)
    assert abs(true.clips[1].clock.start) < 0.01


# dialogs ----------------------------------------------------------------------------------------------------------
def test_unknown_markers_are_mapped_on_screen(desk_window, qtbot, tmp_path):
    app = desk_window()
    times, marks = skin_markers()
    odd = {f"M{k:02d}": path for k, path in enumerate(marks.values())}
    app.intake.bring([write_c3d(tmp_path / "odd.c3d", times, odd)])
    idle(qtbot, app)
    dialog = app.intake.mapping
    assert isinstance(dialog, MappingDialog) and "Not given yet" in dialog.said.text() and not dialog.keep.isEnabled()
    number = {name: f"M{k:02d}" for k, name in enumerate(marks)}
    wanted = {"shoulder": "SHO", "elbow": "ELB", "wrist": "WRA", "hand": "FIN", "knee": "KNE", "ankle": "ANK", "heel": "HEE",
              "toe": "TOE"}  # fmt: skip
    for row, part in enumerate(dialog._parts):
        side, _, joint = part.partition("_")
        if joint in wanted:
            dialog.table.item(row, 1).setText(number[("R" if side == "right" else "L") + wanted[joint]])
        elif part == "head":
            dialog.table.item(row, 1).setText(number["RFHD"])
        elif joint == "hip":
            dialog.table.item(row, 1).setText(f"{number['RASI']}, {number['LASI']}")
            dialog.table.item(row, 2).setText(f"{0.36 if side == 'right' else -0.36} -0.19 -0.3")
    dialog.table.item(0, 1).setText("NOBODY")
    assert "NOBODY" in dialog.said.text() and not dialog.keep.isEnabled()
    dialog.table.item(0, 1).setText(number["RSHO"])
    assert dialog.keep.isEnabled()
    dialog.up.setCurrentText("+z")
    dialog.forward.setCurrentText("+x")
    typed = dialog.last.maximum() - 0.1
    dialog.last.setValue(typed)
    qtbot.keyClick(dialog.last, Qt.Key.Key_Return)  # looks for no other stretch than the one that was typed
    assert dialog.last.value() == pytest.approx(typed, abs=0.01) and dialog.isVisible()
    qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
    idle(qtbot, app)
    key = app.library.find("odd")
    assert key is not None
    assert next(e for e in app.library.entries if e.id == key).ready


def test_the_athlete_dialog_keeps_hands_out_and_erases(desk_window, qtbot, tmp_path, monkeypatch):
    app = desk_window()
    entry = next(e for e in app.library.entries if e.name == "Wren Tollander")
    app.bench.flow.edit_athlete(entry.athlete_id)
    dialog = app.window.findChildren(AthleteDialog)[-1]
    dialog.dates["born"].setText("yesterday")
    press(qtbot, dialog, "Save")
    assert "not a date" in dialog.said.text() and dialog.isVisible()
    dialog.dates["born"].setText("2009-05-02")
    dialog.guardian.setText("R. Tollander")
    dialog.dates["keep_until"].setText("2027-06-30")
    press(qtbot, dialog, "Save")
    assert not dialog.isVisible() and "under age" in app.notice.text
    from waxtwin.library.privacy import athlete_facts

    facts = athlete_facts(app.library.store, entry.athlete_id)
    assert facts["guardian"] == "R. Tollander" and facts["keep_until"] == "2027-06-30" and facts["height_m"] == 1.76
    app.actions["undo"].trigger()
    assert athlete_facts(app.library.store, entry.athlete_id)["guardian"] == ""
    app.bench.flow.edit_athlete(entry.athlete_id)
    dialog = app.window.findChildren(AthleteDialog)[-1]
    monkeypatch.setattr("waxtwin.ui.shared.file_dialogs.choose", lambda *_: [tmp_path])
    press(qtbot, dialog, "Hand out everything…")
    press(qtbot, dialog.findChildren(QMessageBox)[-1], "Save")  # asked: under age, and nobody agreed
    idle(qtbot, app)
    assert (tmp_path / "Wren-Tollander" / "athlete.json").is_file()
    press(qtbot, dialog, "Erase for good…")
    box = dialog.findChildren(QMessageBox)[-1]
    qtbot.mouseClick(next(b for b in box.buttons() if b.text() == "Erase"), Qt.MouseButton.LeftButton)
    idle(qtbot, app)
    assert "Wren Tollander" not in {e.name for e in app.library.entries}
    assert "athlete" not in app.desk.pair.stored  # what was on the desk went with it


def test_backup_and_restore_from_the_menu(desk_window, qtbot, monkeypatch):
    app = desk_window()
    app.actions["back_up"].trigger()
    qtbot.waitUntil(lambda: "Backed up as library-" in app.notice.text, timeout=10000)
    made = app.library.store.backups()[0]
    app.bench.select(1)
    qtbot.mouseClick(app.bench._more["remove"], Qt.MouseButton.LeftButton)
    assert len(app.library.entries) == 3
    app.intake.restore(made)
    assert len(app.library.entries) == 4 and "as it was" in app.notice.text


def test_another_library_is_opened_and_one_in_use_is_refused(desk_window, qtbot, tmp_path):
    app = desk_window()
    from waxtwin.library.store import Library

    other = Library(tmp_path / "other")
    app.library.open(tmp_path / "other")
    idle(qtbot, app)
    assert "open in another window" in app.notice.text and len(app.library.entries) == 4
    other.close()
    app.library.open(tmp_path / "other")
    idle(qtbot, app)
    assert app.library.entries == [] and app.library.name == "other" and not app.desk.pair.stored
    assert Path(app.settings.folder) == tmp_path / "other"
