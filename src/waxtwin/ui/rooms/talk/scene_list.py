"""The scenes of a talk in their order: what each shows, how long, and whether it has a voice."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem

from waxtwin.core.errors import plain
from waxtwin.formats.talk import CARD, TASK, Scene

_KINDS = {CARD: "card", TASK: "practice"}


class SceneList(QListWidget):
    """`picked(id)` when somebody chooses a scene."""

    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("scenes")
        self.setWordWrap(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSpacing(1)
        self.currentItemChanged.connect(self._pick)

    def show_scenes(self, scenes: Sequence[Scene], chosen: str) -> None:
        """Show scenes, one of them chosen; the place that was looked at stays."""
        at = self.verticalScrollBar().value()
        self.blockSignals(True)
        self.clear()
        for n, scene in enumerate(scenes, start=1):
            item = QListWidgetItem(f"{n}  {scene_words(scene)}\n{_facts(scene)}")
            item.setData(Qt.ItemDataRole.UserRole, scene.id)
            if scene.hidden:
                item.setForeground(self.palette().brush(self.palette().ColorRole.PlaceholderText))
            self.addItem(item)
            if scene.id == chosen:
                self.setCurrentItem(item)
        self.blockSignals(False)
        self.verticalScrollBar().setValue(at)

    def choose(self, scene: str) -> None:
        """Mark a scene as chosen."""
        self.blockSignals(True)
        for n in range(self.count()):
            if self.item(n).data(Qt.ItemDataRole.UserRole) == scene:
                self.setCurrentRow(n)
        self.blockSignals(False)

    def _pick(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.picked.emit(item.data(Qt.ItemDataRole.UserRole))


def scene_words(scene: Scene) -> str:
    """What a scene is called."""
    return plain(scene.title or scene.caption[:60] or "Scene without a name")


def _facts(scene: Scene) -> str:
    facts = [f"{scene.seconds:.1f} s", _KINDS.get(scene.kind, ""), "voice" if scene.spoken else "no voice",
             "left out" if scene.hidden else ""]  # fmt: skip
    return "     " + "  ·  ".join(one for one in facts if one)
