"""A page of help: text that scrolls, in a window no larger than the screen."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QTextBrowser, QVBoxLayout, QWidget

from grey_current.desk.plain import resize_on_screen

WIDE, HIGH = 620, 640


class HelpPage(QDialog):
    """Shows one text (HTML of the program's own); Esc or its button puts it away. No signals."""

    def __init__(self, parent: QWidget, title: str, text: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.text = QTextBrowser()
        self.text.setAccessibleName("The page")
        self.text.setOpenLinks(False)
        self.text.setHtml(text)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(self.text)
        layout.addWidget(buttons)
        resize_on_screen(self, parent, WIDE, HIGH)


def show_help(parent: QWidget, title: str, text: str) -> None:
    """Show a page of help until it is put away."""
    page = HelpPage(parent, title, text)
    page.exec()
    page.deleteLater()
