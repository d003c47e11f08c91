"""Settings, help, the sheet of keys, the tour, and the licences."""

from dataclasses import replace

import pytest
from pypdfium2 import PdfDocument
from PySide6.QtCore import Qt

from conftest import idle
from waxtwin.ui.model.settings import Settings, load_settings, save_settings
from waxtwin.ui.shared import file_dialogs
from waxtwin.ui.shell.about_dialog import AboutDialog, packages
from waxtwin.ui.shell.help_dialog import FILMING, KEYS, page, titles
from waxtwin.ui.shell.tour import STOPS


def test_every_room_has_a_page_and_f1_opens_it(desk_window, qtbot):
    app = desk_window(demo=False)
    for title in app.rooms:
        app.go_to(title)
        app.guide.show_help()
        dialog = app.guide.dialog
        assert dialog.list.currentItem().text() == title
        assert dialog.text.toPlainText().startswith(title) and len(dialog.text.toPlainText()) > 200
        dialog.reject()
    assert [key.toString() for key in app.actions["help"].shortcuts()] == ["F1"]
    assert all(page(title).strip() for title in titles() if title != KEYS)


def test_how_to_film_is_a_page_that_can_be_handed_over(desk_window, qtbot, tmp_path, monkeypatch):
    app = desk_window(demo=False)
    app.actions["filming"].trigger()
    dialog = app.guide.dialog
    assert dialog.list.currentItem().text() == FILMING and "tripod" in dialog.text.toPlainText().lower()
    paper = tmp_path / "film.pdf"
    monkeypatch.setattr(file_dialogs, "choose", lambda *_: [paper])
    qtbot.mouseClick(dialog.save, Qt.MouseButton.LeftButton)
    with PdfDocument(paper) as made:
        assert "tripod" in made[0].get_textpage().get_text_range().lower()
    monkeypatch.setattr(file_dialogs, "choose", lambda *_: [paper / "film.pdf"])  # no folder
    qtbot.mouseClick(dialog.save, Qt.MouseButton.LeftButton)
    assert "film.pdf" in dialog.text.toPlainText()


def test_the_sheet_of_keys_is_made_from_the_commands(desk_window):
    app = desk_window(demo=False)
    app.guide.show_keys()
    text = app.guide.dialog.text.toPlainText()
    for action in app.actions.values():
        if action.shortcuts():
            assert action.text() in text and action.shortcuts()[0].toString() in text


def test_settings_are_used_at_once_and_remembered(desk_window, qtbot):
    app = desk_window()
    app.guide.show_settings()
    dialog = app.guide.dialog
    size = app.window.font().pointSizeF()
    small = app.pair.panel.findChildren(type(app.bench._place))[0].font().pointSizeF()
    dialog.units.setCurrentIndex(1)
    dialog.units.activated.emit(1)
    assert app.desk.view.imperial
    dialog.text.setValue(2)
    assert app.window.font().pointSizeF() == size + 2
    assert app.pair.panel.findChildren(type(app.bench._place))[0].font().pointSizeF() == pytest.approx(small + 2)
    dialog.smoothing.activated.emit(dialog.smoothing.findData("stronger"))
    assert app.library.store.smoothing == 0.75
    idle(qtbot, app)
    assert app.desk.pair.stored["athlete"].delivery.smoothing == 0.75
    assert (app.desk.pair.contrast.athlete.motion.cutoffs < 40 * 0.75 + 1e-9).all()
    dialog.landing.activated.emit(dialog.landing.findData("plant"))
    assert app.desk.pair.landing == "plant"
    dialog.school.activated.emit(dialog.school.findData("coil"))
    assert app.desk.pair.landing == "plant" and app.context.schools.speaking.id == "coil"
    kept = load_settings()
    assert (kept.imperial, kept.text, kept.smoothing, kept.landing, kept.school) == (
        True,
        2,
        "stronger",
        "plant",
        "coil",
    )
    dialog.text.setValue(0)


def test_odd_settings_fall_back_to_the_usual(tmp_path):
    save_settings(replace(Settings(), smoothing="wild", text=40, theme="pink"))
    found = load_settings()
    assert (found.smoothing, found.text, found.theme) == ("usual", 3, "light")


def test_the_tour_goes_through_the_rooms_and_can_be_left(desk_window, qtbot):
    app = desk_window(demo=False, explained=True)
    qtbot.mouseClick(app.bench._tour, Qt.MouseButton.LeftButton)
    tour = app.guide.tour
    assert tour.card.isHidden() and not app.library.entries  # there is nothing to speak of yet
    qtbot.waitUntil(lambda: app.desk.pair.contrast is not None and not app.jobs.busy, timeout=60000)
    assert app.settings.toured and load_settings().toured
    for n, stop in enumerate(STOPS):
        qtbot.waitUntil(lambda n=n, stop=stop: tour.at == n and tour.title.text() == stop.title, timeout=20000)
        qtbot.waitUntil(lambda stop=stop: app.window.title == stop.room, timeout=3000)
        tour._place()
        assert app.window.rect().contains(tour.card.geometry()), stop.title
        what = tour._thread.around
        shared = what.intersected(tour.card.geometry())
        assert what.width() > 50 and shared.width() * shared.height() < 0.7 * what.width() * what.height()
        qtbot.mouseClick(tour.on, Qt.MouseButton.LeftButton)
    assert app.guide.tour is None
    app.guide.start_tour()
    qtbot.mouseClick(app.guide.tour.leaving, Qt.MouseButton.LeftButton)
    assert app.guide.tour is None


def test_every_part_that_ships_is_named_with_its_licence(qapp, qtbot):
    found = {part.name.casefold().replace("_", "-"): part.licence for part in packages()}
    for name in (
        "pyside6-essentials",
        "numpy",
        "scipy",
        "av",
        "mediapipe",
        "weasyprint",
        "pypdfium2",
        "jinja2",
        "sqlalchemy",
    ):
        assert found[name], name
    assert "pytest" not in found and not [name for name, licence in found.items() if not licence]
    dialog = AboutDialog()
    qtbot.addWidget(dialog)
    assert "Apache License" in dialog.text.toPlainText()
    row = next(n for n, part in enumerate(dialog.parts) if part.name.startswith("Manrope"))
    dialog.table.setCurrentCell(row, 0)
    assert "SIL OPEN FONT LICENSE" in dialog.text.toPlainText()
