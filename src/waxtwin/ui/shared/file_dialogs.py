"""Asking for files and folders: every dialog starts where the last one ended, the first one at home."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from waxtwin.ui.model.settings import Settings, save_settings

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
    chosen, _ = QFileDialog.getOpenFileNames(parent, title, str(last_place()), kinds)
    if chosen:
        _remember(Path(chosen[0]).parent)
    return [Path(name) for name in chosen]


def ask_one(parent: QWidget, title: str, kinds: str) -> Path | None:
    """One file to open."""
    chosen, _ = QFileDialog.getOpenFileName(parent, title, str(last_place()), kinds)
    if not chosen:
        return None
    _remember(Path(chosen).parent)
    return Path(chosen)


def ask_folder(parent: QWidget, title: str) -> Path | None:
    """A folder."""
    chosen = QFileDialog.getExistingDirectory(parent, title, str(last_place()))
    if not chosen:
        return None
    _remember(Path(chosen))
    return Path(chosen)


def ask_save(parent: QWidget, title: str, name: str, kinds: str) -> Path | None:
    """Where to save something that would be called `name`."""
    chosen, _ = QFileDialog.getSaveFileName(parent, title, str(last_place() / name), kinds)
    if not chosen:
        return None
    _remember(Path(chosen).parent)
    return Path(chosen)
