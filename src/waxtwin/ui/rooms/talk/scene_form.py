"""The chosen scene: what it is called and says, which stop it holds and how long, and who speaks it."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QComboBox, QFormLayout, QHBoxLayout, QLineEdit, QPlainTextEdit, QPushButton, QWidget

from waxtwin.core.stops import EVENTS
from waxtwin.formats.talk import CARD, MOST_TITLE, MOST_WORDS, SHOWN, Instant, Scene
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.widgets import label, number

_REST_MS = 900  # what is written is kept once the hand rests
_MOST_S = 600.0


class SceneForm(QWidget):
    """`edited(scene, label, parts)` with parts of a scene that are other; `trimmed(scene, start, end)` of its take, s;
    `asked(what)` for "speak", "take in" and "as on the desk".
    """

    edited = Signal(str, str, object)
    trimmed = Signal(str, float, float)
    asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._scene: Scene | None = None
        form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(6)
        self.title, self.caption = QLineEdit(), QPlainTextEdit()
        self.title.setAccessibleName("name of the scene")
        self.caption.setAccessibleName("caption")
        self.title.setMaxLength(MOST_TITLE)
        self.caption.setTabChangesFocus(True)
        self.caption.setMaximumHeight(74)
        self._names = {"words": label("Says")}
        form.addRow("Scene", self.title)
        form.addRow(self._names["words"], self.caption)
        form.addRow("Shows", self._make_shown())
        form.addRow("Voice", self._make_voice())
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_REST_MS)
        self._timer.timeout.connect(self.keep)
        self.title.textEdited.connect(lambda _: self._timer.start())
        self.caption.textChanged.connect(self._timer.start)

    def _make_shown(self) -> QWidget:
        place, row = QWidget(), FlowLayout(spacing=8)
        place.setLayout(row)
        self.stop = QComboBox()
        self.stop.setAccessibleName("stop that is held")
        self.stop.activated.connect(lambda _: self._hold(self.stop.currentData()))
        self.length = number(0.0, _MOST_S, decimals=1, suffix=" s at least", empty="as long as its words")
        self.length.setAccessibleName("how long it stands at least")
        self.length.editingFinished.connect(self._lengthen)
        self.as_desk = QPushButton("As the Pair room is now")
        self.as_desk.clicked.connect(lambda: self.asked.emit("as on the desk"))
        for widget in (self.stop, self.length, self.as_desk):
            row.addWidget(widget)
        return place

    def _make_voice(self) -> QWidget:
        place, row = QWidget(), FlowLayout(spacing=8)
        place.setLayout(row)
        self.take = QComboBox()
        self.take.setAccessibleName("take that is heard")
        self.take.activated.connect(lambda _: self._edit("Choose a take", {"take": self.take.currentData()}))
        self.speak, self.bring = QPushButton("Speak it…"), QPushButton("Take in a sound file…")
        self.speak.clicked.connect(lambda: self.asked.emit("speak"))
        self.bring.clicked.connect(lambda: self.asked.emit("take in"))
        self.start, self.end = (number(0.0, 7200.0, suffix=" s") for _ in range(2))
        self._trim = QWidget()
        line = QHBoxLayout(self._trim)
        line.setContentsMargins(0, 0, 0, 0)
        for words, box in (("from", self.start), ("to", self.end)):
            box.setAccessibleName(f"take {words}")
            box.editingFinished.connect(self._cut_take)
            line.addWidget(label(words, role="soft"))
            line.addWidget(box)
        for widget in (self.take, self.speak, self.bring, self._trim):
            row.addWidget(widget)
        return place

    # showing -------------------------------------------------------------------------------------------------------
    def show_scene(self, scene: Scene | None, stops: tuple[str, ...]) -> None:
        """Show another scene, or the same as it is now; what was being written is kept before."""
        same = scene is not None and self._scene is not None and scene.id == self._scene.id
        self._scene = scene
        self.setEnabled(scene is not None)
        if scene is None:
            return
        words = "\n".join(scene.lines) if scene.kind == CARD else scene.caption
        self._names["words"].setText("On the card" if scene.kind == CARD else "Says")
        self.title.blockSignals(True)
        self.caption.blockSignals(True)
        if not same or self.title.text() != scene.title:
            self.title.setText(scene.title)
        if not same or self.caption.toPlainText() != words:
            self.caption.setPlainText(words)
        self.title.blockSignals(False)
        self.caption.blockSignals(False)
        self._timer.stop()
        self._show_shown(scene, stops)
        self._show_voice(scene)

    def _show_shown(self, scene: Scene, stops: tuple[str, ...]) -> None:
        moves = len(scene.moments) > 1 or any(one.rate for one in scene.moments)
        held = "" if not scene.moments or moves else scene.moments[0].here.stop
        self.stop.clear()
        for one in stops:
            self.stop.addItem(f"held at: {EVENTS[one].label}", one)
        self.stop.setCurrentIndex(self.stop.findData(held))
        self.stop.setVisible(scene.kind == SHOWN and not moves)
        self.as_desk.setVisible(scene.kind == SHOWN)
        self.length.setValue(scene.length)
        self.length.setEnabled(not moves)

    def _show_voice(self, scene: Scene) -> None:
        self.take.clear()
        self.take.addItem("no voice", -1)
        for n, one in enumerate(scene.takes):
            self.take.addItem(f"take {n + 1}, {one.seconds:.1f} s", n)
        self.take.setCurrentIndex(self.take.findData(scene.take))
        self.take.setVisible(bool(scene.takes))
        spoken = scene.spoken
        self._trim.setVisible(spoken is not None)
        if spoken is not None:
            self.start.setValue(spoken.start)
            self.end.setValue(spoken.end)

    # changing ------------------------------------------------------------------------------------------------------
    def _edit(self, label: str, parts: dict[str, Any]) -> None:
        if self._scene is not None:
            self.edited.emit(self._scene.id, label, parts)

    def keep(self) -> None:
        """What is written now."""
        scene, due = self._scene, self._timer.isActive()
        self._timer.stop()
        if scene is None or not due:
            return
        parts: dict[str, Any] = {"title": self.title.text().strip()}
        words = self.caption.toPlainText()[:MOST_WORDS]
        if scene.kind == CARD:
            parts["lines"] = tuple(line for line in words.splitlines() if line.strip())
        else:
            parts["caption"] = words
        if any(getattr(scene, name) != value for name, value in parts.items()):
            self._edit("Write a scene", parts)

    def _hold(self, stop: str) -> None:
        if self._scene is not None and self._scene.moments:
            held = self._scene.moments[0].model_copy(update={"here": Instant(stop=stop), "twin": None})
            self._edit("Hold another stop", {"moments": (held,)})

    def _lengthen(self) -> None:
        if self._scene is not None and abs(self.length.value() - self._scene.length) > 0.01:
            self._edit("How long a scene stands", {"length": self.length.value()})

    def _cut_take(self) -> None:
        if self._scene is None:
            return
        spoken = self._scene.spoken
        ends = (self.start.value(), self.end.value())
        if spoken is not None and max(abs(ends[0] - spoken.start), abs(ends[1] - spoken.end)) > 0.006:
            self.trimmed.emit(self._scene.id, *ends)
