"""How the arm is, and the league's own limits: small forms of the log."""

from __future__ import annotations

from datetime import date

from PySide6.QtCore import QDate, Qt, Signal
from PySide6.QtWidgets import (
    QDateEdit,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QPlainTextEdit,
    QSlider,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.trend import ArmNote, Limits
from waxtwin.ui.shared.widgets import label

_STEPS = 3  # lines for days of rest


def _buttons(dialog: QDialog, keep: object) -> QDialogButtonBox:
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Cancel)
    buttons.button(QDialogButtonBox.StandardButton.Save).setText("Save")
    buttons.accepted.connect(keep)
    buttons.rejected.connect(dialog.reject)
    return buttons


class ArmDialog(QDialog):
    """`kept(note)` when it is to be kept."""

    kept = Signal(object)

    def __init__(self, today: date, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("How the arm is")
        self.setMinimumWidth(480)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        form = QFormLayout()
        self.day = QDateEdit(QDate(today.year, today.month, today.day))
        self.day.setDisplayFormat("d MMM yyyy")
        self.day.setCalendarPopup(True)
        form.addRow("Day", self.day)
        self.soreness = QSlider(Qt.Orientation.Horizontal)
        self.soreness.setRange(0, 10)
        self.soreness.setAccessibleName("soreness")
        self.soreness.valueChanged.connect(lambda _: self._tell())
        self.said = label("")
        form.addRow("Soreness", self.soreness)
        form.addRow("", self.said)
        self.place = QLineEdit()
        self.place.setPlaceholderText("such as inside of the elbow, front of the shoulder")
        form.addRow("Where", self.place)
        self.since = QLineEdit()
        self.since.setPlaceholderText("year-month-day, where it is known")
        form.addRow("Since", self.since)
        self.text = QPlainTextEdit()
        self.text.setFixedHeight(64)
        form.addRow("More", self.text)
        column.addLayout(form)
        words = label("Pain or loss of range means stop and see a licensed clinician. This is a record, not advice.",
                      role="soft")  # fmt: skip
        words.setWordWrap(True)
        column.addWidget(words)
        self.fault = label("", role="thread")
        column.addWidget(self.fault)
        column.addWidget(_buttons(self, self.keep))
        self._tell()

    def _tell(self) -> None:
        value = self.soreness.value()
        self.said.setText("0: not sore" if value == 0 else f"{value} of 10")

    def keep(self) -> None:
        """Keep the note as it stands; a day that is none is asked for again."""
        since = self.since.text().strip()
        try:
            since = date.fromisoformat(since).isoformat() if since else ""
        except ValueError:
            self.fault.setText(f"“{since[:30]}” is not a date; write it as year-month-day, such as 2026-11-23.")
            return
        when = self.day.date().toString("yyyy-MM-dd")
        text = " ".join(self.text.toPlainText().split())
        self.kept.emit(ArmNote(when, self.soreness.value(), self.place.text().strip(), since or None, text))
        self.accept()


class LimitsDialog(QDialog):
    """The league's limits, as somebody reads them there; the program knows none. `kept(limits)`."""

    kept = Signal(object)

    def __init__(self, limits: Limits, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("The league's limits")
        self.setMinimumWidth(520)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        words = label("Enter what the athlete's own league or governing body says for the age. Nothing is filled in by "
                      "the program, and what is entered is only counted against, never advice to throw as much.",
                      role="soft")  # fmt: skip
        words.setWordWrap(True)
        column.addWidget(words)
        form = QFormLayout()
        self.league, self.link = QLineEdit(limits.league), QLineEdit(limits.link)
        self.link.setPlaceholderText("https://…, where the rules can be read")
        form.addRow("League", self.league)
        form.addRow("Link", self.link)
        self.most = _count(limits.most or 0, "not entered")
        form.addRow("Most throws a day", self.most)
        self.rest: list[tuple[QSpinBox, QSpinBox]] = []
        for n in range(_STEPS):
            throws, days = limits.rest[n] if n < len(limits.rest) else (0, 0)
            pair = _count(throws, "not entered"), _count(days, "no days")
            for box, name in zip(pair, ("throws", "days of rest"), strict=True):
                box.setAccessibleName(f"{name} {n + 1}")
            self.rest.append(pair)
            form.addRow("From so many throws on", pair[0])
            form.addRow("days of rest", pair[1])
        column.addLayout(form)
        column.addWidget(_buttons(self, self.keep))

    def keep(self) -> None:
        """Keep what was entered."""
        rest = sorted((a.value(), b.value()) for a, b in self.rest if a.value() and b.value())
        most = self.most.value() or None
        self.kept.emit(Limits(self.league.text().strip(), self.link.text().strip(), most, tuple(rest)))
        self.accept()


def _count(value: int, empty: str) -> QSpinBox:
    made = QSpinBox()
    made.setRange(0, 1000)
    made.setSpecialValueText(empty)
    made.setValue(value)
    made.lineEdit().setTextMargins(7, 2, 0, 2)
    return made
