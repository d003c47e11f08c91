"""For eyes that see little and for those who listen: names of controls, contrast as painted, what stages tell."""

from __future__ import annotations

from itertools import product

import numpy as np
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QAccessible, QColor, QImage
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialog,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)

from waxtwin.ui.shared import theme
from waxtwin.ui.shell.pictures import settle

CONTROLS = (QAbstractButton, QComboBox, QLineEdit, QAbstractSlider, QAbstractSpinBox, QAbstractItemView, QPlainTextEdit)
WITHIN = (QComboBox, QAbstractSpinBox, QAbstractItemView)
LEAST = 4.4  # of 4.5: the thinnest strokes of small type are never painted in their full colour


def interface(widget: QWidget):
    return QAccessible.queryAccessibleInterface(widget)


def light(colours: np.ndarray) -> np.ndarray:
    """Relative luminance of colours (n, 3), blue first."""
    part = colours / 255.0
    part = np.where(part <= 0.03928, part / 12.92, ((part + 0.055) / 1.055) ** 2.4)
    return part @ np.array([0.0722, 0.7152, 0.2126])


def contrast(widget: QWidget, window: QWidget, picture: QImage) -> float:
    """Between what most of a widget is painted in and what is furthest from it."""
    part = picture.copy(QRect(widget.mapTo(window, QPoint(0, 0)), widget.size()))
    rows = np.frombuffer(part.constBits(), np.uint32).reshape(part.height(), part.bytesPerLine() // 4)
    packed, count = np.unique(rows[:, : part.width()], return_counts=True)
    every = light(packed.view(np.uint8).reshape(-1, 4)[:, :3].astype(float))
    order, ground = np.argsort(every), every[count.argmax()]
    painted = np.cumsum(count[order])
    few = max(int(painted[-1]) // 2000, 3)  # a pixel or two may be of something else
    dark, bright = (every[order[np.searchsorted(painted, at)]] for at in (few, painted[-1] - few))
    return max((bright + 0.05) / (ground + 0.05), (ground + 0.05) / (dark + 0.05))


def whole(widget: QWidget) -> bool:
    return widget.visibleRegion().boundingRect() == widget.rect()


def test_every_side_has_a_tone_of_its_own_that_can_be_read():
    inks = [(theme.THEMES[name], side) for name in ("light", "dark") for side in theme.TONES]
    for worn, side in inks:
        tone = theme.TONES[side]
        for ink, ground in ((tone.soft if worn is theme.DARK else tone.ink, worn.paper), (tone.soft, worn.stage)):
            both = sorted(light(np.array([[*QColor(one).getRgb()[2::-1]] for one in (ink, ground)], float)) + 0.05)
            assert both[1] / both[0] >= 4.5, (worn.name, side)
    for part in ("wax", "rail", "ink", "soft"):
        assert len({getattr(tone, part) for tone in theme.TONES.values()}) == len(theme.TONES) == 5


def is_known(control: QWidget) -> bool:
    """Whether somebody who listens is told what it is and what it is for."""
    found = interface(control)
    return bool(found.text(QAccessible.Text.Name)) and found.role() != QAccessible.Role.Client


class Looked:
    """What was found wrong in windows that were looked at."""

    def __init__(self):
        self.nameless, self.faint, self.words = set(), {}, 0

    def at(self, name: str, part: QWidget, window: QWidget) -> None:
        picture = window.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
        for widget in filter(QWidget.isVisible, part.findChildren(QWidget)):
            by_hand = isinstance(widget, CONTROLS) and widget.focusPolicy() != Qt.FocusPolicy.NoFocus
            if by_hand and not isinstance(widget.parentWidget(), WITHIN) and not is_known(widget):
                self.nameless.add((name, type(widget).__name__, type(widget.parentWidget()).__name__))
            worded = isinstance(widget, QLabel | QAbstractButton) and widget.isEnabled() and widget.text()
            if worded and whole(widget):
                self.words += 1
                found = contrast(widget, window, picture)
                if found < LEAST:
                    self.faint[theme.theme().name, name, widget.text()[:40]] = round(float(found), 2)


def test_every_control_has_a_name_and_every_word_is_readable(desk_window, monkeypatch):
    monkeypatch.setattr("waxtwin.ui.rooms.report.flow.ReportFlow.preview", lambda flow: None)  # its pages are paper
    app = desk_window(explained=True)
    app.prepare.bring(app.library.find("wren-tollander"))
    looked = Looked()
    opened = {
        "settings": lambda: app.do("settings"), "team": lambda: app.do("team"), "work": lambda: app.do("work"),
        "keys": lambda: app.do("keys"), "about": lambda: app.do("about"), "eye checks": lambda: app.do("eye_list"),
        "arm": app.plan.flow.ask_note, "speeds": app.plan.flow.ask_speeds, "sensor": app.plan.flow.ask_arm_sensor,
        "limits": app.plan.flow.ask_limits, "catalogue": lambda: app.plan.flow.show_catalogue(None),
        "schools": app.gap.flow.show_schools, "twins": lambda: app.bench.flow.find_twin(4),
        "athlete": lambda: app.bench.flow.edit_athlete(1),
    }  # fmt: skip
    try:
        for name, title in product(("light", "dark"), app.rooms):
            if theme.theme().name != name:
                theme.apply(name)
                app.desk.view.redress()
            app.go_to(title)
            settle(app, quiet=0.1)
            looked.at(title, app.rooms[title], app.window)
        for title, open_it in opened.items():  # in the same colours as the rooms
            open_it()
            settle(app, quiet=0.1)
            dialogs = [one for one in QApplication.topLevelWidgets() if isinstance(one, QDialog) and one.isVisible()]
            assert len(dialogs) == 1, title
            looked.at(title, dialogs[0], dialogs[0])
            dialogs[0].reject()
    finally:
        theme.apply("light")
    assert not looked.nameless
    assert not looked.faint and looked.words > 450


def test_stages_and_seam_tell_where_they_are(desk_window, qtbot):
    app = desk_window()
    QAccessible.setActive(True)
    try:
        qtbot.keyClick(app.pair.seam, Qt.Key.Key_9)
        assert interface(app.pair.seam).text(QAccessible.Text.Description).startswith("Release, athlete 2.16")
        said = interface(app.pair.stages["twin"]).text(QAccessible.Text.Description)
        assert said.startswith("Release, 2.0") and said.endswith(" s")
        qtbot.keyClick(app.pair.seam, Qt.Key.Key_Right)
        assert "+4 ms" in interface(app.pair.stages["athlete"]).text(QAccessible.Text.Description)
    finally:
        QAccessible.setActive(False)
