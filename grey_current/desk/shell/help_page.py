"""A page of help: text that scrolls, in a window no larger than the screen."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QTextBrowser, QVBoxLayout, QWidget

WIDE, HIGH = 620, 640
# Share of the screen that the page takes at most.
OF_SCREEN = 0.85


class HelpPage(QDialog):
    """Shows one text (HTML of the program's own); Esc or its button puts it away. No signals."""

    def __init__(self, parent: QWidget, title: str, text: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.text = QTextBrowser()
        self.text.setOpenLinks(False)
        self.text.setHtml(text)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(self.text)
        layout.addWidget(buttons)
        screen = parent.screen()
        room = screen.availableGeometry() if screen is not None else self.geometry()
        self.resize(
            min(WIDE, round(room.width() * OF_SCREEN)), min(HIGH, round(room.height() * OF_SCREEN))
        )


def show_help(parent: QWidget, title: str, text: str) -> None:
    """Show a page of help until it is put away."""
    page = HelpPage(parent, title, text)
    page.exec()
    page.deleteLater()
