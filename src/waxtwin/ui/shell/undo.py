"""Undo and redo of the window: what is not in sight is only done when asked twice."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from waxtwin.ui.shared.open_library import OpenLibrary
from waxtwin.ui.shell.window import MainWindow

if TYPE_CHECKING:
    from waxtwin.library.journal import Change


class Undo:
    """Takes changes of the library back, and does them again."""

    def __init__(self, window: MainWindow, library: OpenLibrary) -> None:
        self._window, self._library = window, library
        self._asked_about: int | None = None

    def undo(self) -> None:
        """Take the latest change back; what is not in sight only when asked twice."""
        store = self._library.store
        self._turn(None if store is None else store.next_undo(), "Undo would take back", self._library.undo)

    def redo(self) -> None:
        """Do again what was taken back; what is not in sight only when asked twice."""
        store = self._library.store
        self._turn(None if store is None else store.next_redo(), "Redo would do again", self._library.redo)

    def _turn(self, change: Change | None, words: str, do: Callable[[], None]) -> None:
        if change is None:
            return
        notice, room = self._window.notice, self._window.room
        seen = frozenset() if room is None else room.throws_in_sight()
        if seen and change.throws and not change.throws & seen and self._asked_about != change.id:
            self._asked_about = change.id
            notice.say(f"{words} “{change.label}”, which is not in sight here. Again to do it.", "Do it", do)
            return
        self._asked_about = None
        if notice.text.startswith(words):
            notice.hide()
        do()
