"""All readings as a table in Keep's strip: sorted, changed in place and struck out of, each change
undone like any other.
"""

from __future__ import annotations

from PyQt6.QtCore import QSortFilterProxyModel, Qt
from PyQt6.QtGui import QColor, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from grey_current.desk.plain import plain_label
from grey_current.desk.row_table import SORT, DayPicker, RowTable
from grey_current.desk.theme import Palette
from grey_current.workspace.reading_table import (
    COLUMNS,
    DATE,
    LIKELY,
    ON,
    READ,
    SAYS,
    WHERE,
    ReadingRow,
    deleted_readings,
    reading_rows,
    typed_reading,
)
from grey_current.workspace.workspace import Workspace


class ReadingTable(QWidget):
    """The readings with what was expected and what each says. No signals."""

    def __init__(self, workspace: Workspace, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace, self.colours = workspace, palette
        self.table: RowTable[ReadingRow] = RowTable(
            workspace, COLUMNS, self._rows, typed_reading, "Change a reading", (READ, LIKELY)
        )
        self.table.colour_of = self._colour_of
        self.shown = QSortFilterProxyModel()
        self.shown.setSourceModel(self.table)
        self.shown.setSortRole(SORT)
        self.view = self._made_view()
        self.complaint = plain_label(name="complaint", wraps=True)
        self.delete = QPushButton("Delete")
        self.delete.setObjectName("small")
        self.delete.setToolTip("Deletes the readings that are selected; Undo brings them back.")
        self.delete.clicked.connect(self.on_delete)
        foot = QHBoxLayout()
        foot.addWidget(self.complaint, 1)
        foot.addStretch()
        foot.addWidget(self.delete)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(self.view, 1)
        layout.addLayout(foot)
        self.show_workspace(palette)

    def _made_view(self) -> QTableView:
        view = QTableView()
        view.setModel(self.shown)
        view.setSortingEnabled(True)
        view.sortByColumn(DATE, Qt.SortOrder.DescendingOrder)
        view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        view.setAlternatingRowColors(True)
        view.setItemDelegateForColumn(DATE, DayPicker(view))
        view.setAccessibleName("The readings, one a row")
        head, side = view.horizontalHeader(), view.verticalHeader()
        if head is not None and side is not None:
            for column in (DATE, ON, READ, LIKELY, SAYS):
                head.setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
            head.setSectionResizeMode(WHERE, QHeaderView.ResizeMode.Stretch)
            side.hide()
            head.setAccessibleName("Columns")
        return view

    def _rows(self) -> list[ReadingRow]:
        found = self.workspace.computed.doubt
        return reading_rows(self.workspace.project, found.logged if found is not None else ())

    def _colour_of(self, row: ReadingRow) -> QColor | None:
        return self.colours.short if row.state else None

    @property
    def words(self) -> str:
        """What the table says on the whole."""
        rows = self.table.rows
        if not rows:
            return "No readings yet: type one on the right."
        odd = sum(bool(row.state) for row in rows)
        count = "1 reading" if len(rows) == 1 else f"{len(rows)} readings"
        if odd:
            return f"{count}, {odd} not as expected or not used"
        # What is still worked out is not said to be fine.
        known = all(row.cells[SAYS] for row in rows)
        return f"{count}, all as expected" if known else count

    def show_workspace(self, palette: Palette) -> None:
        """Show the readings as they are now."""
        self.colours = palette
        self.table.reload()
        self.complaint.setText(self.table.complaint)
        self.complaint.setVisible(bool(self.table.complaint))
        self.delete.setVisible(bool(self.table.rows) and not self.table.rows[0].practising)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Delete and self.delete.isVisible():
            self.on_delete()
            return
        super().keyPressEvent(event)

    def on_delete(self) -> None:
        """Take the selected readings out."""
        chosen = self.view.selectionModel()
        if chosen is None:
            return
        places = {self.shown.mapToSource(index).row() for index in chosen.selectedRows()}
        rows = [self.table.rows[place] for place in sorted(places)]
        if rows:
            step = "Delete a reading" if len(rows) == 1 else f"Delete {len(rows)} readings"
            self.workspace.edit(step, deleted_readings(rows))
