"""What the athlete is to see: parts, stops, names and wording."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QLineEdit, QPlainTextEdit, QVBoxLayout, QWidget

from waxtwin.core.stops import EVENTS, ORDER
from waxtwin.report.parts import PARTS, WORDS, Report, Wish
from waxtwin.ui.shared.widgets import label

_TALL = ("first", "second", "good")
_FILMED = (
    "In the pictures and the clip, where it was filmed from the side that a gauge asks for.\n"
    "Else the wax figures, by which nobody is recognised."
)
_NOT_FILMED = "No clip whose camera is known shows what lies on the desk"


class ReportForm(QWidget):
    """`changed(wish)` on every edit."""

    changed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.wish = Wish()
        self._filling = False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 10, 0)
        column.setSpacing(6)
        self.parts = {key: QCheckBox(words) for key, words in PARTS.items()}
        self.stops = {stop: QCheckBox(EVENTS[stop].short) for stop in ORDER}
        column.addWidget(label("What is in it", role="soft"))
        column.addLayout(_grid(list(self.parts.values()), 1))
        column.addWidget(label("Pictures at these stops", role="soft"))
        column.addLayout(_grid(list(self.stops.values()), 2))
        column.addWidget(label("Names as shown", role="soft"))
        self.names = {"athlete": QLineEdit(), "twin": QLineEdit()}
        for side, line in self.names.items():
            line.setAccessibleName(f"name of the {side} as shown")
            line.setToolTip("Another name here keeps the own one out of everything that is sent")
            column.addWidget(line)
        self.footage = QCheckBox("Show the footage, not figures")
        column.addWidget(self.footage)
        self.drawn = label("", role="soft", wrap=True)
        self.drawn.hide()
        column.addWidget(self.drawn)
        column.addWidget(label("In your words", role="soft"))
        self.words: dict[str, QLineEdit | QPlainTextEdit] = {}
        for key, words in WORDS.items():
            made: QLineEdit | QPlainTextEdit = QPlainTextEdit() if key in _TALL else QLineEdit()
            if isinstance(made, QPlainTextEdit):
                made.setFixedHeight(70)
                made.setTabChangesFocus(True)
            made.setAccessibleName(words)
            column.addWidget(label(words, grow=-1))
            column.addWidget(made)
            self.words[key] = made
        column.addStretch(1)
        self._connect()
        self._fill(self.wish)

    def _connect(self) -> None:
        for box in (*self.parts.values(), *self.stops.values(), self.footage):
            box.toggled.connect(lambda _: self._read())
        for line in (*self.names.values(), *self.words.values()):
            line.textChanged.connect(lambda *_: self._read())

    def show_wish(self, wish: Wish) -> None:
        """Show a wish without telling anyone."""
        if wish != self.wish:
            self._fill(wish)

    def _fill(self, wish: Wish) -> None:
        self._filling = True
        self.wish = wish
        for key, box in self.parts.items():
            box.setChecked(key in wish.parts)
        for stop, box in self.stops.items():
            box.setChecked(stop in wish.stops)
        self.footage.setChecked(wish.footage)
        for side, line in self.names.items():
            line.setText(getattr(wish, side))
        for key, made in self.words.items():
            text = wish.wording.get(key, "")
            made.setPlainText(text) if isinstance(made, QPlainTextEdit) else made.setText(text)
        self._filling = False

    def tell_footage(self, filmed: Mapping[str, bool], bare: Sequence[str] = ()) -> None:
        """Whose throw, by the name as shown, there is footage of; of `bare` ones there is nothing else."""
        self.footage.setVisible(bool(filmed))
        self.footage.setEnabled(any(filmed.values()))
        self.footage.setToolTip(_FILMED if any(filmed.values()) else _NOT_FILMED)
        drawn = [name for name, has_clip in filmed.items() if not has_clip]
        said = [f"{' and '.join(bare)}: without landmarks there is no figure, so the clip is shown."] if bare else []
        if drawn and self.footage.isEnabled() and self.wish.footage:
            said.append(f"{' and '.join(drawn)} stays a figure: of the throw that is shown there is no clip.")
        self.drawn.setText(" ".join(said))
        self.drawn.setVisible(bool(said))

    def show_usual(self, report: Report, names: tuple[str, str]) -> None:
        """What stands there where nobody wrote anything else."""
        for side, name in zip(("athlete", "twin"), names, strict=True):
            self.names[side].setPlaceholderText(name)
        plain = [thing.plain or thing.title for thing in report.things]
        usual: Mapping[str, str] = {
            "title": report.title, "opening": report.opening, "first": plain[0] if plain else "",
            "second": plain[1] if len(plain) > 1 else "", "good": "\n".join(report.good), "closing": "nothing more",
        }  # fmt: skip
        for key, made in self.words.items():
            made.setPlaceholderText(usual[key])
        parts = [self.parts[key] for key in ("todo", "good", "account")]
        words = [self.words[key] for key in ("first", "second", "good")]
        for one in (*parts, *words, self.names["twin"]):
            one.setEnabled(bool(report.twin))  # one delivery on its own has nothing of these

    def _read(self) -> None:
        if self._filling:
            return
        words = {key: made.toPlainText() if isinstance(made, QPlainTextEdit) else made.text()
                 for key, made in self.words.items()}  # fmt: skip
        self.wish = replace(
            self.wish, parts=frozenset(key for key, box in self.parts.items() if box.isChecked()),
            stops=tuple(stop for stop, box in self.stops.items() if box.isChecked()),
            athlete=self.names["athlete"].text().strip(), twin=self.names["twin"].text().strip(),
            wording={key: text for key, text in words.items() if text.strip()}, footage=self.footage.isChecked(),
        )  # fmt: skip
        self.changed.emit(self.wish)


def _grid(boxes: list[QCheckBox], columns: int) -> QGridLayout:
    grid = QGridLayout()
    grid.setVerticalSpacing(2)
    for n, box in enumerate(boxes):
        grid.addWidget(box, n // columns, n % columns)
    return grid
