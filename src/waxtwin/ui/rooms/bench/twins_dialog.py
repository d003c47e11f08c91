"""Finding a twin: the library ranked for an athlete, with reasons, warnings, and weights in the analyst's hands."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QFont, QPainter
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QSlider,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.twins import CRITERIA, WEIGHTS, Candidate, Shelf, Wish
from waxtwin.library.profiles import twins_for
from waxtwin.ui.shared.theme import colour, font
from waxtwin.ui.shared.widgets import label, paint_ground

_CANDIDATE = Qt.ItemDataRole.UserRole
_STEPS = 10  # of a weight's slider for a weight of 1
_REST_MS = 60


class TwinDialog(QDialog):
    """`chosen(athlete key, twin key, why)` when a twin is taken."""

    chosen = Signal(int, int, str)

    def __init__(self, athlete: int, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find a twin")
        self.resize(1020, 660)
        self._athlete = athlete
        self._shelf: Shelf | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        column.addWidget(label(f"A twin for {name}", role="title", grow=4))
        hint = label(
            "Nobody is a perfect twin. What speaks for each and what does not is said; you decide, and say why.",
            role="soft",
        )  # fmt: skip
        hint.setWordWrap(True)
        column.addWidget(hint)
        row = QHBoxLayout()
        row.setSpacing(20)
        row.addLayout(self._make_wishes(), 5)
        row.addLayout(self._make_list(), 11)
        column.addLayout(row, 1)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.fill)

    def _make_wishes(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(label("What counts how much", role="soft"))
        grid = QGridLayout()
        self.weights: dict[str, QSlider] = {}
        for n, (name, words) in enumerate(CRITERIA.items()):
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setRange(0, 5 * _STEPS)
            slider.setValue(round(WEIGHTS[name] * _STEPS))
            slider.setAccessibleName(words)
            slider.valueChanged.connect(lambda _: self._rest.start())
            said = label(words)
            said.setWordWrap(True)
            grid.addWidget(said, n, 0)
            grid.addWidget(slider, n, 1)
            self.weights[name] = slider
        grid.setColumnMinimumWidth(0, 130)
        column.addLayout(grid)
        self.bigger, self.same = QCheckBox("only bigger than the athlete"), QCheckBox("only the same build")
        for box in (self.bigger, self.same):
            box.toggled.connect(lambda _: self.fill())
            column.addWidget(box)
        column.addStretch(1)
        return column

    def _make_list(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.list = QListWidget()
        self.list.setItemDelegate(_Delegate(self.list))
        self.list.setAccessibleName("twins")
        self.list.currentItemChanged.connect(lambda *_: self._choose())
        self.list.itemDoubleClicked.connect(lambda _: self.take())
        column.addWidget(self.list, 1)
        self.state = label("looking through the library…", role="soft")
        self.state.setWordWrap(True)
        column.addWidget(self.state)
        column.addWidget(label("Why this one", role="soft"))
        self.why = QPlainTextEdit()
        self.why.setFixedHeight(64)
        self.why.setAccessibleName("why this twin")
        column.addWidget(self.why)
        row = QHBoxLayout()
        row.addStretch(1)
        cancel, self.button = QPushButton("Leave it"), QPushButton("Take as twin")
        cancel.clicked.connect(self.reject)
        self.button.setProperty("role", "main")
        self.button.setEnabled(False)
        self.button.clicked.connect(self.take)
        row.addWidget(cancel)
        row.addWidget(self.button)
        column.addLayout(row)
        return column

    def show_shelf(self, shelf: Shelf | None) -> None:
        """Rank these."""
        self._shelf = shelf
        self.fill()

    def fill(self) -> None:
        """Rank again by the weights and filters as they stand."""
        weights = {name: slider.value() / _STEPS for name, slider in self.weights.items()}
        wish = Wish(weights, self.bigger.isChecked(), self.same.isChecked())
        kept = self.candidate
        self.list.clear()
        try:
            found = twins_for(self._shelf, self._athlete, wish)
        except WaxTwinError as fault:
            self.state.setText(str(fault))
            return
        for one in found:
            item = QListWidgetItem(one.profile.name)
            item.setData(_CANDIDATE, one)
            item.setToolTip("\n".join((*one.reasons, *one.warnings)))
            self.list.addItem(item)
            if kept is not None and one.profile.key == kept.profile.key:
                self.list.setCurrentItem(item)
        if self.list.currentItem() is None and found:
            self.list.setCurrentRow(0)
        others = sum(not one.own for one in found)
        self.state.setText(
            f"{others} pitchers" if others else "No other pitcher fits; the athlete's own throws are last."
        )

    @property
    def candidate(self) -> Candidate | None:
        """The one that is chosen in the list."""
        item = self.list.currentItem()
        found: Candidate | None = None if item is None else item.data(_CANDIDATE)
        return found

    def _choose(self) -> None:
        one = self.candidate
        self.button.setEnabled(one is not None)
        if one is not None:
            self.why.setPlainText("; ".join(one.reasons))

    def take(self) -> None:
        """Take the chosen one as the twin."""
        one = self.candidate
        if one is not None:
            self.chosen.emit(self._athlete, one.profile.key, self.why.toPlainText().strip())
            self.accept()


class _Delegate(QStyledItemDelegate):
    """A candidate: how close as a bar, who, why, and what speaks against it."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(300, 66 if index.data(_CANDIDATE).warnings else 50)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        one: Candidate = index.data(_CANDIDATE)
        painter.save()
        box = paint_ground(painter, option)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setPen(colour("twin" if not one.own else "athlete"))
        painter.setFont(font(0.5, QFont.Weight.DemiBold))
        name = f"{one.profile.name}{', own throw' if one.own else ''}"
        painter.drawText(QRectF(box.left() + 10, box.top() + 5, box.width() - 190, 22), middle, name)
        bar = QRectF(box.right() - 170, box.top() + 12, 110, 8)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("hairline"))
        painter.drawRoundedRect(bar, 4, 4)
        painter.setBrush(colour("twin" if not one.own else "athlete"))
        painter.drawRoundedRect(QRectF(bar.left(), bar.top(), bar.width() * one.score, 8), 4, 4)
        painter.setPen(colour("ink"))
        painter.setFont(font(-0.5))
        painter.drawText(QRectF(box.right() - 52, box.top() + 5, 44, 22), middle | Qt.AlignmentFlag.AlignRight,
                         f"{one.score * 100:.0f} %")  # fmt: skip
        painter.setPen(colour("soft"))
        self._line(painter, box, 26, ", ".join(one.reasons))
        if one.warnings:
            painter.setPen(colour("caution"))
            self._line(painter, box, 43, "▲  " + "; ".join(one.warnings))
        painter.restore()

    def _line(self, painter: QPainter, box: QRectF, top: float, text: str) -> None:
        short = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width() - 20))
        painter.drawText(QRectF(box.left() + 10, box.top() + top, box.width() - 20, 18), Qt.AlignmentFlag.AlignVCenter,
                         short)  # fmt: skip
