"""Settings, help, the sheet of keys, the tour, and the licences."""

from dataclasses import replace

import pytest
from PySide6.QtCore import Qt

from waxtwin.ui.model.settings import Settings, load_settings, save_settings
from waxtwin.ui.shell.about_dialog import AboutDialog, packages
from waxtwin.ui.shell.help_dialog import KEYS, TITLES, page
from waxtwin.ui.shell.tour import STOPS


def test_every_room_has_a_page_and_f1_opens_it(desk_window, qtbot):
    window = desk_window(demo=False)
    for room in window.rooms:
        window.go_to(room.title)
        window.guide.show_help()
        dialog = window.guide.dialog
        assert dialog.list.currentItem().text() == room.title
        assert dialog.text.toPlainText().startswith(room.title) and len(dialog.text.toPlainText()) > 200
        dialog.reject()
    assert [key.toString() for key in window.actions["help"].shortcuts()] == ["F1"]
    assert all(page(title).strip() for title in TITLES if title != KEYS)


def test_the_sheet_of_keys_is_made_from_the_commands(desk_window):
    window = desk_window(demo=False)
    window.guide.show_keys()
    text = window.guide.dialog.text.toPlainText()
    for action in window.actions.values():
        if action.shortcuts():
            assert action.text() in text and action.shortcuts()[0].toString() in text


def test_settings_are_used_at_once_and_remembered(desk_window, qtbot):
    window = desk_window()
    window.guide.show_settings()
    dialog = window.guide.dialog
    size = window.frame.font().pointSizeF()
    small = window.pair.panel.findChildren(type(window.bench._place))[0].font().pointSizeF()
    dialog.units.setCurrentIndex(1)
    dialog.units.activated.emit(1)
    assert window.desk.imperial
    dialog.text.setValue(2)
    assert window.frame.font().pointSizeF() == size + 2
    assert window.pair.panel.findChildren(type(window.bench._place))[0].font().pointSizeF() == pytest.approx(small + 2)
    dialog.smoothing.activated.emit(dialog.smoothing.findData("stronger"))
    assert window.librarian.library.smoothing == 0.75
    qtbot.waitUntil(lambda: not window.jobs.busy, timeout=60000)
    assert window.desk.stored["athlete"].delivery.smoothing == 0.75
    assert (window.desk.contrast.athlete.motion.cutoffs < 40 * 0.75 + 1e-9).all()
    dialog.landing.activated.emit(dialog.landing.findData("plant"))
    assert window.desk.landing == "plant"
    dialog.school.activated.emit(dialog.school.findData("coil"))
    assert window.desk.landing == "plant" and window.explainer.school.id == "coil"
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
    window = desk_window(demo=False, explained=True)
    qtbot.mouseClick(window.bench._tour, Qt.MouseButton.LeftButton)
    tour = window.guide.tour
    assert tour.card.isHidden() and not window.librarian.entries  # there is nothing to speak of yet
    qtbot.waitUntil(lambda: window.desk.contrast is not None and not window.jobs.busy, timeout=60000)
    assert window.settings.toured and load_settings().toured
    for n, stop in enumerate(STOPS):
        qtbot.waitUntil(lambda n=n, stop=stop: tour.at == n and tour.title.text() == stop.title, timeout=20000)
        qtbot.waitUntil(lambda stop=stop: window.frame.room.title == stop.room, timeout=3000)
        tour._place()
        assert window.frame.rect().contains(tour.card.geometry()), stop.title
        what = tour._thread.around
        shared = what.intersected(tour.card.geometry())
        assert what.width() > 50 and shared.width() * shared.height() < 0.7 * what.width() * what.height()
        qtbot.mouseClick(tour.on, Qt.MouseButton.LeftButton)
    assert window.guide.tour is None
    window.guide.start_tour()
    qtbot.mouseClick(window.guide.tour.leaving, Qt.MouseButton.LeftButton)
    assert window.guide.tour is None


def test_every_part_that_ships_is_named_with_its_licence(qapp, qtbot):
    found = {name.casefold().replace("_", "-"): licence for name, _, licence, _ in packages()}
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
    row = next(n for n, part in enumerate(dialog.parts) if part[0].startswith("Manrope"))
    dialog.table.setCurrentCell(row, 0)
    assert "SIL OPEN FONT LICENSE" in dialog.text.toPlainText()
