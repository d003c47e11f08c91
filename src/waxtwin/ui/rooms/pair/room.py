"""The Pair room: two stages, the seam, and the measures that matter at the stop."""

from __future__ import annotations

import time as clock
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAction, QKeyEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QMenu,
    QSlider,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.ghost import ORIGINS
from waxtwin.ui.model.clock import RATES
from waxtwin.ui.model.display import VIEWS
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.rooms.pair.chalk_flow import ChalkFlow
from waxtwin.ui.rooms.pair.chalk_hand import ChalkHand
from waxtwin.ui.rooms.pair.chalk_panel import ChalkPanel
from waxtwin.ui.rooms.pair.eye_flow import EyeFlow
from waxtwin.ui.rooms.pair.eye_panel import EyePanel
from waxtwin.ui.rooms.pair.header import PairHeader
from waxtwin.ui.rooms.pair.nearer_menu import NearerButton
from waxtwin.ui.rooms.pair.picture_dialog import PictureDialog
from waxtwin.ui.rooms.pair.rubber_panel import RubberPanel
from waxtwin.ui.rooms.pair.seam import Seam
from waxtwin.ui.rooms.pair.side_panel import SidePanel
from waxtwin.ui.rooms.pair.stage_grid import StageGrid
from waxtwin.ui.rooms.pair.stop_edits import StopEditor
from waxtwin.ui.rooms.pair.stop_panel import StopPanel
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.room import Room, on_desk
from waxtwin.ui.shared.talk_bar import TalkBar
from waxtwin.ui.shared.widgets import Choice, Readout

Option = tuple[str, dict[str, object]]  # words of a menu, and what it changes of the display
_TICK_MS = 16


class PairRoom(Room):
    """The heart: stages above, seam and controls below, figures beside."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.desk = desk = context.desk
        self._go_here = partial(context.go_to, "Pair")
        self.edits = StopEditor(context)
        self.seam = Seam(desk)
        self.grid = StageGrid(desk)
        self.stages = self.grid.stages
        for stage in self.grid.every():
            stage.taken.connect(self._take_side)
            stage.hands.recording = context.recording
        self.talk_bar = TalkBar(
            context.recording, "Speak while you go through the pair; hold the right button to point.",
            context.recording.start,
        )  # fmt: skip
        self.nearer = NearerButton(context)
        self._picture: PictureDialog | None = None
        self.side = self._make_side(context)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 4, 14, 8)
        column.setSpacing(6)
        self.header = PairHeader(desk, context.pairs, context.prepare)
        self._around: list[QWidget] = [self.header, self.side]
        column.addWidget(self.talk_bar)
        column.addWidget(self.header)
        upper = QHBoxLayout()
        upper.setSpacing(4)
        upper.addWidget(self.grid, 20)
        upper.addWidget(self.side, 7)
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
        self.seam.corrected.connect(self.edits.correct)
        self.panel.explained.connect(context.references.explain_measure)
        self.panel.unpinned.connect(context.kept.unpin)
        self.panel.tied.connect(context.kept.ask_tie)
        self.panel.untied.connect(context.kept.untie)
        sync = (Topic.PLAY, Topic.ALIGNMENT, Topic.DISPLAY, Topic.LANDING, Topic.PAIR, Topic.FIGURES, Topic.OTHERS)
        desk.listen(lambda _: self._sync(), *sync)
        desk.listen(lambda _: self._say_offset(), Topic.TIME, Topic.ALIGNMENT, Topic.FIGURES, Topic.PAIR)
        desk.listen(self._run, Topic.PLAY)
        self._sync()

    def _make_side(self, context: Context) -> SidePanel:
        """What stands beside the stages: measures, a point read off, eye checks, marks."""
        self.panel, self.rubber = StopPanel(self.desk, self.edits), RubberPanel(self.desk)
        self.eye, self.chalk = EyeFlow(context), ChalkFlow(context)
        self.eye_panel, self.chalk_panel = EyePanel(self.eye), ChalkPanel(self.chalk, self.grid)
        self.eye_panel.editing.connect(self.edit_eye_checks)
        for stage in self.grid.every():
            stage.hands.chalk = ChalkHand(stage, self.chalk)
        return SidePanel({
            "stop": ("stop", self.panel), "rubber": ("rubber", self.rubber), "eye": ("by eye", self.eye_panel),
            "chalk": ("marks", self.chalk_panel),
        })  # fmt: skip

    def _first_row(self) -> FlowLayout:
        desk = self.desk
        row = FlowLayout(spacing=12, spread=True)
        self._pull = Choice(
            "Pull tight", [("one", "one stop"), ("all", "all stops"), ("clock", "clock")], desk.clock.pull
        )
        self._landing = Choice("Landing", [("touch", "first touch"), ("plant", "full weight")], desk.pair.set_landing)
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
        self._rate = Choice("", [("1.0", "1×"), ("0.25", "¼"), ("0.125", "⅛")], lambda k: desk.clock.set_rate(float(k)))
        self._loop = QToolButton()
        self._loop.setText("loop phase")
        self._loop.setCheckable(True)
        self._loop.clicked.connect(lambda on: desk.clock.set_loop(on))
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
            "Show", [("clip", "clip"), ("figure", "wax figure"), ("both", "both")], lambda k: desk.view.show(shown=k)
        )
        self._view = Choice("From", [(k, k) for k in VIEWS], self._look_from)
        self._gauges = QToolButton()
        self._gauges.setText("gauges")
        self._gauges.setCheckable(True)
        self._gauges.clicked.connect(lambda on: desk.view.show(gauges=on))
        self._mirror = QToolButton()
        self._mirror.setText("mirror")
        self._mirror.setToolTip("Show left-handers mirrored, so that both throw the same way")
        self._mirror.setCheckable(True)
        self._mirror.clicked.connect(lambda on: desk.view.show(mirrored=on))
        self._over = QToolButton()
        self._over.setText("lay over ▾")
        self._over.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._over.setMenu(self._make_over_menu())
        self.fade = QSlider(Qt.Orientation.Horizontal)
        self.fade.setRange(0, 100)
        self.fade.setFixedWidth(84)
        self.fade.setAccessibleName("how much of the other side is seen")
        self.fade.setToolTip("This side's own to the left, the other side to the right")
        self.fade.valueChanged.connect(lambda value: desk.view.show(fade=value / 100))
        self._offset = Readout("twin −1000 ms, −1000 frames")
        row.addWidget(self._shown)
        row.addWidget(self._view)
        row.addWidget(self._gauges)
        row.addWidget(self._mirror)
        row.addWidget(self._over)
        row.addWidget(self.nearer)
        row.addWidget(self.fade)
        row.addWidget(self._offset)
        return row

    def _make_over_menu(self) -> QMenu:
        """The other side laid over, and paths."""
        menu = QMenu(self)
        self._over_actions: list[tuple[QAction, dict[str, object]]] = []
        laid: list[Option] = [(f"Laid over, {words}", {"ghost": key}) for key, words in ORIGINS.items()]
        groups: tuple[list[Option], ...] = (
            [("Side by side", {"ghost": ""}), *laid],
            [("Seen through each other", {"split": False}), ("Split down the stage", {"split": True})],
            [("At the same height", {"matched": True}), ("At their true heights", {"matched": False})],
            [("One view", {"double": False}), ("Two views, one below the other", {"double": True})],
            [("Athlete and twins", {"wall": False}), ("Twins only", {"wall": True})],
            [("Without paths", {"trails": False}), ("Paths of hand, head, pelvis, knee", {"trails": True})],
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
        self.desk.view.show(**change)
        self._sync()  # what was chosen already is not unticked by choosing it again

    def _look_from(self, view: str) -> None:
        azimuth, elevation = VIEWS[view]
        shown = "figure" if view == "top" else self.desk.view.display.shown
        self.desk.view.show(azimuth=azimuth, elevation=elevation, camera=view, shown=shown)

    def _pressed(self, key: str) -> None:
        steps = {"back8": -8, "back": -1, "next": 1, "next8": 8}
        if key in steps:
            self.desk.clock.play(0)
            self.desk.clock.step(steps[key])
        else:
            way = 1 if key == "forward" else -1
            self.desk.clock.play(0 if self.desk.clock.playing == way else way)
            self._sync()

    def _take_side(self, side: str) -> None:
        """A click on the stage of a side takes it; on that of a further twin it moves both again."""
        self.desk.clock.toggle(side if side in SIDES else "")

    def come_nearer(self, factor: float) -> None:
        """Nearer to the middle of the stages, or further off below 1."""
        closeups, pair = self.desk.closeups, self.desk.pair
        closeups.nearer(self.desk.clock.alone or pair.lead_side, factor, (0.5, 0.5), self.desk.stages)

    def show_whole(self) -> None:
        """The whole picture on the stages again."""
        self.desk.closeups.whole(self.desk.clock.alone or self.desk.pair.lead_side, self.desk.stages)

    def show_picture_dialog(self) -> None:
        """Light, contrast and mirroring of the clips."""
        if self._picture is None:
            self._picture = PictureDialog(self.desk, self)
        self._picture.show()
        self._picture.raise_()

    def show_panel(self, key: str) -> None:
        """Bring a panel beside the stages to sight: from another room, too, and where the stages stand alone."""
        self._go_here()
        self.desk.view.show(alone=False)
        self.side.show_panel(key)

    def switch_panel(self, key: str) -> None:
        """Bring a panel to sight, or the first one again."""
        if self.side.isVisible():
            self.side.switch(key)
        else:
            self.show_panel(key)

    def by_eye(self, do: Callable[[], None]) -> None:
        """Do something with the eye checks that are in sight, and only bring them there first: what nobody sees is not
        answered.
        """
        if self.eye_panel.isVisible():
            do()
        else:
            self.show_panel("eye")

    def edit_eye_checks(self) -> None:
        """The list of eye checks, to be changed."""
        from waxtwin.ui.rooms.pair.eye_dialog import EyeChecksDialog

        self.eye_dialog = EyeChecksDialog(self.eye, self)
        self.eye_dialog.open()

    def both_again(self) -> None:
        """Give up a drag on the seam or the tool in hand, or let both sides move again."""
        if self.desk.chalk.tool:
            self.desk.chalk.take("")
        elif not self.seam.cancel_drag():
            self.desk.clock.take("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.both_again()
        else:
            super().keyPressEvent(event)

    def _run(self, topic: Topic) -> None:
        """Begin to play, or stand still."""
        self._ticked = clock.perf_counter()
        if self.desk.clock.playing and self.desk.pair.measured_sides:
            self._timer.start()
        else:
            self._timer.stop()

    def _sync(self) -> None:
        desk = self.desk
        self._pull.set(desk.clock.mode)
        self._landing.set(desk.pair.landing)
        self._rate.set(str(desk.clock.rate) if desk.clock.rate in RATES else "")
        self._shown.set(desk.view.display.shown)
        self._view.set(desk.view.display.camera)
        self._gauges.setChecked(desk.view.display.gauges)
        self._mirror.setChecked(desk.view.display.mirrored)
        for action, change in self._over_actions:
            action.setChecked(all(getattr(desk.view.display, name) == value for name, value in change.items()))
        self.fade.setVisible(bool(desk.view.display.ghost))
        self.fade.setValue(round(desk.view.display.fade * 100))
        for widget in self._around:
            widget.setVisible(not desk.view.display.alone)
        for widget in (*self._play.values(), self._loop, self.nearer):
            widget.setEnabled(bool(desk.pair.measured_sides))
        self._loop.setChecked(desk.clock.loop)
        self._play["forward"].setChecked(desk.clock.playing == 1)
        self._play["reverse"].setChecked(desk.clock.playing == -1)

    def _say_offset(self) -> None:
        desk = self.desk
        twin = desk.pair.analysis("twin")
        if twin is None:
            self._offset.setText("")
            return
        off = desk.clock.time_of("twin") - desk.clock.time
        frames = off * twin.motion.rate
        text = f"twin {off * 1000:+.0f} ms, {frames:+.0f} frames".replace("-", "−")
        self._offset.setText(text)

    def _tick(self) -> None:
        desk = self.desk
        now = clock.perf_counter()
        moved = (now - self._ticked) * desk.clock.rate * desk.clock.playing
        self._ticked = now
        desk.clock.advance(moved)

    def let_go(self) -> None:
        self._timer.stop()
        self.grid.let_go()

    def throws_in_sight(self) -> frozenset[int]:
        return on_desk(self.desk)
