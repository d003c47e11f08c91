"""The bands on screen: whose figures, from where, checked or to be verified; changed, added, taken off."""

from __future__ import annotations

from collections.abc import Callable
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
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from waxtwin.core.contrast import DIRECTIONS, Band
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.measures import MEASURES
from waxtwin.library.bands import SHIPPED as SHIPPED_BANDS
from waxtwin.library.bands import Book, Population, current_book, load_book, own_place, save_book
from waxtwin.ui.shared.widgets import form_table, label, number

_COLUMNS = ("Measure", "From", "To", "Unit", "Held to be good", "Source", "Checked", "")
_SOURCE = 5
_LIMIT = 20_000.0


class BandsDialog(QDialog):
    """`kept(book, population)` when the bands are to be kept as shown, with the population that is to be seen."""

    kept = Signal(object, str)

    def __init__(self, book: Book, population: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Bands and their sources")
        self.resize(980, 640)
        self._book = dict(book)
        self._shown = population if population in self._book else next(iter(self._book))
        self._rows: dict[str, tuple[QDoubleSpinBox, QDoubleSpinBox, QComboBox, QLineEdit, QCheckBox]] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        intro = label(
            "A band is where most of a population lies. It is no target: bodies differ, and a figure outside may be "
            "right for its owner. What was not checked against the paper stays marked “to verify”.",
            role="soft",
        )  # fmt: skip
        intro.setWordWrap(True)
        column.addWidget(intro)
        column.addLayout(self._make_top())
        self.table = form_table(_COLUMNS, stretch=(_SOURCE,))
        column.addWidget(self.table, 1)
        column.addLayout(self._make_bottom())
        self.fault = label("", role="thread")
        self.fault.setWordWrap(True)
        column.addWidget(self.fault)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.keep)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self._fill_populations()
        self._fill()

    def _make_top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(label("Population", role="soft"))
        self.population = QComboBox()
        self.population.setAccessibleName("population")
        self.population.activated.connect(lambda i: self._turn_to(self.population.itemData(i)))
        row.addWidget(self.population, 1)
        for words, do in (("Copy as another…", self._ask_copy), ("Remove", self._remove_population),
                          ("As shipped", self.take_shipped)):  # fmt: skip
            button = QPushButton(words)
            button.clicked.connect(do)
            row.addWidget(button)
        return row

    def _make_bottom(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.more = QComboBox()
        self.more.setAccessibleName("measure to add")
        add = QPushButton("Add a band for it")
        add.clicked.connect(lambda: self.add(self.more.currentData()))
        row.addWidget(self.more, 1)
        row.addWidget(add)
        row.addStretch(2)
        return row

    # populations ---------------------------------------------------------------------------------------------------
    def _fill_populations(self) -> None:
        self.population.clear()
        for key, one in self._book.items():
            self.population.addItem(one.label, key)
        self.population.setCurrentIndex(self.population.findData(self._shown))

    def _turn_to(self, key: str) -> None:
        self._gather()
        self._shown = key
        self._fill()

    def _ask_copy(self) -> None:
        name, good = QInputDialog.getText(self, "Another population", "What it is called, as the screens will say it:")
        if good and name.strip():
            self.copy_as(name.strip())

    def copy_as(self, name: str) -> None:
        """Another population that starts as a copy of the one shown."""
        self._gather()
        key = next(f"own{n}" for n in range(1, 1000) if f"own{n}" not in self._book)
        old = self._book[self._shown]
        self._book[key] = Population(name, old.source, {n: replace(b, population=name) for n, b in old.bands.items()})
        self._shown = key
        self._fill_populations()
        self._fill()

    def _remove_population(self) -> None:
        if len(self._book) == 1:
            self.fault.setText("The last population stays.")
            return
        del self._book[self._shown]
        self._shown = next(iter(self._book))
        self._fill_populations()
        self._fill()

    def take_shipped(self) -> None:
        """Put the shipped bands in the place of everything shown here; nothing is kept until it is saved."""
        self._book = dict(load_book(SHIPPED_BANDS))
        self._shown = next(iter(self._book))
        self._fill_populations()
        self._fill()

    # bands ---------------------------------------------------------------------------------------------------------
    def _fill(self) -> None:
        self._rows.clear()
        self.table.setRowCount(0)
        for name, band in self._book[self._shown].bands.items():
            self._add_row(name, band)
        self._fill_more()

    def _fill_more(self) -> None:
        self.more.clear()
        for item in MEASURES.values():
            if item.id not in self._rows:
                self.more.addItem(item.label, item.id)

    def _add_row(self, name: str, band: Band) -> None:
        item, row = MEASURES[name], self.table.rowCount()
        self.table.insertRow(row)
        self.table.setRowHeight(row, 38)
        for column, words in ((0, item.label), (3, item.unit)):
            cell = QTableWidgetItem(words)
            cell.setFlags(Qt.ItemFlag.ItemIsEnabled)
            cell.setToolTip(item.text)
            self.table.setItem(row, column, cell)
        ends = [number(-_LIMIT, _LIMIT, decimals=2 if item.unit == "m" else 1) for _ in range(2)]
        for column, (field, value) in enumerate(zip(ends, (band.low, band.high), strict=True), start=1):
            field.setValue(value)
            field.setAccessibleName(f"{_COLUMNS[column]} of {item.label}")
            self.table.setCellWidget(row, column, field)
        held = QComboBox()
        for key, words in DIRECTIONS.items():
            held.addItem(words, key)
        held.setCurrentIndex(held.findData(band.direction))
        source, checked, off = QLineEdit(band.source), QCheckBox(), QPushButton("✕")
        source.setToolTip(band.source)
        source.setCursorPosition(0)
        checked.setChecked(band.verified)
        checked.setToolTip("Tick when the figures were checked against the source")
        off.setToolTip(f"Take the band of “{item.label}” off")
        off.clicked.connect(lambda: self.remove(name))
        for column, widget in ((4, held), (_SOURCE, source), (6, checked), (7, off)):
            self.table.setCellWidget(row, column, widget)
        self._rows[name] = (ends[0], ends[1], held, source, checked)

    def add(self, name: str) -> None:
        """A band for another measure, to be filled in."""
        population = self._book[self._shown]
        self._add_row(name, Band(0.0, 1.0, population.label, "own figures; to verify"))
        self._fill_more()
        self.table.scrollToBottom()

    def remove(self, name: str) -> None:
        """Take a band off."""
        self._gather()
        old = self._book[self._shown]
        bands = {key: band for key, band in old.bands.items() if key != name}
        self._book[self._shown] = replace(old, bands=bands)
        self._fill()

    def _gather(self) -> None:
        """Take what stands in the table into the book."""
        old = self._book[self._shown]
        bands = {}
        for name, (low, high, held, source, checked) in self._rows.items():
            bands[name] = Band(low.value(), high.value(), old.label, source.text().strip() or old.source,
                               checked.isChecked(), held.currentData())  # fmt: skip
        self._book[self._shown] = replace(old, bands=bands)

    def keep(self) -> None:
        """Keep everything, unless a band ends before it begins."""
        self._gather()
        for population in self._book.values():
            for name, band in population.bands.items():
                if not band.low < band.high:
                    words = f"The band of “{MEASURES[name].label}” ends before it begins; nothing was kept yet."
                    self.fault.setText(words)
                    return
        self.kept.emit(self._book, self._shown)
        self.accept()


def open_bands(
    parent: QWidget, population: str, keep: Callable[[str], None], tell: Callable[[str], object]
) -> BandsDialog:
    """Open the editor on the user's bands; `keep(population)` after they were written."""
    try:
        book = current_book()
    except WaxTwinError as fault:
        tell(f"{fault} The shipped bands are shown; saving replaces the damaged file.")
        book = load_book(SHIPPED_BANDS)
    dialog = BandsDialog(book, population, parent)

    def save(changed: Book, shown: str) -> None:
        try:
            save_book(changed, own_place())
        except WaxTwinError as fault:
            tell(str(fault))
            return
        keep(shown)

    dialog.kept.connect(save)
    dialog.open()
    return dialog
