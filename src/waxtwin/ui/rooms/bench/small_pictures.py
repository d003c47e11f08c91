"""Small pictures of the throws that are in sight, made beside whatever else is done, kept in the library's folder."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage, QPixmap

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.ui.model.work import Runner
from waxtwin.ui.rooms.bench.entry_model import SHOWN
from waxtwin.ui.shared.open_library import OpenLibrary
from waxtwin.ui.shared.small_picture import SMALL, small_picture

if TYPE_CHECKING:
    from waxtwin.library.store import Library

_REST_MS = 250  # asked for once the list stands still
_AT_ONCE = 8  # pictures until they are shown


class SmallPictures(QObject):
    """`came(key)` for every picture that was asked for and is there now. `wanted()` says whether anybody looks."""

    came = Signal(int)

    def __init__(self, library: OpenLibrary, jobs: Runner, wanted: Callable[[], bool], owner: QObject) -> None:
        super().__init__(owner)
        self._library, self._jobs, self._looked_at = library, jobs, wanted
        self._have: dict[int, QPixmap | None] = {}
        self._asked: dict[int, None] = {}
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_REST_MS)
        self._timer.timeout.connect(self._make)
        library.opened.connect(self._forget)
        library.altered.connect(self._drop)

    def of(self, key: int) -> QPixmap | None:
        """A throw's picture, or None as long as it is not there; then it is asked for."""
        if key not in self._have and key not in self._asked:
            self._asked[key] = None
            self._timer.start()
        return self._have.get(key)

    def _forget(self) -> None:
        self._have.clear()
        self._asked.clear()

    def _drop(self, key: int) -> None:
        """What a throw looks like may be other now; of all of them where no throw is named (-1)."""
        if key > 0:
            self._have.pop(key, None)
        elif key < 0:
            self._have.clear()

    def _make(self) -> None:
        library = self._library.store
        keys = list(self._asked)[-_AT_ONCE:]  # the latest asked for are those in sight
        if library is None or not keys:
            return
        if not self._looked_at():
            self._asked.clear()  # asked again once somebody looks
            return

        def work() -> Steps[dict[int, QImage | None]]:
            found = {}
            for n, key in enumerate(keys):
                yield n / len(keys)
                found[key] = _picture(library, key)
            return found

        self._jobs.start("small pictures", work, self._take, lambda _: None)

    def _take(self, found: dict[int, QImage | None]) -> None:
        for key, image in found.items():
            self._asked.pop(key, None)
            if image is not None:
                image.setDevicePixelRatio(SMALL[0] / SHOWN[0])
            self._have[key] = None if image is None else QPixmap.fromImage(image)
            self.came.emit(key)
        if self._asked:
            self._timer.start()


def _picture(library: Library, key: int) -> QImage | None:
    """A throw's picture as it was kept, or made anew."""
    from waxtwin.library.layout import SMALL
    from waxtwin.library.small import small_place
    from waxtwin.library.throws import fetch

    try:
        stored = fetch(library, key)
        path = small_place(library, stored)
        kept = QImage(str(path)) if path.is_file() else QImage()
        if not kept.isNull():
            return kept
        made = small_picture(stored)
    except WaxTwinError:
        return None
    if made is not None:
        with suppress(OSError):
            library.folder_for(SMALL)
            for before in path.parent.glob(f"{key}-*.jpg"):
                before.unlink(missing_ok=True)
            made.save(str(path), "jpg", 90)  # type: ignore[call-overload]
            library.database.protect(path)
    return made
