"""One record a room is all that rail, menu, keys, help and pictures hang on."""

from __future__ import annotations

import sys

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QToolButton

from conftest import idle
from waxtwin import ASSETS
from waxtwin.ui import rooms
from waxtwin.ui.rooms import ROOMS, RoomRecord
from waxtwin.ui.shell.help_dialog import titles

ATTIC = """
from PySide6.QtWidgets import QVBoxLayout

from waxtwin.ui.shared.room import Room
from waxtwin.ui.shared.widgets import label


class AtticRoom(Room):
    def __init__(self, context):
        super().__init__()
        self.context, self.gone = context, False
        QVBoxLayout(self).addWidget(label("What is up here"))

    def throws_in_sight(self):
        return frozenset({7})

    def let_go(self):
        self.gone = True
"""


@pytest.fixture
def attic(tmp_path, monkeypatch):
    """A further room, in a folder of its own and with one record."""
    folder = tmp_path / "further_rooms" / "attic"
    folder.mkdir(parents=True)
    (folder / "room.py").write_text(ATTIC)
    monkeypatch.syspath_prepend(str(tmp_path))
    record = RoomRecord("attic", "Attic", "Alt+0", "AtticRoom", ("attic",), "further_rooms")
    monkeypatch.setattr(rooms, "ROOMS", (*ROOMS, record))
    yield record
    for name in [name for name in sys.modules if name.startswith("further_rooms")]:
        del sys.modules[name]


def test_a_room_is_added_by_its_folder_and_one_record(attic, desk_window, qtbot):
    app = desk_window(demo=False)
    [button] = [each for each in app.window.rail.findChildren(QToolButton) if each.text() == "Attic"]
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    room = app.rooms["Attic"]
    assert app.window.title == "Attic" and room.isVisible() and button.isChecked()
    assert room.context is app.context and app.window.room.throws_in_sight() == {7}
    app.go_to("Bench")
    assert [key.toString() for key in app.actions["room_attic"].shortcuts()] == ["Alt+0"]
    app.do("room_attic")
    assert app.window.title == "Attic" and "Attic" in titles()
    assert ("Rooms", "Attic", "Alt+0") in app.guide.keys()  # noqa: SIM118 - a method of ours
    app.window.close()
    assert room.gone


def what_it_says(app, room):
    """Every word of a room with whether it is seen, and every choice with whether it can be made."""
    labels = [(one.text(), one.isVisible()) for one in room.findChildren(QLabel)]
    buttons = [(one.text(), one.isVisible(), one.isEnabled()) for one in room.findChildren(QAbstractButton)]
    boxes = [([one.itemText(i) for i in range(one.count())], one.currentText()) for one in room.findChildren(QComboBox)]
    return labels, buttons, boxes


def test_a_room_that_is_built_late_says_what_one_says_that_was_there_all_along(desk_window, qtbot):
    said = []
    for there in (True, False):
        app = desk_window(demo=False, explained=True)
        if there:
            assert all(app.rooms.values())
        app.open_demo()
        qtbot.waitUntil(lambda app=app: app.desk.pair.explanation is not None, timeout=60000)
        idle(qtbot, app)
        assert set(app.rooms.built) == ({room.title for room in ROOMS} if there else {"Bench", "Pair"})
        said.append({})
        for title in app.rooms:
            app.go_to(title)
            idle(qtbot, app)
            qtbot.wait(600 if title == "Report" else 0)  # the preview follows once the hand rests
            idle(qtbot, app)
            said[-1][title] = what_it_says(app, app.rooms[title])
        app.window.close()
    for title, words in said[0].items():
        assert said[1][title] == words, title


@pytest.mark.parametrize("record", ROOMS, ids=lambda record: record.id)
def test_every_record_is_whole(record):
    folder = ASSETS.parent / "ui" / "rooms" / record.id
    assert (folder / "room.py").is_file() and (folder / "scenes.py").is_file() and record.pictures
    assert (ASSETS / "help" / f"{record.id}.md").is_file()
    for other in ROOMS:
        assert other is record or not {other.id, other.title, other.key, *other.pictures} & {
            record.id, record.title, record.key, *record.pictures
        }  # fmt: skip
