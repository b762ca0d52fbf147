"""The papers before they are printed: every page as it will be, with buttons to print and to
save.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from grey_current.build.papers import Papers
from grey_current.desk.choice_box import ChoiceBox
from grey_current.desk.papers.layout import SIZES, PaperPage, pages
from grey_current.desk.papers.painting import picture
from grey_current.desk.plain import plain_label, resize_on_screen
from grey_current.desk.theme import SPACE

PREVIEW_DPI = 84.0


class PapersDialog(QDialog):
    """All pages one under the other. Signals: `printing` (pages), `saving` (pages, size)."""

    printing = pyqtSignal(list)
    saving = pyqtSignal(list, str)

    def __init__(self, parent: QWidget, papers: Papers, size: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Papers of {papers.title}")
        resize_on_screen(self, parent, 980, 720)
        self.papers, self.size_name = papers, size
        self.pages: list[PaperPage] = []
        self.sheets = ChoiceBox()
        self.sheets.addItems(list(SIZES))
        self.sheets.setCurrentText(size)
        self.sheets.currentTextChanged.connect(self.show_size)
        self.count = plain_label("", "soft")
        printing, saving, close = (
            QPushButton("Print…"),
            QPushButton("Save as PDF…"),
            QPushButton("Close"),
        )
        printing.clicked.connect(lambda: self.printing.emit(self.pages))
        saving.clicked.connect(lambda: self.saving.emit(self.pages, self.size_name))
        close.clicked.connect(self.accept)
        self.complaint = plain_label("", "bad", wraps=True)
        self.complaint.hide()
        top = QHBoxLayout()
        top.addWidget(plain_label("Sheets of"))
        top.addWidget(self.sheets)
        top.addWidget(self.count, 1)
        for button in (printing, saving, close):
            top.addWidget(button)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        layout = QVBoxLayout(self)
        layout.addLayout(top)
        layout.addWidget(self.complaint)
        layout.addWidget(self._scroll, 1)
        self.show_size(size)

    def complain(self, sentence: str) -> None:
        """Say why something could not be done."""
        self.complaint.setText(sentence)
        self.complaint.setVisible(bool(sentence))

    def show_size(self, size: str) -> None:
        """Show the pages on another size of sheet."""
        self.size_name = size
        self.pages = pages(self.papers, size)
        self.count.setText(
            f"{len(self.pages)} pages; print them at full size, without fitting to the page"
        )
        body = QWidget()
        column = QVBoxLayout(body)
        column.setSpacing(SPACE * 2)
        for page in self.pages:
            sheet = plain_label()
            sheet.setPixmap(QPixmap.fromImage(picture(page, PREVIEW_DPI)))
            column.addWidget(sheet, 0, Qt.AlignmentFlag.AlignHCenter)
        self._scroll.setWidget(body)
