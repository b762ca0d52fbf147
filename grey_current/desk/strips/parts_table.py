"""The parts to buy, one a row under the heading of its group; a tick in front says that it is
bought.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TypeVar

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QScrollArea, QWidget

from grey_current.build.bill import Bill, Line
from grey_current.build.selling import sold_by
from grey_current.build.words import about_digits, bought_words, quantity_words
from grey_current.desk import glyphs
from grey_current.desk.plain import draw_cut
from grey_current.desk.theme import Palette, font
from grey_current.numerals import decimal
from grey_current.units import Display

ROW = 19
TICK = 22.0
QUANTITY = 52.0
MONEY = 84.0
# Least pixels for a part's name: columns of money give way to it.
LEAST_NAME = 150.0
NO_PRICE = "no price"
_Cell = TypeVar("_Cell")


@dataclass(frozen=True)
class _Row:
    """A heading (no line) or a part."""

    words: str
    line: Line | None = None


class PartsTable(QWidget):
    """The rows. Signals: `picked` (part key) when one is clicked, `ticked` (part key) when its box
    is.
    """

    picked = pyqtSignal(str)
    ticked = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Parts to buy")
        self.setToolTip(
            "Click a part to see where it goes; click its box, or press space, when it is bought."
        )
        self.rows: list[_Row] = []
        self.chosen: str | None = None
        self._for: set[str] = set()
        self._currency = ""
        self.colours: Palette | None = None
        self.display = Display("us")

    def show_bill(
        self, found: Bill, chosen: str | None, elements: set[str], palette: Palette
    ) -> None:
        """Show another bill; parts that are for some `elements` stand out."""
        project = found.parts.project
        self.display, self.colours = Display(project.settings.units), palette
        self._for, self._currency = elements, project.build.currency
        rows, group = [], ""
        for line in found.lines:
            if line.part.group != group:
                group = line.part.group
                rows.append(_Row(group))
            rows.append(_Row(bought_words(line, self.display), line))
        self.rows = rows
        moved, self.chosen = chosen != self.chosen, chosen
        self.setMinimumHeight(ROW * len(rows))
        if moved and chosen is not None:
            self._show_row(chosen)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(500, ROW * max(len(self.rows), 1))

    def _show_row(self, key: str) -> None:
        number = next(
            (n for n, row in enumerate(self.rows) if row.line and row.line.part.key == key), None
        )
        parent = self.parentWidget()
        area = parent.parentWidget() if parent is not None else None
        if number is not None and isinstance(area, QScrollArea):
            area.ensureVisible(0, number * ROW + ROW // 2, 0, ROW)

    def row_at(self, y: float) -> int | None:
        """The row at a pixel down, or None."""
        number = int(y // ROW)
        return number if 0 <= number < len(self.rows) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.row_at(event.position().y()) if event else None
        line = self.rows[number].line if number is not None else None
        if line is None or event is None:
            return
        self.setFocus()
        (self.ticked if event.position().x() < TICK else self.picked).emit(line.part.key)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down walk over the parts, space ticks one as bought."""
        keys = [row.line.part.key for row in self.rows if row.line]
        if event is None or not keys:
            super().keyPressEvent(event)
            return
        now = keys.index(self.chosen) if self.chosen in keys else -1
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.key() in steps:
            key = keys[min(max(now + steps[Qt.Key(event.key())], 0), len(keys) - 1)]
            if key != self.chosen:
                self.picked.emit(key)
        elif event.key() == Qt.Key.Key_Space and now >= 0:
            self.ticked.emit(keys[now])
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.colours is None or event is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        top, bottom = event.rect().top(), event.rect().bottom()
        for number, row in enumerate(self.rows):
            box = QRectF(0, number * ROW, self.width(), ROW)
            if box.bottom() >= top and box.top() <= bottom:
                self._paint_row(painter, box, row)
        painter.end()

    def _paint_row(self, painter: QPainter, box: QRectF, row: _Row) -> None:
        p = self.colours
        assert p is not None
        middle = Qt.AlignmentFlag.AlignVCenter
        if row.line is None:
            painter.setFont(font("fine", bold=True))
            painter.setPen(p.soft)
            painter.drawText(box.adjusted(2, 2, 0, 0), middle, row.words)
            if box.top() == 0:
                painter.setFont(font("fine"))
                for place, title in self._money_boxes(box, ("each", "in all", "to pay")):
                    painter.drawText(place, Qt.AlignmentFlag.AlignRight | middle, title)
            return
        line = row.line
        if line.part.key == self.chosen or self._for.intersection(line.part.elements):
            painter.fillRect(box, p.machine_on)
        paint_tick(painter, QRectF(4, box.top() + 4, 11, 11), line.left <= 0, p)
        painter.setFont(font("small"))
        painter.setPen(p.soft if line.left <= 0 else p.ink)
        right = Qt.AlignmentFlag.AlignRight | middle
        painter.drawText(
            QRectF(TICK, box.top(), QUANTITY - 8, ROW),
            right,
            quantity_words(line.part, self.display),
        )
        wide = box.width() - TICK - QUANTITY - self._columns() * MONEY - 6
        draw_cut(painter, QRectF(TICK + QUANTITY, box.top(), wide, ROW), row.words)
        unit = sold_by(line.part.key, self.display)
        # A usual price is a guess until a real one is entered, and looks like one.
        usual, sums = line.usual is not None, p.soft if line.usual is not None else p.ink
        each = None if line.price is None else line.price * unit.size
        cells = (
            (_cell(each, usual), p.soft),
            (NO_PRICE, p.short) if line.sum is None else (_cell(line.sum, usual), sums),
            ("bought" if line.left <= 0 else _cell(line.left_sum, usual), p.soft),
        )
        for place, (cell, colour) in self._money_boxes(box, cells):
            painter.setPen(colour)
            painter.drawText(place, right, cell)

    def _columns(self) -> int:
        """How many columns of money there is room for beside a name; the last matters most."""
        room = (self.width() - TICK - QUANTITY - LEAST_NAME) // MONEY
        return int(min(max(room, 1), 3))

    def _money_boxes(self, row: QRectF, cells: Sequence[_Cell]) -> Iterator[tuple[QRectF, _Cell]]:
        """The last cells of a row, as many as there is room for, each with its place."""
        shown = self._columns()
        for number, cell in enumerate(cells[-shown:]):
            left = row.width() - (shown - number) * MONEY
            yield QRectF(left, row.top(), MONEY - 8, ROW), cell


def _cell(money: float | None, usual: bool) -> str:
    """A sum in a column; a usual price without digits that nobody knows."""
    if money is None:
        return ""
    return f"≈ {decimal(money, about_digits(money))}" if usual else decimal(money, 2)


def paint_tick(painter: QPainter, box: QRectF, done: bool, p: Palette) -> None:
    """A box to tick."""
    painter.setPen(QPen(p.soft, 1))
    painter.setBrush(p.raised)
    painter.drawRect(box)
    if done:
        glyphs.draw_tick(painter, box, p.good)
