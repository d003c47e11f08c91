"""What this is, what it stands on, and under which licences it all is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from importlib.metadata import Distribution, PackageNotFoundError, distribution
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHeaderView,
    QPlainTextEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from waxtwin import ASSETS, __version__
from waxtwin.core.cautions import CAUTIONS
from waxtwin.ui.shared.widgets import close_row, label


@dataclass(frozen=True)
class Part:
    """Something that the program stands on; where its licence's text lies is looked up once somebody asks."""

    name: str
    version: str
    licence: str
    text: Callable[[], Path | None]


_SHIPPED = (
    Part("Manrope, the typeface", "", "OFL-1.1", lambda: ASSETS / "fonts" / "OFL.txt"),
    Part("Landmark models of the MediaPipe authors", "", "Apache-2.0", lambda: None),
)
# what a package's own record leaves out or says at length
_LICENCES = {
    "pyside6-essentials": "LGPL-3.0", "shiboken6": "LGPL-3.0", "mediapipe": "Apache-2.0",
    "av": "BSD-3-Clause; its wheels carry FFmpeg, in part GPL", "opencv-contrib-python": "Apache-2.0",
}  # fmt: skip


_TEXTS, _ENDINGS = ("LICENSE", "LICENCE", "COPYING"), ("", ".txt", ".md", ".rst")
_WORDS = (
    "Holds a pitcher's delivery against a reference delivery, matched at the same stops, and finds where the ball "
    "speed is lost. Apache-2.0. The people, the club and the hall of the demo are invented."
)


class AboutDialog(QDialog):
    """Choose a part to read its licence."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("About Wax Twin")
        self.resize(820, 620)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(8)
        column.addWidget(label(f"Wax Twin {__version__}", role="title", grow=4))
        words = label(_WORDS)
        words.setWordWrap(True)
        column.addWidget(words)
        said = label("▲  " + "  ".join(CAUTIONS), role="caution", grow=-0.5)
        said.setWordWrap(True)
        column.addWidget(said)
        self.parts = [Part("Wax Twin", __version__, "Apache-2.0", _own_licence), *_SHIPPED, *packages()]
        self.table = QTableWidget(len(self.parts), 3)
        self.table.setAccessibleName("parts and their licences")
        self.table.setHorizontalHeaderLabels(["Part", "Version", "Licence"])
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        header = self.table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        for n, part in enumerate(self.parts):
            for k, text in enumerate((part.name, part.version, part.licence)):
                self.table.setItem(n, k, QTableWidgetItem(text))
        column.addWidget(self.table, 3)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("licence")
        column.addWidget(self.text, 2)
        column.addLayout(close_row(self))
        self.table.currentCellChanged.connect(lambda n, *_: self._show(n))
        self.table.setCurrentCell(0, 0)

    def _show(self, n: int) -> None:
        place = self.parts[n].text() if 0 <= n < len(self.parts) else None
        try:
            text = place.read_text(encoding="utf-8", errors="replace") if place is not None else ""
        except OSError:
            text = ""
        self.text.setPlainText(text or "Its licence text comes with the package that is installed.")


def packages() -> list[Part]:
    """Every package that the program needs, and what they need in turn."""
    found: dict[str, Part] = {}
    todo = ["waxtwin"]
    while todo:
        name = todo.pop(0)
        try:
            one = distribution(name)
        except PackageNotFoundError:
            continue
        key = _canonical(one.metadata["Name"])
        if key in found:
            continue
        found[key] = Part(one.metadata["Name"], one.version, _licence(one), partial(_text, one))
        todo += [_bare(said) for said in one.requires or [] if "extra ==" not in said]
    found.pop("waxtwin", None)
    return sorted(found.values(), key=lambda part: part.name.casefold())


def _canonical(name: str) -> str:
    """One spelling of a package's name."""
    return name.casefold().replace("_", "-").replace(".", "-")


def _bare(requirement: str) -> str:
    """The name at the head of a requirement."""
    end = next((n for n, c in enumerate(requirement) if not (c.isalnum() or c in "-_.")), len(requirement))
    return requirement[:end]


def _licence(one: Distribution) -> str:
    known = _LICENCES.get(_canonical(one.metadata["Name"]))
    if known:
        return known
    told = one.metadata.json
    classes = [str(said).split(" :: ") for said in told.get("classifier", [])]
    named = ", ".join(parts[-1] for parts in classes if parts[0] == "License")
    lines = str(told.get("license", "")).splitlines()
    said = str(told.get("license_expression", "")) or named or (lines[0] if lines else "")
    return said[:90] or "see its licence text"


def _text(one: Distribution) -> Path | None:
    for file in one.files or []:
        if file.name.upper().startswith(_TEXTS) and file.suffix in _ENDINGS:
            return Path(str(one.locate_file(file)))
    return None


def _own_licence() -> Path | None:
    """The program's own licence: in the package's record, or in the tree that it runs from."""
    try:
        found = _text(distribution("waxtwin"))
    except PackageNotFoundError:
        found = None
    beside = Path(__file__).parents[4] / "LICENSE"
    return found if found is not None and found.is_file() else (beside if beside.is_file() else None)
