"""The steps that were made, as a list: a click goes back or forward to one."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from grey_current.desk.plain import plain_label, resize_on_screen
from grey_current.desk.theme import SPACE

WIDE, HIGH = 380, 460
NOW = "now"
AWAY = Qt.ItemDataRole.UserRole


class HistoryDialog(QDialog):
    """The list of steps, the latest first, with the one that is shown marked. `go` is called with
    how many steps away a chosen one is.
    """

    def __init__(
        self, parent: QWidget, steps: Callable[[], list[tuple[int, str]]], go: Callable[[int], None]
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("History")
        self._steps, self._go = steps, go
        self.list = QListWidget()
        self.list.setAccessibleName("Steps")
        self.list.itemActivated.connect(self.on_taken)
        self.list.itemClicked.connect(self.on_taken)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.addWidget(plain_label("Click a step to go there; nothing is lost.", "soft"))
        layout.addWidget(self.list)
        layout.addWidget(buttons)
        resize_on_screen(self, parent, WIDE, HIGH)
        self.show_steps()

    def show_steps(self) -> None:
        """Show the steps as they are now."""
        self.list.clear()
        for away, words in self._steps():
            row = QListWidgetItem(f"{words} ({NOW})" if away == 0 else words)
            row.setData(AWAY, away)
            if away > 0:
                # What was undone and can be done again.
                row.setForeground(self.palette().placeholderText())
            self.list.addItem(row)
            if away == 0:
                self.list.setCurrentItem(row)

    def on_taken(self, row: QListWidgetItem) -> None:
        """Go to a step."""
        self._go(int(row.data(AWAY)))
        self.show_steps()
