"""A stitch that is pulled tight moves there, so that the eye keeps hold of it; none where no motion is wanted."""

from __future__ import annotations

from PySide6.QtCore import QEasingCurve, Qt, QVariantAnimation
from PySide6.QtWidgets import QApplication, QStyle, QWidget

from waxtwin.core.alignment import Alignment
from waxtwin.ui.rooms.pair.seam_axis import SeamAxis

_TAKES = 150  # ms


class Pull(QVariantAnimation):
    """From how the clocks hung before to how they hang; `update()` of its widget as it goes."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self._widget = widget
        self._before: tuple[SeamAxis, Alignment] | None = None
        self.setDuration(_TAKES)
        self.setStartValue(0.0)
        self.setEndValue(1.0)
        self.setEasingCurve(QEasingCurve.Type.OutCubic)
        self.valueChanged.connect(lambda _: widget.update())
        self.finished.connect(self._rest)

    def begin(self, axis: SeamAxis, alignment: Alignment) -> None:
        """Start from an axis and from how the clocks hung on it."""
        self.stop()
        moves = self._widget.isVisible() and _wanted(self._widget)
        self._before = (axis, alignment) if moves else None
        if moves:
            self.start()

    @property
    def share(self) -> float:
        """How far it is: 1 at rest."""
        return 1.0 if self._before is None else float(self.currentValue())

    def of_athlete(self, x: float, time: float, width: int) -> float:
        """Where an instant of the athlete's clock is on its way to `x`, in pixels."""
        if self._before is None:
            return x
        before = self._before[0].x_of(time, width)
        return before + (x - before) * self.share

    def of_twin(self, x: float, time: float, width: int) -> float:
        """Where an instant of the twin's clock is on its way to `x`, in pixels."""
        return x if self._before is None else self.of_athlete(x, self._before[1].to_athlete(time), width)

    def _rest(self) -> None:
        self._before = None
        self._widget.update()


def _wanted(widget: QWidget) -> bool:
    """Whether the desktop lets things move."""
    moves = widget.style().styleHint(QStyle.StyleHint.SH_Widget_Animation_Duration, None, widget)
    return moves > 0 and QApplication.isEffectEnabled(Qt.UIEffect.UI_General)
