"""Pictures that are painted anew only when something they hang on has changed."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSize
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QApplication

from waxtwin.ui.model.identity import same_objects
from waxtwin.ui.shared.theme import colour, theme


class KeptPictures:
    """The last `most` pictures on a ground of one colour of the theme."""

    def __init__(self, ground: str, most: int = 1) -> None:
        self._ground, self._most = ground, most
        self._of: tuple[object, ...] = ()
        self._pictures: dict[tuple[object, ...], QPixmap] = {}

    def picture(
        self, size: QSize, ratio: float, of: tuple[object, ...], state: tuple[object, ...],
        paint: Callable[[QPainter], object],
    ) -> QPixmap:  # fmt: skip
        """The picture of a size (points) at so many pixels a point, painted by `paint` unless it is there; `of` is what
        all hang on, compared by identity since it never changes in place, `state` what one hangs on, by value.
        """
        if not same_objects(of, self._of):
            self._of, self._pictures = of, {}
        key = (size.toTuple(), ratio, theme().name, QApplication.font().pointSizeF(), *state)
        if key not in self._pictures:
            made = QPixmap(size * ratio)
            made.setDevicePixelRatio(ratio)
            made.fill(colour(self._ground))
            painter = QPainter(made)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(painter)
            painter.end()
            if len(self._pictures) == self._most:
                del self._pictures[next(iter(self._pictures))]
            self._pictures[key] = made
        return self._pictures[key]
