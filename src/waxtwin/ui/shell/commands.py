"""Every command of the window as data: menus, shortcuts and their sheet come from this one list."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu


@dataclass(frozen=True)
class Command:
    """`menu` is where it stands; `keys` as Qt writes them; `enabled` is asked whenever the menu opens,
    and so is `named`, what the title is followed by.
    """

    id: str
    title: str
    menu: str
    run: Callable[[], object]
    keys: tuple[str, ...] = ()
    enabled: Callable[[], bool] = lambda: True
    checked: Callable[[], bool] | None = None
    named: Callable[[], str] | None = None


def install(window: QMainWindow, commands: Iterable[Command]) -> dict[str, QAction]:
    """Build menus and shortcuts; two commands with one id or one key are a fault."""
    menus: dict[str, QMenu] = {}
    actions: dict[str, QAction] = {}
    taken: dict[str, str] = {}
    for command in commands:
        if command.id in actions:
            raise ValueError(f"two commands named {command.id}")
        for key in command.keys:
            if key in taken:
                raise ValueError(f"{command.id} and {taken[key]} share the key {key}")
            taken[key] = command.id
        menu = menus.get(command.menu)
        if menu is None:
            menu = window.menuBar().addMenu(command.menu)
            menus[command.menu] = menu
        action = QAction(command.title, window)
        action.setObjectName(command.id)
        action.setProperty("menu", command.menu)
        action.setShortcuts([QKeySequence(key) for key in command.keys])
        action.setCheckable(command.checked is not None)
        action.triggered.connect(lambda _=False, command=command: command.run() if command.enabled() else None)
        menu.addAction(action)
        menu.aboutToShow.connect(lambda action=action, command=command: _refresh(action, command))
        actions[command.id] = action
    return actions


def _refresh(action: QAction, command: Command) -> None:
    # a disabled action would swallow its shortcut until the menu opens again, so it is only greyed while on show
    action.setEnabled(command.enabled())
    if command.named is not None:
        said = command.named()
        action.setText(f"{command.title}: {said}" if said else command.title)
    if command.checked is not None:
        action.setChecked(command.checked())
