"""The table of candidates beside the match chart."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from grey_current.design.collector.candidates import Offer
from grey_current.desk.theme import Palette, font

TABLE = 378
ROW = 19


class CandidateTable(QWidget):
    """One row a candidate. Signal: `toggled` (model) when its curve is to be shown or hidden."""

    toggled = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(TABLE)
        self.setAccessibleName("Candidates: how each collector would do")
        self.setToolTip(
            "Click one to draw its curve, or to take it off the chart; Up, Down and Space do "
            "the same."
        )
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._at = 0
        self.offers: tuple[Offer, ...] = ()
        self.shown: frozenset[str] = frozenset()
        self.now = ""
        self.colours: Palette | None = None

    def show_offers(
        self, offers: tuple[Offer, ...], shown: frozenset[str], now: str, palette: Palette
    ) -> None:
        """Show other rows; `now` is the model that stands in the shop."""
        self.offers, self.shown, self.now, self.colours = offers, shown, now, palette
        self.update()

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
        paint_offers(painter, QRectF(self.rect()), self.offers, self.shown, self.now, self.colours)
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
) -> None:
    """A head line and a row a candidate: name, machines served, worst share, slowest air, and shaft
    power or price.
    """
    priced = any(offer.price is not None for offer in offers)
    columns = [
        (202.0, "served"),
        (244.0, "worst"),
        (286.0, "slowest"),
        (328.0, "price" if priced else "shaft W"),
    ]
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    painter.setFont(font("fine"))
    painter.setPen(p.soft)
    for left, title in columns:
        painter.drawText(QRectF(left - 20, 0, 54, ROW), right, title)
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
        name = painter.fontMetrics().elidedText(offer.model, Qt.TextElideMode.ElideRight, 172)
        painter.drawText(QRectF(22, y, 176, ROW), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(font("small"))
        power = f"{offer.power:,.0f}" + ("!" if offer.overloads else "")
        values = [
            f"{offer.served} of {offer.asked}",
            f"{offer.worst:.0%}",
            "–" if offer.transport is None else f"{offer.transport:.0%}",
            _money(offer) if priced else power,
        ]
        for (left, _), value in zip(columns, values, strict=True):
            painter.drawText(QRectF(left - 20, y, 54, ROW), right, value)
        if offer.too_tall or offer.over_amps or offer.overloads:
            painter.fillRect(QRectF(box.width() - 7, y + 6, 4, ROW - 12), p.starved)


def _money(offer: Offer) -> str:
    return "–" if offer.price is None else f"{offer.price:,.0f}"
