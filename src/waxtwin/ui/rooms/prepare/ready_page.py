"""Last step: what this footage can show and what not, two clips joined, and on to the desk."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout

from waxtwin.core.asks import asks
from waxtwin.core.footage import account_for
from waxtwin.ui.rooms.prepare.step_page import Page, button, emptied
from waxtwin.ui.shared.widgets import label

_ASKED = 6
_NAMED = 4  # measures named of each group; all of them are in the tool tip


class ReadyPage(Page):
    """`taken(side)` when the throw is to go to the desk."""

    step = "ready"
    taken = Signal(str)

    def build(self) -> None:
        self.heading("On to the desk")
        self.sides = [button(f"Take as {side}", partial(self.taken.emit, side), main=side == "athlete")
                      for side in ("athlete", "twin")]  # fmt: skip
        self.row(*self.sides)
        self.heading("What would bring most")
        self.asks = QVBoxLayout()
        self.asks.setSpacing(4)
        self.column.addLayout(self.asks)
        self.heading("What this footage can show")
        self.sum = label("", grow=1)
        self.sum.setWordWrap(True)
        self.column.addWidget(self.sum)
        self.groups = QVBoxLayout()
        self.groups.setSpacing(3)
        self.column.addLayout(self.groups)
        self.origin = self.words()
        self.use = button("Take the track from this clip", self.flow.use_clip)
        self.column.addWidget(self.use)
        self.heading("Two clips of one throw")
        self.space = self.words()
        self.join = button("Join them in space", self.flow.combine)
        self.column.addWidget(self.join)

    def refresh(self) -> None:
        analysis, work = self.state.analysis, self.state.work
        for one in self.sides:
            one.setEnabled(analysis is not None)
        solved = [v for v in work.views if v.camera is not None and v.camera.scale == "solved"] if work else []
        marked = [v for v in solved if v.marks is not None]
        self.join.setEnabled(len(marked) >= 2)
        from_file = work is not None and work.track_from == "file"
        self.origin.setVisible(from_file)
        self.origin.setText("The track came from a file; landmarks of the clips do not change it.")
        view = self.state.view
        self.use.setVisible(from_file and view is not None and view.marks is not None)
        self.space.setText(
            self.state.said.get("space")
            or f"Clips: {len(work.views) if work else 0}, with a solved camera: {len(solved)}, of those with "
            f"landmarks: {len(marked)}. Two are needed to see the throw in space."
        )
        emptied(self.groups)
        emptied(self.asks)
        if analysis is None:
            self.asks.addWidget(label("Nothing is asked before there are landmarks.", role="soft", grow=-0.5))
            self.sum.setText(self.state.analysis_fault or "Nothing yet: there is no track.")
            return
        for ask in asks(analysis)[:_ASKED]:
            self.asks.addWidget(button(ask.told, partial(self.flow.do, ask)))
        found = account_for(analysis)
        self.sum.setText(f"{found.total - found.lost} of {found.total} measures.")
        for measures, title in (
            (found.shown, "in full"), (found.planar, "as seen in the picture plane only"),
            (found.estimated, "estimated from one camera, not seen"),
        ):  # fmt: skip
            if measures:
                self._show_group(f"{len(measures)} {title}", "", measures)
        for group in found.missing:
            self._show_group(f"{len(group.measures)} not available: {group.reason}", group.remedy, group.measures)

    def _show_group(self, title: str, remedy: str, measures: tuple[str, ...]) -> None:
        """One group of measures: what they share, what would help, the first of their names; all of them on hover."""
        self.groups.addSpacing(5)
        some = ", ".join(measures[:_NAMED]) + (f" and {len(measures) - _NAMED} more" if len(measures) > _NAMED else "")
        for words, role, bold in ((title, "", True), (remedy, "", False), (some, "soft", False)):
            if words:
                line = label(words, role=role, grow=-0.5, bold=bold)
                line.setWordWrap(True)
                line.setToolTip("\n".join(measures))
                self.groups.addWidget(line)
