"""A table on paper: cells that can be picked, rows that can be opened, and the card it lies in."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QSizePolicy, QTableWidget, QTableWidgetItem, QWidget

from tallmast.figures.paper import Paper, cell_text
from tallmast.findings.table import Cell, Table
from tallmast.units import show

from .parts import Card

MOST_AIR = 90
"""Pixels that a column is given beyond what it needs, at the most."""
MOST_ROWS = 500
"""Of one table on the page: more than anybody scrolls through, and a window has to answer within its time."""
TONES = {"disagrees": "doubt"}
"""Inks of tones that are called otherwise on paper."""


def _look(cell: Cell) -> tuple[Any, ...]:
    """All of a cell that is seen."""
    return cell.text, cell.mark, cell.tone, cell.strong, cell.number, cell.slot


class Ledger(QTableWidget):
    """A table with hairlines and no boxes, as tall as its rows. Cells with a payload can be picked, rows opened."""

    picked = Signal(object)
    opened_row = Signal(object)

    def __init__(self, name: str, paper: Paper, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.paper = paper
        self.setObjectName(name)
        self.setAccessibleName(name)
        self.setShowGrid(False)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.verticalHeader().hide()
        self.setWordWrap(False)
        self.setTabKeyNavigation(False)
        header = self.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setHighlightSections(False)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.itemSelectionChanged.connect(self._pick)
        self.cellDoubleClicked.connect(lambda row, column: self._open(row))
        self._rows: list[Any] = []
        self._payloads: list[list[Any]] = []
        self._fitted_shown = False
        self._shape: tuple[list[str], int] = ([], 0)
        self._looks: list[list[tuple[Any, ...]]] = []

    def show_table(self, table: Table, hidden: Collection[str] = ()) -> None:
        """Show a table; rows of hidden antennas are left out. Enter or a double click opens a row's record."""
        rows = [row for row in table.rows if row.antenna_id not in hidden]
        self._rows = [row.record for row in rows]
        self._payloads = [[cell.payload for cell in row.cells] for row in rows]
        looks = [[_look(cell) for cell in row.cells] for row in rows]
        shape = (list(table.heads), len(rows))
        if (shape, looks) == (self._shape, self._looks):
            return  # only what stands behind the words is new
        self.blockSignals(True)
        if shape != self._shape:
            self.clear()
            self.setColumnCount(len(table.heads))
            self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            self.setHorizontalHeaderLabels(list(table.heads))
            self.setRowCount(len(rows))
            self._looks = [[] for _ in rows]
        for i, row in enumerate(rows):
            for j, cell in enumerate(row.cells):
                if self._looks[i][j : j + 1] != [looks[i][j]]:
                    self.setItem(i, j, self._item(cell))
        self._shape, self._looks = shape, looks
        self.horizontalHeader().setFixedHeight(round(24 * self.paper.scale))
        self.blockSignals(False)
        self._fit()

    def _item(self, cell: Cell) -> QTableWidgetItem:
        item = QTableWidgetItem(cell_text(cell))
        item.setFont(self.paper.font(12.5, cell.strong, cell.number))
        if cell.slot is not None:
            item.setForeground(self.paper.antenna(cell.slot))
        elif cell.tone:
            item.setForeground(self.paper.colour(TONES.get(cell.tone, cell.tone)))
        return item

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self._fit()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if not self._fitted_shown:
            self._fit()  # only now has the style sheet given the words their size

    def _fit(self) -> None:
        """The last column takes what is left and wraps its words; if too little is left the table scrolls sideways."""
        columns = self.columnCount()
        if not columns:
            return
        self._fitted_shown = self.isVisible()
        header = self.horizontalHeader()
        least = round(84 * self.paper.scale)
        needed = [max(self.sizeHintForColumn(i), header.sectionSizeHint(i)) for i in range(columns)]
        last = needed.pop()
        left = self.viewport().width() - sum(needed)
        # On a wide window the columns share what is over: a table that keeps to its left half is hard to follow.
        more = min(max(left - last, 0) // columns, round(MOST_AIR * self.paper.scale))
        for i, width in enumerate(needed):
            header.setSectionResizeMode(i, QHeaderView.ResizeMode.Fixed)
            header.resizeSection(i, width + more)
        left -= more * len(needed)
        scrolls = left < min(last, least)
        # By hand: a header told to stretch its last section does so only at its next change of size.
        header.setSectionResizeMode(columns - 1, QHeaderView.ResizeMode.Fixed)
        header.resizeSection(columns - 1, last if scrolls else left)
        self.setWordWrap(not scrolls and left < last)
        usual = round(24 * self.paper.scale)
        for i in range(self.rowCount()):
            self.setRowHeight(i, usual)
        if self.wordWrap():
            self.resizeRowsToContents()
        tall = sum(self.rowHeight(i) for i in range(self.rowCount()))
        self.setFixedHeight(header.height() + tall + (24 if scrolls else 6))

    def _pick(self) -> None:
        for item in self.selectedItems():
            payload = self._payloads[item.row()][item.column()]
            if payload is not None:
                self.picked.emit(payload)

    def _open(self, row: int) -> None:
        if row < len(self._rows) and self._rows[row] is not None:
            self.opened_row.emit(self._rows[row])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentRow() >= 0:
            self._open(self.currentRow())
        elif event.text().strip():
            event.ignore()  # letters and digits are the window's; a table would search its cells for them
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: Any) -> None:
        event.ignore()  # the page scrolls, not the table


class TableCard(Card):
    """A ledger under its title; neither is there where it has no rows."""

    def __init__(self, name: str, paper: Paper, title: str = "") -> None:
        super().__init__(title)
        self.ledger = Ledger(name, paper)
        self.box.addWidget(self.ledger)

    def show_table(self, table: Table, hint: str = "Enter opens one", hidden: Collection[str] = ()) -> None:
        """A table, with what can be done with it."""
        self.setVisible(bool(table.rows))
        if table.rows:
            rows = tuple(row for row in table.rows if row.antenna_id not in hidden)
            every = show.grouped(len(rows))
            cut = f"the first {MOST_ROWS} of {every}, the bundle has all" if len(rows) > MOST_ROWS else ""
            self.set_title(" · ".join(part for part in (table.title, cut, hint) if part))
            self.ledger.show_table(replace(table, rows=rows[:MOST_ROWS]))
