"""Find anything: one field, and under it what it may mean; Enter runs it or goes there."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from grey_current.desk.plain import plain_label, tip
from grey_current.desk.theme import SPACE
from grey_current.workspace.finder import Entry, ranked

WIDE, ROW_HIGH, ROWS = 560, 42, 8
# Pixels of a row that are kept for a shortcut, and for its margins.
KEYS_WIDE = 150
NOTHING = "Nothing found. Try another word: a machine, a menu, a part, a question."
HOW = "Up and down to choose, Enter to go there."


class FinderDialog(QDialog):
    """The field and the list; `chosen` is what Enter or a click took, None for nothing."""

    def __init__(self, parent: QWidget, found: list[Entry]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find anything")
        self.setObjectName("finder")
        self.chosen: Entry | None = None
        self._all, self.shown = found, list[Entry]()
        self.field, self.list = QLineEdit(), QListWidget()
        self.field.setPlaceholderText("A command, a machine, a problem, a part, a question")
        self.field.setAccessibleName("Find")
        self.list.setAccessibleName("What was found")
        self.list.setMinimumHeight(ROW_HIGH * ROWS // 2)
        self.resize(WIDE, ROW_HIGH * (ROWS + 3))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.note = plain_label(HOW, "soft", wraps=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        for widget in (self.field, self.list, self.note):
            layout.addWidget(widget)
        self.setMinimumWidth(WIDE)
        self._connect_signals()
        self.on_typed("")

    def _connect_signals(self) -> None:
        self.field.textChanged.connect(self.on_typed)
        self.field.returnPressed.connect(self.on_taken)
        self.list.itemClicked.connect(self.on_clicked)
        self.field.installEventFilter(self)

    def on_typed(self, text: str) -> None:
        """Show what the text may mean."""
        self.shown = ranked(self._all, text)
        self.list.clear()
        for entry in self.shown:
            row = QListWidgetItem()
            row.setSizeHint(QSize(WIDE - 4 * SPACE, ROW_HIGH))
            if entry.act is None:
                row.setFlags(row.flags() & ~Qt.ItemFlag.ItemIsEnabled)
            self.list.addItem(row)
            self.list.setItemWidget(row, _row_of(entry))
        first = next((n for n, entry in enumerate(self.shown) if entry.act is not None), -1)
        self.list.setCurrentRow(first)
        self.note.setText(HOW if self.shown else NOTHING)

    def on_taken(self) -> None:
        """Take what is marked."""
        place = self.list.currentRow()
        entry = self.shown[place] if 0 <= place < len(self.shown) else None
        if entry is not None and entry.act is not None:
            self.chosen = entry
            self.accept()

    def on_clicked(self, row: QListWidgetItem) -> None:
        """Take what was clicked."""
        self.list.setCurrentItem(row)
        self.on_taken()

    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """Up and down move through the list while one types."""
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        if a0 is self.field and isinstance(a1, QKeyEvent) and a1.type() == QEvent.Type.KeyPress:
            step = steps.get(Qt.Key(a1.key()))
            if step is not None:
                self._move(step)
                return True
        return super().eventFilter(a0, a1)

    def _move(self, step: int) -> None:
        able = [n for n, entry in enumerate(self.shown) if entry.act is not None]
        if not able:
            return
        now = able.index(self.list.currentRow()) if self.list.currentRow() in able else -step
        self.list.setCurrentRow(able[(now + step) % len(able)])


def _row_of(entry: Entry) -> QWidget:
    """A row: what it is called, its key, and below what kind of thing it is and where."""
    row = QWidget()
    layout = QVBoxLayout(row)
    layout.setContentsMargins(SPACE, 2, SPACE, 2)
    layout.setSpacing(0)
    detail = f"{entry.kind}: {entry.detail}" if entry.detail else entry.kind
    words = f"{entry.title} {entry.key}".rstrip()
    line = QHBoxLayout()
    line.addWidget(_one_line(entry.title, "" if entry.act is not None else "soft"), 1)
    if entry.key:
        line.addWidget(plain_label(entry.key, "soft"))
    layout.addLayout(line)
    layout.addWidget(_one_line(detail, "soft"))
    row.setToolTip(tip(words))
    row.setAccessibleName(f"{words}. {detail}")
    return row


def _one_line(text: str, name: str) -> QLabel:
    """A label of one line; what does not fit ends in dots, the whole stands in the row's tip."""
    label = plain_label("", name)
    room = WIDE - KEYS_WIDE
    label.ensurePolished()
    label.setText(label.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, room))
    label.setToolTip(tip(text))
    return label


def find_anything(
    parent: QWidget, found: list[Entry], run: Callable[[Entry], object]
) -> Entry | None:
    """Ask what is looked for and run it; returned is what was chosen."""
    dialog = FinderDialog(parent, found)
    dialog.exec()
    if dialog.chosen is not None:
        run(dialog.chosen)
    return dialog.chosen
