"""What stages and seam tell whoever listens instead of looking."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QAccessible

from waxtwin.core.stops import EVENTS
from waxtwin.ui.rooms.pair.stage_words import spoken

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.seam import Seam
    from waxtwin.ui.rooms.pair.stage import Stage


def speak_stage(stage: Stage) -> None:
    """Tell what is seen on a stage, where anybody listens."""
    if QAccessible.isActive() and stage.isVisible():
        stage.setAccessibleDescription(spoken(stage))


def speak_seam(seam: Seam) -> None:
    """Tell where both clocks are, where anybody listens."""
    if QAccessible.isActive() and seam.isVisible():
        clock = seam.desk.clock
        stop = EVENTS[clock.stop].label if clock.stop else "between stops"
        times = ", ".join(f"{side} {clock.time_of(side):.3f} s" for side in seam.desk.pair.measured_sides)
        seam.setAccessibleDescription(f"{stop}, {times}" if times else "no pair yet")
