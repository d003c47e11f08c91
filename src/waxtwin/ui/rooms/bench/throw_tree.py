"""The tree of pitchers and throws: its keys, and how a pitcher's row is painted."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QModelIndex, QPersistentModelIndex, QRectF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QHideEvent, QKeyEvent, QPainter, QShowEvent
from PySide6.QtWidgets import QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTreeView

from waxtwin.ui.rooms.bench.entry_model import SUMMARY
from waxtwin.ui.shared.theme import colour, font

_BETWEEN = 16.0  # px
_OPENING = (Qt.Key.Key_Left, Qt.Key.Key_Right)


class ThrowTree(QTreeView):
    """A tree whose arrows open and close its rows, though the window has uses of its own for them. Its columns are
    measured while it is seen.
    """

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in _OPENING:
            event.accept()
        return super().event(event)

    def showEvent(self, event: QShowEvent) -> None:
        self.measure(on=True)
        super().showEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.measure(on=False)

    def measure(self, *, on: bool) -> None:
        """Whether columns but the first are as wide as what stands in them."""
        mode = QHeaderView.ResizeMode.ResizeToContents if on else QHeaderView.ResizeMode.Fixed
        for section in range(1, self.header().count()):
            self.header().setSectionResizeMode(section, mode)


class PitcherDelegate(QStyledItemDelegate):
    """Rows with a summary are headings, ruled off; all others are as usual."""

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        said = index.data(SUMMARY)
        if not said:
            super().paint(painter, option, index)
            return
        box = QRectF(option.rect).adjusted(4, 0, -4, 0)
        painter.save()
        painter.setPen(colour("hairline"))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        bold = font(1, QFont.Weight.DemiBold)
        middle = Qt.AlignmentFlag.AlignVCenter
        name = str(index.data())
        painter.setFont(bold)
        painter.setPen(colour("ink"))
        painter.drawText(box, middle, name)
        box.setLeft(box.left() + QFontMetricsF(bold).horizontalAdvance(name) + _BETWEEN)
        painter.setFont(font())
        painter.setPen(colour("soft"))
        painter.drawText(box, middle, QFontMetricsF(font()).elidedText(said, Qt.TextElideMode.ElideRight, box.width()))
        painter.restore()
