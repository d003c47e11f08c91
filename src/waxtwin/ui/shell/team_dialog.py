"""Joining a team's library: where it is, where its clips are mounted here, and whether that works."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QDialog, QFormLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.ui.model.work import Runner
from waxtwin.ui.shared.file_dialogs import ask_folder
from waxtwin.ui.shared.widgets import label

if TYPE_CHECKING:
    from waxtwin.library.team.checking import Point

_SAYS = (
    "One library for several analysts: rows on a PostgreSQL server, clips in a folder that every machine reaches. "
    "Whoever runs the server makes it once with “waxtwin team create”; Help has a page on it."
)
_SIGNS = {True: "●", False: "▲", None: "○"}
_ROLES = {True: "good", False: "thread", None: "soft"}


class TeamDialog(QDialog):
    """`joined(address, clips' folder or None)` when it is to be opened."""

    joined = Signal(str, object)

    def __init__(self, address: str, clips: str, jobs: Runner, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("A team's library")
        self.setMinimumWidth(560)
        self._jobs = jobs
        self._lines: list[QLabel] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        column.addWidget(label(_SAYS, role="soft", wrap=True))
        form = QFormLayout()
        self.address = self._line("address of the library", "postgresql://HOST/DATABASE", address)
        form.addRow("Address", self.address)
        self.password = self._line("password", "only where none is known; it goes into the key ring", "")
        self.password.setEchoMode(QLineEdit.EchoMode.Password)
        form.addRow("Password", self.password)
        row = QHBoxLayout()
        self.clips = self._line("folder with the clips", "as the library says", clips)
        browse = QPushButton("Choose…")
        browse.clicked.connect(self._browse)
        row.addWidget(self.clips, 1)
        row.addWidget(browse)
        form.addRow("Clips", row)
        column.addLayout(form)
        self._found = QVBoxLayout()
        self._found.setSpacing(4)
        column.addLayout(self._found)
        buttons = QHBoxLayout()
        self.look = QPushButton("Look whether it works")
        self.look.clicked.connect(self._look)
        self.join = QPushButton("Join")
        self.join.setProperty("role", "main")
        self.join.setDefault(True)
        self.join.clicked.connect(self._join)
        leave = QPushButton("Cancel")
        leave.clicked.connect(self.reject)
        buttons.addWidget(self.look, 0, Qt.AlignmentFlag.AlignLeft)
        buttons.addStretch(1)
        buttons.addWidget(leave)
        buttons.addWidget(self.join)
        column.addLayout(buttons)

    def _line(self, name: str, hint: str, text: str) -> QLineEdit:
        line = QLineEdit(text)
        line.setAccessibleName(name)
        line.setPlaceholderText(hint)
        return line

    @property
    def folder(self) -> Path | None:
        """Where the clips are mounted here; None for where the library says."""
        return Path(self.clips.text().strip()) if self.clips.text().strip() else None

    @property
    def says(self) -> list[str]:
        """What was found, line by line."""
        return [line.text() for line in self._lines]

    def _browse(self) -> None:
        chosen = ask_folder(self, "The folder with the team's clips")
        if chosen is not None:
            self.clips.setText(str(chosen))

    def _keep_password(self) -> bool:
        """Put what was typed into the key ring; False where the address or the key ring is no good."""
        from waxtwin.library.team.address import Address
        from waxtwin.library.team.checking import Point

        try:
            address = Address.of(self.address.text())
            if self.password.text():
                address.keep_password(self.password.text())
                self.password.clear()
        except WaxTwinError as fault:
            self._show([Point(False, str(fault))])
            return False
        return True

    def _look(self) -> None:
        if not self._keep_password():
            return
        address, folder = self.address.text(), self.folder

        def work() -> Steps[list[Point]]:
            from waxtwin.library.team.address import Address
            from waxtwin.library.team.checking import check

            yield 0.1
            return check(Address.of(address), folder)

        self.look.setEnabled(False)
        self._jobs.start("team check", work, self._show, self._failed, over=lambda: self.look.setEnabled(True))

    def _failed(self, said: str) -> None:
        from waxtwin.library.team.checking import Point

        self._show([Point(False, said)])

    def _show(self, found: list[Point]) -> None:
        for line in self._lines:
            line.deleteLater()
        self._lines = [label(f"{_SIGNS[one.good]}  {one.says}", role=_ROLES[one.good], wrap=True) for one in found]
        for line in self._lines:
            self._found.addWidget(line)
        QTimer.singleShot(0, self._grow)

    def _grow(self) -> None:
        """Make room for everything that was found, once it is dressed."""
        layout = self.layout()
        if layout is not None:
            self.resize(self.width(), max(self.height(), layout.totalHeightForWidth(self.width())))

    def _join(self) -> None:
        if self._keep_password():
            self.joined.emit(self.address.text().strip(), self.folder)
            self.accept()
