"""The Report room and the Session room as an analyst uses them."""

import json

import pytest
from PySide6.QtCore import QPoint, Qt

from conftest import idle
from waxtwin.core.readings import FAILED, PLATES, RADAR, Reading, radar_reading
from waxtwin.library.store import Library
from waxtwin.report.parts import Report
from waxtwin.ui.model.pair_state import SIDES


@pytest.fixture
def explained(desk_window, qtbot):
    """The window with the demo's pair, explained."""
    app = desk_window(explained=True, pages=True)
    qtbot.waitUntil(lambda: app.desk.pair.explanation is not None and not app.jobs.busy, timeout=60000)
    return app


@pytest.fixture
def room(explained, qtbot):
    """The window in the Report room, its preview made."""
    explained.go_to("Report")
    qtbot.waitUntil(lambda: bool(explained.report.sheets) and not explained.jobs.busy, timeout=60000)
    return explained


def written(app, qtbot, kind, path):
    app.report.flow.save(kind, path)
    idle(qtbot, app)
    return app.notice.text


def test_what_is_chosen_is_what_the_athlete_sees_and_it_is_kept(room, qtbot, tmp_path):
    form, pages = room.report.form, len(room.report.sheets)
    assert "as the athlete will see them" in room.report.state.text() and pages > 3
    assert form.names["athlete"].placeholderText() == "Wren Tollander" and form.words["first"].placeholderText()
    form.parts["table"].setChecked(False)
    form.parts["pictures"].setChecked(False)
    form.names["athlete"].setText("Pitcher 7")
    form.words["closing"].setText("See you in March.")
    qtbot.waitUntil(lambda: len(room.report.sheets) < pages and not room.jobs.busy, timeout=60000)
    report = room.report.flow.compose()
    assert isinstance(report, Report) and report.tables == () and report.athlete == "Pitcher 7"
    out = tmp_path / "r.html"
    assert written(room, qtbot, "html", out) == "Written: r.html."
    page = out.read_text()
    assert "See you in March." in page and "Tollander" not in page
    # the pair keeps it
    room.go_to("Pair")
    room.kept.save()
    pair = room.desk.pair.kept
    room.bench.flow.open_kept(pair)
    qtbot.waitUntil(lambda: room.desk.pair.contrast is not None and not room.jobs.busy, timeout=60000)
    assert form.names["athlete"].text() == "Pitcher 7" and not form.parts["table"].isChecked()
    assert form.parts["account"].isChecked()


def test_everything_that_can_be_sent_out_is_written(explained, qtbot, tmp_path, monkeypatch):
    room = explained
    (tmp_path / "file").write_text("x")
    assert "r.html: it cannot be written" in written(room, qtbot, "html", tmp_path / "file" / "r.html")
    assert "reports are written as" in written(room, qtbot, "pdf", tmp_path / "r.doc")
    for kind, name in (("pdf", "r.pdf"), ("bundle", "b.waxtwin"), ("data", "d")):
        assert "Written" in written(room, qtbot, kind, tmp_path / name)
    assert (tmp_path / "r.pdf").read_bytes().startswith(b"%PDF")
    assert len(list((tmp_path / "d").iterdir())) == 25
    monkeypatch.setattr(
        "waxtwin.ui.shared.pair_images.PairImages._times", lambda plates: [(1.0 + n / 30, n > 4) for n in range(9)]
    )
    assert "Written" in written(room, qtbot, "clip", tmp_path / "c.mp4")
    assert (tmp_path / "c.mp4").stat().st_size > 10_000
    # a bundle comes in by the window as any file does
    room.library.open(tmp_path / "fresh")
    qtbot.waitUntil(lambda: not room.jobs.busy, timeout=60000)
    room.intake.receive([tmp_path / "b.waxtwin"], 10.0)
    qtbot.waitUntil(lambda: room.desk.pair.contrast is not None and not room.jobs.busy, timeout=60000)
    assert room.window.room is room.pair and room.desk.pair.stored["twin"].title == "Ines Corvane"
    room.intake.bring([tmp_path / "r.pdf"])
    qtbot.waitUntil(lambda: not room.jobs.busy, timeout=60000)
    assert "Not taken" in room.notice.text


def test_the_report_shows_the_clips_own_frames_where_that_is_wanted(desk_window, qtbot, monkeypatch):
    shown = []
    app = desk_window(explained=True)
    qtbot.waitUntil(lambda: app.desk.pair.explanation is not None and not app.jobs.busy, timeout=60000)
    monkeypatch.setattr("waxtwin.ui.rooms.report.flow.page_of", paged(shown))
    app.go_to("Report")
    idle(qtbot, app)
    form, box = app.report.form, app.report.form.footage
    assert box.isEnabled() and not shown[-1].footage
    qtbot.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(12, box.height() // 2))
    qtbot.waitUntil(lambda: bool(shown[-1].footage) and not app.jobs.busy, timeout=20000)
    assert {side: clips[0].view for side, clips in shown[-1].footage.items()} == dict.fromkeys(SIDES, "open side")
    # kept with the pair, and what has no clip cannot be asked for it
    app.kept.save()
    assert app.desk.pair.kept is not None and app.report.flow.wish.footage
    assert form.drawn.isHidden()
    for side in ("twin", "athlete"):
        assert box.isEnabled()
        for clip in app.desk.pair.stored[side].clips:
            clip.path.unlink()
        app.report.flow.preview()
        idle(qtbot, app)
        assert (side == "athlete" or form.drawn.isVisible()) and form.drawn.text().startswith("Ines Corvane stays") == (
            side == "twin"
        )
    assert not box.isEnabled() and "No clip" in box.toolTip()


def paged(shown):
    """Stands for making pages: what would paint their pictures is noted."""

    def pages(report, images, share):
        yield share
        shown.append(images)
        return "<p>A page.</p>"

    return pages


def test_nothing_can_be_sent_out_before_there_is_something(desk_window):
    app = desk_window(demo=False)
    app.go_to("Report")
    assert not any(button.isEnabled() for button in app.report.buttons.values())
    assert "Choose a pair" in app.report.hint.text()
    app.report.flow.ask("pdf")
    app.report.flow.preview()
    assert app.report.sheets == []


# the session ----------------------------------------------------------------------------------------------------------
def test_a_session_is_begun_filled_corrected_and_ended(desk_window, qtbot, tmp_path, monkeypatch):
    app = desk_window()
    app.go_to("Session")
    room = app.session
    assert room.athlete.currentText() == "Wren Tollander" and not room.contrast.isEnabled()
    qtbot.mouseClick(room.begin, Qt.MouseButton.LeftButton)
    assert "at least one device" in app.notice.text and app.session.flow.live is None
    room.folder.setText(str(tmp_path / "gone"))
    qtbot.mouseClick(room.begin, Qt.MouseButton.LeftButton)
    assert "no such folder" in app.notice.text
    room.folder.clear()
    room.radar.setText("127.0.0.1:9")
    qtbot.mouseClick(room.begin, Qt.MouseButton.LeftButton)
    live = app.session.flow.live
    assert live is not None and room.begin.isHidden() and not room.radar.isEnabled()
    assert "not reached" in room.states.text() or "not reached yet" in room.states.text()
    live.hub.devices |= {RADAR, *PLATES}
    live.readings = [radar_reading(100.0, 33.0), Reading(PLATES[0], 99.8, FAILED, None, "no <b>signal</b>"),
                     radar_reading(130.0, 33.4), radar_reading(160.0, 33.2), radar_reading(190.0, 21.0)]  # fmt: skip
    app.session.flow.look()
    assert room.table.rowCount() == 4 and room.table.item(0, 2).text() == "33.00 m/s"
    assert room.table.item(0, 3).text() == "▲ failed: no <b>signal</b>"
    assert room.table.item(3, 2).text().startswith("▲ ") and "far from the others" in room.table.item(3, 2).text()
    assert "4 throws" in room.summary.text() and "of 3" in room.summary.text() and "failed" in room.summary.text()
    app.desk.view.set_imperial(True)
    assert room.table.item(0, 2).text() == "73.8 mph"
    monkeypatch.setattr("PySide6.QtWidgets.QInputDialog.getDouble", lambda *a, **k: (74.0, True))
    room.table.setCurrentCell(3, 0)
    qtbot.mouseClick(room.correct, Qt.MouseButton.LeftButton)
    assert room.table.item(3, 2).text() == "74.0 mph"
    qtbot.mouseClick(room.end, Qt.MouseButton.LeftButton)
    assert not app.session.flow.running and not room.begin.isHidden() and room.table.rowCount() == 4
    assert "has ended" in room.states.text()
    monkeypatch.setattr("PySide6.QtWidgets.QInputDialog.getDouble", lambda *a, **k: (75.0, True))
    qtbot.mouseClick(room.correct, Qt.MouseButton.LeftButton)  # what was misread is often seen afterwards
    assert room.table.item(3, 2).text() == "75.0 mph"
    # what was logged is in the library, and counts as thrown
    folder = app.library.store.folder
    app.window.close()
    again = Library(folder)
    try:
        from waxtwin.library.log import days_of
        from waxtwin.library.records import ThrowingSession

        athlete = app.session.flow.athlete
        assert days_of(again, athlete)[-1].thrown == 4
        with again.reading() as session:
            logged = session.get(ThrowingSession, live.session).log
        assert json.dumps(logged) and logged[0]["readings"][0]["state"] in ("read", FAILED)
        typed = [one["value"] for one in logged[3]["readings"] if one["note"] == "typed by hand"]
        assert typed == [pytest.approx(75.0 / 2.23694, abs=0.01)]
    finally:
        again.close()


def test_a_clip_that_lands_as_the_session_ends_is_measured_and_joins_the_set(desk_window, qtbot, tmp_path, monkeypatch):
    """The model's part is left to its own tests: here a landed clip gets the marks that it would have found."""
    app = desk_window()
    done = []

    def prepared(library, key, model):
        from waxtwin.library.throws import delivery_row

        yield 0.5
        with library.change("marks") as session:
            row, other = delivery_row(session, key), delivery_row(session, app.desk.pair.stored["athlete"].key)
            row.track, row.track_from = other.track, "space"
        done.append(key)
        return ["joined"]

    monkeypatch.setattr("waxtwin.library.live_throws.prepare_throw", prepared)
    app.go_to("Session")
    app.session.folder.setText(str(tmp_path))
    app.session.flow.begin()
    from conftest import DEMO

    (tmp_path / "new.mp4").write_bytes((DEMO / "wren-tollander-side.mp4").read_bytes() + b"\0" * 8)
    qtbot.mouseClick(app.session.end, Qt.MouseButton.LeftButton)
    assert "still taken in" in app.session.states.text()
    qtbot.waitUntil(lambda: bool(done) and app.session.contrast.isEnabled(), timeout=60000)
    assert app.session.table.item(0, 5).text() == "measured"
    qtbot.mouseClick(app.session.contrast, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: app.desk.pair.stored["athlete"].key == done[0] and not app.jobs.busy, timeout=60000)
    assert app.window.room is app.contrast
    # what lands once the next session has begun is that one's
    before = app.session.flow.live
    app.go_to("Session")
    qtbot.mouseClick(app.session.begin, Qt.MouseButton.LeftButton)
    (tmp_path / "next.mp4").write_bytes((DEMO / "wren-tollander-side.mp4").read_bytes() + b"\0" * 9)
    qtbot.waitUntil(lambda: len(app.session.flow.live.throws) == 1 and not app.jobs.busy, timeout=60000)
    assert app.session.flow.live is not before and len(before.throws) == 1 and len(done) == 2


def test_stand_ins_that_cannot_start_are_told(desk_window, qtbot, monkeypatch):
    app = desk_window()
    monkeypatch.setattr("sys.executable", "/no/such/program")
    app.session.flow.use_stand_ins()
    qtbot.waitUntil(lambda: "could not be started" in app.notice.text, timeout=5000)
    assert app.session.flow.live is None
