"""Asks what of the shop goes on a page to share: a question, prices, own notes."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from grey_current.desk.plain import plain_label
from grey_current.desk.theme import SPACE
from grey_current.files.share_page import Sharing


class ShareDialog(QDialog):
    """What is shared. No signals."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("A page to share")
        self.setMinimumWidth(420)
        words = plain_label(
            "One page with the plan, the shop in space, what each machine gets, the problems and "
            "the parts. It needs no network: send it, or show it in a forum.",
            wraps=True,
        )
        self.question = QPlainTextEdit()
        self.question.setPlaceholderText("Your question, which stands on top")
        self.question.setAccessibleName("Your question")
        self.question.setTabChangesFocus(True)
        self.question.setFixedHeight(72)
        self.prices = QCheckBox("With prices")
        self.notes = QCheckBox("With my notes on machines and in the logbook")
        buttons = QDialogButtonBox()
        save = buttons.addButton("Save the page…", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        assert save is not None
        save.setObjectName("primary")
        save.setDefault(True)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.setSpacing(SPACE)
        for widget in (words, self.question, self.prices, self.notes, buttons):
            layout.addWidget(widget)

    @property
    def wanted(self) -> Sharing:
        """What was chosen."""
        return Sharing(self.prices.isChecked(), self.notes.isChecked(), self.question.toPlainText())
