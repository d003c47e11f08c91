"""The findings: a ranked list, and the chosen one with its proof, what speaks against it, and what to practise."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFont, QPainter
from PySide6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QStackedLayout,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.against_twins import supported
from waxtwin.core.explain import Explanation
from waxtwin.core.findings import BODY, Finding, Task
from waxtwin.core.measures import MEASURES, Measure
from waxtwin.core.stops import EVENTS
from waxtwin.core.telling import carried, firmness, told_proof, weighed
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.rooms.gap.open_view import OpenView
from waxtwin.ui.shared.measure_row import MeasureRow
from waxtwin.ui.shared.posed_figure import PosedFigure
from waxtwin.ui.shared.theme import colour, font
from waxtwin.ui.shared.widgets import label, paint_ground

_FINDING = Qt.ItemDataRole.UserRole
_SUPPORT = Qt.ItemDataRole.UserRole + 1
_ROW = 54


class Findings(QWidget):
    """`ruled(finding, ruling, reason)` when one is accepted, set aside or opened again; `seen(measure)` to the Pair.

    Where nothing was found, `open` says what differs and what would tell more.
    """

    ruled = Signal(str, str, str)
    seen = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.explanation: Explanation | None = None
        self._picked: str | None = None
        self._stack = QStackedLayout(self)
        self.open = OpenView(desk)
        self.open.seen.connect(self.seen)
        self._ranked = QWidget()
        self._stack.addWidget(self._ranked)
        self._stack.addWidget(self.open)
        row = QHBoxLayout(self._ranked)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(18)
        left = QVBoxLayout()
        left.setSpacing(6)
        self.list = QListWidget()
        self.list.setItemDelegate(_Delegate(desk, self.list))
        self.list.setAccessibleName("findings")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(lambda *_: self._show())
        self.list.itemClicked.connect(lambda item: self.choose(item.data(_FINDING).id))
        self.beside = label("", grow=-0.5)
        self.beside.setWordWrap(True)
        self._beside = QScrollArea()
        self._beside.setWidgetResizable(True)
        self._beside.setWidget(self.beside)
        self._beside.setFixedHeight(104)
        left.addWidget(self.list, 1)
        left.addWidget(self._beside)
        row.addLayout(left, 9)
        self.detail = Detail(desk)
        self.detail.ruled.connect(self.ruled)
        self.detail.seen.connect(self.seen)
        row.addWidget(self.detail, 13)

    def show_explanation(self, found: Explanation | None) -> None:
        """List what was found; the one that somebody chose stays chosen."""
        self.explanation = found
        self.list.clear()
        support = (
            supported(self.desk.pair.all_contrasts, found.perspective)
            if found and self.desk.pair.other_contrasts
            else {}
        )
        findings = [] if found is None else sorted(found.judgement.findings, key=lambda one: not one.in_focus)
        for one in findings:
            item = QListWidgetItem(one.rule.title)
            item.setData(_FINDING, one)
            item.setData(_SUPPORT, support.get(one.id, 0))
            item.setToolTip(one.rule.plain)
            self.list.addItem(item)
            if one.id == self._picked:
                self.list.setCurrentItem(item)
        if self.list.currentItem() is None and findings:
            self.list.setCurrentRow(0)
        self._show()
        if found is None or findings:
            self._stack.setCurrentWidget(self._ranked)
        else:
            self.open.show_explanation(found, _beside(found))
            self._stack.setCurrentWidget(self.open)
        self.beside.setText("" if found is None else "\n".join([*_beside(found), *_left(found)]))
        self._beside.setVisible(bool(self.beside.text()))

    @property
    def chosen(self) -> Finding | None:
        """The finding that is shown in full."""
        item = self.list.currentItem()
        found: Finding | None = None if item is None else item.data(_FINDING)
        return found

    def choose(self, finding: str) -> None:
        """Show a finding in full, also when it is found again."""
        self._picked = finding
        for i in range(self.list.count()):
            if self.list.item(i).data(_FINDING).id == finding:
                self.list.setCurrentRow(i)

    def _show(self) -> None:
        self.detail.show_finding(self.chosen, self.explanation)


def _left(found: Explanation) -> list[str]:
    """What this footage leaves open."""
    return ["Left open by this footage:  " + " ".join(found.judgement.open)] if found.judgement.open else []


def _beside(found: Explanation) -> list[str]:
    """What is ahead or known to be alike, what only the eye saw, and what is a matter of style."""
    better = [said.rstrip(".") for said in found.judgement.ahead]
    level = [said.rstrip(".") for said in found.judgement.good.values()]
    style = [said for said, _ in found.judgement.style]
    parts = []
    if better:
        parts.append("Ahead of the twin:  " + "; ".join(better) + ".")
    if level:
        parts.append("Known to be alike:  " + "; ".join(level) + ".")
    for title, seen in found.judgement.by_eye.items():
        parts.append(f"{title}, which no figure here bears out:  {' '.join(seen)}")
    if style:
        parts.append("Style, leave it:  " + "; ".join(style) + ".")
    return parts


def _known(finding: Finding, imperial: bool) -> str:
    """How firmly the figures stand, and how far the share of the gap is known."""
    known = carried(finding, imperial)
    more = " of the gap: arithmetic, not proof" if finding.weighed and finding.carries > 0 else ""
    said = f"{firmness(finding)}; {known}{more}."
    return said[0].upper() + said[1:]


class _Delegate(QStyledItemDelegate):
    """A finding in two lines; what is in focus carries its number on thread."""

    def __init__(self, desk: Desk, parent: QListWidget) -> None:
        super().__init__(parent)
        self.desk = desk

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(200, _ROW)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        one = index.data(_FINDING)
        painter.save()
        box = paint_ground(painter, option)
        aside = one.set_aside is not None
        if one.in_focus:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("thread"))
            painter.drawRoundedRect(QRectF(box.left() + 8, box.top() + 10, 42, 18), 4, 4)
            painter.setPen(colour("panel"))
            painter.setFont(font(-1.5, QFont.Weight.Bold))
            painter.drawText(QRectF(box.left() + 8, box.top() + 10, 42, 18), Qt.AlignmentFlag.AlignCenter, "focus")
        left = box.left() + (58 if one.in_focus else 10)
        painter.setFont(font(0.5, QFont.Weight.Normal if aside else QFont.Weight.DemiBold))
        painter.setPen(colour("soft" if aside or not one.acts else "ink"))
        width = box.right() - left - 8
        title = painter.fontMetrics().elidedText(one.rule.title, Qt.TextElideMode.ElideRight, int(width))
        painter.drawText(QRectF(left, box.top() + 7, width, 24), Qt.AlignmentFlag.AlignVCenter, title)
        painter.setFont(font(-1))
        painter.setPen(colour("soft"))
        asked = len(self.desk.pair.explanation.perspective.schools) if self.desk.pair.explanation else 0
        said = f"set aside: {one.set_aside}" if aside else weighed(one, asked, self.desk.view.imperial)
        if self.desk.pair.other_contrasts and not aside and one.rule.kind != BODY:
            of = len(self.desk.pair.all_contrasts)
            said = f"{index.data(_SUPPORT)} of {of} twins bear it out  ·  {said}"
        said = painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, int(box.width() - 20))
        painter.drawText(QRectF(box.left() + 10, box.top() + 30, box.width() - 20, 18), Qt.AlignmentFlag.AlignVCenter,
                         said)  # fmt: skip
        painter.restore()


class Detail(QWidget):
    """One finding in full."""

    ruled = Signal(str, str, str)
    seen = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.finding: Finding | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.plain = label("", grow=1.5, bold=True)
        self.plain.setWordWrap(True)
        column.addWidget(self.plain)
        buttons = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        for key, words in (("accept", "Take into the focus"), ("aside", "Set aside…"), ("open", "Leave it to the rank"),
                           ("see", "See it on the pair")):  # fmt: skip
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, key=key: self._do(key))
            self.buttons[key] = button
            buttons.addWidget(button)
        buttons.addStretch(1)
        column.addLayout(buttons)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(self._scroll, 1)
        desk.listen(self._light, Topic.SELECTION)

    def _light(self, topic: Topic) -> None:
        lit = self.desk.view.hovered
        for posed in self.findChildren(PosedFigure):
            posed.item = MEASURES[lit] if lit else self._first()
            posed.update()

    def _first(self) -> Measure | None:
        rows = [one.row for one in self.finding.proof if one.row is not None] if self.finding else []
        return rows[0].measure if rows else None

    def show_finding(self, finding: Finding | None, explanation: Explanation | None) -> None:
        """Show it; nothing where there is none."""
        self.finding = finding
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(4)
        if finding is None or explanation is None:
            self.plain.setText("")
        else:
            self._fill(column, finding, explanation)
            self.plain.setText(finding.rule.plain)
        column.addStretch(1)
        self._scroll.setWidget(inner)
        open_ = finding is not None and (finding.accepted or finding.set_aside is not None)
        workable = finding is not None and finding.can_be_worked_on
        self.buttons["accept"].setEnabled(workable and not (finding is not None and finding.accepted))
        self.buttons["aside"].setEnabled(
            finding is not None and finding.rule.kind != BODY and finding.set_aside is None
        )
        self.buttons["open"].setEnabled(open_)
        self.buttons["see"].setEnabled(self._first() is not None)

    def _fill(self, column: QVBoxLayout, finding: Finding, explanation: Explanation) -> None:
        first = self._first()
        if first is not None:
            figures = QHBoxLayout()
            figures.setSpacing(6)
            for side in SIDES:
                posed = PosedFigure(self.desk, side)
                posed.setMinimumSize(180, 168)
                posed.setMaximumHeight(168)
                posed.item = first
                figures.addWidget(posed, 1)
            column.addLayout(figures)
        stop = EVENTS["foot_contact" if finding.rule.at == "landing" else finding.rule.at].label
        column.addWidget(label(f"{finding.rule.title}  ·  {stop}", role="soft"))
        shown = set()
        for proof in finding.proof:
            if proof.row is not None and proof.row.measure.id not in shown:
                shown.add(proof.row.measure.id)
                column.addWidget(MeasureRow(self.desk, proof.row))
            elif proof.row is None:
                column.addWidget(label(told_proof(proof, self.desk.view.imperial), wrap=True))
        for title, said in _said(finding, explanation, self.desk.view.imperial):
            column.addWidget(label(title, role="soft", grow=-0.5))
            for words in said:
                column.addWidget(label(words, wrap=True))

    def _do(self, key: str) -> None:
        if self.finding is None:
            return
        if key == "see":
            measure = self._first()
            if measure is not None:
                self.seen.emit(measure.id)
        elif key == "aside":
            reason, good = QInputDialog.getText(self, "Set this finding aside", "Why? It is kept with the finding.")
            if good:
                self.ruled.emit(self.finding.id, "set aside", reason.strip() or "no reason given")
        else:
            self.ruled.emit(self.finding.id, key, "")


def _told_task(task: Task, schools: Mapping[str, str]) -> str:
    """A task with its amount, and which schools use it or would not."""
    said = [f"{task.title}: {task.how} {task.purpose} ({task.dose})"]
    for words, ids in (("Used by", task.used_by), ("Not used by", task.shunned_by)):
        named = [schools[one] for one in ids if one in schools]
        if named:
            said.append(f"{words}: {', '.join(named)}.")
    return " ".join(said)


def _said(finding: Finding, explanation: Explanation, imperial: bool) -> list[tuple[str, list[str]]]:
    """Everything else that is to be known about a finding, by heading; empty headings are left out."""
    view = explanation.perspective
    titles = {rule.id: rule.title for rule in view.playbook.rules}
    rule = finding.rule
    stances = [(one.label, one.stance(rule.id)) for one in view.schools]
    schools = [f"{name}: {'would act' if said.acts else 'would leave it'}. {said.reason}" for name, said in stances]
    tasks = [view.playbook.tasks[name] for name in rule.tasks]
    names = {one.id: one.label for one in (view.school, *view.schools)}
    parts = [
        ("How far it is known", [_known(finding, imperial)]),
        ("Seen by eye", list(finding.seen)),
        ("Speaks against it", [*(told_proof(one, imperial) for one in finding.against), *finding.seen_against]),
        ("Could come from", [titles[name] for name in finding.caused_by]),
        ("Could lead to", [titles[name] for name in finding.leads_to]),
        ("The body", list(finding.body)),
        ("When to leave it", [rule.style] if rule.style else []),
        ("Caution", [f"▲  {rule.caution}"] if rule.caution else []),
        ("What to practise", [_told_task(task, names) for task in tasks]),
        ("Schools", schools if rule.kind != BODY else []),
    ]
    return [(title, said) for title, said in parts if said]
