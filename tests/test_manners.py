"""The window's manners: nothing gets lost or stuck, what is typed is understood or said, notices, undo, the demo."""

import ast
import json
import shutil
from datetime import date
from pathlib import Path

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QDialogButtonBox,
    QFileDialog,
    QLineEdit,
    QMessageBox,
    QWidget,
)
from sqlalchemy import select

from conftest import DEMO, idle
from films import film
from waxtwin.core.measures import MEASURES
from waxtwin.core.steps import finish
from waxtwin.core.units import read_length, read_speed
from waxtwin.library.privacy import not_agreed, set_athlete_facts
from waxtwin.library.records import Athlete
from waxtwin.library.store import Library
from waxtwin.library.throws import set_fields
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.settings import load_settings
from waxtwin.ui.rooms.bench.entry_model import STATE
from waxtwin.ui.shared.athlete_dialog import AthleteDialog
from waxtwin.ui.shared.file_dialogs import last_place
from waxtwin.ui.shared.open_library import data_folder
from waxtwin.ui.shared.quantity import Length, Quantity, Speed
from waxtwin.ui.shared.widgets import Choice

SOURCE = Path(__file__).parent.parent / "src" / "waxtwin"


def press(qtbot, box, words):
    """Press a button of a box that asks."""
    button = next(b for b in box.findChildren(QAbstractButton) if b.text().replace("&", "") == words)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)


def athlete_id(library, name):
    with library.reading() as session:
        return session.scalars(select(Athlete.id).where(Athlete.name == name)).one()


# what is typed ----------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    "said",
    [
        "6'1",
        "6' 1\"",
        "6 ft 1",
        "6ft 1in",
        "6 feet 1 inch",
        "73 in",
        '73"',
        "1.8542",
        "1,8542 m",
        "185.42 cm",
        "185.42",
        "1854.2 mm",
    ],
)
def test_a_height_is_understood_however_it_is_written(said):
    assert read_length(said, tall=True) == pytest.approx(1.8542, abs=1e-4)


@pytest.mark.parametrize("said", ["", "tall", "6'14", "18", "1.85 x", "-1.85", "6.1.2", "nan", "1e9", "٣"])
def test_what_is_no_height_is_said_and_never_a_guess(said):
    with pytest.raises(ValueError, match="not understood"):
        read_length(said, tall=True)


def test_speeds_in_any_unit():
    assert read_speed("33.2") == 33.2 and read_speed("74.3", imperial=True) == pytest.approx(33.2, abs=0.02)
    assert read_speed("74.3 mph") == pytest.approx(33.2, abs=0.02) and read_speed("119,5 km/h") == pytest.approx(
        33.2, abs=0.02
    )
    with pytest.raises(ValueError, match="not understood"):
        read_speed("fast")


def test_a_field_keeps_its_figure_when_what_is_typed_is_not_understood(qtbot):
    box, said = Length(0.89, 2.5, empty="height?", tall=True), []
    qtbot.addWidget(box)
    box.misread.connect(said.append)
    box.setValue(1.85)
    for typed, value in (("6'1", 1.854), ("huge", 1.854), ("4 m", 1.854), ("190 cm", 1.9), ("", 0.89)):
        box.lineEdit().selectAll()
        qtbot.keyClicks(box, typed) if typed else qtbot.keyClick(box, Qt.Key.Key_Delete)
        qtbot.keyClick(box, Qt.Key.Key_Return)
        assert box.value() == pytest.approx(value, abs=0.001), typed
    assert len(said) == 2 and "huge" in said[0] and "outside" in said[1]
    assert box.text() == "height?"


def test_units_of_every_field_follow_the_choice(qtbot, monkeypatch):
    monkeypatch.setattr(Quantity, "imperial", True)
    tall, quick = Length(0.89, 2.5, tall=True), Speed(0, 60)
    for box, value in ((tall, 1.8542), (quick, 33.2)):
        qtbot.addWidget(box)
        box.setValue(value)
    assert (tall.text(), quick.text()) == ("6 ft 1 in", "74.3 mph")


def test_saving_an_athlete_waits_for_a_height_that_is_not_understood(qtbot):
    facts = {"name": "Wren", "throws": "R", "height_m": 1.76, "span_m": None, "mass_kg": None, "born": None, "guardian": "",
             "consent_on": None, "keep_until": None, "notes": "", "throws_kept": 1}  # fmt: skip
    dialog, kept = AthleteDialog(facts), []
    qtbot.addWidget(dialog)
    dialog.kept.connect(kept.append)
    dialog.show()
    box = dialog.lengths["height_m"]
    box.setFocus()
    box.lineEdit().selectAll()
    qtbot.keyClicks(box, "one eighty")
    press(qtbot, dialog, "Save")
    assert not kept and dialog.isVisible() and "one eighty" in dialog.said.text()
    box.lineEdit().setText("5'11")
    box.interpretText()
    press(qtbot, dialog, "Save")
    assert kept[0]["height_m"] == pytest.approx(1.803, abs=0.001)


# prepare ----------------------------------------------------------------------------------------------------------------
def test_filmed_from_is_kept_and_times_are_true_once_the_rate_is_said(desk_window, qtbot, tmp_path):
    app = desk_window()
    app.intake.bring([film(tmp_path / "slow.mp4", count=60)])
    qtbot.waitUntil(lambda: app.prepare.state.times.size > 0 and not app.jobs.busy, timeout=30000)
    page = next(page for page in app.prepare.findChildren(QWidget) if type(page).__name__ == "ClipPage")
    page.view.setCurrentText("closed side")
    page.view.activated.emit(page.view.currentIndex())  # a choice by hand
    assert app.prepare.state.view.view == "closed side"
    played = app.prepare.state.true_time(30)
    page.rate.setValue(app.prepare.state.view.facts["rate"] * 8)
    page.rate.editingFinished.emit()
    assert app.prepare.state.true_time(30) == pytest.approx(played / 8)
    assert "8 times slowed" in page.facts.text()


def test_every_function_with_open_ended_words_keeps_its_own_names_apart():
    """`keep_clip(..., **values)` once took `view=` for a parameter of its own: no name may be both."""
    for file in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text("utf-8"))):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) and node.args.kwarg:
                assert not node.args.args, f"{file.name}:{node.lineno} {node.name}"


def test_stops_nudged_quickly_all_count(desk_window, qtbot):
    app = desk_window()
    stop, rate = app.desk.clock.stop, app.desk.pair.analysis("athlete").motion.rate
    start = app.desk.pair.analysis("athlete").events[stop].time
    for _ in range(5):  # quicker than any figures come
        app.actions["later_athlete"].trigger()
    assert app.desk.pair.stored["athlete"].delivery.by_hand.times[stop] == pytest.approx(start + 5 / rate)
    with_library = app.library.store.folder
    app.window.close()
    library = Library(with_library)
    with library.reading() as session:
        from waxtwin.library.records import EventRow

        assert session.scalars(select(EventRow.time)).all() == [pytest.approx(start + 5 / rate)]
    library.close()


# notices, undo ------------------------------------------------------------------------------------------------------------
def test_faults_facts_and_successes_look_different(desk_window):
    notice = desk_window(demo=False).notice
    looks = []
    for said in (Fault("It broke."), Success("It is done."), "It is so."):
        notice.say(said)
        looks.append((notice._symbol.text(), notice.property("kind")))
        assert notice.text == said
    assert len(set(looks)) == 3 and looks[0] == ("▲", "fault")


def test_undo_of_what_is_not_in_sight_asks_first(desk_window, qtbot):
    app = desk_window()
    library = app.library.store
    other = next(e.id for e in app.library.entries if e.name == "Pell Ardmoor")
    set_fields(library, other, "Note about Pell", notes="seen nowhere here")
    app.go_to("Pair")
    app.actions["undo"].trigger()
    assert "Note about Pell" in app.notice.text and library.next_undo().label == "Note about Pell"
    app.actions["undo"].trigger()
    assert library.next_undo() is None
    set_fields(library, other, "Note about Pell", notes="again")
    app.go_to("Bench")
    app.actions["undo"].trigger()  # on the Bench everything is in sight
    assert library.next_undo() is None


def test_an_import_is_listed_in_full_and_what_is_new_comes_first(desk_window, qtbot, tmp_path):
    place = tmp_path / "in"
    place.mkdir()
    for name in ("wren-tollander-2", "wren-tollander-3"):
        for end in (".csv", ".delivery.json"):
            shutil.copy(DEMO / f"{name}{end}", place)
    (place / "broken.csv").write_text("time\n")
    app = desk_window()
    app.intake.bring([place])
    idle(qtbot, app)
    assert app.notice.property("kind") == "fault" and "2 brought in" in app.notice.text
    qtbot.mouseClick(app.notice.action, Qt.MouseButton.LeftButton)
    table = app.intake.list.table
    rows = [(table.item(n, 0).text(), table.item(n, 1).text()) for n in range(table.rowCount())]
    assert len(rows) == 3 and rows[0][0] == "broken.csv" and "Not taken" in rows[0][1]
    app.intake.list.accept()
    model = app.bench.model
    told = [model.data(model.index_of(e.id).siblingAtColumn(STATE)) for e in model.entries]
    new = [n for n, words in enumerate(told) if words.startswith("new")]
    assert len(new) == 2 and all(model.index_of(model.entries[n].id).row() < 2 for n in new), (
        "before their pitcher's others"
    )


# the demo, own work, places -----------------------------------------------------------------------------------------------
def test_own_files_do_not_vanish_into_the_demo(desk_window, qtbot, tmp_path):
    app = desk_window()
    app.intake.into_demo = False
    shutil.copy(DEMO / "wren-tollander-2.csv", tmp_path / "mine.csv")
    shutil.copy(DEMO / "wren-tollander-2.delivery.json", tmp_path / "mine.delivery.json")
    assert "Demo" in app.bench._place.text() and "not yours" in app.bench._place.text()
    app.intake.bring([tmp_path / "mine.csv"])
    press(qtbot, app.intake.where, "Make my library")
    qtbot.waitUntil(lambda: not app.library.is_demo and len(app.library.entries) == 1, timeout=30000)
    assert app.library.store.folder == data_folder() / "library"
    assert load_settings().folder == str(data_folder() / "library")  # opens by itself from now on
    app.open_demo()
    idle(qtbot, app)
    assert load_settings().folder == str(data_folder() / "library") and len(app.library.entries) == 4


def test_dialogs_start_at_home_or_where_the_last_one_ended(desk_window, qtbot, tmp_path):
    app, asked = desk_window(demo=False), []
    (tmp_path / "notes.mp4").write_text("nothing of use")
    assert last_place() == Path.home()

    def answer():
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, QFileDialog):
            QTimer.singleShot(50, answer)
            return
        asked.append(dialog.directory().absolutePath())
        assert Path(dialog.sidebarUrls()[0].toLocalFile()) == Path(asked[-1])
        dialog.findChild(QLineEdit, "fileNameEdit").setText(str(tmp_path / "notes.mp4"))
        buttons = dialog.findChild(QDialogButtonBox)
        qtbot.mouseClick(buttons.button(QDialogButtonBox.StandardButton.Open), Qt.MouseButton.LeftButton)
        QTimer.singleShot(5000, dialog, dialog.reject)  # it must not wait for ever

    for _ in range(2):
        QTimer.singleShot(50, answer)
        app.actions["import_files"].trigger()  # the second one while a library for the first is still being made
    idle(qtbot, app)
    assert asked == [str(Path.home()), str(tmp_path)] and load_settings().place == str(tmp_path)
    assert "notes.mp4" in app.notice.text


def test_a_library_opens_after_something_else_was_opened_meanwhile_and_failed(desk_window, qtbot, tmp_path):
    app, opened = desk_window(demo=False), []
    app.library.open(tmp_path / "mine", lambda: opened.append("first"))
    app.library.join("postgresql://nobody@127.0.0.1:9/none", None)  # the first one is given up for it
    idle(qtbot, app)
    assert app.notice.text and app.library.store is None and not opened
    for which in ("second", "third"):
        app.library.open(tmp_path / "mine", lambda which=which: opened.append(which))
    idle(qtbot, app)
    assert app.library.store.folder == tmp_path / "mine" and opened == ["second", "third"]


def test_a_folder_that_is_still_let_go_of_opens_a_moment_later(desk_window, qtbot, tmp_path):
    app, held = desk_window(demo=False), Library(tmp_path / "mine")
    app.library.open(tmp_path / "mine")
    QTimer.singleShot(400, held.close)
    idle(qtbot, app)
    assert app.library.store.folder == tmp_path / "mine" and not app.notice.text


def test_a_new_name_shows_everywhere_at_once(desk_window, qtbot):
    app = desk_window(explained=True)
    library = app.library.store
    key = athlete_id(library, "Wren Tollander")
    app.library.change(lambda it: set_athlete_facts(it, key, {"name": "Wren Saltmarrow", "throws": "R"}))
    idle(qtbot, app)
    assert app.pair.header._names["athlete"].text() == "Wren Saltmarrow"
    assert "Wren Saltmarrow" in {entry.name for entry in app.library.entries}
    assert "Wren Saltmarrow" in app.bench._pair.text()
    app.go_to("Report")
    idle(qtbot, app)
    assert app.report.form.names["athlete"].placeholderText() == "Wren Saltmarrow"
    app.library.change(lambda it: set_athlete_facts(it, key, {"name": "Wren Netherby", "throws": "R"}))
    qtbot.waitUntil(lambda: app.report.form.names["athlete"].placeholderText() == "Wren Netherby", timeout=20000)


# a lost database, agreement -------------------------------------------------------------------------------------------------
def test_a_database_that_is_gone_is_told_and_its_backup_offered(desk_window, qtbot, tmp_path):
    folder = tmp_path / "mine"
    library = Library(folder)
    from waxtwin.library.importing import bring

    finish(bring(library, DEMO / "wren-tollander.csv"))
    library.back_up()
    library.close()
    (folder / "library.sqlite").unlink()
    app = desk_window(demo=False)
    app.library.open(folder)
    qtbot.waitUntil(lambda: hasattr(app.intake, "where"), timeout=20000)
    box = app.intake.where
    assert isinstance(box, QMessageBox) and "missing" in box.text() and app.library.store is None
    assert not (folder / "library.sqlite").exists()  # nothing happened by itself
    press(qtbot, box, "Restore the newest backup")
    qtbot.waitUntil(lambda: len(app.library.entries) == 1, timeout=20000)


def test_what_shows_a_minor_is_asked_about_before_it_leaves(desk_window, qtbot, monkeypatch, tmp_path):
    app = desk_window()
    library, key = app.library.store, athlete_id(app.library.store, "Wren Tollander")
    facts = {"name": "Wren Tollander", "throws": "R", "born": "2009-01-01", "consent_on": None}
    app.library.change(lambda it: set_athlete_facts(it, key, facts))
    idle(qtbot, app)
    throw = app.desk.pair.stored["athlete"].key
    assert "no guardian" in not_agreed(library, [throw], date(2026, 11, 28))[0]
    asked = []
    monkeypatch.setattr(app.report.flow, "_ask_where", asked.append)
    app.report.flow.ask("bundle")
    assert not asked and "no guardian" in app.report.flow.agreed.text()
    press(qtbot, app.report.flow.agreed, "Cancel")
    assert not asked
    app.report.flow.ask("bundle")
    press(qtbot, app.report.flow.agreed, "Save")
    assert asked == ["bundle"]
    app.library.change(lambda it: set_athlete_facts(it, key, facts | {"consent_on": "2026-01-02"}))
    assert not_agreed(library, [throw], date(2026, 11, 28)) == []


def test_data_kept_too_long_is_listed_with_erase_and_prolong(desk_window, qtbot):
    app = desk_window()
    library = app.library.store
    key = athlete_id(library, "Pell Ardmoor")
    set_athlete_facts(library, key, {"keep_until": "2020-01-01"})
    app.library._remind()
    assert "Pell Ardmoor" in app.notice.text
    qtbot.mouseClick(app.notice.action, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(app.intake.overdue.buttons["keep", key], Qt.MouseButton.LeftButton)
    with library.reading() as session:
        assert session.get(Athlete, key).keep_until > date.today().isoformat()


# rooms fit ------------------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(("width", "height", "text"), [(1024, 768, 0), (1280, 720, 3)])
def test_every_room_fits_a_small_screen_and_large_type(desk_window, qtbot, width, height, text):
    from waxtwin.ui.shared import theme

    app = desk_window(explained=True)
    qtbot.waitUntil(lambda: app.desk.pair.explanation is not None, timeout=30000)
    try:
        theme.apply("light", text)
        for title, room in app.rooms.items():
            app.go_to(title)
            app.notice.say("The worst case: something is said, and", "Offered", lambda: None)
            app.window.busy.show()  # something else takes its time meanwhile
            for choice in room.findChildren(Choice):
                choice.show()  # also what only sets of throws bring up
            app.window.resize(width, height)
            qtbot.wait(30)
            smallest = app.window.minimumSizeHint()
            assert smallest.width() <= width and smallest.height() <= height, (title, smallest)
            assert (app.window.width(), app.window.height()) == (width, height), title
    finally:
        theme.apply("light", 0)


def test_a_stop_that_waits_is_asked_for_in_pair_and_prepare(desk_window, qtbot, tmp_path):
    """One clip of each: what is too vague is proposed, not used, and set with two clicks."""
    from waxtwin.core.track import Track
    from waxtwin.formats.tracks import read_track, write_track

    app = desk_window()
    for name in ("wren-tollander", "ines-corvane"):
        track, _ = read_track(DEMO / f"{name}.csv")
        points = track.points.copy()
        points[..., 1] = float("nan")
        (tmp_path / "in").mkdir(exist_ok=True)
        write_track(Track(track.times, points, track.confidence), tmp_path / "in" / f"{name}-flat.csv")
        said = json.loads((DEMO / f"{name}.delivery.json").read_text())
        said.pop("views", None)
        said["sight"] = {"by_model": True}
        (tmp_path / "in" / f"{name}-flat.delivery.json").write_text(json.dumps(said))
    app.intake.bring([tmp_path / "in"])
    idle(qtbot, app)
    keys = {entry.title: entry.id for entry in app.library.entries}
    app.pairs.take_pair(keys["wren-tollander-flat"], keys["ines-corvane-flat"])
    app.go_to("Pair")
    qtbot.waitUntil(
        lambda: app.desk.pair.contrast is not None and not app.jobs.busy and bool(app.desk.pair.asked()),
        timeout=60000,
    )
    waiting = app.desk.pair.asked()
    stop = next(iter(waiting))
    assert stop not in app.desk.pair.stops()
    ask = app.pair.panel.asked
    assert ask.isVisible() and "Set by hand" in ask.text()
    while app.desk.clock.stop != stop:
        qtbot.mouseClick(ask, Qt.MouseButton.LeftButton)
    proposal = app.desk.pair.analysis("athlete").proposal(stop)
    assert app.desk.clock.time == pytest.approx(proposal.time)
    for side in ("athlete", "twin"):
        app.pair.edits.correct(side, stop, app.desk.pair.analysis(side).proposal(stop).time + 0.01)
        idle(qtbot, app)
    assert stop in app.desk.pair.stops() and stop not in app.desk.pair.asked()
    read = [item.id for item in MEASURES.values() if stop in item.stops]
    assert any(app.desk.pair.contrast.row(name).difference is not None for name in read)
