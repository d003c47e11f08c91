"""Asking for files and folders: every dialog starts where the last one ended, the first one at home."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSize, QStandardPaths, QUrl
from PySide6.QtWidgets import QFileDialog, QSplitter, QToolButton, QTreeView, QWidget

from waxtwin.ui.model.settings import Settings, save_settings
from waxtwin.ui.shared.file_icons import BUTTONS, FileIcons, drawn

_SIZE = QSize(880, 560)
_SPLIT = [170, 690]  # px: places, and what lies in one
_COLUMNS = (350, 90, 90, 150)  # px: name, size, kind, date
_WORDS = {QFileDialog.DialogLabel.LookIn: "In", QFileDialog.DialogLabel.FileName: "Name",
          QFileDialog.DialogLabel.FileType: "Kind", QFileDialog.DialogLabel.Reject: "Cancel"}  # fmt: skip
_Place = QStandardPaths.StandardLocation
_USUAL = (_Place.HomeLocation, _Place.DesktopLocation, _Place.DocumentsLocation, _Place.MoviesLocation,
          _Place.DownloadLocation)  # fmt: skip

_settings = Settings()


def use(settings: Settings) -> None:
    """Remember places in these settings from now on."""
    global _settings
    _settings = settings


def last_place() -> Path:
    """The folder that a dialog starts in."""
    place = Path(_settings.place) if _settings.place else Path.home()
    return place if place.is_dir() else Path.home()


def _remember(folder: Path) -> None:
    if str(folder) != _settings.place:
        _settings.place = str(folder)
        save_settings(_settings)


def ask_open(parent: QWidget, title: str, kinds: str) -> list[Path]:
    """Files to open, or none."""
    return choose(parent, title, QFileDialog.FileMode.ExistingFiles, kinds)


def ask_one(parent: QWidget, title: str, kinds: str) -> Path | None:
    """One file to open."""
    return next(iter(choose(parent, title, QFileDialog.FileMode.ExistingFile, kinds)), None)


def ask_folder(parent: QWidget, title: str) -> Path | None:
    """A folder."""
    return next(iter(choose(parent, title, QFileDialog.FileMode.Directory)), None)


def ask_save(parent: QWidget, title: str, name: str, kinds: str) -> Path | None:
    """Where to save something that would be called `name`."""
    return next(iter(choose(parent, title, QFileDialog.FileMode.AnyFile, kinds, name)), None)


def choose(parent: QWidget, title: str, mode: QFileDialog.FileMode, kinds: str = "", name: str = "") -> list[Path]:
    """What is chosen in the desktop's own dialog; where it has none, in one that looks like the program. A `name` is
    that of what is to be saved.
    """
    dialog = QFileDialog(parent, title, str(last_place()), kinds)
    dialog.setFileMode(mode)
    if mode == QFileDialog.FileMode.Directory:
        dialog.setOption(QFileDialog.Option.ShowDirsOnly)
    if mode == QFileDialog.FileMode.AnyFile:
        dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
        dialog.selectFile(name)
    icons = FileIcons()
    _dress(dialog, icons)
    chosen = [Path(one) for one in dialog.selectedFiles()] if dialog.exec() else []
    dialog.deleteLater()
    if chosen:
        _remember(chosen[0] if mode == QFileDialog.FileMode.Directory else chosen[0].parent)
    return chosen


def _dress(dialog: QFileDialog, icons: FileIcons) -> None:
    """Make Qt's own dialog one of the program; of the desktop's this changes nothing."""
    dialog.setIconProvider(icons)
    dialog.setSidebarUrls([QUrl.fromLocalFile(str(place)) for place in _places()])
    for part, words in _WORDS.items():
        dialog.setLabelText(part, words)
    listed = dialog.findChild(QTreeView, "treeView")
    if listed is None:
        return
    dialog.resize(_SIZE)
    for name, lines in BUTTONS.items():
        button = dialog.findChild(QToolButton, name)
        if button is not None:
            button.setIcon(drawn(lines))
    for column, wide in enumerate(_COLUMNS):
        listed.header().resizeSection(column, wide)
    for splitter in dialog.findChildren(QSplitter):
        splitter.setSizes(_SPLIT)


def _places() -> list[Path]:
    """Where files usually lie on this machine, the last place first."""
    usual = [QStandardPaths.writableLocation(one) for one in _USUAL]
    found = [last_place(), *(Path(one) for one in usual if one)]
    return [place for place in dict.fromkeys(found) if place.is_dir()]
