"""The Pair room: two stages, the seam, and the measures that matter at the stop."""

from __future__ import annotations

import time as clock
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QScrollArea,
    QSlider,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.events import EVENTS
from waxtwin.core.ghost import ORIGINS
from waxtwin.core.units import figure, height, speed
from waxtwin.ui.model.desk import OTHERS, RATES, SIDES, VIEWS, Desk
from waxtwin.ui.model.wording import rows_at
from waxtwin.ui.rooms.pair.seam import Seam
from waxtwin.ui.rooms.pair.stage import Stage
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.measure_row import MeasureRow
from waxtwin.ui.shared.theme import font
from waxtwin.ui.shared.widgets import Choice, Room, label

if TYPE_CHECKING:
    from waxtwin.library.pairs import Note

Option = tuple[str, dict[str, object]]  # words of a menu, and what it changes of the display
_TICK_MS = 16
_PANEL = 272  # px: narrower, its figures would be cut
_JOINTS = ("throwing_hand", "throwing_elbow", "head", "lead_knee", "lead_ankle", "drive_ankle")


class PairHeader(QWidget):
    """Who is on the stages, which of their throws, and the ball speed between. `taken(side, key)` another throw."""

    taken = Signal(str, int)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 6, 0, 6)
        self._names, self._facts, self.throws = {}, {}, {}
        for side in ("athlete", "twin"):
            column = QVBoxLayout()
            column.setSpacing(0)
            self._names[side] = label(side=side, grow=3, bold=True)
            self._facts[side] = label(role="soft", grow=-0.5)
            line = QHBoxLayout()
            line.addWidget(self._names[side])
            line.addSpacing(10)
            self.throws[side] = box = QComboBox()
            box.setAccessibleName(f"throw of the {side}")
            box.setToolTip("The throws of this session")
            box.activated.connect(lambda i, side=side, box=box: self.taken.emit(side, box.itemData(i)))
            line.addWidget(box)
            line.addStretch(1)
            column.addLayout(line)
            column.addWidget(self._facts[side])
            row.addLayout(column, 10)
        column = QVBoxLayout()
        column.setSpacing(0)
        self._gap = label(role="thread", grow=5, bold=True)
        self._between = label(role="soft", grow=-0.5)
        for widget in (self._gap, self._between):
            widget.setAlignment(Qt.AlignmentFlag.AlignRight)
            column.addWidget(widget)
        row.addLayout(column, 7)
        desk.listen(self._told)
        self._fill()
        self._fill_throws()

    def _told(self, topic: str) -> None:
        if topic in ("pair", "facts", "units", "figures"):
            self._fill()
        if topic in ("pair", "throws"):
            self._fill_throws()

    def _fill_throws(self) -> None:
        for side, box in self.throws.items():
            session = self.desk.sessions.get(side, ())
            on_desk = self.desk.stored.get(side)
            box.clear()
            for n, throw in enumerate(session):
                box.addItem(f"throw {n + 1} of {len(session)}", throw.key)
                if on_desk is not None and throw.key == on_desk.key:
                    box.setCurrentIndex(n)
            box.setVisible(len(session) > 1)

    def _fill(self) -> None:
        balls = []
        for side in ("athlete", "twin"):
            stored = self.desk.stored.get(side)
            if stored is None:
                self._names[side].setText(f"No {side} chosen")
                self._facts[side].setText("")
                continue
            who, d = stored.sidecar.athlete, stored.delivery
            if d.ball_speed is not None:
                balls.append(d.ball_speed)
            facts = [
                "right-handed" if d.throws == "R" else "left-handed",
                height(who.height_m, self.desk.imperial),
                stored.sidecar.pitch or "pitch not noted",
                speed(d.ball_speed, self.desk.imperial),
            ]
            self._names[side].setText(stored.title)
            self._facts[side].setText("  ·  ".join(facts))
        known = len(balls) == 2
        gap = balls[1] - balls[0] if known else None
        self._gap.setText(figure(gap, "m/s", self.desk.imperial) if known else "")
        self._between.setText("ball speed between them" if known else "")


class StopPanel(QWidget):
    """The measures read at the current stop, those that differ most first, and the notes pinned to it.

    `explained` when a measure is to be explained, `unpinned(note)` when a note is to be taken off.
    """

    explained = Signal()
    unpinned = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self._shown: object = None
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 0, 0, 0)
        column.setSpacing(2)
        self._title = label("At this stop", role="title", grow=1.5)
        self._hint = label("", role="soft", grow=-1)
        self._hint.setWordWrap(True)
        self.asked = QPushButton()
        self.asked.setProperty("role", "ask")
        self.asked.clicked.connect(self._see_asked)
        column.addWidget(self._title)
        column.addWidget(self._hint)
        column.addWidget(self.asked)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        column.addWidget(self._scroll, 1)
        desk.listen(self._told)

    def _see_asked(self) -> None:
        """On to the next stop that waits for somebody."""
        waiting = list(self.desk.asked())
        if waiting:
            at = waiting.index(self.desk.stop) + 1 if self.desk.stop in waiting else 0
            self.desk.hold(waiting[at % len(waiting)])

    def _fill_asked(self) -> None:
        waiting = self.desk.asked()
        self.asked.setVisible(bool(waiting))
        names = [EVENTS[stop].short + ("" if len(sides) == 2 else f" ({sides[0]})") for stop, sides in waiting.items()]
        more = f" and {len(names) - 1} more" if len(names) > 1 else ""
        self.asked.setText(f"▲ Set by hand: {names[0] if names else ''}{more}")
        self.asked.setToolTip(
            f"Proposed, not certain enough to be used: {', '.join(names)}. Drag its end on the seam, or accept it."
        )

    def rows(self) -> list[MeasureRow]:
        """The rows on show."""
        inner = self._scroll.widget()
        return inner.findChildren(MeasureRow) if inner else []

    def _told(self, topic: str) -> None:
        if topic == "selection":
            for row in self.rows():
                row.update()
        elif topic in ("pair", "figures", "units", "time", "landing", "kept"):
            self._fill(topic)

    def _fill(self, topic: str) -> None:
        contrast, stop = self.desk.contrast, self.desk.stop
        state = (id(contrast), stop, self.desk.imperial, self.desk.kept)
        if state == self._shown:
            return
        self._shown = state
        self._fill_asked()
        self.desk.hover(None)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 4, 0)
        column.setSpacing(0)
        for note in self.desk.kept.notes if self.desk.kept is not None else ():
            if note.stop == stop:
                column.addWidget(self._note(note))
        rows = rows_at(contrast.rows, stop, self.desk.landing) if contrast and stop else []
        for row in rows:
            made = MeasureRow(self.desk, row)
            made.explained.connect(self.explained)
            column.addWidget(made)
        column.addStretch(1)
        self._scroll.setWidget(inner)
        self._title.setText(EVENTS[stop].label if stop else "At this stop")
        if contrast is None:
            self._hint.setText("Working…" if self.desk.stored else "Choose a pair on the Bench.")
        elif not contrast.athlete.resolved:
            self._hint.setText("First figures; their margins are being worked out.")
        elif not rows:
            self._hint.setText("No measure is read at this stop.")
        else:
            self._hint.setText("athlete · twin · where the athlete stands, ± margin")

    def _note(self, note: Note) -> QWidget:
        """A pinned note, with a way to take it off."""
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(8, 4, 0, 4)
        words = label(note.text, side=note.side)
        words.setWordWrap(True)
        words.setFont(font(-0.5))
        off = QToolButton()
        off.setText("✕")
        off.setToolTip("Take this note off")
        off.clicked.connect(lambda: self.unpinned.emit(note))
        row.addWidget(words, 1)
        row.addWidget(off, 0, Qt.AlignmentFlag.AlignTop)
        return made


class PairRoom(Room):
    """The heart: stages above, seam and controls below, figures beside."""

    title = "Pair"

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.seam = Seam(desk)
        self.stages = {side: Stage(desk, side) for side in (*SIDES, *OTHERS)}
        for side, stage in self.stages.items():
            stage.beside = self.stages["twin" if side == "athlete" else "athlete"]
            stage.beside.frame_ready.connect(stage.update)
        self.panel = StopPanel(desk)
        self.panel.setMinimumWidth(_PANEL)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 4, 14, 8)
        column.setSpacing(6)
        self.header = PairHeader(desk)
        self._around: list[QWidget] = [self.header, self.panel]
        column.addWidget(self.header)
        upper = QHBoxLayout()
        upper.setSpacing(4)
        for stage in self.stages.values():
            upper.addWidget(stage, 10)
        upper.addWidget(self.panel, 7)
        column.addLayout(upper, 1)
        column.addWidget(self.seam)
        controls = QWidget()
        rows = QVBoxLayout(controls)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(6)
        rows.addLayout(self._first_row())
        rows.addLayout(self._second_row())
        column.addWidget(controls)
        self._around.append(controls)
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        self._ticked = 0.0
        desk.listen(self._told)
        self._sync()

    def _first_row(self) -> FlowLayout:
        desk = self.desk
        row = FlowLayout(spacing=12, spread=True)
        self._pull = Choice("Pull tight", [("one", "one stop"), ("all", "all stops"), ("clock", "clock")], desk.pull)
        self._landing = Choice("Landing", [("touch", "first touch"), ("plant", "full weight")], desk.set_landing)
        self._play = {}
        stepping = QWidget()
        buttons = QHBoxLayout(stepping)
        buttons.setContentsMargins(0, 0, 0, 0)
        buttons.setSpacing(3)
        for key, text, tip in (
            ("back8", "−8", "Back eight frames (Shift+,)"), ("back", "−1", "Back one frame (,)"),
            ("reverse", "◂ play", "Play backwards"), ("forward", "play ▸", "Play (Space)"),
            ("next", "+1", "On one frame (.)"), ("next8", "+8", "On eight frames (Shift+.)"),
        ):  # fmt: skip
            button = QToolButton()
            button.setText(text)
            button.setToolTip(tip)
            button.setAccessibleName(tip)
            button.clicked.connect(lambda _=False, key=key: self._pressed(key))
            button.setCheckable(key in ("reverse", "forward"))
            self._play[key] = button
            buttons.addWidget(button)
        self._rate = Choice("", [("1.0", "1×"), ("0.25", "¼"), ("0.125", "⅛")], lambda k: desk.set_rate(float(k)))
        self._loop = QToolButton()
        self._loop.setText("loop phase")
        self._loop.setCheckable(True)
        self._loop.clicked.connect(lambda on: desk.set_loop(on))
        row.addWidget(self._pull)
        row.addWidget(stepping)
        row.addWidget(self._rate)
        row.addWidget(self._loop)
        row.addWidget(self._landing)
        return row

    def _second_row(self) -> FlowLayout:
        desk = self.desk
        row = FlowLayout(spacing=12)
        self._shown = Choice(
            "Show", [("clip", "clip"), ("figure", "wax figure"), ("both", "both")], lambda k: desk.show(shown=k)
        )
        self._view = Choice("From", [(k, k) for k in VIEWS], self._look_from)
        self._gauges = QToolButton()
        self._gauges.setText("gauges")
        self._gauges.setCheckable(True)
        self._gauges.clicked.connect(lambda on: desk.show(gauges=on))
        self._mirror = QToolButton()
        self._mirror.setText("mirror left-handers")
        self._mirror.setCheckable(True)
        self._mirror.clicked.connect(lambda on: desk.show(mirrored=on))
        self._over = QToolButton()
        self._over.setText("lay over, magnify ▾")
        self._over.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._over.setMenu(self._make_over_menu())
        self.fade = QSlider(Qt.Orientation.Horizontal)
        self.fade.setRange(0, 100)
        self.fade.setFixedWidth(84)
        self.fade.setAccessibleName("how much of the other side is seen")
        self.fade.setToolTip("This side's own to the left, the other side to the right")
        self.fade.valueChanged.connect(lambda value: desk.show(fade=value / 100))
        self._offset = label(role="soft", grow=-0.5)
        row.addWidget(self._shown)
        row.addWidget(self._view)
        row.addWidget(self._gauges)
        row.addWidget(self._mirror)
        row.addWidget(self._over)
        row.addWidget(self.fade)
        row.addWidget(self._offset)
        return row

    def _make_over_menu(self) -> QMenu:
        """The other side laid over, paths, and the joint that the magnifier follows."""
        menu = QMenu(self)
        self._over_actions: list[tuple[QAction, dict[str, object]]] = []
        laid: list[Option] = [(f"Laid over, {words}", {"ghost": key}) for key, words in ORIGINS.items()]
        near: list[Option] = [(f"Magnify the {name.replace('_', ' ')}", {"inset": name}) for name in _JOINTS]
        groups: tuple[list[Option], ...] = (
            [("Side by side", {"ghost": ""}), *laid],
            [("Seen through each other", {"split": False}), ("Split down the stage", {"split": True})],
            [("At the same height", {"matched": True}), ("At their true heights", {"matched": False})],
            [("Athlete and twins", {"wall": False}), ("Twins only", {"wall": True})],
            [("Without paths", {"trails": False}), ("Paths of hand, head, pelvis, knee", {"trails": True})],
            [("No magnifier", {"inset": ""}), *near],
        )
        for group in groups:
            menu.addSeparator()
            for words, change in group:
                action = menu.addAction(words)
                action.setCheckable(True)
                action.triggered.connect(lambda _=False, change=change: self._change(change))
                self._over_actions.append((action, change))
        return menu

    def _change(self, change: dict[str, object]) -> None:
        self.desk.show(**change)
        self._sync()  # what was chosen already is not unticked by choosing it again

    def _look_from(self, view: str) -> None:
        azimuth, elevation = VIEWS[view]
        shown = "figure" if view == "top" else self.desk.display.shown
        self.desk.show(azimuth=azimuth, elevation=elevation, camera=view, shown=shown)

    def _pressed(self, key: str) -> None:
        steps = {"back8": -8, "back": -1, "next": 1, "next8": 8}
        if key in steps:
            self.desk.play(0)
            self.desk.step(steps[key])
        else:
            way = 1 if key == "forward" else -1
            self.desk.play(0 if self.desk.playing == way else way)
            self._sync()

    def _told(self, topic: str) -> None:
        if topic in ("play", "alignment", "display", "landing", "pair", "others"):
            self._sync()
        if topic in ("time", "alignment", "figures", "pair"):
            self._say_offset()
        if topic == "play":
            self._ticked = clock.perf_counter()
            if self.desk.playing and self.desk.contrast is not None:
                self._timer.start()
            else:
                self._timer.stop()

    def _sync(self) -> None:
        desk = self.desk
        self._pull.set(desk.mode)
        self._landing.set(desk.landing)
        self._rate.set(str(desk.rate) if desk.rate in RATES else "")
        self._shown.set(desk.display.shown)
        self._view.set(desk.display.camera)
        self._gauges.setChecked(desk.display.gauges)
        self._mirror.setChecked(desk.display.mirrored)
        for action, change in self._over_actions:
            action.setChecked(all(getattr(desk.display, name) == value for name, value in change.items()))
        several = bool(desk.others)
        for side, stage in self.stages.items():
            wall = side == "athlete" and several and desk.display.wall
            stage.setVisible(side in desk.shown_sides and not wall)
        self.fade.setVisible(bool(desk.display.ghost))
        self.fade.setValue(round(desk.display.fade * 100))
        for widget in self._around:
            widget.setVisible(not desk.display.alone)
        self._loop.setChecked(desk.loop)
        self._play["forward"].setChecked(desk.playing == 1)
        self._play["reverse"].setChecked(desk.playing == -1)

    def _say_offset(self) -> None:
        desk = self.desk
        twin = desk.analysis("twin")
        if twin is None:
            self._offset.setText("")
            return
        off = desk.time_of("twin") - desk.time
        frames = off * twin.motion.rate
        text = f"twin {off * 1000:+.0f} ms, {frames:+.0f} frames".replace("-", "−")
        self._offset.setText(text)

    def _tick(self) -> None:
        desk = self.desk
        now = clock.perf_counter()
        moved = (now - self._ticked) * desk.rate * desk.playing
        self._ticked = now
        low, high = desk.loop_span() or desk.span()
        time = desk.time + moved
        if time >= high or time <= low:
            time = low + 1e-4 if desk.playing > 0 else high - 1e-4
        desk.go(time)

    def close_clips(self) -> None:
        """Let go of clips and stop playing."""
        self._timer.stop()
        for stage in self.stages.values():
            stage.close_clip()
