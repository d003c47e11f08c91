"""Who is on the stages, and what lies between them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from waxtwin.core.units import figure, height, speed
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_flow import PairFlow
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.widgets import label


class PairHeader(QWidget):
    """Who is on the stages, which of their throws, and the ball speed between."""

    def __init__(self, desk: Desk, pairs: PairFlow, prepare: Callable[[int], object]) -> None:
        super().__init__()
        self.desk, self._prepare = desk, prepare
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 6, 0, 6)
        self._names, self._facts, self.throws = {}, {}, {}
        self.unnamed: dict[str, QToolButton] = {}
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
            box.activated.connect(lambda i, side=side, box=box: pairs.take(side, box.itemData(i)))
            line.addWidget(box)
            self.unnamed[side] = ask = QToolButton()
            ask.setText("who throws?")
            ask.setProperty("role", "small")
            ask.setToolTip("Name, hand and height: nobody said yet, and the right hand is taken")
            ask.clicked.connect(partial(self._ask_who, side))
            line.addWidget(ask)
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
        desk.listen(lambda _: self._fill(), Topic.PAIR, Topic.FACTS, Topic.UNITS, Topic.FIGURES)
        desk.listen(lambda _: self._fill_throws(), Topic.PAIR, Topic.THROWS)
        self._fill()
        self._fill_throws()

    def _ask_who(self, side: str, _checked: bool = False) -> None:
        stored = self.desk.pair.stored.get(side)
        if stored is not None and stored.key is not None:
            self._prepare(stored.key)

    def _fill_throws(self) -> None:
        for side, box in self.throws.items():
            session = self.desk.pair.sessions.get(side, ())
            on_desk = self.desk.pair.stored.get(side)
            box.clear()
            for n, throw in enumerate(session):
                box.addItem(f"throw {n + 1} of {len(session)}", throw.key)
                if on_desk is not None and throw.key == on_desk.key:
                    box.setCurrentIndex(n)
            box.setVisible(len(session) > 1)

    def _fill(self) -> None:
        balls = []
        for side in ("athlete", "twin"):
            stored = self.desk.pair.stored.get(side)
            self.unnamed[side].setVisible(stored is not None and not stored.named)
            if stored is None:
                self._names[side].setText(f"No {side} chosen")
                self._facts[side].setText("")
                continue
            who, d = stored.sidecar.athlete, stored.delivery
            if d.ball_speed is not None:
                balls.append(d.ball_speed)
            facts = [
                ("right-handed" if d.throws == "R" else "left-handed") + ("" if stored.named else "?"),
                height(who.height_m, self.desk.view.imperial),
                stored.sidecar.pitch or "pitch not noted",
                speed(d.ball_speed, self.desk.view.imperial),
            ]
            self._names[side].setText(stored.title)
            self._facts[side].setText("  ·  ".join(facts))
        known = len(balls) == 2 and not self.desk.pair.is_one_throw
        gap = balls[1] - balls[0] if known else None
        self._gap.setText(figure(gap, "m/s", self.desk.view.imperial) if known else "")
        self._between.setText("ball speed between them" if known else "")
