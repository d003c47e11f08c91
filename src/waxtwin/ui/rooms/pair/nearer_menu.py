"""The button under which stages are brought nearer, and how their clips are shown."""

from __future__ import annotations

from functools import partial

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QToolButton

from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.context import Context

FOLLOWED = ("", "throwing_hand", "throwing_elbow", "head", "navel", "lead_knee", "lead_ankle", "drive_knee")
MAGNIFIED = ("", "throwing_hand", "throwing_elbow", "head", "lead_knee", "lead_ankle", "drive_ankle")


class NearerButton(QToolButton):
    """Nearer, further off, the whole picture; both stages alike or not; which landmark stays in the middle, and which
    one a round in the corner shows enlarged.
    """

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.desk: Desk = context.desk
        self.setText("nearer ▾")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        for command, words in (
            ("nearer", "Nearer (+)"), ("further", "Further off (−)"), ("whole_picture", "The whole picture (⌫)"),
        ):  # fmt: skip
            menu.addAction(words).triggered.connect(partial(self._do, context, command))
        menu.addSeparator()
        self.linked = menu.addAction("Both stages alike")
        self.linked.setCheckable(True)
        self.linked.triggered.connect(self.desk.closeups.link)
        menu.addSeparator()
        self.followed: dict[str, QAction] = {}
        for name in FOLLOWED:
            words = f"Keep the {name.replace('_', ' ')} in the middle" if name else "Follow nothing"
            self.followed[name] = action = menu.addAction(words)
            action.setCheckable(True)
            action.triggered.connect(partial(self._follow, name))
        menu.addSeparator()
        self.magnified: list[tuple[QAction, str]] = []
        for name in MAGNIFIED:
            action = menu.addAction(f"Magnify the {name.replace('_', ' ')}" if name else "No magnifier")
            action.setCheckable(True)
            action.triggered.connect(partial(self._magnify, name))
            self.magnified.append((action, name))
        menu.addSeparator()
        menu.addAction("Light, contrast, mirrored… (P)").triggered.connect(partial(self._do, context, "picture"))
        self.setMenu(menu)
        self.desk.listen(lambda _: self._fill(), Topic.CLOSEUP, Topic.DISPLAY)
        self._fill()

    def _do(self, context: Context, command: str, _checked: bool = False) -> None:
        context.do(command)

    def _follow(self, name: str, _checked: bool = False) -> None:
        self.desk.closeups.keep_in_middle(name)
        self._fill()  # what was chosen already is not unticked by choosing it again

    def _magnify(self, name: str, _checked: bool = False) -> None:
        self.desk.view.show(inset=name)
        self._fill()

    def _fill(self) -> None:
        self.linked.setChecked(self.desk.closeups.linked)
        for name, action in self.followed.items():
            action.setChecked(name == self.desk.closeups.follow)
        for action, name in self.magnified:
            action.setChecked(name == self.desk.view.display.inset)
