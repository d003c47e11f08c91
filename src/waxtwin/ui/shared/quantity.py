"""Fields for lengths and speeds, typed in any of the usual units and shown in the chosen ones."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtGui import QValidator
from PySide6.QtWidgets import QDoubleSpinBox, QWidget

from waxtwin.core.units import converted, figure, height, read_length, read_speed

Read = Callable[[str], float]


class Quantity(QDoubleSpinBox):
    """A figure in metres or m/s behind free text. `misread(sentence)` when what was typed is not understood: then the
    figure stays what it was. Its lowest value stands for “not said” and reads as `empty`.
    """

    misread = Signal(str)
    imperial = False  # of every field; see `use_units`

    def __init__(self, low: float, high: float, *, empty: str = "", decimals: int = 3) -> None:
        super().__init__()
        self.setDecimals(max(decimals, 3))
        self.setRange(low, high)
        self.setSpecialValueText(empty)
        self.setMinimumWidth(98)
        self.lineEdit().setTextMargins(7, 2, 0, 2)  # the style sheet's padding does not reach the inner field

    def read(self, text: str) -> float:
        """The figure behind a text. Raises ValueError, one plain sentence."""
        raise NotImplementedError

    def _understood(self, text: str) -> float:
        said = text.strip()
        if not said or said == self.specialValueText():
            return self.minimum()
        if said == self.textFromValue(self.value()):  # shown rounded: it stays as fine as it was
            return self.value()
        value = self.read(said)
        low, high = self.minimum(), self.maximum()
        if not low < value <= high:
            ends = " to ".join(self.textFromValue(end) for end in (low, high))
            raise ValueError(f"“{said[:40]}” lies outside {ends}.")
        return value

    def validate(self, text: str, at: int) -> tuple[QValidator.State, str, int]:
        try:
            self._understood(text)
        except ValueError:
            return QValidator.State.Intermediate, text, at
        return QValidator.State.Acceptable, text, at

    def valueFromText(self, text: str) -> float:
        try:
            return self._understood(text)
        except ValueError:
            return self.value()

    def fixup(self, text: str) -> str:
        """Asked for when the field is left with a text that is not understood: say so, and stay as it was."""
        try:
            self._understood(text)
        except ValueError as fault:
            self.misread.emit(str(fault))
        return self.textFromValue(self.value()) if self.value() > self.minimum() else self.specialValueText()

    def show_anew(self) -> None:
        """Write the figure in the units that are chosen now."""
        if not self.hasFocus():
            shown = self.specialValueText() if self.value() <= self.minimum() else self.textFromValue(self.value())
            self.lineEdit().setText(shown)


class Length(Quantity):
    """A length in metres; `tall` for a person's height or span, which is shown in feet and inches."""

    def __init__(self, low: float, high: float, *, empty: str = "", tall: bool = False) -> None:
        self._tall = tall
        super().__init__(low, high, empty=empty, decimals=2 if tall else 3)

    def read(self, text: str) -> float:
        return read_length(text, tall=self._tall, imperial=self.imperial)

    def textFromValue(self, value: float) -> str:
        if self._tall:
            return height(value, self.imperial)
        number, unit, _ = converted(value, "m", True)
        return f"{number:.1f} {unit}" if self.imperial else f"{value:.3f} m"


class Speed(Quantity):
    """A speed in m/s."""

    def read(self, text: str) -> float:
        return read_speed(text, imperial=self.imperial)

    def textFromValue(self, value: float) -> str:
        return figure(round(value, 3), "m/s", self.imperial)


def use_units(window: QWidget, *, imperial: bool) -> None:
    """Show every quantity of a window in other units."""
    Quantity.imperial = imperial
    for box in window.findChildren(Quantity):
        box.show_anew()
