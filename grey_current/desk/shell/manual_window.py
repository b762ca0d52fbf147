"""The manual in a window of its own beside the shop: a list of pages, a field to find one by its
words, the page.
"""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QImage, QResizeEvent, QTextDocument
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from grey_current.desk.plain import resize_on_screen
from grey_current.desk.theme import SPACE
from grey_current.workspace.manual import manual_folder, manual_pages

WIDE, HIGH, LIST = 860, 680, 190
# Pixels round a page.
MARGIN = 14
ID = Qt.ItemDataRole.UserRole


class _Page(QTextBrowser):
    """A page whose pictures are as wide as it."""

    def loadResource(self, kind: int, name: QUrl) -> Any:
        path = manual_folder() / name.path()
        if kind != QTextDocument.ResourceType.ImageResource.value or not path.is_file():
            return super().loadResource(kind, name)
        picture = QImage(str(path))
        viewport = self.viewport()
        room = (viewport.width() if viewport is not None else WIDE) - 2 * MARGIN
        smooth = Qt.TransformationMode.SmoothTransformation
        wide = min(room, picture.width())
        return picture.scaledToWidth(wide, smooth) if wide > 0 else picture


class ManualWindow(QDialog):
    """All pages of the manual. No signals."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Manual")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find in the manual…")
        self.search.setAccessibleName("Find in the manual")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self.on_searched)
        self.pages = QListWidget()
        self.pages.setAccessibleName("Pages of the manual")
        for page in manual_pages().values():
            item = QListWidgetItem(page.title)
            item.setData(ID, page.id)
            self.pages.addItem(item)
        self.pages.currentItemChanged.connect(self.on_chosen)
        self.text = _Page()
        self.text.setAccessibleName("The page")
        self.text.setOpenLinks(False)
        document = self.text.document()
        assert document is not None
        document.setDocumentMargin(MARGIN)
        self.text.anchorClicked.connect(self.on_link)
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.pages, 1)
        side = QWidget()
        side.setLayout(left)
        side.setFixedWidth(LIST)
        left.setContentsMargins(0, 0, 0, 0)
        layout = QHBoxLayout(self)
        layout.setSpacing(SPACE)
        layout.addWidget(side)
        layout.addWidget(self.text, 1)
        resize_on_screen(self, parent, WIDE, HIGH)
        self.shown = ""

    def open_page(self, ident: str) -> None:
        """Show a page. Raises `KeyError` for an unknown one."""
        page = manual_pages()[ident]
        self.shown = ident
        self.text.setMarkdown(page.text)
        for row in range(self.pages.count()):
            item = self.pages.item(row)
            if item is not None and item.data(ID) == ident and self.pages.currentRow() != row:
                self.pages.setCurrentRow(row)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Pictures are as wide as there is room for them."""
        super().resizeEvent(event)
        if self.shown:
            bar = self.text.verticalScrollBar()
            at = bar.value() if bar is not None else 0
            self.open_page(self.shown)
            if bar is not None:
                bar.setValue(at)

    def on_chosen(self, item: QListWidgetItem | None) -> None:
        """Show the page that is chosen in the list."""
        if item is not None and item.data(ID) != self.shown:
            self.open_page(str(item.data(ID)))

    def on_link(self, link: QUrl) -> None:
        """Show the page that a link leads to."""
        ident = link.fileName().removesuffix(".md")
        if ident in manual_pages():
            self.open_page(ident)

    def on_searched(self, text: str) -> None:
        """Leave the pages in the list in which all the words stand; show the first of them."""
        words = text.lower().split()
        first = None
        for row, page in enumerate(manual_pages().values()):
            item = self.pages.item(row)
            found = all(word in page.text.lower() for word in words)
            if item is not None:
                item.setHidden(not found)
                first = first if first is not None or not found else page.id
        if words and first is not None:
            self.open_page(first)
