"""How a pitcher's row is painted: the name, and softly beside it what there is of them."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QPainter
from PySide6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem

from waxtwin.ui.rooms.bench.entry_model import SUMMARY
from waxtwin.ui.shared.theme import colour, font

_BETWEEN = 16.0  # px


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
