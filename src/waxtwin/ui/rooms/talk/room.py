"""The Talk room: the scenes of a talk-through, what the film of it will show, and what is said in it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QMenu, QPushButton, QSlider, QToolButton, QVBoxLayout, QWidget

from waxtwin.report.film import FPS
from waxtwin.talk.draft import FURTHER
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import waiting_words
from waxtwin.ui.rooms.talk.flow import TalkFlow
from waxtwin.ui.rooms.talk.preview import Preview
from waxtwin.ui.rooms.talk.scene_form import SceneForm
from waxtwin.ui.rooms.talk.scene_list import SceneList
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.room import Room, on_desk
from waxtwin.ui.shared.talk_bar import TalkBar
from waxtwin.ui.shared.widgets import label

_EMPTY = (
    "A talk-through is the film that the athlete gets: both deliveries, held where it matters, with your voice or your "
    "words under them. Let one be drafted from the plan and change what you like, or speak while you go through the "
    "pair. What is recorded stays scenes: they can be cut, moved, spoken anew and filmed in any shape."
)
_DOES = {
    "up": ("▴", "Move the scene up"), "down": ("▾", "Move the scene down"), "cut": ("Cut here", "Two scenes of one"),
    "hide": ("Leave out", "Leave the scene out of the film, or take it in again"),
    "remove": ("Remove", "Remove the scene; undo brings it back"),
}  # fmt: skip
_MORE = {"now": "What the Pair room shows now", "title": "The title", "end": "The end: what to do, and cautions"}
_FINE = 20  # steps of the slider a second


class TalkRoom(Room):
    """Scenes on the left, the film on the right, and below it the chosen scene."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context, self.desk, self.talks = context, context.desk, context.talks
        self._stale = True
        column, top = self.begin_layout("Talk")
        self.which = QComboBox()
        self.which.setAccessibleName("talk")
        self.which.activated.connect(lambda i: self.talks.take(self.which.itemData(i)))
        top.addWidget(self.which)
        self.name = QToolButton()
        self.name.setText("Name…")
        self.name.setAccessibleName("name this talk")
        top.addWidget(self.name)
        self._length = label("", role="soft")
        top.addWidget(self._length)
        top.addStretch(1)
        out = FlowLayout(right=True)
        top.addLayout(out, 5)
        self.buttons = {
            key: QPushButton(words) for key, words in (
                ("record", "Speak while you drive"), ("draft", "Draft from the plan"), ("film", "Save the film…"),
            )
        }  # fmt: skip
        self.buttons["film"].setProperty("role", "main")
        for button in self.buttons.values():
            out.addWidget(button)
        self.bar = TalkBar(context.recording, "Speak the chosen scene; another take is kept beside those there are.",
                           self._speak)  # fmt: skip
        column.addWidget(self.bar)
        self.hint = label("", role="soft", grow=1, wrap=True)
        column.addWidget(self.hint)
        self._body = QWidget()
        row = QHBoxLayout(self._body)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(16)
        row.addLayout(self._make_left(), 3)
        row.addLayout(self._make_right(), 8)
        column.addWidget(self._body, 1)
        self._rest = QWidget()
        column.addWidget(self._rest, 1)
        self.flow = TalkFlow(context, self)
        self._connect()
        self._fill()

    def _make_left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(8)
        self.scenes = SceneList()
        column.addWidget(self.scenes, 1)
        row = FlowLayout(spacing=6)
        self.does = {}
        for key, (words, tip) in _DOES.items():
            button = QToolButton()
            button.setText(words)
            button.setToolTip(tip)
            button.setAccessibleName(tip)
            self.does[key] = button
            row.addWidget(button)
        self.more = QToolButton()
        self.more.setText("add ▾")
        self.more.setAccessibleName("add a scene")
        self.more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        for key, words in (*_MORE.items(), *FURTHER.items()):
            menu.addAction(words, partial(self._add, key))
        self.more.setMenu(menu)
        row.addWidget(self.more)
        column.addLayout(row)
        return column

    def _make_right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(8)
        self.preview = Preview()
        column.addWidget(self.preview, 1)
        row = QHBoxLayout()
        self.play_button = QToolButton()
        self.play_button.setText("play ▸")
        self.play_button.setCheckable(True)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setSingleStep(_FINE // 4)
        self.slider.setPageStep(2 * _FINE)
        self.slider.setAccessibleName("instant of the film")
        self._clock = label("", role="soft")
        row.addWidget(self.play_button)
        row.addWidget(self.slider, 1)
        row.addWidget(self._clock)
        column.addLayout(row)
        self.form = SceneForm()
        column.addWidget(self.form)
        return column

    def _connect(self) -> None:
        flow, recording = self.flow, self.context.recording
        self.buttons["record"].clicked.connect(lambda: self.context.do("talk"))
        self.buttons["draft"].clicked.connect(flow.draft)
        self.name.clicked.connect(flow.ask_name)
        self.buttons["film"].clicked.connect(flow.ask_film)
        for key, button in self.does.items():
            button.clicked.connect(lambda _=False, key=key: flow.do(key))
        self.scenes.picked.connect(self._pick)
        self.play_button.clicked.connect(self._play)
        self.preview.over.connect(lambda: self.play_button.setChecked(False))
        self.preview.moved.connect(self._follow)
        self.slider.valueChanged.connect(lambda value: self.preview.go(value / _FINE))
        self.form.edited.connect(flow.change)
        self.form.trimmed.connect(flow.trim)
        self.form.asked.connect(self._ask)
        self.talks.changed.connect(self._fill)
        self.talks.chosen.connect(self._show_chosen)
        recording.changed.connect(self._fill)
        self.desk.listen(
            lambda _: self._renew(), Topic.PAIR, Topic.FIGURES, Topic.OTHERS, Topic.KEPT, Topic.UNITS, Topic.CHALK,
            Topic.FACTS,
        )  # fmt: skip

    # following -----------------------------------------------------------------------------------------------------
    def _renew(self) -> None:
        """Another pair, or another of its figures."""
        self._stale = True
        self._fill()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._fill()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.form.keep()
        self._stand_still()
        if not self.context.recording.is_on:
            self.bar.hide()

    def _stand_still(self) -> None:
        if self.play_button.isChecked():
            self.play_button.setChecked(False)
            self.flow.play(False)

    def _fill(self) -> None:
        self.form.keep()
        pair, talk = self.flow.pair, self.talks.talk
        ready = pair is not None and self.talks.throws is not None
        self.buttons["record"].setEnabled(ready)
        self.buttons["draft"].setEnabled(ready)
        self.buttons["film"].setEnabled(ready and talk is not None and bool(talk.wanted))
        words = "" if ready else waiting_words(self.desk.pair, "Working out both deliveries…", needs="A talk-through")
        self.hint.setText(words or ("" if talk is not None else _EMPTY))
        self.hint.setVisible(bool(self.hint.text()))
        self._body.setVisible(ready and talk is not None)
        self._rest.setVisible(not self._body.isVisibleTo(self))
        self._fill_which()
        if talk is None or not self.isVisible():
            return
        if self._stale:
            self._stale = False
            self.preview.show_pair(pair)
        self.preview.show_talk(talk)
        self.slider.setRange(0, round(self.preview.seconds * _FINE))
        scene = self.talks.scene
        self.scenes.show_scenes(talk.scenes, "" if scene is None else scene.id)
        whole = round(self.preview.seconds)
        self._length.setText(f"{len(talk.wanted)} scenes, {whole // 60}:{whole % 60:02d}")
        self._show_form()

    def _fill_which(self) -> None:
        current = self.talks.current
        self.which.clear()
        for one in self.talks.kept:
            self.which.addItem(f"{one.talk.title or 'Talk'}, {one.changed[:10]}", one.id)
        self.which.setCurrentIndex(-1 if current is None else self.which.findData(current.id))
        self.which.setVisible(bool(self.talks.kept))
        self.which.setEnabled(len(self.talks.kept) > 1 or current is None)
        for each in (self.name, self._length):
            each.setVisible(current is not None)

    def _show_chosen(self) -> None:
        scene = self.talks.scene
        if scene is not None:
            self.scenes.choose(scene.id)
        self._show_form()

    def _show_form(self) -> None:
        self.form.keep()  # what is being written belongs to the scene that was on show
        scene = self.talks.scene
        self.form.show_scene(scene, tuple(self.desk.pair.stops()))
        scenes = () if self.talks.talk is None else self.talks.talk.scenes
        self.does["up"].setEnabled(bool(scenes) and scene is not scenes[0])
        self.does["down"].setEnabled(bool(scenes) and scene is not scenes[-1])
        self.does["hide"].setText("Take in again" if scene is not None and scene.hidden else "Leave out")

    def _pick(self, scene: str) -> None:
        """A scene is chosen in the list: the film goes to where it begins."""
        self._stand_still()
        self.talks.choose(scene)
        for one in self.preview.scenes:
            if one.scene.id == scene:
                self.preview.go(one.start)

    def _follow(self, time: float) -> None:
        """The film shows another instant: its scene is chosen, unless something is being written."""
        self.slider.blockSignals(True)
        self.slider.setValue(round(time * _FINE))
        self.slider.blockSignals(False)
        self._clock.setText(f"{int(time) // 60}:{time % 60:04.1f}")
        shown = self.preview.at()
        if shown is not None:
            self.talks.choose(shown.scene.id)

    # doing ---------------------------------------------------------------------------------------------------------
    def _add(self, kind: str) -> None:
        self.flow.add(kind)

    def _play(self, on: bool) -> None:
        self.flow.play(on)

    def play(self) -> bool:
        """Play the film from here, or stand still."""
        if self._body.isVisible():
            self.play_button.click()
        return True

    def step(self, frames: int) -> bool:
        """Step through the film, by its pictures."""
        self._stand_still()
        self.preview.go((round(self.preview.time * FPS) + frames) / FPS)
        return True

    def _ask(self, what: str) -> None:
        if what == "speak":
            self.bar.offer()
        elif what == "take in":
            self.flow.take_in()
        else:
            self.flow.show_as_desk()

    def _speak(self, microphone: str) -> None:
        """Record the voice of the chosen scene."""
        scene = self.talks.scene
        if scene is not None:
            self._stand_still()
            self.context.recording.start(microphone, scene.id)

    def let_go(self) -> None:
        self._stand_still()
        self.context.recording.stop()
        self.preview.let_go()

    def throws_in_sight(self) -> frozenset[int]:
        return on_desk(self.desk)
