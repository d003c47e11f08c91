"""A page of the report's preview: as wide as there is room, and no wider than it was laid out."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRect, QSize
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

SHEET = 760  # pixels across a page of the preview


class Sheet(QWidget):
    """Shows an image `(height, width, 4)` uint8, scaled down where the window is narrow."""

    def __init__(self, page: np.ndarray) -> None:
        super().__init__()
        height, width = page.shape[:2]
        self._page = QPixmap.fromImage(QImage(page.data, width, height, page.strides[0], QImage.Format.Format_RGB32))
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setMinimumWidth(width // 3)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return round(min(width, self._page.width()) * self._page.height() / self._page.width())

    def sizeHint(self) -> QSize:
        return self._page.size()

    def paintEvent(self, event: QPaintEvent) -> None:
        wide = min(self.width(), self._page.width())
        box = QRect((self.width() - wide) // 2, 0, wide, self.heightForWidth(wide))
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawPixmap(box, self._page)
        painter.end()
