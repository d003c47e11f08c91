"""One athlete before and now: what changed, and what is looked for on the way back after a lay-off or injury."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QScrollArea, QVBoxLayout, QWidget

from waxtwin.core.before_after import CHANGED, UNCHANGED, UNRESOLVABLE, changes, compensations
from waxtwin.core.explain import Explanation
from waxtwin.core.telling import told_proof
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.shared.widgets import label

_PRESENT = {True: "▲  present", False: "not seen", None: "cannot be told"}
_HINT = (
    "Looked for during a return, not after it, and never instead of the treating clinician's plan. "
    "A line is present when the change is larger than what the footage resolves."
)


class ReturnView(QWidget):
    """The check list, and how many measures changed."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.count = label("", bold=True, grow=1)
        hint = label(_HINT, role="soft")
        hint.setWordWrap(True)
        column.addWidget(self.count)
        column.addWidget(hint)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        column.addWidget(self._scroll, 1)

    def show_explanation(self, found: Explanation | None) -> None:
        """Show the check list of one athlete before and now; nothing for other pairs."""
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setHorizontalSpacing(22)
        grid.setVerticalSpacing(7)
        self.count.setText("")
        if found is not None:
            states = [one.state for one in changes(found.case.contrast)]
            self.count.setText(
                f"{states.count(CHANGED)} measures changed, {states.count(UNCHANGED)} did not, "
                f"{states.count(UNRESOLVABLE)} cannot be told from this footage."
            )
            for n, one in enumerate(compensations(found.case, found.perspective.playbook)):
                state = label(_PRESENT[one.present], role="thread" if one.present else "soft")
                words = label(told_proof(one.evidence, self.desk.view.imperial), role="soft")
                title = label(one.title, bold=bool(one.present))
                title.setToolTip(one.says)
                words.setWordWrap(True)
                for column, widget in enumerate((state, title, words)):
                    grid.addWidget(widget, n, column, Qt.AlignmentFlag.AlignTop)
            grid.setColumnStretch(2, 1)
            grid.setRowStretch(grid.rowCount(), 1)
        self._scroll.setWidget(inner)
