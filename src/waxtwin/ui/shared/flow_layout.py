"""A row that goes on in a next line where the window is narrow or the type large."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QWidget

_Line = list[tuple[QLayoutItem, QSize]]


class FlowLayout(QLayout):
    """Widgets from left to right; what is left of a line goes after them, between (`spread`) or before (`right`)."""

    def __init__(
        self, parent: QWidget | None = None, *, spacing: int = 8, spread: bool = False, right: bool = False
    ) -> None:
        super().__init__(parent)
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(spacing)
        self._items: list[QLayoutItem] = []
        self._hints: _Line | None = None  # of what is shown, until something changes
        self._heights: dict[int, int] = {}  # {width: height}, as long
        self._spread, self._right = spread, right

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)
        self._forget()

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        self._forget()
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def invalidate(self) -> None:
        self._forget()
        super().invalidate()

    def _forget(self) -> None:
        self._hints, self._heights = None, {}

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        if width not in self._heights:  # asked a dozen times for each time that it changes
            lines = self._lines(width)
            between = self.spacing() * max(len(lines) - 1, 0)
            self._heights[width] = sum(_height(line) for line in lines) + between
        return self._heights[width]

    def sizeHint(self) -> QSize:
        shown = self._shown()
        width = sum(hint.width() for _, hint in shown) + self.spacing() * max(len(shown) - 1, 0)
        return QSize(width, _height(shown))

    def minimumSize(self) -> QSize:
        shown = self._shown()
        return QSize(max((item.minimumSize().width() for item, _ in shown), default=0), _height(shown))

    def setGeometry(self, box: QRect) -> None:
        super().setGeometry(box)
        y = box.top()
        for line in self._lines(box.width()):
            tall = _height(line)
            used = sum(hint.width() for _, hint in line)
            gap = self.spacing()
            if self._spread and len(line) > 1:
                gap = max(gap, (box.width() - used) // (len(line) - 1))
            free = box.width() - used - gap * (len(line) - 1)
            x = box.left() + (max(free, 0) if self._right else 0)
            for item, size in line:
                top = y + (tall - size.height()) // 2
                item.setGeometry(QRect(QPoint(x, top), QSize(min(size.width(), box.width()), size.height())))
                x += size.width() + gap
            y += tall + self.spacing()

    def _shown(self) -> _Line:
        if self._hints is None:
            self._hints = [(item, item.sizeHint()) for item in self._items if not item.isEmpty()]
        return self._hints

    def _lines(self, width: int) -> list[_Line]:
        lines: list[_Line] = [[]]
        taken, spacing = 0, self.spacing()
        for item, hint in self._shown():
            wide = hint.width()
            if lines[-1] and taken + spacing + wide > width:
                lines.append([])
                taken = 0
            taken += wide + (spacing if lines[-1] else 0)
            lines[-1].append((item, hint))
        return [line for line in lines if line]


def _height(line: _Line) -> int:
    return max((hint.height() for _, hint in line), default=0)
