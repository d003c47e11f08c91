"""What a sensor worn on the arm said on a day."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from pathlib import Path

from PySide6.QtWidgets import QLineEdit, QWidget

from waxtwin.core.arm_sensor import LONGEST, ArmReading
from waxtwin.library.arm_sensor import arm_reading_of, read_arm_readings
from waxtwin.ui.rooms.plan.day_dialog import DayDialog


class ArmSensorDialog(DayDialog):
    """Keeps readings beside those that are `known`, of one unit and make; both are taken over from the last ones."""

    title = "Arm sensor"
    says = (
        "What a sensor worn on the arm said, a number for each throw, in its maker's own unit; “3: 52.1” is the third "
        "throw of the day. Nothing is judged by it: a number is held only against others of the same make and unit."
    )
    what = "Readings"
    columns = "Columns “date” and “value”, and where they are known “unit”, “make”, “throw”; several days at once"

    def __init__(self, today: date, known: Sequence[ArmReading], parent: QWidget | None = None) -> None:
        super().__init__(today, parent)
        self._known = known
        self.unit, self.make = QLineEdit(), QLineEdit()
        for line, name, hint in ((self.unit, "Unit", "N·m"), (self.make, "Make", "as you call it")):
            line.setMaxLength(LONGEST)
            line.setPlaceholderText(hint)
            line.setAccessibleName(f"{name.lower()} of the arm sensor")
            self.form.addRow(name, line)
        self.typed.setPlaceholderText("52.1; 48.7; 50")
        if known:
            self.unit.setText(known[-1].unit)
            self.make.setText(known[-1].make)
        self.fill()

    def fill(self) -> None:
        day = [one for one in self._known if one.date == self.iso_day]
        self.typed.setPlainText("; ".join(_said(one) for one in day))
        if day:
            self.unit.setText(day[-1].unit)
            self.make.setText(day[-1].make)

    def read(self, said: str, day: str) -> ArmReading:
        return replace(arm_reading_of(said, self.unit.text(), self.make.text()), date=day)

    def read_file(self, path: Path) -> dict[str, list[ArmReading]]:
        return read_arm_readings(path)


def _said(one: ArmReading) -> str:
    return f"{one.value:g}" if one.throw is None else f"{one.throw}: {one.value:g}"
