"""What if: a slider per factor, the figure that moves so, and the speed it would give."""

from __future__ import annotations

import math
from collections.abc import Mapping

from PySide6.QtCore import QPointF, Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QPainter, QPaintEvent, QShowEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QSlider, QToolButton, QVBoxLayout, QWidget

from waxtwin.core.borrowed import FACTORS, NotBorrowable
from waxtwin.core.contrast import Contrast
from waxtwin.core.explain import Explanation
from waxtwin.core.units import figure
from waxtwin.core.whatif import MOST, Prediction, WhatIf
from waxtwin.figure.skin import body_pose
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.display import VIEWS
from waxtwin.ui.shared.gauge_paint import paint_tag
from waxtwin.ui.shared.theme import WAX, colour
from waxtwin.ui.shared.wax_figure import Figure, figure_matrix, paint_figure
from waxtwin.ui.shared.widgets import Choice, label, scrolling

_BLEND = "#A6B27A"  # neither amber nor teal: a body that nobody has
_TICK_MS = 30
_TOLD_MS = 250  # the possible and the spread are worked out once the hand rests
_SLOW = 0.25


class Chimera(QWidget):
    """The figure with borrowed parts, the athlete's own faint behind it."""

    def __init__(self) -> None:
        super().__init__()
        self.what: WhatIf | None = None
        self.shares: Mapping[str, float] = {}
        self.phase = 0.5
        self.view = "side"
        self.setMinimumSize(320, 200)
        self.setAccessibleName("figure with borrowed parts")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("stage"))
        if self.what is None:
            return
        height = self.what.athlete.motion.height
        azimuth, elevation = VIEWS[self.view]
        matrix = figure_matrix(
            (self.width(), self.height() + 30), height, math.radians(azimuth), math.radians(elevation)
        )
        painter.setOpacity(0.3)
        paint_figure(painter, matrix, Figure(body_pose(self.what.body({}, self.phase), height), WAX["athlete"]))
        painter.setOpacity(1.0)
        wax = _BLEND if any(self.shares.values()) else WAX["athlete"]
        paint_figure(painter, matrix, Figure(body_pose(self.what.body(self.shares, self.phase), height), wax))
        words = "with what is borrowed; the athlete's own behind" if any(self.shares.values()) else "the athlete's own"
        paint_tag(painter, QPointF(10, 18), words, colour("stage_ink"))


class WhatIfView(QWidget):
    """`aimed(shares, speed)` when the chosen target is to be kept for the plan; speed in m/s."""

    aimed = Signal(object, float)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.what: WhatIf | None = None
        self._of: Contrast | None = None
        self._explanation: Explanation | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(18)
        area, left = scrolling(), QWidget()  # on a small screen the figure stays and the sliders scroll
        left.setLayout(self._make_left())
        area.setWidget(left)
        row.addWidget(area, 10)
        row.addLayout(self._make_right(), 11)
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_TOLD_MS)
        self._rest.timeout.connect(self._tell_slow)

    # building ------------------------------------------------------------------------------------------------------
    def _make_left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 8, 0)
        column.setSpacing(8)
        presets = QHBoxLayout()
        self.presets: dict[str, QPushButton] = {}
        for key, words in (("first", "First focus"), ("both", "Both"), ("all", "All"), ("none", "Back to mine")):
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, key=key: self.preset(key))
            self.presets[key] = button
            presets.addWidget(button)
        presets.addStretch(1)
        column.addLayout(presets)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(5)
        self.sliders: dict[str, QSlider] = {}
        self._values: dict[str, QLabel] = {}
        for n, (name, words) in enumerate(FACTORS.items()):
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setRange(0, round(MOST * 100))
            slider.setPageStep(10)
            slider.setAccessibleName(words)
            slider.valueChanged.connect(lambda _: self._moved())
            self.sliders[name] = slider
            self._values[name] = label("mine", role="soft")
            self._values[name].setMinimumWidth(76)
            grid.addWidget(label(words), n, 0)
            grid.addWidget(slider, n, 1)
            grid.addWidget(self._values[name], n, 2)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        self.speed = label("", grow=8, bold=True)
        self.spread = label("", role="soft")
        self.spread.setWordWrap(True)
        self.problems = label("", role="thread")
        self.problems.setWordWrap(True)
        column.addWidget(self.speed)
        column.addWidget(self.spread)
        column.addWidget(self.problems)
        self.keep = QPushButton("Keep this as the target")
        self.keep.setToolTip("It stands with the athlete's throw, for the plan")
        self.keep.clicked.connect(self._aim)
        column.addWidget(self.keep, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
        return column

    def _make_right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.chimera = Chimera()
        column.addWidget(self.chimera, 1)
        row = QHBoxLayout()
        self.play = QToolButton()
        self.play.setText("play ▸")
        self.play.setCheckable(True)
        self.play.toggled.connect(lambda on: self._timer.start() if on else self._timer.stop())
        self.phase = QSlider(Qt.Orientation.Horizontal)
        self.phase.setRange(0, 1000)
        self.phase.setValue(700)
        self.phase.setAccessibleName("moment, from the lift to after release")
        self.phase.valueChanged.connect(lambda _: self._show())
        self.view = Choice("From", [(key, key) for key in VIEWS], self._look_from)
        self.view.set("side")
        row.addWidget(self.play)
        row.addWidget(self.phase, 1)
        row.addWidget(self.view)
        column.addLayout(row)
        return column

    # state ---------------------------------------------------------------------------------------------------------
    @property
    def shares(self) -> dict[str, float]:
        """Shares borrowed, 0 to 1.2, by factor."""
        return {name: slider.value() / 100 for name, slider in self.sliders.items()}

    def show_explanation(self, found: Explanation | None) -> None:
        """Take a pair's two throws; the sliders go back when they are others."""
        self._explanation = found
        pair = None if found is None else found.case.contrast
        if pair is not self._of:
            self._of = pair
            self.what = None
            if pair is not None and found is not None and not found.unborrowed:
                self.what = WhatIf(pair.athlete, pair.twin)
            self.preset("none")
        focus = () if found is None else found.judgement.focus
        self.presets["first"].setEnabled(bool(focus) and self.what is not None)
        self.presets["both"].setEnabled(len(focus) > 1 and self.what is not None)
        for widget in (*self.sliders.values(), self.presets["all"], self.presets["none"], self.keep, self.play,
                       self.phase):  # fmt: skip
            widget.setEnabled(self.what is not None)
        self._show()

    def preset(self, key: str) -> None:
        """The first focus, both, everything, or nothing borrowed."""
        focus = self._explanation.judgement.focus if self._explanation is not None else ()
        wanted: set[str] = set(FACTORS) if key == "all" else set()
        if key in ("first", "both"):
            wanted = {factor for one in focus[: 1 if key == "first" else 2] for factor in one.rule.factors}
        for name, slider in self.sliders.items():
            slider.blockSignals(True)
            slider.setValue(100 if name in wanted else 0)
            slider.blockSignals(False)
        self._moved()

    def hideEvent(self, event: QHideEvent) -> None:
        self.play.setChecked(False)
        super().hideEvent(event)

    def _look_from(self, view: str) -> None:
        self.chimera.view = view
        self.view.set(view)
        self.chimera.update()

    def _moved(self) -> None:
        for name, share in self.shares.items():
            words = "mine" if share == 0 else "twin's" if share == 1 else f"{share:.0%}".replace("%", " %")
            self._values[name].setText(words)
        self._show()
        self._rest.start()

    def _show(self) -> None:
        self.chimera.what, self.chimera.shares = self.what, self.shares
        self.chimera.phase = self.phase.value() / 1000
        if self.what is None or not self.isVisible():
            self.speed.setText("")
            return
        try:
            self._say(self.what.predict(self.shares, spread=False))
        except NotBorrowable as why:
            self.what = self.chimera.what = None
            self.problems.setText(f"{why}.")
        self.chimera.update()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show()
        self._rest.start()

    def _say(self, found: Prediction) -> None:
        imperial = self.desk.view.imperial
        end = found.hand if found.ball is None else found.ball
        what = "hand speed" if found.ball is None else "ball speed"
        self.speed.setText(f"{figure(end, 'm/s', imperial)} {what}")
        assert self.what is not None
        mine = self.what.predict({}, spread=False)
        more = end - (mine.hand if mine.ball is None else mine.ball)
        said = f"{figure(more, 'm/s', imperial, signed=True)} on mine"
        if found.high > found.low:
            low, high = (figure(v, "m/s", imperial) for v in (found.low, found.high))
            said += f"; known to {low} to {high}. Arithmetic, not a promise."
        self.spread.setText(said)

    def _tell_slow(self) -> None:
        """The spread, and whether such a body could be."""
        if self.what is None or not self.isVisible():
            return
        self._say(self.what.predict(self.shares))
        found = self.what.problems(self.shares)
        if self.what.trouble and any(self.shares.values()):
            found.insert(0, f"At the same moment the two {self.what.trouble} are turned too far apart to be mixed.")
        self.problems.setText("Not a possible motion: " + " ".join(found) if found else "")

    def _tick(self) -> None:
        if self.what is None:
            return
        knots = self.what.clock(self.shares)
        step = _TICK_MS / 1000 * _SLOW / float(knots[3] - knots[0])
        self.phase.setValue(round((self.phase.value() + 1000 * step) % 1000))

    def _aim(self) -> None:
        if self.what is not None:
            found = self.what.predict(self.shares)
            self.aimed.emit(
                {k: v for k, v in self.shares.items() if v}, found.hand if found.ball is None else found.ball
            )
