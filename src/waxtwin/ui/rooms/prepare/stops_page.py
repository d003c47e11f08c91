"""Fourth step: the stops, as found, and set by hand where they are wrong."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QListWidgetItem

from waxtwin.core.analysis import Analysis
from waxtwin.core.stops import EVENTS, ORDER
from waxtwin.ui.rooms.prepare.state import PrepareTopic
from waxtwin.ui.rooms.prepare.step_page import Page, button


def _tip(stop: str, analysis: Analysis | None) -> str:
    """What a stop is, what else it is called, and why it is not used where that is so."""
    said = [EVENTS[stop].definition, f"Also called: {EVENTS[stop].usual}."]
    if analysis is not None and stop in analysis.withheld:
        said.append(f"Not used, since {analysis.withheld[stop].why}.")
    return "\n".join(said)


class StopsPage(Page):
    """The stops of the throw, seen in the clip."""

    step = "stops"

    def topics(self) -> frozenset[PrepareTopic]:
        return super().topics() | {PrepareTopic.STEP}

    def build(self) -> None:
        self.heading("Stops")
        self.list = QListWidget()
        self.list.setMinimumHeight(430)  # all ten without scrolling
        self.list.setAccessibleName("stops")
        self.list.itemClicked.connect(lambda item: self._go(item))
        self.list.itemActivated.connect(lambda item: self._go(item))
        self.column.addWidget(self.list)
        self.words("Choose a stop to see it; step with the comma and full stop keys, then set it.")
        self.set_here = button("Set it at this frame", self._set, main=True)
        self.give_back = button("Give it back", self._give_back, hint="Let detection find it again")
        self.row(self.set_here, self.give_back)

    def refresh(self) -> None:
        analysis, work = self.state.analysis, self.state.work
        chosen = self.state.chosen_stop or self._chosen()
        self.state.chosen_stop = None
        self.list.clear()
        by_hand = work.sidecar.events if work is not None else {}
        for stop in ORDER:
            event = analysis.proposal(stop) if analysis is not None else None
            words = "not found" if event is None else f"{event.time:.3f} s  ± {event.interval:.0f} ms"
            if stop in by_hand:
                words += "  by hand"
            elif analysis is not None and stop in analysis.withheld:
                words = f"▲ proposed at {words}, not used: set it"
            item = QListWidgetItem(f"{EVENTS[stop].label}\n{words}")
            item.setData(Qt.ItemDataRole.UserRole, stop)
            item.setToolTip(_tip(stop, analysis))
            self.list.addItem(item)
            if stop == chosen:
                self.list.setCurrentItem(item)
        for one in (self.set_here, self.give_back):
            one.setEnabled(analysis is not None)

    def _chosen(self) -> str | None:
        item = self.list.currentItem()
        return None if item is None else str(item.data(Qt.ItemDataRole.UserRole))

    def _go(self, item: QListWidgetItem) -> None:
        analysis, view = self.state.analysis, self.state.view
        stop = item.data(Qt.ItemDataRole.UserRole)
        event = None if analysis is None else analysis.proposal(stop)
        if event is not None and view is not None:
            self.state.go_to_time(view.clock.to_clip(event.time))

    def _set(self) -> None:
        stop, view = self._chosen(), self.state.view
        if stop is None:
            self.flow.told.emit("Choose the stop in the list first.")
        elif view is not None:
            self.flow.set_stop(stop, float(view.clock.to_throw(self.state.time)))

    def _give_back(self) -> None:
        stop = self._chosen()
        if stop is not None:
            self.flow.set_stop(stop, None)
