"""The table's own drawing: bands as small plots, left out where it is narrow."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import (
    QPointF,
    QRectF,
    Qt,
)
from PySide6.QtGui import QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
)

from waxtwin.ui.rooms.contrast.rows_model import BAND, Index, RowsModel
from waxtwin.ui.shared.theme import colour

if TYPE_CHECKING:
    pass


_NARROW = 600  # pixels below which the table leaves out its plots


class BandDelegate(QStyledItemDelegate):
    """A row as a small plot: the band, the athlete, the twin, a tick for each throw of a set, the range of several
    twins.
    """  # fmt: skip

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        super().paint(painter, option, index)
        model = index.model()
        assert isinstance(model, RowsModel)
        row = model.items[index.row()]
        if isinstance(row, str) or row.athlete is None or (row.twin is None and row.band is None):
            return
        others = model.among.get(row.measure.id)
        rest = [v for v in others.figures[1:] if v is not None] if others is not None else []
        spans = [] if row.band is None else [("soft", row.band.low, row.band.high, 10.0)]
        if others is not None:
            spans.append(("twin", others.low, others.high, 5.0))
        if not spans:
            return
        box = QRectF(option.rect).adjusted(8, 0, -8, 0)
        throws = {} if row.throws is None else {"twin": row.throws.twin.seen, "athlete": row.throws.athlete.seen}
        twins = [value for value in (row.twin, *rest) if value is not None]
        ends = (row.athlete, *twins, *(v for side in throws.values() for v in side),
                *(end for _, first, last, _ in spans for end in (first, last)))  # fmt: skip
        low, high = min(ends), max(ends)
        pad = max(0.1 * (high - low), 1e-6)
        low, high = low - pad, high + pad

        def x(value: float) -> float:
            return box.left() + (value - low) / (high - low) * box.width()

        y = box.center().y()
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour("hairline"), 1))
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        painter.setPen(Qt.PenStyle.NoPen)
        for name, first, last, thick in spans:
            painter.setBrush(colour(name, 60))
            painter.drawRoundedRect(QRectF(x(first), y - thick / 2, x(last) - x(first), thick), 3, 3)
        for side, figures in throws.items():
            painter.setPen(QPen(colour(side, 150), 1))
            for value in figures:
                painter.drawLine(QPointF(x(value), y - 8), QPointF(x(value), y + 8))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("twin"))
        for value in twins:
            painter.drawRect(QRectF(x(value) - 4, y - 4, 8, 8))
        painter.setBrush(colour("athlete"))
        painter.drawEllipse(QPointF(x(row.athlete), y), 5, 5)
        painter.restore()


class RowsTable(QTableView):
    """The table of measures; where it is narrow, names and figures come before the small plots."""

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.setColumnHidden(BAND, self.viewport().width() < _NARROW)
        super().resizeEvent(event)
