"""Signs for folders, files and buttons, as the program's own file dialogs show them, in the tones of the theme."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QFileInfo, QPointF, Qt
from PySide6.QtGui import QAbstractFileIconProvider, QIcon, QPainter, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QFileIconProvider

from waxtwin.ui.shared.theme import colour

_SIZE = 32  # px: twice as fine as they are seen
Line = Sequence[tuple[float, float]]

_FOLDER: Line = ((4, 26), (4, 7), (13, 7), (16, 11), (28, 11), (28, 26), (4, 26))
_PAGE: Line = ((7, 4), (25, 4), (25, 28), (7, 28), (7, 4))
# the buttons of Qt's dialog, by their names there
BUTTONS: dict[str, Sequence[Line]] = {
    "backButton": (((20, 6), (10, 16), (20, 26)),),
    "forwardButton": (((12, 6), (22, 16), (12, 26)),),
    "toParentButton": (((6, 20), (16, 10), (26, 20)),),
    "newFolderButton": (_FOLDER, ((16, 14), (16, 23)), ((11.5, 18.5), (20.5, 18.5))),
    "listModeButton": tuple(((x, y), (x + 4, y), (x + 4, y + 4), (x, y + 4), (x, y)) for x in (7, 20) for y in (7, 20)),
    "detailModeButton": tuple(((6, y), (26, y)) for y in (8, 16, 24)),
}


class FileIcons(QFileIconProvider):
    """One sign for folders, one for files."""

    def __init__(self) -> None:
        super().__init__()
        self._folder = drawn((_FOLDER,))
        self._file = drawn((_PAGE, *(((11, y), (21, y)) for y in (11, 16, 21))))

    def icon(self, of: QFileInfo | QAbstractFileIconProvider.IconType, /) -> QIcon:
        """The sign of a path, or of a kind of place."""
        if isinstance(of, QFileInfo):
            return self._folder if of.isDir() else self._file
        return self._file if of == QAbstractFileIconProvider.IconType.File else self._folder


def drawn(lines: Sequence[Line]) -> QIcon:
    """A sign of some lines on a field of 32 by 32; what they close is filled."""
    picture = QPixmap(_SIZE, _SIZE)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour("soft"), 2.4, c=Qt.PenCapStyle.RoundCap, j=Qt.PenJoinStyle.RoundJoin))
    painter.setBrush(colour("rail"))
    for line in lines:
        points = QPolygonF([QPointF(*at) for at in line])
        painter.drawPolygon(points) if line[0] == line[-1] else painter.drawPolyline(points)
    painter.end()
    return QIcon(picture)
