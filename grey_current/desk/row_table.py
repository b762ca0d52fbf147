"""Rows of the core as a Qt table: what each cell says, sorts by and takes when it is typed into;
and a calendar for its dates.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Generic, Protocol, TypeVar

from PyQt6.QtCore import QAbstractTableModel, QDate, QModelIndex, Qt
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QDateEdit, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from grey_current.errors import GreyCurrentError
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.workspace.workspace import Workspace

SORT = Qt.ItemDataRole.UserRole


class Row(Protocol):
    """A row: what its cells say, what they are sorted by, and which can be typed into."""

    @property
    def cells(self) -> tuple[str, ...]: ...

    @property
    def keys(self) -> tuple[str | float, ...]: ...

    def editable(self, column: int) -> bool: ...


R = TypeVar("R", bound=Row)


class RowTable(QAbstractTableModel, Generic[R]):
    """Rows as a table; what is typed goes into the workspace.

    Attributes:
        complaint: Why what was last typed could not be taken; empty when it was.
        colour_of: The colour of a row's words where it has one of its own.
    """

    def __init__(
        self,
        workspace: Workspace,
        columns: Sequence[str],
        rows_of: Callable[[], list[R]],
        typed: Callable[[Project, R, int, str], Edit],
        step: str,
        figures: Sequence[int] = (),
    ) -> None:
        super().__init__()
        self.workspace, self.columns = workspace, columns
        self._rows_of, self._typed, self._step, self._figures = rows_of, typed, step, figures
        self.rows: list[R] = []
        self.complaint = ""
        self.colour_of: Callable[[R], QColor | None] = lambda _: None
        self.reload()

    def reload(self) -> None:
        """Show the rows as they are now."""
        rows = self._rows_of()
        if rows == self.rows:
            return
        # The same number of lines is a line changed, perhaps in a cell that is still open.
        if len(rows) == len(self.rows):
            self.rows = rows
            last = self.index(len(rows) - 1, len(self.columns) - 1)
            self.dataChanged.emit(self.index(0, 0), last)
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.columns)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.columns[section]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row, column = self.rows[index.row()], index.column()
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return row.cells[column]
        if role == Qt.ItemDataRole.ToolTipRole:
            return row.cells[column] or None
        if role == Qt.ItemDataRole.TextAlignmentRole and column in self._figures:
            return Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        if role == Qt.ItemDataRole.ForegroundRole:
            return self.colour_of(row)
        return row.keys[column] if role == SORT else None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        found = super().flags(index)
        if index.isValid() and self.rows[index.row()].editable(index.column()):
            return found | Qt.ItemFlag.ItemIsEditable
        return found

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        row, column = self.rows[index.row()], index.column()
        if role != Qt.ItemDataRole.EditRole or value == row.cells[column]:
            return False
        try:
            edit = self._typed(self.workspace.project, row, column, str(value))
            self.workspace.edit(self._step, edit)
        except GreyCurrentError as problem:
            self.complaint = str(problem)
            return False
        self.complaint = ""
        return True


class DayPicker(QStyledItemDelegate):
    """A date is picked from a calendar."""

    def createEditor(
        self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> QWidget | None:
        del option, index
        editor = QDateEdit(parent)
        editor.setCalendarPopup(True)
        editor.setDisplayFormat("yyyy-MM-dd")
        editor.setMaximumDate(QDate.currentDate())
        return editor

    def setEditorData(self, editor: QWidget | None, index: QModelIndex) -> None:
        if isinstance(editor, QDateEdit):
            editor.setDate(QDate.fromString(str(index.data(SORT)), "yyyy-MM-dd"))

    def setModelData(self, editor: QWidget | None, model: Any, index: QModelIndex) -> None:
        if isinstance(editor, QDateEdit):
            model.setData(index, editor.date().toString("yyyy-MM-dd"))
