"""A tour of one minute on the demo: what each room is for, with a thread around what is spoken of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QRect, Qt, QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from waxtwin.ui.shared.theme import colour
from waxtwin.ui.shared.widgets import label

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App

_WIDTH = 420
_AWAY = 16
_LOOK_MS = 150
_PATIENCE = 8  # looks, with nothing under way: what is not there by then does not come


@dataclass(frozen=True)
class Stop:
    """A place of the tour: the room, what the thread goes around, what is said; `ready` once it can be seen."""

    room: str
    what: Callable[[App], QWidget]
    title: str
    says: str
    ready: Callable[[App], bool] = lambda _: True


def _has_pair(w: App) -> bool:
    return w.desk.pair.contrast is not None


STOPS = (
    Stop("Bench", lambda w: w.bench.table, "The Bench: your library",
         "Every throw lies here. Choose an athlete and a twin, or let a twin be found. Files and phone clips can be "
         "dropped on the window.", lambda w: bool(w.library.entries)),
    Stop("Pair", lambda w: w.pair.seam, "The Pair: held at the same stop",
         "The seam is the one control for time. Click a stitch, or press 1 to 9 and 0, and both pitchers are held at "
         "that stop. Drag a stitch's end to correct it.", _has_pair),
    Stop("Pair", lambda w: w.pair.panel, "What is read at this stop",
         "Athlete in amber, twin in teal, then where the athlete stands. A difference counts only when it is larger "
         "than the margin of this footage.", _has_pair),
    Stop("Contrast", lambda w: w.contrast.table, "Contrast: every measure",
         "Position, timing, separation and speed, with bands and curves. Press E to have a measure explained.",
         _has_pair),
    Stop("Gap", lambda w: w.gap.findings, "Gap: where the speed is lost",
         "What to look at first, with proof and with what speaks against it. Two things at most come into focus.",
         lambda w: w.desk.pair.explanation is not None),
    Stop("Plan", lambda w: w.plan, "Plan: what to do, and whether it worked",
         "Targets and practice tasks; and under “Log over time” what moved, and how the arm is."),
    Stop("Talk", lambda w: w.talk, "Talk: the film with your voice",
         "Scenes drafted from the plan or recorded while you speak; cut, moved, spoken anew, and saved as a film.",
         _has_pair),
    Stop("Report", lambda w: w.report, "Report: what the athlete gets",
         "A page as PDF or HTML, a clip, data, or a bundle for another analyst. F1 explains the room you are in."),
)  # fmt: skip


class _Thread(QWidget):
    """A red thread around a part of the window; clicks go through it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.around = QRect()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        pen = QPen(colour("thread"), 4)
        pen.setDashPattern([5, 2.5])
        painter.setPen(pen)
        painter.drawRoundedRect(self.around.adjusted(2, 2, -2, -2), 10, 10)


class Tour(QObject):
    """Goes from stop to stop; `left` when it is over."""

    left = Signal()

    def __init__(self, app: App) -> None:
        super().__init__(app)
        self.w = app
        self.at = 0
        self._said, self._waited = -1, 0
        self._thread = _Thread(app.window)
        self.card = QFrame(app.window)
        self.card.setObjectName("tour")
        self.card.setFixedWidth(_WIDTH)
        column = QVBoxLayout(self.card)
        column.setContentsMargins(18, 14, 18, 14)
        self.title = label("", grow=2, bold=True)
        self.title.setWordWrap(True)
        self.says = label("")
        self.says.setWordWrap(True)
        column.addWidget(self.title)
        column.addWidget(self.says)
        row = QHBoxLayout()
        self.count = label("", role="soft")
        self.leaving = QPushButton("Leave the tour")
        self.leaving.clicked.connect(self.leave)
        self.back = QPushButton("Back")
        self.back.clicked.connect(lambda: self.go(self.at - 1))
        self.on = QPushButton("Next")
        self.on.setProperty("role", "main")
        self.on.clicked.connect(lambda: self.go(self.at + 1))
        row.addWidget(self.count, 1)
        for button in (self.leaving, self.back, self.on):
            row.addWidget(button)
        column.addLayout(row)
        app.window.installEventFilter(self)
        self._timer = QTimer(self)  # what is spoken of may come on show, or move, a little later
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self._place)

    def begin(self) -> None:
        """Open the demo where nothing else is open, and begin."""
        if len(self.w.desk.pair.stored) < 2:
            self.w.open_demo()
        self._waited = 0
        self._timer.start()
        self._place()

    def go(self, at: int) -> None:
        """Go to a stop; beyond the last one the tour is over."""
        if at >= len(STOPS):
            self.leave()
            return
        self.at, self._waited = max(at, 0), 0
        self.w.go_to(STOPS[self.at].room)
        self._place()

    def _say(self, stop: Stop) -> None:
        """What is spoken of is there: say it."""
        if self._said == self.at:
            return
        self._said = self.at
        self.title.setText(stop.title)
        self.says.setText(stop.says)
        self.count.setText(f"{self.at + 1} of {len(STOPS)}")
        self.back.setEnabled(self.at > 0)
        self.on.setText("Done" if self.at == len(STOPS) - 1 else "Next")
        self.card.adjustSize()
        self.on.setFocus()

    def leave(self) -> None:
        """End the tour where it is."""
        self._timer.stop()
        self.w.window.removeEventFilter(self)
        for widget in (self._thread, self.card):
            widget.hide()
            widget.deleteLater()
        self.left.emit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self._place()
        return False

    def _wait(self) -> None:
        """Out of the way until there is something to speak of, or a step further where that does not come."""
        self._thread.hide()
        self.card.hide()
        self._said = -1
        self._waited += 1
        if not self.w.jobs.busy and self._waited > _PATIENCE:
            if self.w.library.store is None:  # opening the demo was called off
                self.leave()
            else:
                self.go(self.at + 1)

    def _place(self) -> None:
        """Thread and card where they belong: the card in the corner that covers least of what is spoken of.

        What is not there yet is waited for, with nothing in its way; what does not come is passed over.
        """
        frame, stop = self.w.window, STOPS[self.at]
        if not stop.ready(self.w):
            self._wait()
            return
        if self.w.window.title != stop.room:
            self.w.go_to(stop.room)  # opening the demo shows a room of its own
        self._say(stop)
        what = stop.what(self.w)
        around = QRect(what.mapTo(frame, what.rect().topLeft()), what.size())
        self._thread.setGeometry(frame.rect())
        self._thread.around = around
        self._thread.update()
        self._thread.show()
        self._thread.raise_()
        self.card.adjustSize()
        size = self.card.size()
        room = frame.rect().adjusted(_AWAY, _AWAY + 40, -_AWAY, -_AWAY)
        corners = [room.topLeft(), room.topRight(), room.bottomLeft(), room.bottomRight()]
        places = [QRect(max(c.x() - (size.width() if c.x() > room.center().x() else 0), room.left()),
                        max(c.y() - (size.height() if c.y() > room.center().y() else 0), room.top()),
                        size.width(), size.height()) for c in corners]  # fmt: skip
        best = min(places, key=lambda box: (_overlap(box, around), -box.top()))
        self.card.move(best.topLeft())
        self.card.show()
        self.card.raise_()


def _overlap(one: QRect, other: QRect) -> int:
    shared = one.intersected(other)
    return max(shared.width(), 0) * max(shared.height(), 0)
