"""Texts on screen as they are written: names come from files of anybody, and are never read as
markup.
"""

from __future__ import annotations

import html
import re
from collections.abc import Collection

from PyQt6.QtCore import QEvent, QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QLabel, QWidget

# A space and a stroke at which no line ends, as wide as the usual ones.
NO_BREAK, STROKE = "\u00a0", "\u2215"
PER = re.compile(r"(?<=m³)/(?=h)|(?<=\bm)/(?=s)|(?<=mg)/(?=m³)|(?<=lb)/(?=ft³)")
# A figure and the unit behind it.
FIGURE = re.compile(
    r"(\d) (m³/h|m³|m²|m/s|mm|cm|m|ft|fpm|in|inH2O|CFM|Pa|kW|W|A|V|HP|hp|dB|dBA|kg|lb|l|gal|mg/m³|"
    r"°[CF]|%|USD|EUR|min|h|s)(?!\w)"
)


def plain_label(text: str = "", name: str = "", wraps: bool = False) -> QLabel:
    """A label that shows its text and nothing else; `name` is what the style sheet knows it by."""
    label = Wrapped() if wraps else QLabel()
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setObjectName(name)
    label.setWordWrap(wraps)
    label.setText(text)
    return label


class Wrapped(QLabel):
    """A label of several lines that parts no figure from its unit, and no unit at its stroke."""

    def setText(self, text: str | None) -> None:
        super().setText(unparted(text or ""))

    def text(self) -> str:
        """What it says, as it was given."""
        return super().text().replace(STROKE, "/").replace(NO_BREAK, " ")


def unparted(text: str) -> str:
    """A sentence whose figures stay on one line with their units, wherever it is broken."""
    return PER.sub(STROKE, FIGURE.sub(rf"\1{NO_BREAK}\2", text))


class OneLine(QLabel):
    """A label of one line that is cut short where there is no room; the whole is on hover."""

    def __init__(self, name: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setObjectName(name)

    def setText(self, text: str | None) -> None:
        super().setText(text)
        self.setToolTip(tip(text or ""))

    def minimumSizeHint(self) -> QSize:
        return QSize(60, super().minimumSizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.fontMetrics().horizontalAdvance(self.text()) <= self.contentsRect().width():
            super().paintEvent(event)
            return
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        draw_cut(painter, QRectF(self.contentsRect()), self.text(), self.alignment())
        painter.end()


# The share of the screen that a dialog takes at most.
OF_SCREEN = 0.9


def resize_on_screen(dialog: QWidget, parent: QWidget, wide: int, high: int) -> None:
    """Give a dialog its size, or as much of it as the parent's screen has."""
    screen = parent.screen()
    if screen is not None:
        room = screen.availableSize() * OF_SCREEN
        wide, high = min(wide, room.width()), min(high, room.height())
    dialog.resize(wide, high)


def draw_cut(
    painter: QPainter,
    box: QRectF,
    text: str,
    align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignVCenter,
) -> None:
    """Draw a line of text in the painter's font, cut short where the box is too narrow."""
    shown = painter.fontMetrics().elidedText(
        text, Qt.TextElideMode.ElideRight, int(box.width() + 0.5)
    )
    painter.drawText(box, align, shown)


def tip(text: str) -> str:
    """A tool tip's text so that Qt shows it as it is written; it would take a name with brackets
    for markup.
    """
    if "<" in text or "&" in text:
        return f"<qt>{html.escape(text)}</qt>".replace("\n", "<br>")
    return text


# What a machine's row is, while it is dragged from the rack.
MACHINE_DRAG = "application/x-grey-current-machine"


def takes_key(event: QEvent | None, keys: Collection[int]) -> bool:
    """Whether an event asks who wants one of some keys before a menu takes it; it is accepted
    then.
    """
    if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.ShortcutOverride:
        return False
    if event.key() in keys:
        event.accept()
        return True
    return False
