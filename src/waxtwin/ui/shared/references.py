"""What figures are read against: bands and their editor, and the card that explains a measure."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from waxtwin.core.contrast import Standards
from waxtwin.ui.model.computing import standards_for
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.settings import Settings, save_settings

if TYPE_CHECKING:
    from waxtwin.ui.shared.bands_dialog import BandsDialog
    from waxtwin.ui.shared.measure_card import MeasureCard


class References(QObject):
    """`altered` when the bands are other ones."""

    altered = Signal()

    def __init__(self, desk: Desk, window: QWidget, settings: Settings, tell: Callable[[str], object]) -> None:
        super().__init__(window)
        self.desk, self.settings = desk, settings
        self._window, self._tell = window, tell
        self._loaded: Standards | None = None
        self.card: MeasureCard | None = None
        self.dialog: BandsDialog | None = None

    @property
    def standards(self) -> Standards:
        """The chosen population's bands and what matters, read when first wanted."""
        if self._loaded is None:
            self._loaded, fault = standards_for(self.settings.population)
            if fault:
                self._tell(Fault(fault))
        return self._loaded

    def edit_bands(self) -> None:
        """See and change the bands, and choose whose are shown."""
        from waxtwin.ui.shared.bands_dialog import open_bands

        def keep(population: str) -> None:
            self.settings.population = population
            save_settings(self.settings)
            self._loaded = None
            self.altered.emit()

        self.dialog = open_bands(self._window, self.settings.population, keep, self._tell)

    def explain_measure(self) -> None:
        """Explain the chosen measure in a card that stays beside the window."""
        from waxtwin.ui.shared.measure_card import MeasureCard

        if self.card is None:
            self.card = MeasureCard(self.desk, self._window)
        self.card.show()
        self.card.raise_()
