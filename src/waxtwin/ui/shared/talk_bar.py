"""The bar of a recording: from which microphone, how loud it is, how long it is by now, and what can be done."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QPushButton, QWidget

from waxtwin.capture.voice import microphones
from waxtwin.ui.shared.talk_recording import TalkRecording
from waxtwin.ui.shared.theme import AMBER, colour
from waxtwin.ui.shared.widgets import label

_LOUD = 0.9  # of the highest level: nearly too loud


class LevelMeter(QWidget):
    """How loud it is, in the measure of the ear."""

    def __init__(self) -> None:
        super().__init__()
        self._level = 0.0
        self.setFixedSize(QSize(110, 14))
        self.setAccessibleName("how loud it is")

    def show_level(self, level: float) -> None:
        """Show another level, 0 to 1."""
        if level != self._level:
            self._level = level
            self.setAccessibleDescription("too loud" if level >= _LOUD else f"{level:.0%}")
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 2.5, -0.5, -2.5)
        painter.setPen(colour("hairline"))
        painter.drawRoundedRect(box, 4, 4)
        heard = max(min(self._level, 1.0), 1e-4) ** 0.4
        painter.setPen(QColor(0, 0, 0, 0))
        painter.setBrush(QColor(colour("thread") if self._level >= _LOUD else AMBER))
        painter.drawRoundedRect(QRectF(box.left(), box.top(), box.width() * heard, box.height()), 4, 4)


class TalkBar(QFrame):
    """Shown from when it is offered until a recording is over; `idle` is what it says before, `begin(microphone)` what
    it begins.
    """

    def __init__(self, recording: TalkRecording, idle: str, begin: Callable[[str], object]) -> None:
        super().__init__()
        self.recording, self._idle, self._was_on = recording, idle, False
        self.setObjectName("talk_bar")
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 5, 10, 5)
        self._words = label("", bold=True)
        self.microphone = QComboBox()
        self.microphone.setAccessibleName("microphone")
        self.meter = LevelMeter()
        self._loud = label("", role="thread")
        self.record, self.pause = QPushButton("Record"), QPushButton("Pause")
        self.discard, self.done = QPushButton("Discard this stretch"), QPushButton("Done")
        self.leave = QPushButton("Not now")
        self.record.setProperty("role", "main")
        self.done.setProperty("role", "main")
        self.discard.setToolTip("Take back what was recorded since it last went on")
        for widget in (self._words, self.microphone, self.meter, self._loud):
            row.addWidget(widget)
        row.addStretch(1)
        for button in (self.record, self.pause, self.discard, self.done, self.leave):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # a click leaves the keys with the seam
            row.addWidget(button)
        self.record.clicked.connect(lambda: begin(self.microphone.currentData()))
        self.pause.clicked.connect(recording.toggle_pause)
        self.discard.clicked.connect(recording.discard)
        self.done.clicked.connect(recording.stop)
        self.leave.clicked.connect(self.hide)
        recording.changed.connect(self._fill)
        recording.ticked.connect(self._tick)
        self.hide()

    def offer(self) -> None:
        """Show what can be recorded from."""
        if not self.recording.is_on:
            offer_microphones(self.microphone)
        self._fill()
        self.show()

    def _fill(self) -> None:
        on, paused = self.recording.is_on, self.recording.paused
        before: tuple[QWidget, ...] = (self.record, self.microphone, self.leave)
        while_on: tuple[QWidget, ...] = (self.pause, self.discard, self.done, self.meter)
        for widget in (*before, *while_on):
            widget.setVisible(on == (widget in while_on))
        self.pause.setText("Go on" if paused else "Pause")
        if on != self._was_on:
            self.setVisible(on)
        self._was_on = on
        self._tick()

    def _tick(self) -> None:
        recording = self.recording
        self.meter.show_level(recording.level)
        self._loud.setText("too loud" if recording.clipped else "")
        if not recording.is_on:
            self._words.setText(self._idle)
            return
        seconds = int(recording.seconds)
        what = "paused" if recording.paused else "recording"
        self._words.setText(f"{what}  {seconds // 60}:{seconds % 60:02d}")


def offer_microphones(box: QComboBox) -> None:
    """Fill a box with what can be recorded from, and with nothing at all."""
    chosen = box.currentData()
    box.clear()
    for one in microphones():
        box.addItem(one.name, one.id)
    box.addItem("No voice", "")
    box.setCurrentIndex(max(box.findData(chosen), 0))
