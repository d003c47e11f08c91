"""The Gap room: from the athlete's ball speed to the twin's, what to look at first, and what if."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from waxtwin.core.explain import Explanation
from waxtwin.core.schools import School
from waxtwin.core.telling import told
from waxtwin.core.units import figure
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.rooms.gap.body_view import BodyView
from waxtwin.ui.rooms.gap.chain_view import Account
from waxtwin.ui.rooms.gap.findings_view import Findings
from waxtwin.ui.rooms.gap.return_view import ReturnView
from waxtwin.ui.rooms.gap.shares_view import Shares
from waxtwin.ui.rooms.gap.whatif_view import WhatIfView
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.widgets import Cautions, Choice, Room, label

_VIEWS = {
    "findings": "What to look at", "chain": "Chain", "shares": "Borrowed motion", "whatif": "What if", "body": "Body",
    "return": "Return",
}  # fmt: skip
_METHOD = {
    "chain": "Bookkeeping along a list of peak speeds at different instants, not energy handed on. Bars to the right "
    "are speed that the athlete loses against the twin at that link; bars to the left are speed gained. The lines are "
    "what this footage can resolve; the last column is the athlete's share of the twin's speed so far.",
    "shares": "What the hand would do if the athlete kept everything and borrowed one thing from the twin, shared out "
    "fairly over every order of borrowing. The lines hold what the orders and what the footage leave open; what cannot "
    "be told apart stands as one bar. Arithmetic on two motions, not proof of cause.",
}  # fmt: skip


class GapRoom(Room):
    """`school_chosen(id)`, `school_wanted()` to see and copy one; the rest goes on from its views."""

    title = "Gap"
    school_chosen = Signal(str)
    school_wanted = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 26, 12)
        column.setSpacing(8)
        column.addLayout(self._make_top())
        self.sentence = label("", role="thread", grow=2, bold=True)
        self.sentence.setWordWrap(True)
        self.account = label("")
        self.account.setWordWrap(True)
        self._hint = label("", role="soft", grow=1)
        self._hint.setWordWrap(True)
        for widget in (self.sentence, self.account, self._hint):
            column.addWidget(widget)
        self.pages = Choice("", tuple(_VIEWS.items()), self.turn_to)
        column.addWidget(self.pages, 0, Qt.AlignmentFlag.AlignLeft)
        self._stack = QStackedWidget()
        self.findings, self.chain, self.shares = Findings(desk), Account(desk), Shares(desk)
        self.whatif, self.body, self.returning = WhatIfView(desk), BodyView(), ReturnView(desk)
        self.views: dict[str, QWidget] = {
            "findings": self.findings, "chain": self.chain, "shares": self.shares, "whatif": self.whatif,
            "body": self.body, "return": self.returning,
        }  # fmt: skip
        for view in self.views.values():
            self._stack.addWidget(view)
        column.addWidget(self._stack, 1)
        self._method = label("", role="soft", grow=-0.5)
        self._method.setWordWrap(True)
        column.addWidget(self._method)
        self.cautions = Cautions()
        column.addWidget(self.cautions)
        desk.listen(self._told)
        self.turn_to("findings")
        self._fill()

    def _make_top(self) -> FlowLayout:
        row = FlowLayout(spread=True)
        row.addWidget(label("Gap", role="title", grow=8))
        self._of = Choice("Figures of", [("one", "these two throws"), ("all", "all throws")],
                          lambda key: self.desk.set_whole(key == "all"))  # fmt: skip
        row.addWidget(self._of)
        speaking = QWidget()
        line = QHBoxLayout(speaking)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(label("As seen by", role="soft"))
        self.school = QComboBox()
        self.school.setAccessibleName("school")
        self.school.activated.connect(lambda i: self.school_chosen.emit(self.school.itemData(i)))
        line.addWidget(self.school)
        about = QPushButton("Schools…")
        about.setToolTip("What each school holds, and a house school of your own")
        about.clicked.connect(self.school_wanted)
        line.addWidget(about)
        row.addWidget(speaking)
        return row

    def turn_to(self, view: str) -> None:
        """Show one of the views."""
        self.pages.set(view)
        self._stack.setCurrentWidget(self.views[view])
        self._method.setText(_METHOD.get(view, ""))
        self._method.setVisible(view in _METHOD)

    def offer(self, schools: list[School], chosen: str) -> None:
        """The schools to choose from."""
        self.school.clear()
        for one in schools:
            self.school.addItem(one.label, one.id)
        self.school.setCurrentIndex(max(self.school.findData(chosen), 0))

    def _told(self, topic: str) -> None:
        if topic in ("pair", "figures", "throws", "explanation", "units", "kept", "others"):
            self._fill()

    def _fill(self) -> None:
        found = self.desk.explanation
        self._of.setVisible(self.desk.throws is not None)
        self._of.set("all" if self.desk.whole else "one")
        athlete = self.desk.stored.get("athlete")
        self.findings.show_explanation(found)
        self.chain.show_account(None if found is None else found.case.ledger)
        self.shares.show_account(None if found is None else found.case.borrowed)
        self.whatif.show_explanation(found)
        self.body.show_explanation(found, None if athlete is None else athlete.key)
        past = self.desk.kind == "past"
        self.pages.offer("return", shown=past)
        self.returning.show_explanation(found if past else None)
        if not past and self._stack.currentWidget() is self.returning:
            self.turn_to("findings")
        self.cautions.say(() if found is None else found.cautions)
        for widget in (self.sentence, self.account, self.pages, self._stack):
            widget.setVisible(found is not None)
        self._hint.setText(self._state(found))
        self._hint.setVisible(bool(self._hint.text()))
        if found is None:
            return
        self.sentence.setText(self._break(found))
        self.account.setText(told(found, self.desk.imperial))

    def _state(self, found: Explanation | None) -> str:
        if found is None:
            return "Working it out…" if self.desk.stored else "Choose a pair on the Bench first; the demo has one."
        if found.unborrowed:
            return f"Motion could not be borrowed: {found.unborrowed}."
        return "  ".join(found.case.borrowed.warnings) if found.case.borrowed is not None else ""

    def _break(self, found: Explanation) -> str:
        account = found.case.ledger
        if account is None:
            balls = self.desk.figures.ball_speeds if self.desk.figures is not None else None
            unshared = "A speed along the chain is missing on one side, so it cannot be shared out link by link."
            if balls is None:
                return unshared
            gap = figure(balls[1] - balls[0], "m/s", self.desk.imperial, signed=True)
            return f"{gap} of ball speed between them. {unshared}"
        gap = figure(account.gap, "m/s", self.desk.imperial, signed=True)
        what = "ball speed" if account.basis == "ball" else "hand speed (a ball speed is missing)"
        if self.desk.kind == "past" and account.gap <= 0:
            return f"{gap} of {what} between now and before: the ball is not slower than it was."
        story = account.told(lambda value: figure(value, "m/s", self.desk.imperial))
        to = {"twin": "to the twin", "past": "between now and before", "peers": "to the second"}[self.desk.kind]
        return f"{gap} of {what} {to}. {story}"
