"""The legend under the match chart: each kind of line and dot beside its words."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QWidget

from grey_current.desk.theme import Palette, font

# Kind of mark, its words, and what is said of it on hover.
ENTRIES = (
    ("works", "at work", "Where fan and ducts meet: the air that the machine gets."),
    ("needs", "needed", "The air that the machine asks for, and the suction that takes."),
    ("fan", "fan", "What the collector gives with its filter in use."),
    ("due", "filter due", "What the collector gives when its filter is to be cleaned."),
    ("port", "its port's limit", "All the air that the machine's own port lets through."),
)
ROW, SIGN, GAP = 15, 18, 12


class ChartLegend(QWidget):
    """What the chart's marks mean, over as many lines as its width takes. No signals."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.colours = palette
        self.setToolTip("\n".join(f"{words}: {meaning}" for _, words, meaning in ENTRIES))
        self.setAccessibleName(", ".join(words for _, words, _ in ENTRIES))

    def show_palette(self, palette: Palette) -> None:
        """Draw the marks in a palette's colours."""
        if palette != self.colours:
            self.colours = palette
            self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Be as tall as the entries need at this width."""
        super().resizeEvent(event)
        self.setFixedHeight(round(self.places(self.width())[-1].y() + ROW))

    def places(self, width: float) -> list[QPointF]:
        """The upper left corner of each entry, in pixels."""
        metrics = QFontMetricsF(font("fine"))
        found: list[QPointF] = []
        x = y = 0.0
        for _, words, _ in ENTRIES:
            wide = SIGN + metrics.horizontalAdvance(words)
            if x > 0 and x + wide > width:
                x, y = 0.0, y + ROW
            found.append(QPointF(x, y))
            x += wide + GAP
        return found

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font("fine"))
        base = (ROW + painter.fontMetrics().ascent() - painter.fontMetrics().descent()) / 2
        for (kind, words, _), corner in zip(ENTRIES, self.places(self.width()), strict=True):
            _paint_sign(painter, kind, corner + QPointF(7, ROW / 2), self.colours)
            painter.setPen(self.colours.soft)
            painter.drawText(corner + QPointF(SIGN, base), words)
        painter.end()


def _paint_sign(painter: QPainter, kind: str, middle: QPointF, p: Palette) -> None:
    """One mark as the chart draws it."""
    lines = {
        "fan": QPen(p.accent, 2.6),
        "due": QPen(p.accent, 1.6, Qt.PenStyle.DashLine),
        "port": QPen(p.starved, 1.4, Qt.PenStyle.DotLine),
    }
    if kind in lines:
        painter.setPen(lines[kind])
        painter.drawLine(middle - QPointF(7, 0), middle + QPointF(7, 0))
    elif kind == "works":
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.good)
        painter.drawEllipse(middle, 4, 4)
    else:
        painter.setPen(QPen(p.ink, 1.6))
        painter.setBrush(p.sheet)
        half = 4.0
        corners = [(0.0, -half), (half, 0.0), (0.0, half), (-half, 0.0)]
        painter.drawPolygon(QPolygonF([middle + QPointF(x, y) for x, y in corners]))
