"""The schools side by side: what each holds and acts on; a house school is a copy that can be changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.findings import Judgement
from waxtwin.core.schools import TOPICS, School, Stance
from waxtwin.ui.shared.widgets import Choice, form_table, label, number

_STANCES = ("Finding", "Acts", "Weight", "Why")
_FIRST = ("School", "Would change first", "Then", "Why", "Would leave")


class SchoolsDialog(QDialog):
    """`kept(school)` when a house school is to be kept, `removed(id)` when one is to go; `pair` is what each school
    makes of the pair on the desk {id: Judgement}, if there is one.
    """

    kept = Signal(object)
    removed = Signal(str)

    def __init__(
        self, schools: Sequence[School], findings: Mapping[str, str], chosen: str, pair: Mapping[str, Judgement],
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.setWindowTitle("Schools")
        self.resize(1040, 660)
        self._schools = {one.id: one for one in schools}
        self._findings = findings
        self._rows: dict[str, tuple[QCheckBox, QDoubleSpinBox, QLineEdit]] = {}
        self._topics: dict[str, QLineEdit] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        column.addLayout(self._make_top())
        self.says = QPlainTextEdit()
        self.says.setFixedHeight(62)
        self.says.setAccessibleName("what the school holds")
        column.addWidget(self.says)
        self.tabs = QTabWidget()
        self.stances = self._make_stances()
        self.topics = self._make_topics()
        self.compare = self._make_compare()
        self.first = self._make_first(pair)
        for table, words in ((self.stances, "What it acts on"), (self.topics, "Where schools differ"),
                             (self.compare, "Side by side"), (self.first, "This pair")):  # fmt: skip
            table.setAccessibleName(words)
            self.tabs.addTab(table, words)
        self.tabs.setTabEnabled(self.tabs.indexOf(self.first), bool(pair))
        self.tabs.setTabToolTip(
            self.tabs.indexOf(self.first), "" if pair else "Lay two throws on the desk to see what each would change."
        )
        column.addWidget(self.tabs, 1)
        self.fault = label("", role="thread")
        column.addWidget(self.fault)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Close)
        self.buttons.accepted.connect(self.keep)
        self.buttons.rejected.connect(self.reject)
        column.addWidget(self.buttons)
        self._fill_picker(chosen)
        self._turn_to(self.picker.currentData())

    def _make_top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.picker = QComboBox()
        self.picker.setAccessibleName("school")
        self.picker.activated.connect(lambda i: self._turn_to(self.picker.itemData(i)))
        copy, self.remove = QPushButton("Copy into a house school…"), QPushButton("Remove")
        copy.clicked.connect(self._ask_copy)
        self.remove.clicked.connect(self._remove)
        self.landing = Choice("Landing is", [("touch", "first touch"), ("plant", "full weight")], self._set_landing)
        row.addWidget(self.picker, 1)
        row.addWidget(copy)
        row.addWidget(self.remove)
        row.addSpacing(16)
        row.addWidget(self.landing)
        return row

    def _make_compare(self) -> QTableWidget:
        """Who acts on what."""
        schools = list(self._schools.values())
        table = form_table(("Finding", *(one.label.removesuffix(" school") for one in schools)), stretch=(0,))
        for name, title in self._findings.items():
            n = table.rowCount()
            table.insertRow(n)
            table.setItem(n, 0, _cell(title))
            for k, one in enumerate(schools, start=1):
                stance = one.stance(name)
                words = "leaves it" if not stance.acts else "acts, first" if stance.weight > 1.15 else "acts"
                cell = _cell("does not hold with it" if name in one.rejects else words)
                cell.setToolTip(stance.reason)
                table.setItem(n, k, cell)
        return table

    def _make_first(self, pair: Mapping[str, Judgement]) -> QTableWidget:
        """What each school would change first in the pair on the desk, and why."""
        table = form_table(_FIRST, stretch=range(1, len(_FIRST)), wrap=True)
        for one in self._schools.values():
            if one.id not in pair:
                continue
            judgement = pair[one.id]
            focus = [*judgement.focus, None, None]
            n = table.rowCount()
            table.insertRow(n)
            left = [found.rule.title for found in judgement.findings if not found.acts and found.can_be_worked_on]
            words = [found.rule.title if found else "—" for found in focus[:2]]
            reason = (
                (focus[0].reason or "All schools hold with it.") if focus[0] else "Nothing that it acts on is found."
            )
            others = f" and {len(left) - 1} more" if len(left) > 1 else ""
            for k, text in enumerate((one.label, *words, reason, f"{left[0]}{others}" if left else "—")):
                cell = _cell(text)
                cell.setToolTip(", ".join(left) if k == len(_FIRST) - 1 else text)
                table.setItem(n, k, cell)
        return table

    def _fill_picker(self, chosen: str) -> None:
        self.picker.clear()
        for one in self._schools.values():
            self.picker.addItem(f"{one.label} (house)" if one.own else one.label, one.id)
        self.picker.setCurrentIndex(max(self.picker.findData(chosen), 0))

    def _turn_to(self, name: str) -> None:
        self.school = school = self._schools[name]
        own = school.own
        self.says.setPlainText(school.says)
        self.says.setReadOnly(not own)
        self.landing.set(school.landing)
        self.landing.setEnabled(own)
        self.remove.setEnabled(own)
        self.buttons.button(QDialogButtonBox.StandardButton.Save).setEnabled(own)
        self.fault.setText("" if own else "A shipped school stays as it is; copy it to change it.")
        self._fill_stances(school)
        self._fill_topics(school)

    def _make_stances(self) -> QTableWidget:
        """What the school acts on, to be changed."""
        table = form_table(_STANCES, stretch=(3,))
        for n, (name, title) in enumerate(self._findings.items()):
            table.insertRow(n)
            table.setRowHeight(n, 36)
            acts, weight, why = QCheckBox(), number(0.0, 3.0, decimals=1), QLineEdit()
            table.setItem(n, 0, _cell(title))
            for k, widget in enumerate((acts, weight, why), start=1):
                widget.setAccessibleName(f"{_STANCES[k]}: {title}")
                table.setCellWidget(n, k, widget)
            self._rows[name] = (acts, weight, why)
        return table

    def _make_topics(self) -> QTableWidget:
        """What the school holds where schools differ, to be changed."""
        table = form_table(("Topic", "This school"), stretch=(1,))
        for n, (name, title) in enumerate(TOPICS.items()):
            table.insertRow(n)
            table.setRowHeight(n, 36)
            line = QLineEdit()
            line.setAccessibleName(title)
            table.setItem(n, 0, _cell(title))
            table.setCellWidget(n, 1, line)
            self._topics[name] = line
        return table

    def _fill_stances(self, school: School) -> None:
        for name, (acts, weight, why) in self._rows.items():
            stance = school.stance(name)
            acts.setChecked(stance.acts)
            weight.setValue(stance.weight)
            why.setText(stance.reason)
            why.setCursorPosition(0)
            for widget in (acts, weight, why):
                widget.setEnabled(school.own)

    def _fill_topics(self, school: School) -> None:
        for name, line in self._topics.items():
            line.setText(school.topics.get(name, ""))
            line.setReadOnly(not school.own)
            line.setCursorPosition(0)
            line.setToolTip(line.text())

    def _set_landing(self, landing: str) -> None:
        self.school = replace(self.school, landing=landing)

    def _ask_copy(self) -> None:
        name, good = QInputDialog.getText(self, "A house school", "What it is called:")
        if good and name.strip():
            self.copy_as(name.strip())

    def copy_as(self, name: str) -> None:
        """A house school that starts as a copy of the one shown; kept when it is saved."""
        key = next(f"house{n}" for n in range(1, 1000) if f"house{n}" not in self._schools)
        self._schools[key] = replace(self.school, id=key, label=name, own=True)
        self._fill_picker(key)
        self._turn_to(key)

    def _remove(self) -> None:
        gone = self.school.id
        del self._schools[gone]
        self._fill_picker(next(iter(self._schools)))
        self._turn_to(self.picker.currentData())
        self.removed.emit(gone)

    def keep(self) -> None:
        """Keep the house school as it is shown."""
        stances = {}
        rejects = set()
        for name, (acts, weight, why) in self._rows.items():
            stance = Stance(acts.isChecked(), round(weight.value(), 2), why.text().strip())
            if name in self.school.rejects and not acts.isChecked():
                rejects.add(name)
            elif stance != Stance(True, 1.0, ""):  # what all schools do needs no word
                stances[name] = stance
        topics = {name: line.text().strip() for name, line in self._topics.items() if line.text().strip()}
        says = self.says.toPlainText().strip()
        kept = replace(self.school, says=says, stances=stances, topics=topics, rejects=frozenset(rejects))
        self.kept.emit(kept)
        self.accept()


def _cell(words: str) -> QTableWidgetItem:
    cell = QTableWidgetItem(words)
    cell.setFlags(Qt.ItemFlag.ItemIsEnabled)
    return cell
