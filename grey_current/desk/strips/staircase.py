"""The staircase of phases: each step as high as the money so far, with what comes and who is served
then.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from grey_current.build.phases import PhaseFacts
from grey_current.build.words import money_words
from grey_current.design.words import served_words
from grey_current.desk.theme import Palette, font, mixed
from grey_current.numerals import decimal
from grey_current.shop.build_plan import MOST_PHASES

CHIP = 18.0
HEAD = 50.0
# Pixels over the steps for words and machines.
WORDS = 94.0
DRAG_FROM = 5.0
# Pixels of the place for one more phase.
LAST = 72.0


class Staircase(QWidget):
    """The steps. Signals: `picked` (element) when a machine is clicked, `moved` (element, phase)
    when it is dragged.
    """

    picked = pyqtSignal(str)
    moved = pyqtSignal(str, int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Phases of the building, as a staircase of money")
        self.setToolTip(
            "Drag a machine or the collector to another step, or to the right of the last for "
            "one more."
        )
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.phases: Sequence[PhaseFacts] = ()
        self.names: Mapping[str, str] = {}
        self.currency, self.chosen = "", set[str]()
        self.colours: Palette | None = None
        self._pressed: tuple[str, QPointF] | None = None
        self._over: QPointF | None = None

    def show_phases(
        self,
        phases: Sequence[PhaseFacts],
        names: Mapping[str, str],
        currency: str,
        chosen: set[str],
        palette: Palette,
    ) -> None:
        """Show other phases."""
        self.phases, self.names, self.currency, self.chosen, self.colours = (
            phases,
            names,
            currency,
            chosen,
            palette,
        )
        self.update()

    # -- where things are

    def step(self, number: int) -> QRectF:
        """The column of a phase (from 0), in pixels; one behind the last is the place for one
        more.
        """
        room = LAST if len(self.phases) < MOST_PHASES else 0.0
        wide = (self.width() - room) / max(len(self.phases), 1)
        if number >= len(self.phases):
            return QRectF(self.width() - room, 0, room, self.height())
        return QRectF(number * wide, 0, wide, self.height())

    def step_at(self, spot: QPointF) -> int | None:
        """The phase (from 1) whose column a pixel is in, or that behind the last; None outside."""
        count = len(self.phases) + (len(self.phases) < MOST_PHASES)
        return next((n + 1 for n in range(count) if self.step(n).contains(spot)), None)

    def chips(self) -> Iterator[tuple[str, QRectF]]:
        """What comes in each phase, each with its place in pixels."""
        metrics = self.fontMetrics()
        for number, facts in enumerate(self.phases):
            column = self.step(number).adjusted(8, HEAD, -8, -4)
            x, y = column.left(), column.top()
            for element in facts.new:
                wide = min(
                    metrics.horizontalAdvance(self.names.get(element, element)) + 12.0,
                    column.width(),
                )
                if x + wide > column.right() and x > column.left():
                    x, y = column.left(), y + CHIP + 3
                yield element, QRectF(x, y, wide, CHIP)
                x += wide + 4

    def chip_at(self, spot: QPointF) -> str | None:
        """The machine or collector at a pixel, or None."""
        return next((element for element, box in self.chips() if box.contains(spot)), None)

    # -- mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = self.chip_at(event.position()) if event else None
        if event is not None and found is not None:
            self._pressed = (found, event.position())
            self.picked.emit(found)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._pressed is not None:
            self._over = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        pressed, self._pressed, self._over = self._pressed, None, None
        self.update()
        if event is None or pressed is None:
            return
        element, start = pressed
        now = next((facts.number for facts in self.phases if element in facts.new), None)
        number = self.step_at(event.position())
        far = (event.position() - start).manhattanLength()
        if number is not None and number != now and far >= DRAG_FROM:
            self.moved.emit(element, number)

    # -- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self.colours is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        most = max((facts.so_far for facts in self.phases), default=0.0)
        for number, facts in enumerate(self.phases):
            self._paint_step(
                painter, self.step(number), facts, facts.so_far / most if most else 0.0
            )
        if self.phases and len(self.phases) < MOST_PHASES:
            p = self.colours
            painter.setPen(QPen(p.faint, 1, Qt.PenStyle.DashLine))
            last = self.step(len(self.phases)).adjusted(6, 4, -4, -4)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(last)
            painter.setPen(p.soft)
            painter.setFont(font("fine"))
            painter.drawText(
                last, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, "one more phase"
            )
        for element, box in self.chips():
            self._paint_chip(painter, box, element)
        if self._pressed is not None and self._over is not None:
            box = QRectF(self._over.x() - 30, self._over.y() - CHIP / 2, 90, CHIP)
            self._paint_chip(painter, box, self._pressed[0])
        painter.end()

    def _paint_step(self, painter: QPainter, box: QRectF, facts: PhaseFacts, share: float) -> None:
        p = self.colours
        assert p is not None
        room = max(box.height() - WORDS, 20.0)
        high = room * max(share, 0.04)
        step = QRectF(box.left(), box.bottom() - high, box.width(), high)
        painter.fillRect(step, mixed(p.sheet, p.accent, 0.14))
        painter.fillRect(
            QRectF(step.left(), step.top(), step.width(), 3), p.starved if facts.over else p.accent
        )
        served, asked = facts.served
        done = room * (facts.met / asked) if asked else 0.0
        painter.fillRect(QRectF(box.right() - 8, box.bottom() - done, 6, done), p.good)
        painter.setPen(p.ink)
        painter.setFont(font("small", bold=True))
        left = box.adjusted(8, 4, -10, 0)
        money = money_words(facts.money.money, self.currency, 0)
        painter.drawText(
            QRectF(left.left(), left.top(), left.width(), 16),
            0,
            f"{facts.number} {facts.phase.name}: {money}",
        )
        painter.setFont(font("fine"))
        painter.setPen(p.soft)
        words = [
            f"{served_words(facts.met, served, asked)}; so far "
            f"{money_words(facts.so_far, self.currency, 0)}"
        ]
        more = []
        if facts.over:
            more.append(f"over its budget by {decimal(facts.over)}")
        if facts.capped:
            more.append(f"{len(facts.capped)} capped for later")
        if facts.waste:
            more.append(f"{decimal(facts.waste_money)} of no use any more")
        if facts.money.unpriced:
            more.append(f"{len(facts.money.unpriced)} without a price")
        words.append(", ".join(more))
        for number, text in enumerate(words):
            line = QRectF(left.left(), left.top() + 16 + 14 * number, left.width(), 14)
            shown = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, int(line.width())
            )
            painter.drawText(line, 0, shown)

    def _paint_chip(self, painter: QPainter, box: QRectF, element: str) -> None:
        p = self.colours
        assert p is not None
        painter.setPen(
            QPen(
                p.accent if element in self.chosen else p.rule, 1.5 if element in self.chosen else 1
            )
        )
        painter.setBrush(p.raised)
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(p.ink)
        painter.setFont(font("fine"))
        name = painter.fontMetrics().elidedText(
            self.names.get(element, element), Qt.TextElideMode.ElideRight, int(box.width() - 6)
        )
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)
