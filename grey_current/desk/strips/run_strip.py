"""The run strip: the selected machine's air path unrolled; a click selects, a hose's end can be
dragged.

While nothing runs and nothing is selected it shows the whole shop instead.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QWheelEvent

from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.strips.run_facts import StripFacts, strip_facts
from grey_current.desk.strips.run_paint import LEFT, RIGHT, paint_strip
from grey_current.desk.strips.shop_bars import HEAD, ROW, ShopBars, paint_bars, shop_bars, told
from grey_current.desk.theme import Palette, font
from grey_current.shop import edits
from grey_current.shop.places import distance
from grey_current.units import INCH, Display
from grey_current.workspace.workspace import Workspace

# Pixels beside a hose's end within which it can be taken.
EDGE = 5.0


@dataclass(frozen=True)
class _HoseDrag:
    """A hose whose end is dragged: its run, its length and least length (m), pixels a metre, where
    it was taken.
    """

    run: str
    length: float
    least: float
    scale: float
    x: float


# The share of the strip's width that fittings may take before they are drawn smaller.
MOST_FIXED = 0.7


class RunStrip(StripPanel):
    """The run strip: signals `chosen` when a piece is clicked.

    A hose's right edge can be dragged: the hose gets shorter or longer, and the pressure line moves
    with it.
    """

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.setMouseTracking(True)
        self.setAccessibleName("Air path of the selected machine")
        self.facts: StripFacts | None = strip_facts(workspace)
        self.bars: ShopBars | None = shop_bars(workspace) if self.facts is None else None
        self._first = 0
        self._told = ""
        self._hover: int | None = None
        self._hose: _HoseDrag | None = None

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        self.facts = strip_facts(self.workspace)
        self.bars = shop_bars(self.workspace) if self.facts is None else None
        self._hover, self._told = None, ""
        self._scroll_to(self._first)
        self.update()

    @property
    def has_something(self) -> bool:
        """Whether there are machines: while their first duct is drawn the floor must not grow or
        shrink.
        """
        return bool(self.workspace.project.machines)

    def spans(self) -> list[tuple[float, float]]:
        """Left and right edge of every piece in pixels: lengths to one scale, fittings at a fixed
        width.
        """
        pieces = self.facts.pieces if self.facts else ()
        room = max(self.width() - LEFT - RIGHT, 1.0)
        fixed = sum(piece.width for piece in pieces) or 1.0
        length = sum(piece.length for piece in pieces) or 1.0
        # In a narrow strip fittings are drawn smaller, so that the last one is still in it.
        shrunk = min(1.0, MOST_FIXED * room / fixed)
        scale = (room - fixed * shrunk) / length
        edges = [LEFT]
        for piece in pieces:
            edges.append(edges[-1] + piece.width * shrunk + piece.length * scale)
        return list(itertools.pairwise(edges))

    def piece_at(self, x: float) -> int | None:
        """The piece at a pixel across, or None."""
        for index, (left, right) in enumerate(self.spans()):
            if left <= x < right:
                return index
        return None

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.facts is None and self.bars is not None:
            paint_bars(
                painter,
                QRectF(self.rect()),
                self.workspace,
                self.bars,
                self._first,
                self._told,
                self.colours,
            )
        elif self.facts is None:
            painter.setPen(self.colours.soft)
            painter.setFont(font("body"))
            painter.drawText(
                self.rect().adjusted(12, 0, -12, 0),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                _empty_words(self.workspace),
            )
        else:
            spans = self.spans()
            display = Display(self.workspace.project.settings.units)
            paint_strip(
                painter,
                QRectF(self.rect()),
                self.facts,
                spans,
                self.colours,
                display,
                self.workspace.selection,
                self._hover,
            )
        painter.end()

    # -- the whole shop, while nothing runs

    def bar_at(self, spot: QPointF) -> tuple[int, str, str] | None:
        """The machine's row, the part of its bar and the element that takes most of it at a pixel;
        None for none.
        """
        if self.bars is None:
            return None
        line = int((spot.y() - HEAD) // ROW)
        row = self._first + line
        if not (0 <= line < self.bars.fits(self.height()) and row < len(self.bars.rows)):
            return None
        shares = self.bars.shares(row, line, self.width())
        return next(
            ((row, part, element) for rect, part, element in shares if rect.contains(spot)),
            (row, "", ""),
        )

    def _scroll_to(self, first: int) -> None:
        rows = len(self.bars.rows) - self.bars.fits(self.height()) if self.bars else 0
        self._first = min(max(first, 0), max(rows, 0))
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel walks along a shop of more machines than there is room for."""
        if event is not None and self.bars is not None:
            self._scroll_to(self._first - (1 if event.angleDelta().y() > 0 else -1))

    def _tell_bar(self, spot: QPointF) -> None:
        found = self.bar_at(spot)
        if self.bars and found and found[1]:
            words = told(self.workspace, self.bars, found[0], found[1])
        else:
            words = ""
        if words != self._told:
            self._told = words
            self.update()

    def _take_bar(self, spot: QPointF) -> None:
        """Switch a machine on, and go to the part of its bar that was clicked."""
        found = self.bar_at(spot)
        if self.bars is None or found is None:
            return
        row, _, element = found
        machine = self.bars.rows[row].machine
        self.workspace.switch_on((machine,))
        self.chosen.emit(element or machine)

    def hose_edge_at(self, x: float) -> int | None:
        """The hose whose right edge is at a pixel across, or None."""
        for index, (_, right) in enumerate(self.spans()):
            if self.facts and self.facts.pieces[index].kind == "hose" and abs(right - x) < EDGE:
                return index
        return None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self.bars is not None:
            self._tell_bar(event.position())
            return
        x = event.position().x()
        if self._hose is not None:
            self._drag_hose(self._hose, x)
            return
        edge = self.hose_edge_at(x) is not None
        self.setCursor(Qt.CursorShape.SplitHCursor if edge else Qt.CursorShape.ArrowCursor)
        found = self.piece_at(x)
        if found != self._hover:
            self._hover = found
            self.update()

    def _drag_hose(self, drag: _HoseDrag, x: float) -> None:
        """Show the hose at the length that the pointer asks for, never shorter than its way."""
        project = self.workspace.project
        step = INCH if project.settings.units == "us" else 0.01
        length = max(round((drag.length + (x - drag.x) / drag.scale) / step) * step, drag.least)
        if not self.workspace.in_gesture:
            self.workspace.begin("Change the hose")
        self.attempt(
            lambda: self.workspace.preview(lambda p: edits.with_hose_length(p, drag.run, length))
        )

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        del event
        if self._hose is not None:
            self._hose = None
            self.workspace.commit()

    def _take_hose(self, index: int, x: float) -> None:
        """Begin to drag a hose's end."""
        if self.facts is None:
            return
        piece, (left, right) = self.facts.pieces[index], self.spans()[index]
        project = self.workspace.project
        run = project.run[piece.element]
        distances = [distance(project, run, ref) for ref in run.serves]
        scale = max((right - left) / max(piece.length, 0.02), 1.0)
        self._hose = _HoseDrag(run.id, run.length or max(distances), max(distances), scale, x)

    def leaveEvent(self, event: object) -> None:
        del event
        self._hover, self._told = None, ""
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.bars is not None:
            self._take_bar(event.position())
            return
        if event is None:
            return
        found = edge = self.hose_edge_at(event.position().x())
        if edge is not None:
            self._take_hose(edge, event.position().x())
        else:
            found = self.piece_at(event.position().x())
        if found is not None and self.facts:
            self.chosen.emit(self.facts.pieces[found].element)


def _empty_words(workspace: Workspace) -> str:
    if not workspace.project.machines:
        return "Here the path of a machine's air will be laid out, from its port to the exhaust."
    chosen = workspace.project.machine.get((workspace.selection or "").split("/")[0])
    if chosen and not chosen.pickups:
        return f"{chosen.name} has no pickup, so it has no air path."
    if chosen:
        return f"{chosen.name} is not connected to a collector yet."
    return "Switch a machine on to see its air path laid out, and where the suction goes."
