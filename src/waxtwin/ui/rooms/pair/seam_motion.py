"""A stitch that is pulled tight moves there, so that the eye keeps hold of it; none where no motion is wanted."""

from __future__ import annotations

from PySide6.QtCore import QAbstractAnimation, QEasingCurve, Qt, QVariantAnimation
from PySide6.QtWidgets import QApplication, QStyle, QWidget

from waxtwin.core.alignment import Alignment
from waxtwin.ui.rooms.pair.seam_axis import SeamAxis

_TAKES = 150  # ms


class Pull(QVariantAnimation):
    """From how the clocks hung before to how they hang; `update()` of its widget as it goes."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self._before: tuple[SeamAxis, Alignment] | None = None
        self.setDuration(_TAKES)
        self.setStartValue(0.0)
        self.setEndValue(1.0)
        self.setEasingCurve(QEasingCurve.Type.OutCubic)
        self.valueChanged.connect(lambda _: widget.update())
        self.finished.connect(widget.update)

    def begin(self, axis: SeamAxis, alignment: Alignment) -> None:
        """Start from an axis and from how the clocks hung on it."""
        self.stop()
        widget = self.parent()
        if isinstance(widget, QWidget) and widget.isVisible() and _wanted(widget):
            self._before = axis, alignment
            self.start()

    @property
    def share(self) -> float:
        """How far it is: 1 at rest."""
        return float(self.currentValue()) if self.state() == QAbstractAnimation.State.Running else 1.0

    def of_athlete(self, x: float, time: float, width: int) -> float:
        """Where an instant of the athlete's clock is on its way to `x`, in pixels."""
        if self._before is None or self.share == 1.0:
            return x
        before = self._before[0].x_of(time, width)
        return before + (x - before) * self.share

    def of_twin(self, x: float, time: float, width: int) -> float:
        """Where an instant of the twin's clock is on its way to `x`, in pixels."""
        if self._before is None or self.share == 1.0:
            return x
        before = self._before[0].x_of(self._before[1].to_athlete(time), width)
        return before + (x - before) * self.share


def _wanted(widget: QWidget) -> bool:
    """Whether the desktop lets things move."""
    moves = widget.style().styleHint(QStyle.StyleHint.SH_Widget_Animation_Duration, None, widget)
    return moves > 0 and QApplication.isEffectEnabled(Qt.UIEffect.UI_General)
