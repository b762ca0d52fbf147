"""What is printed before it is: every page as it will be, with buttons to print and to save."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from grey_current.desk.choice_box import ChoiceBox
from grey_current.desk.papers.layout import SIZES, PaperPage
from grey_current.desk.papers.painting import picture
from grey_current.desk.plain import plain_label, resize_on_screen
from grey_current.desk.theme import SPACE
from grey_current.errors import GreyCurrentError

PREVIEW_DPI = 84.0


# What makes the pages of one kind on sheets of a size; None where somebody cancelled it.
MakePages = Callable[[str], list[PaperPage] | None]


class PapersDialog(QDialog):
    """All pages of one kind one under the other. Signals: `printing` (pages), `saving` (pages,
    size).
    """

    printing = pyqtSignal(list)
    saving = pyqtSignal(list, str)

    def __init__(
        self, parent: QWidget, title: str, kinds: Mapping[str, MakePages], size: str
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        resize_on_screen(self, parent, 980, 720)
        self._kinds, self.size_name = kinds, size
        self.pages: list[PaperPage] = []
        self.kind = ChoiceBox(self)
        self.kind.call("What is printed")
        self.kind.addItems(list(kinds))
        self.kind.currentTextChanged.connect(lambda _: self.show_size(self.size_name))
        self.sheets = ChoiceBox(self)
        self.sheets.call("Sheets of")
        self.sheets.addItems(list(SIZES))
        self.sheets.setCurrentText(size)
        self.sheets.currentTextChanged.connect(self.show_size)
        self.count = plain_label("", "soft")
        self.printer, self.saver = QPushButton("Print…"), QPushButton("Save as PDF…")
        close = QPushButton("Close")
        self.printer.clicked.connect(lambda: self.printing.emit(self.pages))
        self.saver.clicked.connect(lambda: self.saving.emit(self.pages, self.size_name))
        close.clicked.connect(self.accept)
        self.complaint = plain_label("", "bad", wraps=True)
        self.complaint.hide()
        top = QHBoxLayout()
        top.addWidget(self.kind)
        top.addWidget(plain_label("on"))
        top.addWidget(self.sheets)
        top.addWidget(self.count, 1)
        for button in (self.printer, self.saver, close):
            top.addWidget(button)
        self._scroll = QScrollArea()
        self._scroll.setAccessibleName("The pages")
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
        """Show the pages of the chosen kind on a size of sheet; what cannot be made is said."""
        self.size_name, self.pages = size, []
        self.complain("")
        try:
            self.pages = self._kinds[self.kind.currentText()](size) or []
        except GreyCurrentError as problem:
            self.complain(str(problem))
        pages = "1 page" if len(self.pages) == 1 else f"{len(self.pages)} pages"
        self.count.setText(f"{pages}; print at full size, without fitting to the page")
        for button in (self.printer, self.saver):
            button.setEnabled(bool(self.pages))
        body = QWidget()
        column = QVBoxLayout(body)
        column.setSpacing(SPACE * 2)
        for page in self.pages:
            sheet = plain_label()
            sheet.setPixmap(QPixmap.fromImage(picture(page, PREVIEW_DPI)))
            column.addWidget(sheet, 0, Qt.AlignmentFlag.AlignHCenter)
        self._scroll.setWidget(body)
