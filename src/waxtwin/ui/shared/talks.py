"""The talks of the pair on the desk: which there are, the one in hand, and every change of it, to be undone as any."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from waxtwin.formats.talk import Scene, Talk
from waxtwin.library.store import Library
from waxtwin.library.talks import KeptTalk, forget_talk, keep_talk, new_voice, talks_of, voices_in
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.open_library import OpenLibrary


class Talks(QObject):
    """`changed` when there are other talks, another one is in hand, or it was edited; `chosen` for another scene."""

    changed = Signal()
    chosen = Signal()

    def __init__(self, desk: Desk, library: OpenLibrary, window: QWidget) -> None:
        super().__init__(window)
        self.desk, self.library = desk, library
        self.kept: list[KeptTalk] = []
        self._key: int | None = None
        self._scene = ""
        desk.listen(self._reread, Topic.PAIR)
        library.altered.connect(self._reread)
        library.opened.connect(self._reread)

    def _reread(self, *_: object) -> None:
        throws, store = self.throws, self.library.store
        kept = [] if throws is None or store is None else talks_of(store, *throws)
        if kept != self.kept:
            self.kept = kept
            self.changed.emit()

    @property
    def throws(self) -> tuple[int, int] | None:
        """The two throws on the desk, where both are of the library."""
        keys = [self.desk.pair.stored[side].key for side in self.desk.pair.stored]
        return (keys[0], keys[1]) if len(keys) == 2 and keys[0] is not None and keys[1] is not None else None

    @property
    def current(self) -> KeptTalk | None:
        """The talk in hand: the one that was chosen, else the latest."""
        return next((one for one in self.kept if one.id == self._key), self.kept[0] if self.kept else None)

    @property
    def talk(self) -> Talk | None:
        """The document of the talk in hand."""
        return None if self.current is None else self.current.talk

    @property
    def scene(self) -> Scene | None:
        """The scene that is chosen, else the first."""
        scenes = () if self.talk is None else self.talk.scenes
        return next((one for one in scenes if one.id == self._scene), scenes[0] if scenes else None)

    def take(self, key: int) -> None:
        """Take another talk in hand."""
        if key != (None if self.current is None else self.current.id):
            self._key, self._scene = key, ""
            self.changed.emit()

    def choose(self, scene: str) -> None:
        """Choose a scene by its id."""
        if scene != self._scene:
            self._scene = scene
            self.chosen.emit()

    # changing ------------------------------------------------------------------------------------------------------
    def begin(self, talk: Talk, label: str) -> None:
        """Keep a new talk and take it in hand."""
        throws = self.throws
        if throws is None:
            return

        def work(library: Library) -> None:
            self._key, self._scene = keep_talk(library, throws, talk, label), ""

        self.library.change(work, 0)

    def edit(self, label: str, make: Callable[[Talk], Talk]) -> None:
        """Change the talk in hand, as one change. Raises TalkError of whatever makes it."""
        current, throws = self.current, self.throws
        if current is None or throws is None:
            return
        talk = make(current.talk)
        if talk != current.talk:
            self._key = current.id
            self.library.change(lambda library: keep_talk(library, throws, talk, label, current.id), 0)

    def forget(self) -> None:
        """Take the talk in hand off; undo brings it back."""
        current = self.current
        if current is not None:
            self.library.change(lambda library: forget_talk(library, current.id), 0)

    # voices --------------------------------------------------------------------------------------------------------
    @property
    def voices(self) -> Path:
        """The folder that takes lie in. Raises LibraryError."""
        assert self.library.store is not None
        return voices_in(self.library.store)

    def new_voice(self) -> Path:
        """Where a new take is to be written. Raises LibraryError."""
        assert self.library.store is not None
        return new_voice(self.library.store)
