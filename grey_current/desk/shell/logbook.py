"""The logbook in a window of its own: a table that is sorted, searched, changed in place and struck
out of, each change undone like any other.
"""

from __future__ import annotations

import datetime

from PyQt6.QtCore import QSortFilterProxyModel, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from grey_current.desk.plain import plain_label
from grey_current.desk.row_table import SORT, DayPicker, RowTable
from grey_current.desk.theme import SPACE
from grey_current.workspace.logbook_table import (
    CHIPS,
    COLUMNS,
    DATE,
    HOURS,
    NOTE,
    LogRow,
    at_a_glance,
    deleted,
    log_rows,
    typed,
)
from grey_current.workspace.workspace import Workspace

SIZE = (760, 460)


class LogbookWindow(QDialog):
    """The logbook beside the main window. No signals."""

    def __init__(self, parent: QWidget, workspace: Workspace) -> None:
        super().__init__(parent)
        self.setWindowTitle("Logbook")
        self.resize(*SIZE)
        self.workspace = workspace
        self.table: RowTable[LogRow] = RowTable(
            workspace,
            COLUMNS,
            lambda: log_rows(workspace.project),
            typed,
            "Change a line of the logbook",
            (HOURS, CHIPS),
        )
        self.shown = QSortFilterProxyModel()
        self.shown.setSourceModel(self.table)
        self.shown.setSortRole(SORT)
        self.shown.setFilterKeyColumn(-1)
        self.shown.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find in the logbook…")
        self.search.setAccessibleName("Find in the logbook")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self.shown.setFilterFixedString)
        self.view = self._made_view()
        self.glance = plain_label(name="soft", wraps=True)
        self.complaint = plain_label(name="complaint", wraps=True)
        self.delete = QPushButton("Delete")
        self.delete.setAutoDefault(False)
        self.delete.setToolTip("Deletes the lines that are selected; Undo brings them back.")
        self.delete.clicked.connect(self.on_delete)
        foot = QHBoxLayout()
        foot.addWidget(self.glance, 1)
        foot.addWidget(self.delete)
        # The window's own keys do not reach it while this one is in front.
        for keys, act in (
            (QKeySequence.StandardKey.Undo, workspace.undo),
            (QKeySequence.StandardKey.Redo, workspace.redo),
        ):
            QShortcut(QKeySequence(keys), self, act)
        layout = QVBoxLayout(self)
        layout.setSpacing(SPACE)
        layout.addWidget(self.search)
        layout.addWidget(self.view, 1)
        layout.addWidget(self.complaint)
        layout.addLayout(foot)
        self.show_workspace()

    def _made_view(self) -> QTableView:
        view = QTableView()
        view.setModel(self.shown)
        view.setSortingEnabled(True)
        view.sortByColumn(DATE, Qt.SortOrder.DescendingOrder)
        view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        view.setAlternatingRowColors(True)
        view.setItemDelegateForColumn(DATE, DayPicker(view))
        view.setAccessibleName("The logbook, a line a row")
        head, side = view.horizontalHeader(), view.verticalHeader()
        if head is not None and side is not None:
            head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            head.setSectionResizeMode(NOTE, QHeaderView.ResizeMode.Stretch)
            side.hide()
            head.setAccessibleName("Columns")
        return view

    def show_workspace(self) -> None:
        """Show the logbook as it is now."""
        self.table.reload()
        self.glance.setText(at_a_glance(self.workspace.project, datetime.date.today()))
        self.complaint.setText(self.table.complaint)
        self.complaint.setVisible(bool(self.table.complaint))
        self.delete.setEnabled(bool(self.table.rows))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Delete:
            self.on_delete()
            return
        super().keyPressEvent(event)

    def on_delete(self) -> None:
        """Take the selected lines out."""
        chosen = self.view.selectionModel()
        if chosen is None:
            return
        places = {self.shown.mapToSource(index).row() for index in chosen.selectedRows()}
        rows = [self.table.rows[place] for place in sorted(places)]
        if rows:
            many = len(rows) > 1
            step = f"Delete {len(rows)} lines of the logbook" if many else "Delete a line"
            self.workspace.edit(step, deleted(rows))
