"""A small table on the page: words that break over lines, then figures under their headings."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLabel, QSizePolicy, QWidget

from grey_current.desk.inspector.fields import Table
from grey_current.desk.inspector.rows import Mark, page_label
from grey_current.desk.theme import Palette

# Letters of a cell of figures that stay on one line.
ONE_LINE = 16


class TableGrid(QWidget):
    """A table as a grid of labels; a screen reader is told it row by row."""

    def __init__(self, item: Table, palette: Palette) -> None:
        super().__init__()
        self.colours = palette
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 2)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(6)
        self._grid.setColumnStretch(0, 1)
        self._cells: list[list[QLabel]] = []
        self._marks: list[Mark] = []
        for column, heading in enumerate(item.headings):
            self._place(0, column, heading, "soft")
        for number, row in enumerate(item.rows, 1):
            self._cells.append(
                [self._place(number, column, text) for column, text in enumerate(row)]
            )
            if item.states:
                mark = Mark(item.states[number - 1], palette)
                self._marks.append(mark)
                self._grid.addWidget(mark, number, len(item.headings))
        self.show_item(item)

    def _place(self, row: int, column: int, text: str, name: str = "") -> QLabel:
        label = page_label(text, name)
        if column:
            label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            label.setWordWrap(len(text) > ONE_LINE)
        self._grid.addWidget(label, row, column)
        return label

    def show_item(self, item: Table) -> None:
        """Show other words in the same cells."""
        for labels, row in zip(self._cells, item.rows, strict=True):
            for column, (label, text) in enumerate(zip(labels, row, strict=True)):
                label.setText(text)
                if column:
                    label.setWordWrap(len(text) > ONE_LINE)
        for mark, state in zip(self._marks, item.states, strict=False):
            mark.show_state(state, self.colours)
        lines = [
            ", ".join(f"{head}: {text}" if head else text for head, text in named if text)
            for named in (zip(item.headings, row, strict=True) for row in item.rows)
        ]
        self.setAccessibleName(". ".join(lines))
