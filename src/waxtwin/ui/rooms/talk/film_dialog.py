"""What film is wanted: its shape, names, footage or figures, and captions."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Signal, SignalInstance
from PySide6.QtWidgets import QCheckBox, QComboBox, QDialog, QFormLayout, QHBoxLayout, QLineEdit, QPushButton, QWidget

from waxtwin.ui.rooms.talk.film_frame import SHAPES
from waxtwin.ui.rooms.talk.film_making import RATES, FilmWish
from waxtwin.ui.shared.widgets import label


class FilmDialog(QDialog):
    """`wanted` once it is to be saved, `handed` when one of a team's workers, where there are any, is to make it.

    `said` are sentences about whoever is shown and has not agreed: with any, only figures under another name can be
    saved. `noted` is what stands about those who have: it has to be looked at.
    """

    wanted = Signal()
    handed = Signal()

    def __init__(
        self, names: tuple[str, str], said: Sequence[str], noted: Sequence[str], parent: QWidget, *,
        workers: bool = False,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._own, self._said = names, tuple(said)
        self.setWindowTitle("Save the film")
        self.setMinimumWidth(520)
        form = QFormLayout(self)
        form.setContentsMargins(20, 16, 20, 16)
        form.setVerticalSpacing(10)
        self.shape, self.rate = QComboBox(), QComboBox()
        for key, shape in SHAPES.items():
            self.shape.addItem(shape.label, key)
        for rate in RATES:
            self.rate.addItem(f"{rate} pictures a second", rate)
        self.shape.setAccessibleName("shape of the film")
        self.rate.setAccessibleName("pictures a second")
        self.athlete, self.twin = (QLineEdit(name) for name in names)
        self.athlete.setAccessibleName("name of the athlete in the film")
        self.twin.setAccessibleName("name of the twin in the film")
        self.figures = QCheckBox("wax figures only, no footage")
        self.burned, self.track = QCheckBox("in the picture"), QCheckBox("as a track that can be switched on")
        for box in (self.burned, self.track):
            box.setChecked(True)
        form.addRow("Shape", self.shape)
        form.addRow("", self.rate)
        form.addRow("Athlete is called", self.athlete)
        form.addRow("Twin is called", self.twin)
        form.addRow("Shows", self.figures)
        form.addRow("Captions", self.burned)
        form.addRow("", self.track)
        self.hint = label("", role="thread", wrap=True)
        form.addRow(self.hint)
        self._noted = label(" ".join(noted), wrap=True)
        self.looked = QCheckBox("I have looked at this, and it covers this film")
        self.looked.toggled.connect(lambda _: self._judge())
        for widget in (self._noted, self.looked):
            widget.setVisible(bool(noted))
            form.addRow(widget)
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addStretch(1)
        cancel, self.save = QPushButton("Cancel"), QPushButton("Save…")
        self.save.setProperty("role", "main")
        self.save.setDefault(True)
        cancel.clicked.connect(self.reject)
        self.save.clicked.connect(partial(self._end, self.wanted))
        self.hand = QPushButton("Let a worker make it")
        self.hand.setToolTip("It is made in the team's folder, while you go on")
        self.hand.setVisible(workers)
        self.hand.clicked.connect(partial(self._end, self.handed))
        row.addWidget(cancel)
        row.addWidget(self.hand)
        row.addWidget(self.save)
        form.addRow(row)
        self.figures.toggled.connect(lambda _: self._judge())
        self.athlete.textChanged.connect(lambda _: self._judge())
        self.twin.textChanged.connect(lambda _: self._judge())
        self._judge()

    @property
    def wish(self) -> FilmWish:
        """The film that is wanted."""
        return FilmWish(
            self.shape.currentData(), self.rate.currentData(), self.burned.isChecked(), self.track.isChecked()
        )

    @property
    def names(self) -> tuple[str, str]:
        """What they are called in it."""
        return self.athlete.text().strip(), self.twin.text().strip()

    def _judge(self) -> None:
        """Whether it can be saved so."""
        told = [one for one, name in zip(self.names, self._own, strict=True) if one == name and name]
        hidden = self.figures.isChecked() and not told
        self.hint.setText("" if not self._said else " ".join(self._said) + (
            "" if hidden else " It can be saved with figures only and under other names."
        ))  # fmt: skip
        self.hint.setVisible(bool(self._said))
        covered = not self._said and (self.looked.isChecked() or not self._noted.text())
        for button in (self.save, self.hand):
            button.setEnabled(hidden or covered)

    def _end(self, asked: SignalInstance, _: bool = False) -> None:
        self.accept()
        asked.emit()
