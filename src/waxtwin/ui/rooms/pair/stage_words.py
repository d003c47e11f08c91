"""What is written on a stage: the stop that is held, the clock, and what is to be known about what is seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter

from waxtwin.core.stops import EVENTS, LANDING
from waxtwin.ui.shared.gauge_paint import paint_tag
from waxtwin.ui.shared.theme import font, side_colour

if TYPE_CHECKING:
    from waxtwin.ui.rooms.pair.stage import Stage

_BAR = 34  # px: the strip at the top


def paint_words(painter: QPainter, stage: Stage, time: float, seen: bool) -> None:
    """Which stop, how far from it, the clock, and below what is to be known; `seen` whether there is a body."""
    width = stage.width()
    painter.fillRect(QRectF(0, 0, width, _BAR), QColor(20, 24, 27, 150))
    painter.setFont(font(0.5, QFont.Weight.DemiBold))
    painter.setPen(side_colour(stage.side, soft=True))
    pair, middle = stage.desk.pair, Qt.AlignmentFlag.AlignVCenter
    stored = pair.stored_of(stage.side)
    # narrow stages: the stop stands beside them and on the seam
    text = stored.title if pair.others and stored is not None else _stop_words(stage, time)
    painter.drawText(QRectF(14, 0, width - 84, _BAR), middle, text)
    painter.setPen(QColor(233, 228, 218, 190))
    painter.setFont(font(-0.5))
    clock = f"{time:.3f} s".replace("-", "−")
    painter.drawText(QRectF(0, 0, width - 14, _BAR), middle | Qt.AlignmentFlag.AlignRight, clock)
    notes = _notes(stage, seen)
    if notes:
        paint_tag(painter, QPointF(12, stage.height() - 20), "  ·  ".join(notes), QColor("#E9E4DA"))


def spoken(stage: Stage) -> str:
    """The same for who listens instead of looking."""
    time = stage.desk.clock.time_of(stage.side)
    said = (_stop_words(stage, time), f"{time:.3f} s", *_notes(stage, stage.motion is not None))
    return ", ".join(one for one in said if one)


def _stop_words(stage: Stage, time: float) -> str:
    """The held stop and how far the instant is from it."""
    desk = stage.desk
    analysis, stop, tie = desk.pair.analysis(stage.side), desk.clock.stop, desk.clock.tie
    if tie is not None:
        return tie.name
    if analysis is None or stop is None or stop not in analysis.events:
        return ""
    off = (time - analysis.events[stop].time) * 1000
    name = EVENTS[stop].label + (" (landing)" if stop == LANDING[desk.pair.landing] else "")
    return f"{name}   {off:+.0f} ms".replace("-", "−") if abs(off) >= 0.5 else name


def _notes(stage: Stage, seen: bool) -> list[str]:
    """What is to be known about what is seen."""
    motion, clip, bare, shows = stage.motion, stage.clip.clip, stage.is_bare, stage.shows_clip
    figure = stage.desk.view.display.shown == "figure"
    unsolved = shows and clip is not None and clip.camera is None
    flat = motion is not None and motion.flat is not None and not shows
    closeup = stage.desk.closeups.of(stage.key)
    found: list[tuple[str, bool]] = []
    if not stage.for_film:
        found += [
            ("fetching the frame…", shows and stage.clip.late),
            (f"{closeup.zoom:.1f}× nearer", closeup.zoom > 1.0),
            ("no landmarks yet", bare and shows),
            (stage.clip.fault or "opening the clip…", bare and not shows),
            ("outside this track", not seen and not bare),
            (stage.clip.fault or "no clip; wax figure shown", not figure and not shows and not bare),
            ("camera not solved: no gauges on this clip", unsolved and not bare),
        ]
    found += [
        ("left-hander, shown mirrored", stage.is_left and stage.flips),
        ("shown mirrored", not stage.is_left and stage.flips),
        ("one camera: depth is made up", flat and not stage.is_estimated),
        ("one camera: depth is estimated", flat and stage.is_estimated),
    ]
    return [words for words, holds in found if holds]
