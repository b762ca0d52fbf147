"""The bars to cut: every length of pipe with its pieces in order, each with its number; a tick says
that it is cut.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from grey_current.build.cuts import BarCut, PipeCuts, numbered
from grey_current.design.parts.straights import Straight
from grey_current.desk.plain import tip
from grey_current.desk.strips.parts_table import paint_tick
from grey_current.desk.theme import Palette, font, mixed
from grey_current.shop.names import Names
from grey_current.units import Display

HOW = "Click a piece to see where it goes; click its box, or press space, when it is cut."
ROW = 34
LABEL = 104.0
TICK = 15.0


class CutBars(QWidget):
    """The bars. Signals: `picked` (run) when a piece is clicked, `ticked` (piece, length, done)
    when its box is.
    """

    picked = pyqtSignal(str)
    ticked = pyqtSignal(str, float, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lengths of pipe and the pieces cut out of them")
        self.setMouseTracking(True)
        self.setToolTip(HOW)
        self.names: Names | None = None
        self.cuts: Sequence[PipeCuts] = ()
        self.numbers: dict[str, int] = {}
        self.done: set[str] = set()
        self.chosen: set[str] = set()
        self.at: str | None = None
        self.colours: Palette | None = None
        self.display = Display("us")

    def show_cuts(
        self,
        cuts: Sequence[PipeCuts],
        display: Display,
        done: set[str],
        chosen: set[str],
        palette: Palette,
        names: Names,
    ) -> None:
        """Show other bars; pieces of the `chosen` runs stand out, `names` say where each goes."""
        self.names = names
        self.cuts, self.display, self.done, self.chosen, self.colours = (
            cuts,
            display,
            done,
            chosen,
            palette,
        )
        self.numbers = numbered(cuts)
        self.setMinimumHeight(ROW * max(sum(len(pipe.bars) for pipe in cuts), 1))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(500, ROW * max(sum(len(pipe.bars) for pipe in self.cuts), 1))

    def boxes(self) -> Iterator[tuple[PipeCuts, BarCut, QRectF, list[tuple[Straight, QRectF]]]]:
        """Every bar with its place, and its pieces with theirs, in pixels."""
        longest = max((bar.length for pipe in self.cuts for bar in pipe.bars), default=1.0)
        scale = (self.width() - LABEL - 12) / longest
        top = 0.0
        for pipe in self.cuts:
            for bar in pipe.bars:
                whole = QRectF(LABEL, top + 4, bar.length * scale, ROW - 10)
                gap = (bar.length - bar.rest - sum(piece.length for piece in bar.pieces)) / max(
                    len(bar.pieces), 1
                )
                x, pieces = LABEL, []
                for piece in bar.pieces:
                    pieces.append((piece, QRectF(x, top + 4, piece.length * scale, ROW - 10)))
                    x += (piece.length + max(gap, 0.0)) * scale
                yield pipe, bar, whole, pieces
                top += ROW

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.setFocus()
        piece = self.piece_at(event.position())
        if piece is None:
            return
        self.at = piece.id
        box = self.box_of(piece)
        if event.position().x() < box.left() + TICK + 2 and box.width() > TICK + 2:
            self._tick(piece)
        else:
            self.picked.emit(piece.run)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        piece = self.piece_at(event.position()) if event is not None else None
        self.setToolTip(HOW if piece is None else tip(self.words_of(piece)))

    def piece_at(self, place: QPointF) -> Straight | None:
        """The piece at a pixel, or None."""
        for _, _, _, pieces in self.boxes():
            for piece, box in pieces:
                if box.contains(place):
                    return piece
        return None

    def box_of(self, piece: Straight) -> QRectF:
        """Where a piece is, in pixels."""
        return next(
            box for _, _, _, pieces in self.boxes() for other, box in pieces if other is piece
        )

    def words_of(self, piece: Straight) -> str:
        """A piece's number, its length and where it goes."""
        where = f": {self.names.of(piece.run)}" if self.names is not None else ""
        return f"{self.numbers[piece.id]}, {self.display.length(piece.length)}{where}"

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows walk over the pieces in their order, space ticks one as cut."""
        found = [piece for pipe in self.cuts for bar in pipe.bars for piece in bar.pieces]
        if event is None or not found:
            super().keyPressEvent(event)
            return
        ids = [piece.id for piece in found]
        now = ids.index(self.at) if self.at in ids else -1
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1}
        if event.key() in steps:
            piece = found[min(max(now + steps[Qt.Key(event.key())], 0), len(found) - 1)]
            self.at = piece.id
            self.picked.emit(piece.run)
            self.update()
        elif event.key() == Qt.Key.Key_Space and now >= 0:
            self._tick(found[now])
        else:
            super().keyPressEvent(event)

    def _tick(self, piece: Straight) -> None:
        self.ticked.emit(piece.id, piece.length, piece.id not in self.done)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self.colours is None:
            return
        p = self.colours
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for pipe, bar, whole, pieces in self.boxes():
            painter.setFont(font("small"))
            painter.setPen(p.ink)
            words = f"{self.display.diameter(pipe.diameter)}, {self.display.length(bar.length)}"
            box = QRectF(0, whole.top(), LABEL - 8, whole.height())
            painter.drawText(box.adjusted(0, -1, 0, -10), Qt.AlignmentFlag.AlignVCenter, words)
            painter.setFont(font("fine"))
            painter.setPen(p.soft)
            note = f"{'offcut, ' if bar.owned else ''}{self.display.length(bar.rest)} left"
            painter.drawText(box.adjusted(0, 13, 0, 2), Qt.AlignmentFlag.AlignVCenter, note)
            painter.setPen(QPen(p.rule, 1))
            painter.setBrush(p.bench)
            painter.drawRect(whole)
            for piece, spot in pieces:
                self._paint_piece(painter, spot, piece)
        painter.end()

    def _paint_piece(self, painter: QPainter, box: QRectF, piece: Straight) -> None:
        p = self.colours
        assert p is not None
        cut, chosen = piece.id in self.done, piece.run in self.chosen
        painter.setPen(
            QPen(
                p.accent if chosen or (piece.id == self.at and self.hasFocus()) else p.ink,
                2 if chosen else 1,
            )
        )
        fill = p.machine_on if chosen else p.raised
        painter.setBrush(mixed(p.raised, p.good, 0.45) if cut else fill)
        painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
        left = 4.0
        if box.width() > TICK + 6:
            paint_tick(painter, QRectF(box.left() + 4, box.center().y() - 5, 10, 10), cut, p)
            left = TICK + 3
        painter.setPen(p.ink)
        painter.setFont(font("fine", bold=True))
        number = f"{self.numbers[piece.id]}"
        metrics = painter.fontMetrics()
        inside = box.adjusted(left, 0, -2, 0)
        if metrics.horizontalAdvance(number) <= inside.width():
            painter.drawText(inside, Qt.AlignmentFlag.AlignVCenter, number)
        length = self.display.length(piece.length)
        room = inside.adjusted(metrics.horizontalAdvance(number) + 6, 0, 0, 0)
        painter.setFont(font("fine"))
        if painter.fontMetrics().horizontalAdvance(length) <= room.width():
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, length)
