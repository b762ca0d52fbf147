"""The list to choose from, with the mark that says that it opens."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPalette, QPen, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QComboBox, QStyle, QStyleOptionComboBox, QStylePainter

from grey_current.desk.plain import plain_label

# Pixels: the mark's half width, and how far its middle is from the right edge.
HALF, INSET = 4.0, 13.0
# Keys that go from one entry to another.
MOVES = frozenset(
    {
        *(Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown),
        *(Qt.Key.Key_Home, Qt.Key.Key_End),
    }
)


class ChoiceBox(QComboBox):
    """A choice. A style sheet can only draw the mark from a picture in a file of one colour.

    By its keys it opens first: what is passed on the way to an entry is not chosen. The wheel
    moves the page that it is on.
    """

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        event.ignore()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        letter = event.text() if event.text().isprintable() else ""
        if event.key() in MOVES or letter.strip():
            self.showPopup()
            view = self.view()
            if letter.strip() and view is not None:
                view.keyboardSearch(letter)
            return
        super().keyPressEvent(event)

    def call(self, words: str) -> None:
        """Say what is chosen with it, where no label beside it does: to a screen reader a list is
        its choice, and what it is for its label.
        """
        self.setAccessibleName(words)
        label = plain_label(words)
        label.setParent(self.parentWidget())
        label.setBuddy(self)
        label.hide()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QStylePainter(self)
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        style = self.style()
        assert style is not None
        field = style.subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, self
        )
        if self.currentIndex() < 0:
            option.currentText = self.placeholderText()
        option.currentText = self.fontMetrics().elidedText(
            option.currentText, Qt.TextElideMode.ElideRight, field.width()
        )
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        group = QPalette.ColorGroup.Active if self.isEnabled() else QPalette.ColorGroup.Disabled
        painter.setPen(QPen(self.palette().color(group, QPalette.ColorRole.Text), 1.5))
        x, y = self.width() - INSET, self.height() / 2
        left, tip, right = QPointF(x - HALF, y - 2), QPointF(x, y + 2), QPointF(x + HALF, y - 2)
        painter.drawPolyline(QPolygonF([left, tip, right]))
        painter.end()
