"""The gates as one sheet: a row for each machine, a column for each gate, a click opens a gate for
a machine too.
"""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QColor, QFontMetrics, QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from grey_current.design.flow.levers import GateSheet
from grey_current.desk.theme import Palette, faded, font

ROW = 18
COLUMN = 70
# Pixels; a longer name of a machine is cut off.
MOST_NAME = 150
GATE = Qt.ItemDataRole.UserRole
WORDS = {
    "own": "open",
    "too": "open too",
    "left open": "left open",
    "kept shut": "kept shut",
    "shut": "·",
}


class GateTable(QTableWidget):
    """The sheet. Signals: `toggled` (gate, machine) when a cell that can be changed is clicked,
    `picked` (gate).
    """

    toggled = pyqtSignal(str, str)
    picked = pyqtSignal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAccessibleName("Which gate is open for which machine")
        self.setToolTip(
            "Click a dot to open that gate while that machine runs too; click again to shut it."
        )
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.cellClicked.connect(self._work)
        self.sheet = GateSheet((), ())

    def show_sheet(self, sheet: GateSheet, running: tuple[str, ...], palette: Palette) -> None:
        """Show a sheet; rows of machines that run are marked."""
        at = QPoint(self.currentColumn(), self.currentRow())
        self.sheet = sheet
        with QSignalBlocker(self):
            self.setRowCount(len(sheet.rows))
            self.setColumnCount(len(sheet.gates))
            self.setVerticalHeaderLabels([row.name for row in sheet.rows])
            for number, row in enumerate(sheet.rows):
                for column, state in enumerate(row.states):
                    self.setItem(number, column, _cell(state, row.machine in running, palette))
            self.setCurrentCell(max(at.y(), 0), max(at.x(), 0))
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """Columns that fill the width, as long as their words have room."""
        rows, columns = self.verticalHeader(), self.horizontalHeader()
        if rows is None or columns is None or not self.sheet.gates:
            return
        metrics = QFontMetrics(font("small"))
        if self.sheet.rows:
            names = max(metrics.horizontalAdvance(row.name) for row in self.sheet.rows) + 16
        else:
            names = 0
        rows.setFixedWidth(min(names, MOST_NAME))
        room = (self.width() - rows.width() - 4) // len(self.sheet.gates)
        wide = max(room, COLUMN) - 12
        plates = [
            metrics.elidedText(plate, Qt.TextElideMode.ElideRight, wide)
            for _, plate in self.sheet.gates
        ]
        self.setHorizontalHeaderLabels(plates)
        for header, size in ((rows, ROW), (columns, max(room, COLUMN))):
            header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            header.setMinimumSectionSize(size)
            header.setDefaultSectionSize(size)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows walk over the sheet, space works the cell."""
        if event is not None and event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            self._work(self.currentRow(), self.currentColumn())
        else:
            super().keyPressEvent(event)

    def _work(self, row: int, column: int) -> None:
        if not (0 <= row < len(self.sheet.rows) and 0 <= column < len(self.sheet.gates)):
            return
        gate = self.sheet.gates[column][0]
        if self.sheet.rows[row].states[column] in ("too", "shut"):
            self.toggled.emit(gate, self.sheet.rows[row].machine)
        self.picked.emit(gate)


def _cell(state: str, running: bool, palette: Palette) -> QTableWidgetItem:
    cell = QTableWidgetItem(WORDS[state])
    cell.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
    colours: dict[str, QColor] = {
        "own": palette.good,
        "too": palette.good,
        "left open": palette.short,
    }
    cell.setForeground(QBrush(colours.get(state, palette.soft)))
    if state in colours:
        cell.setBackground(QBrush(faded(colours[state], 34)))
    elif running:
        cell.setBackground(QBrush(palette.machine_on))
    cell.setFont(font("fine", bold=state == "own"))
    return cell
