"""What every room is: a widget that may hold clips and devices, and knows which throws it shows."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from waxtwin.ui.model.desk import Desk
from waxtwin.ui.shared.widgets import label


class Room(QWidget):
    """A room of the window."""

    def begin_layout(self, title: str) -> tuple[QVBoxLayout, QHBoxLayout]:
        """The room's column, and its first row with the title in it."""
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 26, 12)
        column.setSpacing(10)
        top = QHBoxLayout()
        top.addWidget(label(title, role="title", grow=8))
        top.addSpacing(18)
        column.addLayout(top)
        return column, top

    def throws_in_sight(self) -> frozenset[int]:
        """Keys of the throws that the room is about; none where it is about all of them."""
        return frozenset()

    def play(self) -> bool:
        """Play what the room itself shows, or stand still; False where that is the pair."""
        return False

    def step(self, frames: int) -> bool:
        """Step what the room itself shows by frames; False where that is the pair."""
        return False

    def let_go(self) -> None:
        """Let go of clips, devices and timers: the window goes."""


def on_desk(desk: Desk) -> frozenset[int]:
    """Keys of the throws that lie on the desk."""
    return frozenset(stored.key for stored in desk.pair.stored.values() if stored.key is not None)
