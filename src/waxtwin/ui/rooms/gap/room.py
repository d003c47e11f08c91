"""The Gap room: from the athlete's ball speed to the twin's, what to look at first, and what if."""

from __future__ import annotations

from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.explain import Explanation
from waxtwin.core.measures import MEASURES
from waxtwin.core.remedies import Advice
from waxtwin.core.telling import told
from waxtwin.core.units import figure
from waxtwin.ui.model.single_wording import told_single
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import stop_of, waiting_words
from waxtwin.ui.rooms.gap.body_view import BodyView
from waxtwin.ui.rooms.gap.chain_strip import ChainStrip
from waxtwin.ui.rooms.gap.chain_view import Account
from waxtwin.ui.rooms.gap.findings_view import Findings
from waxtwin.ui.rooms.gap.flow import GapFlow
from waxtwin.ui.rooms.gap.return_view import ReturnView
from waxtwin.ui.rooms.gap.shares_view import Shares
from waxtwin.ui.rooms.gap.whatif_view import WhatIfView
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.flow_layout import FlowLayout
from waxtwin.ui.shared.room import Room, on_desk
from waxtwin.ui.shared.widgets import Cautions, Choice, label

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
    """The views of an explanation, and the school that it is seen by."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context, self.desk = context, context.desk
        self.flow = GapFlow(context, self)
        desk = self.desk
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 26, 12)
        column.setSpacing(8)
        column.addLayout(self._make_top())
        self.sentence = label("", role="thread", grow=2, bold=True)
        self.sentence.setWordWrap(True)
        self.strip = ChainStrip(desk)
        self.account = label("")
        self.account.setWordWrap(True)
        self._hint = label("", role="soft", grow=1)
        self._hint.setWordWrap(True)
        for widget in (self.sentence, self.strip, self.account, self._hint):
            column.addWidget(widget)
        column.addLayout(self._make_pages())
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
        self._rest = QWidget()  # keeps the words at the top where there are no views
        column.addWidget(self._rest, 1)
        self.cautions = Cautions()
        column.addWidget(self.cautions)
        self.flow.offered.connect(self._offer)
        self.findings.ruled.connect(self.flow.rule)
        self.findings.seen.connect(self._see)
        self.findings.open.helped.connect(self._help)
        self.body.kept.connect(self.flow.screen)
        self.whatif.aimed.connect(self.flow.aim)
        desk.listen(
            lambda _: self._fill(), Topic.PAIR, Topic.FIGURES, Topic.THROWS, Topic.EXPLANATION, Topic.UNITS, Topic.KEPT,
            Topic.OTHERS,
        )  # fmt: skip
        self.turn_to("findings")
        self._fill()

    def _make_top(self) -> FlowLayout:
        row = FlowLayout(spread=True)
        row.addWidget(label("Gap", role="title", grow=8))
        self._of = Choice("Figures of", [("one", "these two throws"), ("all", "all throws")],
                          lambda key: self.desk.pair.set_whole(key == "all"))  # fmt: skip
        row.addWidget(self._of)
        speaking = QWidget()
        line = QHBoxLayout(speaking)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(label("As seen by", role="soft"))
        self.school = QComboBox()
        self.school.setAccessibleName("school")
        self.school.activated.connect(lambda i: self.flow.choose_school(self.school.itemData(i)))
        line.addWidget(self.school)
        about = QPushButton("Schools…")
        about.setToolTip("What each school holds, and a house school of your own")
        about.clicked.connect(self.flow.show_schools)
        line.addWidget(about)
        row.addWidget(speaking)
        return row

    def _make_pages(self) -> FlowLayout:
        row = FlowLayout(spread=True)
        self.pages = Choice("", tuple(_VIEWS.items()), self.turn_to)
        row.addWidget(self.pages)
        self.in_words = QToolButton()
        self.in_words.setText("In words")
        self.in_words.setCheckable(True)
        self.in_words.setToolTip("The whole account in sentences")
        self.in_words.toggled.connect(self._show_words)
        row.addWidget(self.in_words)
        return row

    def _show_words(self) -> None:
        self.account.setVisible(self.in_words.isChecked() and self.desk.pair.explanation is not None)

    def turn_to(self, view: str) -> None:
        """Show one of the views."""
        self.pages.set(view)
        self._stack.setCurrentWidget(self.views[view])
        self._method.setText(_METHOD.get(view, ""))
        self._method.setVisible(view in _METHOD)
        self._show_strip()

    def _show_strip(self) -> None:
        """The chain in one glance, but for where it is drawn large."""
        self.strip.setVisible(self.strip.ledger is not None and self._stack.currentWidget() is not self.chain)

    def _offer(self) -> None:
        """The schools to choose from."""
        self.school.clear()
        for one in self.context.schools.all():
            self.school.addItem(one.label, one.id)
        self.school.setCurrentIndex(max(self.school.findData(self.context.schools.speaking.id), 0))

    def _see(self, measure: str) -> None:
        """Show a measure on the pair, at its stop."""
        self.desk.clock.hold(stop_of(MEASURES[measure], self.desk.pair.landing))
        self.desk.view.select(measure)
        self.context.go_to("Pair")

    def _help(self, advised: Advice) -> None:
        """Go where something can be done that would tell more."""
        stored = self.desk.pair.stored.get(advised.side)
        if advised.remedy.stop:
            self.desk.clock.hold(advised.remedy.stop)
            self.context.go_to("Pair")
        elif stored is not None and stored.key is not None:
            self.context.prepare(stored.key)
        else:
            self.context.say("This throw lies in no library: bring it in on the Bench first.")

    def _fill(self) -> None:
        found = self.desk.pair.explanation
        if found is not None and not self.school.count():  # the schools are read when they are first needed
            self._offer()
        self._of.setVisible(self.desk.pair.throws is not None)
        self._of.set("all" if self.desk.pair.whole else "one")
        athlete = self.desk.pair.stored.get("athlete")
        self.findings.show_explanation(found)
        for drawn in (self.chain, self.strip):
            drawn.show_account(None if found is None else found.case.ledger)
        self.shares.show_account(None if found is None else found.case.borrowed)
        self.whatif.show_explanation(found)
        self.body.show_explanation(found, None if athlete is None else athlete.key)
        past = self.desk.pair.kind == "past"
        self.pages.offer("return", shown=past)
        self.returning.show_explanation(found if past else None)
        if not past and self._stack.currentWidget() is self.returning:
            self.turn_to("findings")
        arm = found is not None and any(one.rule.caution for one in found.judgement.focus)
        self.cautions.say(() if found is None else found.cautions, whole=arm)
        for widget in (self.sentence, self.pages, self.in_words, self._stack):
            widget.setVisible(found is not None)
        self._show_words()
        self._show_strip()
        self._rest.setVisible(found is None)
        self._hint.setText(self._state(found))
        self._hint.setVisible(bool(self._hint.text()))
        if found is None:
            return
        self.sentence.setText(self._break(found))
        self.account.setText(told(found, self.desk.view.imperial))

    def _state(self, found: Explanation | None) -> str:
        single = None if self.desk.pair.complete else self.desk.pair.single
        if found is None and single is not None:
            other = "twin" if single.side == "athlete" else "athlete"
            more = f"Where speed is lost needs two: choose the {other} on the Bench."
            return "\n\n".join([*told_single(single, self.desk.view.imperial), more])
        if found is None:
            return waiting_words(self.desk.pair, "Working it out…", needs="The gap")
        if found.case.contrast.bare:
            return "There are no landmarks yet: durations are measured, and what was seen by eye stands below."
        if found.unborrowed:
            return f"Motion could not be borrowed: {found.unborrowed}."
        return "  ".join(found.case.borrowed.warnings) if found.case.borrowed is not None else ""

    def _break(self, found: Explanation) -> str:
        account = found.case.ledger
        if account is None:
            balls = self.desk.pair.figures.ball_speeds if self.desk.pair.figures is not None else None
            unshared = "A speed along the chain is missing on one side, so it cannot be shared out link by link."
            if balls is None:
                return "The gap is not known yet: note both ball speeds in the Prepare room."
            gap = figure(balls[1] - balls[0], "m/s", self.desk.view.imperial, signed=True)
            return f"{gap} of ball speed between them. {unshared}"
        gap = figure(account.gap, "m/s", self.desk.view.imperial, signed=True)
        what = "ball speed" if account.basis == "ball" else "hand speed (a ball speed is missing)"
        if self.desk.pair.kind == "past" and account.gap <= 0:
            return f"{gap} of {what} between now and before: the ball is not slower than it was."
        story = account.told(lambda value: figure(value, "m/s", self.desk.view.imperial))
        to = {"twin": "to the twin", "past": "between now and before", "peers": "to the second"}[self.desk.pair.kind]
        return f"{gap} of {what} {to}. {story}"

    def throws_in_sight(self) -> frozenset[int]:
        return on_desk(self.desk)
