"""Every control of every room is used in the real window, and does something that can be seen.

The list is made from the widget tree: what a room shows is used once, and so is whatever comes to light on the way.
"""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QScrollArea,
    QSlider,
    QToolButton,
    QWidget,
)

from conftest import idle
from waxtwin.ui.rooms import ROOMS
from waxtwin.ui.shell.pictures import settle

CONTROLS = (QAbstractButton, QComboBox, QLineEdit, QSlider, QAbstractSpinBox)
_MOST = 220  # uses of one room: more means that using one brings up others without end


def name_of(control: QWidget, room: QWidget) -> str:
    """What a control is known by: its kind, what stands on it or is said of it, and its place among its like."""
    said = (
        control.accessibleName()
        or control.toolTip()
        or (control.text() if isinstance(control, QAbstractButton) else "")
    )
    alike = [each for each in control.parentWidget().children() if type(each) is type(control)]
    above = control.parentWidget()
    path = []
    while above is not None and above is not room:
        path.append(type(above).__name__)
        above = above.parentWidget()
    return f"{type(control).__name__} “{' '.join(said.split())[:40]}”, {alike.index(control)} in {'/'.join(reversed(path))}"


def in_sight(room: QWidget) -> dict[str, QWidget]:
    """Controls that can be used now; those within another control, or already chosen among several, are not."""
    found = {}
    for control in (each for kind in CONTROLS for each in room.findChildren(kind)):
        above = control.parentWidget()
        if not control.isVisible() or not control.isEnabled() or isinstance(above, QComboBox | QAbstractSpinBox):
            continue
        if isinstance(control, QAbstractButton) and control.group() and control.isChecked():
            continue
        if isinstance(control, QComboBox) and control.count() < 2:
            continue
        if isinstance(control, QLineEdit) and control.isReadOnly():
            continue
        if above is not None and above.inherits("QAbstractItemView"):  # the corner of a table, its headers
            continue
        found.setdefault(name_of(control, room), control)
    return found


def use(control: QWidget, qtbot) -> None:
    """As a hand would: click, type, choose another one, push."""
    if isinstance(control, QToolButton) and control.menu() is not None:
        next(action for action in control.menu().actions() if action.text() and not action.isChecked()).trigger()
    elif isinstance(control, QCheckBox):
        QTest.keyClick(control, Qt.Key.Key_Space)
    elif isinstance(control, QAbstractButton):
        qtbot.mouseClick(control, Qt.MouseButton.LeftButton)
    elif isinstance(control, QComboBox):
        control.setFocus()
        QTest.keyClick(control, Qt.Key.Key_Down if control.currentIndex() < control.count() - 1 else Qt.Key.Key_Up)
        control.activated.emit(control.currentIndex())
    elif isinstance(control, QSlider):
        QTest.keyClick(control, Qt.Key.Key_Right if control.value() < control.maximum() else Qt.Key.Key_Left)
    elif isinstance(control, QAbstractSpinBox):
        before = control.text()
        QTest.keyClick(control, Qt.Key.Key_Up)
        if control.text() == before:
            QTest.keyClick(control, Qt.Key.Key_Down)
        QTest.keyClick(control, Qt.Key.Key_Return)
    else:
        control.selectAll()
        QTest.keyClicks(control, "2")
        QTest.keyClick(control, Qt.Key.Key_Return)


class Witness:
    """What there is to be seen, and what was asked in a dialog of the desktop's own."""

    def __init__(self, app, monkeypatch) -> None:
        self.app, self.asked = app, 0
        for kind, names, nothing in (
            (QFileDialog, ("exec",), 0),
            (QInputDialog, ("getText", "getItem", "getMultiLineText", "getDouble"), ("", False)),
        ):  # fmt: skip
            for name in names:
                monkeypatch.setattr(kind, name, lambda *_, nothing=nothing, **__: self._answer(nothing))
        monkeypatch.setattr(QApplication.clipboard(), "setText", lambda _: self._answer(None))
        app.desk.listen(lambda _: self._answer(None))
        app.prepare.state.listen(lambda _: self._answer(None))
        app.jobs.progressed.connect(lambda *_: self._answer(None))

    def _answer(self, nothing):
        self.asked += 1
        return nothing

    def _told(self) -> tuple[object, ...]:
        dialogs = sum(each.isVisible() for each in QApplication.topLevelWidgets() if isinstance(each, QDialog))
        return self.app.window.title, self.app.notice.text, self.asked, dialogs

    def look(self) -> None:
        self._before = self._told(), self.app.window.grab().toImage()

    def sees_a_change(self) -> bool:
        told, picture = self._before
        return self._told() != told or self.app.window.grab().toImage() != picture


def bring_into_sight(control: QWidget) -> None:
    """Scroll to where a control is."""
    above = control.parentWidget()
    while above is not None:
        if isinstance(above, QScrollArea):
            above.ensureWidgetVisible(control)
        above = above.parentWidget()


def put_away() -> None:
    """Close whatever dialog or menu was opened."""
    while (popup := QApplication.activePopupWidget()) is not None:
        popup.close()
    for each in QApplication.topLevelWidgets():
        if isinstance(each, QDialog) and each.isVisible():
            each.reject()


@pytest.mark.parametrize("room", [room.title for room in ROOMS])
def test_every_control_does_something(desk_window, qtbot, monkeypatch, room):
    app = desk_window(explained=room in ("Gap", "Plan", "Report"))
    monkeypatch.setattr("waxtwin.ui.rooms.prepare.landmark_edits.LandmarkEdits.find_landmarks",
                        lambda edits: edits._flow.told.emit("looking"))  # fmt: skip
    monkeypatch.setattr("waxtwin.ui.rooms.session.flow.SessionFlow.use_stand_ins",
                        lambda flow, *_: flow.context.say("stand-ins"))  # fmt: skip
    if room == "Prepare":
        app.prepare_throw(app.library.find("wren-tollander"))
    app.go_to(room)
    if room == "Bench":
        app.bench.select(app.library.entries[0].id)
    settle(app, quiet=0.2)
    witness, used, silent = Witness(app, monkeypatch), set(), []
    while len(used) < _MOST:
        if room == "Prepare":  # its other steps have tests of their own
            app.prepare.state.go_to_step("clip")
        waiting = {name: each for name, each in in_sight(app.rooms[room]).items() if name not in used}
        if not waiting:
            break
        name, control = min(waiting.items(), key=lambda one: "Who is due" in one[0])  # from there nothing leads back
        used.add(name)
        app.notice.hide()
        bring_into_sight(control)
        witness.look()
        use(control, qtbot)
        qtbot.wait(10)
        if not witness.sees_a_change():
            qtbot.wait(400)  # what rests before it answers
            if not witness.sees_a_change():
                silent.append(name)
        put_away()
        app.desk.clock.play(0)
        if room == "Prepare":  # what the model and the camera's steadying take their time for has its own tests
            app.jobs.cancel_all()
        idle(qtbot, app)
        if app.window.title != room:
            app.go_to(room)
    assert not silent, "\n".join(silent)
    assert len(used) >= 6 and len(used) < _MOST, sorted(used)
