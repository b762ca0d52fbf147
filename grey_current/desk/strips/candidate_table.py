"""The table of candidates beside the match chart."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFontMetricsF,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QToolTip, QWidget

from grey_current.design.collector.candidates import Offer
from grey_current.desk.plain import tip
from grey_current.desk.theme import Palette, font
from grey_current.numerals import decimal
from grey_current.spelling import localised
from grey_current.units import Display, System

# Usual and least pixels across.
TABLE, LEAST = 378, 290
ROW = 19
# Pixels of a column, and of the mark at a row's end.
COLUMN, MARK = 42, 8
# What the columns hold, by their heads.
MEANINGS = {
    "served": "Uses of the shop in which every need is met and all chips are carried.",
    "worst": "The least air that any machine gets, as a share of what it needs.",
    "slowest": "The slowest air on the way, as a share of what the chips need.",
    "shaft W": "The most power that the fan takes at its shaft, in watts.",
    "price": "What it costs, as you typed it.",
}
HOW = "Click a row to draw its curve, or to take it off; Up, Down and Space do the same."


class CandidateTable(QWidget):
    """One row a candidate. Signal: `toggled` (model) when its curve is to be shown or hidden."""

    toggled = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumWidth(LEAST)
        self.setMaximumWidth(TABLE)
        self.setAccessibleName("Candidates: how each collector would do")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._at = 0
        self.offers: tuple[Offer, ...] = ()
        self.shown: frozenset[str] = frozenset()
        self.now = ""
        self._display = Display("metric")
        self.colours: Palette | None = None

    def show_offers(
        self,
        offers: tuple[Offer, ...],
        shown: frozenset[str],
        now: str,
        display: Display,
        palette: Palette,
    ) -> None:
        """Show other rows; `now` is the model that stands in the shop."""
        self.offers, self.shown, self.now, self.colours = offers, shown, now, palette
        self._display = display
        self.setMinimumHeight(round(ROW * (len(offers) + 1.6)))
        self.update()

    def words_at(self, spot: QPointF) -> str:
        """What a place of the table means: its column, or the collector with what stands against
        it.
        """
        number = self.row_at(spot.y())
        if not self.offers:
            return HOW
        if number is not None:
            return f"{offer_words(self.offers[number], self._display)}\n{HOW}"
        columns = _columns(self.offers, self.width())
        under = [title for right, title in columns if spot.x() <= right]
        past_names = spot.x() > columns[0][0] - COLUMN
        return MEANINGS[under[0]] if past_names and under and spot.y() < ROW * 1.6 else HOW

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), tip(self.words_at(QPointF(event.pos()))), self)
            return True
        return super().event(event)

    def sizeHint(self) -> QSize:
        return QSize(TABLE, ROW * (len(self.offers) + 1))

    def row_at(self, y: float) -> int | None:
        """The candidate at a pixel down, or None."""
        number = int((y - ROW * 1.6) // ROW)
        return number if 0 <= number < len(self.offers) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.row_at(event.position().y()) if event else None
        if number is not None:
            self._at = number
            self.toggled.emit(self.offers[number].model)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.offers:
            return
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.key() in steps:
            self._at = min(max(self._at + steps[Qt.Key(event.key())], 0), len(self.offers) - 1)
            self.update()
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            self.toggled.emit(self.offers[min(self._at, len(self.offers) - 1)].model)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self.colours is None or not self.offers:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box, system = QRectF(self.rect()), self._display.system
        paint_offers(painter, box, self.offers, self.shown, self.now, self.colours, system)
        if self.hasFocus():
            painter.setPen(QPen(self.colours.accent, 1, Qt.PenStyle.DotLine))
            painter.drawRect(QRectF(0.5, ROW * 1.6 + self._at * ROW, self.width() - 1, ROW - 1))
        painter.end()


def paint_offers(
    painter: QPainter,
    box: QRectF,
    offers: tuple[Offer, ...],
    shown: frozenset[str],
    now: str,
    p: Palette,
    system: System,
) -> None:
    """A head line and a row a candidate: name, machines served, worst share, slowest air, and shaft
    power or price.
    """
    columns = _columns(offers, box.width())
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    names = columns[0][0] - COLUMN - 26
    painter.setFont(font("fine"))
    painter.setPen(p.soft)
    for edge, title in columns:
        painter.drawText(QRectF(edge - 54, 0, 54, ROW), right, title)
    for number, offer in enumerate(offers):
        y = ROW * 1.6 + number * ROW
        row = QRectF(0, y, box.width(), ROW)
        mine = offer.model == now
        if mine:
            painter.fillRect(row, p.machine_on)
        if mine or offer.model in shown:
            painter.fillRect(QRectF(0, y + 3, 3, ROW - 6), p.accent if mine else p.ink)
        painter.setFont(font("small", bold=mine))
        painter.setPen(p.ink)
        painter.drawText(QRectF(8, y, 14, ROW), Qt.AlignmentFlag.AlignVCenter, str(number + 1))
        name = painter.fontMetrics().elidedText(
            localised(offer.model, system), Qt.TextElideMode.ElideRight, int(names)
        )
        painter.drawText(QRectF(22, y, names + 4, ROW), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(font("small"))
        values = [
            f"{offer.served} of {offer.asked}",
            f"{offer.worst:.0%}",
            "–" if offer.transport is None else f"{offer.transport:.0%}",
            _last_figure(offer, offers),
        ]
        for (edge, _), value in zip(columns, values, strict=True):
            painter.drawText(QRectF(edge - 54, y, 54, ROW), right, value)
        if _objections(offer):
            painter.setPen(p.starved)
            painter.setFont(font("small", bold=True))
            painter.drawText(QRectF(box.width() - MARK, y, MARK, ROW), right, "!")


def offer_words(offer: Offer, display: Display) -> str:
    """A collector's row in words, with what stands against it here."""
    lines = [localised(offer.model, display.system), f"{offer.served_words.capitalize()}."]
    if offer.too_tall:
        lines.append(f"Too tall here by {display.about(offer.too_tall)}.")
    if offer.over_amps:
        lines.append(f"Its circuit lacks {offer.over_amps:.0f} A for it.")
    if offer.overloads:
        lines.append(f"Its motor would be overloaded: {display.power(offer.power)} at the shaft.")
    return "\n".join(lines)


def _objections(offer: Offer) -> bool:
    return bool(offer.too_tall or offer.over_amps or offer.overloads)


def _priced(offers: tuple[Offer, ...]) -> bool:
    return any(offer.price is not None for offer in offers)


def _columns(offers: tuple[Offer, ...], wide: float) -> list[tuple[float, str]]:
    """The columns of figures: their right edges and heads; the last is as wide as its figures."""
    titles = ("served", "worst", "slowest", "price" if _priced(offers) else "shaft W")
    metrics = QFontMetricsF(font("small"))
    widest = max(metrics.horizontalAdvance(_last_figure(offer, offers)) for offer in offers)
    first = wide - MARK - max(widest + 8, COLUMN) - 2 * COLUMN
    edges = (first, first + COLUMN, first + 2 * COLUMN, wide - MARK)
    return list(zip(edges, titles, strict=True))


def _last_figure(offer: Offer, offers: tuple[Offer, ...]) -> str:
    """What stands last in a row: the price where any is known, else the power at the shaft."""
    if not _priced(offers):
        return decimal(offer.power)
    return "–" if offer.price is None else decimal(offer.price)
