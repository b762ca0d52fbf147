"""A small drawing on the page, in the page's own colours."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from grey_current.build.drawing import Drawing
from grey_current.desk.inspector.fields import Picture
from grey_current.desk.plain import tip
from grey_current.desk.theme import Palette

# Pixels for a millimetre of the drawing, where there is room for it.
LARGEST = 4.2


class DrawnPicture(QWidget):
    """A drawing as wide as the page, its lines in ink; what it shows is told on hover and to a
    screen reader.
    """

    def __init__(self, item: Picture, palette: Palette) -> None:
        super().__init__()
        self.colours = palette
        self._drawing = item.drawing
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.show_item(item)

    def show_item(self, item: Picture) -> None:
        """Show another drawing of the same size."""
        self._drawing = item.drawing
        self.setToolTip(tip(item.words))
        self.setAccessibleName(item.words)
        self.update()

    def _scale(self, width: int) -> float:
        left, _, right, _ = self._drawing.bounds
        return min(width / ((right - left) * 1000), LARGEST)

    def heightForWidth(self, width: int) -> int:
        _, low, _, high = self._drawing.bounds
        return round((high - low) * 1000 * self._scale(width)) + 2

    def sizeHint(self) -> QSize:
        return QSize(300, self.heightForWidth(300))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_to_fit(painter, self._drawing, self._scale(self.width()), self.height(), self.colours)
        painter.end()


def draw_to_fit(
    painter: QPainter, drawing: Drawing, scale: float, height: float, palette: Palette
) -> None:
    """Draw at so many pixels for a millimetre, from the left, its foot at a height (pixels)."""
    # The painting of papers is needed first when a picture is: it takes Qt's printing along.
    from grey_current.desk.papers.painting import paint_drawing  # noqa: PLC0415

    left, low, _, _ = drawing.bounds
    foot = (height - 1) / scale
    paint_drawing(
        painter, drawing, (0.0, foot), (left, low), scale, ink=palette.ink, paper=palette.sheet
    )
