"""Small widgets that several rooms share."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFont, QFontMetrics, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStyle,
    QStyleOptionViewItem,
    QTableWidget,
    QToolButton,
    QWidget,
)

from waxtwin.core.cautions import CAUTIONS
from waxtwin.ui.shared.theme import colour, font


def label(text: str = "", *, role: str = "", side: str = "", grow: float = 0.0, bold: bool = False, wrap: bool = False
          ) -> QLabel:  # fmt: skip
    """A plain-text label: names and notes from files are never markup."""
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setWordWrap(wrap)
    if role:
        made.setProperty("role", role)
    if side:
        made.setProperty("side", side)
    made.setFont(font(grow, QFont.Weight.Bold if bold or role == "title" else QFont.Weight.Normal))
    return made


def close_row(dialog: QDialog, *, main: bool = False) -> QHBoxLayout:
    """The last row of a dialog that only shows something: a button that closes it."""
    close = QPushButton("Close")
    close.setProperty("role", "main" if main else "")
    close.clicked.connect(dialog.accept)
    row = QHBoxLayout()
    row.addStretch(1)
    row.addWidget(close)
    return row


def leave_return_alone(dialog: QDialog) -> None:
    """Return in a line presses no button: else it would be the first one, whatever that does to what was typed."""
    for button in dialog.findChildren(QPushButton):
        button.setAutoDefault(False)


def number(low: float, high: float, *, decimals: int = 2, suffix: str = "", empty: str = "") -> QDoubleSpinBox:
    """A field for a figure; its lowest value stands for “not said” and reads as `empty`, where that is given."""
    made = QDoubleSpinBox()
    made.setDecimals(decimals)
    made.setRange(low, high)
    made.setSingleStep(10.0**-decimals if high < 10 else 1.0)
    made.setSuffix(suffix)
    made.setSpecialValueText(empty)
    made.lineEdit().setTextMargins(7, 2, 0, 2)  # the style sheet's padding does not reach the inner field
    return made


def paint_ground(painter: QPainter, option: QStyleOptionViewItem) -> QRectF:
    """The ground of a list's entry: marked when it is chosen, a hairline below; returns its box."""
    box = QRectF(option.rect)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if option.state & QStyle.StateFlag.State_Selected:
        painter.fillRect(box, colour("rail"))
    painter.setPen(colour("hairline"))
    painter.drawLine(box.bottomLeft(), box.bottomRight())
    return box


def form_table(columns: Sequence[str], *, stretch: Iterable[int], wrap: bool = False) -> QTableWidget:
    """An empty table whose cells hold fields or words; the columns `stretch` share the room that is left, and rows of
    words that `wrap` are as tall as these need.
    """
    table = QTableWidget(0, len(columns))
    table.setHorizontalHeaderLabels(list(columns))
    table.verticalHeader().hide()
    table.setShowGrid(False)
    header = table.horizontalHeader()
    header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    for column in stretch:
        header.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)
    if wrap:
        table.setWordWrap(True)
        table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    return table


def scrolling(place: QWidget | None = None) -> QScrollArea:
    """Where something scrolls upward that is taller than its room; built in `place`, if that is known already."""
    area = QScrollArea(place)
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area


def offer_people(box: QComboBox, people: Mapping[int, str], chosen: int | None) -> None:
    """Fill a box with athletes {id: name}, anew only when they are others, and choose one."""
    if [box.itemData(i) for i in range(box.count())] != list(people):
        box.clear()
        for key, name in people.items():
            box.addItem(name, key)
    box.setCurrentIndex(box.findData(chosen))


class Choice(QWidget):
    """A few words of which one is chosen; `chosen(key)` is called only by the user."""

    def __init__(self, title: str, options: Sequence[tuple[str, str]], chosen: Callable[[str], None]) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(3)
        if title:
            row.addWidget(label(title, role="soft"))
        self._group = QButtonGroup(self)
        self._buttons: dict[str, QToolButton] = {}
        for key, text in options:
            button = QToolButton()
            button.setText(text)
            button.setCheckable(True)
            button.setAccessibleName(f"{title} {text}")
            button.clicked.connect(lambda _=False, key=key: chosen(key))
            self._group.addButton(button)
            self._buttons[key] = button
            row.addWidget(button)

    def offer(self, key: str, *, shown: bool) -> None:
        """Show or hide one of the choices."""
        self._buttons[key].setVisible(shown)

    def set(self, key: str) -> None:
        """Show a choice without calling back; an unknown one leaves none chosen."""
        self._group.setExclusive(False)
        for name, button in self._buttons.items():
            button.setChecked(name == key)
        self._group.setExclusive(True)


class Readout(QWidget):
    """Soft words that change with every step: they are painted in the room of the `widest`, and nothing is laid out
    anew for them.
    """

    def __init__(self, widest: str) -> None:
        super().__init__()
        self._widest, self._text = widest, ""
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)

    def sizeHint(self) -> QSize:
        metrics = QFontMetrics(font(-0.5))
        return QSize(metrics.horizontalAdvance(self._widest) + 4, metrics.height() + 4)

    def text(self) -> str:
        """The words."""
        return self._text

    def setText(self, text: str) -> None:
        """Show other words."""
        if text != self._text:
            self._text = text
            self.setAccessibleName(text)
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(font(-0.5))
        painter.setPen(colour("soft"))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, self._text)


class Cautions(QFrame):
    """The usual cautions, with a shape so that colour is not alone: one line, the most pressing first, or all."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("cautions")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 3, 6, 3)
        self._text = label("", grow=-0.5)
        self._text.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self._text, 1)
        self.more = QToolButton()
        self.more.setCheckable(True)
        self.more.setAccessibleName("read all cautions")
        self.more.toggled.connect(self._lay_out)
        row.addWidget(self.more, 0, Qt.AlignmentFlag.AlignTop)
        self.text = ""
        self.say(CAUTIONS)

    def say(self, cautions: Sequence[str], *, whole: bool = False) -> None:
        """What has to be said, the usual cautions where there is nothing else; `whole` to be seen all at once."""
        self.text = "▲  " + "  ".join(cautions or CAUTIONS)
        self.setAccessibleDescription(self.text)
        self.more.setChecked(whole)
        self._lay_out()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._lay_out()

    def _lay_out(self) -> None:
        whole = self.more.isChecked()
        self.more.setText("one line" if whole else "read all")
        self._text.setWordWrap(whole)
        room = self.width() - self.more.sizeHint().width() - 30
        line = self._text.fontMetrics().elidedText(self.text, Qt.TextElideMode.ElideRight, max(room, 60))
        self._text.setText(self.text if whole else line)
