"""Settings, help, the tour, and what the program stands on."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from waxtwin.ui.model.settings import SMOOTHING, Settings, save_settings
from waxtwin.ui.shared import theme

if TYPE_CHECKING:
    from PySide6.QtWidgets import QDialog

    from waxtwin.ui.shell.app import App
    from waxtwin.ui.shell.tour import Tour


class Guide(QObject):
    """What helps to find one's way, and how everything is to look."""

    def __init__(self, app: App) -> None:
        super().__init__(app)
        self.w = app
        self.dialog: QDialog | None = None
        self.tour: Tour | None = None

    # how it looks --------------------------------------------------------------------------------------------------
    def switch_units(self) -> None:
        """Metric, or feet, inches and miles an hour."""
        self.w.desk.view.set_imperial(not self.w.desk.view.imperial)

    def switch_theme(self) -> None:
        """Light or dark."""
        self.w.settings.theme = "light" if theme.theme().name == "dark" else "dark"
        self._dress()
        save_settings(self.w.settings)

    def _dress(self) -> None:
        theme.apply(self.w.settings.theme, self.w.settings.text)
        self.w.desk.view.redress()
        for widget in self.w.window.findChildren(QWidget):
            widget.update()

    def show_settings(self) -> None:
        """Everything that is remembered, in one place; a change shows at once."""
        from waxtwin.ui.shell.settings_dialog import SettingsDialog

        store = self.w.library.store
        place = "" if store is None else str(store.folder)
        schools = {one.id: one.label for one in self.w.context.schools.all()}
        dialog = SettingsDialog(self.w.settings, schools, place, self.w.window)
        dialog.changed.connect(self.take_settings)
        dialog.library_wanted.connect(self.w.intake.ask_library)
        dialog.open()
        self.dialog = dialog

    def show_work(self) -> None:
        """What waits, runs and failed."""
        from waxtwin.ui.shell.work_dialog import WorkDialog

        self.dialog = WorkDialog(self.w.work, self.w.window)
        self.dialog.open()

    def show_house(self) -> None:
        """The measures that were made from marks."""
        from waxtwin.ui.shared.house import HouseDialog

        self.dialog = HouseDialog(self.w.context.house, self.w.window)
        self.dialog.open()

    def take_settings(self, settings: Settings) -> None:
        """Use other settings from now on."""
        w, before = self.w, self.w.settings
        changed = {name for name in vars(settings) if getattr(settings, name) != getattr(before, name)}
        for name in changed:
            setattr(before, name, getattr(settings, name))
        save_settings(before)
        if changed & {"theme", "text"}:
            self._dress()
        if "imperial" in changed:
            w.desk.view.set_imperial(settings.imperial)
        if "school" in changed:
            w.gap.flow.choose_school(settings.school)
        if changed & {"landing", "school"}:
            w.desk.pair.set_landing(w.context.schools.landing)
        if "smoothing" in changed and w.library.store is not None:
            w.library.store.smoothing = SMOOTHING[settings.smoothing]
            w.library.altered.emit(-1)

    # help ----------------------------------------------------------------------------------------------------------
    def show_help(self) -> None:
        """The page about the room that is on show."""
        self._open_page(self.w.window.title)

    def show_filming(self) -> None:
        """How to film, on one page."""
        from waxtwin.ui.shell.help_dialog import FILMING

        self._open_page(FILMING)

    def show_keys(self) -> None:
        """The sheet of keys."""
        from waxtwin.ui.shell.help_dialog import KEYS

        self._open_page(KEYS)

    def _open_page(self, title: str) -> None:
        from waxtwin.ui.shell.help_dialog import HelpDialog

        self.dialog = HelpDialog(title, self.keys(), self.w.window)
        self.dialog.open()

    def keys(self) -> list[tuple[str, str, str]]:
        """Menu, command and keys of everything that has keys, from the one list of commands."""
        out = []
        for action in self.w.actions.values():
            said = [key.toString() for key in action.shortcuts()]
            shown = [key for key in said if key not in "><:;"]
            if shown:
                menu = action.property("menu")
                out.append((str(menu or ""), action.text(), " or ".join(shown)))
        return out

    def start_tour(self) -> None:
        """One minute through the rooms, on the demo."""
        from waxtwin.ui.shell.tour import Tour

        if self.tour is not None:
            self.tour.leave()
        self.w.settings.toured = True
        save_settings(self.w.settings)
        self.tour = Tour(self.w)
        self.tour.left.connect(self._tour_left)
        self.tour.begin()

    def _tour_left(self) -> None:
        self.tour = None

    def show_about(self) -> None:
        """What this is, what it stands on, and under which licences."""
        from waxtwin.ui.shell.about_dialog import AboutDialog

        self.dialog = AboutDialog(self.w.window)
        self.dialog.open()
