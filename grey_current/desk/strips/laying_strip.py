"""Layouts, sizes or places that the search offers: one a row, a ghost on the floor while it is
pointed at.
"""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from grey_current.desk.plain import OneLine, draw_cut, plain_label
from grey_current.desk.scroll import Scrolled
from grey_current.desk.strips.offer_pictures import OfferPictures
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import SPACE, Palette, font
from grey_current.workspace.offering import Offer, OfferKind
from grey_current.workspace.workspace import Workspace

ROW = 19
NAME, LEAST_NAME = 176.0, 110.0
LEAST_COLUMN, MOST_COLUMN, GAP = 40.0, 64.0, 10.0
COLUMNS = (
    "served: scenarios in which every need is met and every chip carried; least air: the "
    "smallest share of a need;\n"
    "slowest: the slowest air over what its chips need. Bold: no other row is better in that."
)

# Pixels of the strip with rows, and with nothing but a question.
OFFERING, WAITING = 276, 118


class OfferTable(QWidget):
    """The rows. Signals: `pointed` (row), `took` (row)."""

    pointed = pyqtSignal(int)
    took = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Offered layouts, the best first")
        self.setToolTip(COLUMNS)
        self.offer: Offer | None = None
        self.at: int | None = None
        self.colours: Palette | None = None

    def show_offer(self, offer: Offer, at: int | None, palette: Palette) -> None:
        """Show other rows, one of them pointed at."""
        self.offer, self.at, self.colours = offer, at, palette
        self.setMinimumHeight(ROW * (len(offer.rows) + 1) if offer.rows else 0)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(500, ROW * (len(self.offer.rows) + 1) if self.offer else 0)

    def row_at(self, y: float) -> int | None:
        """The row at a pixel down, or None."""
        number = int(y // ROW) - 1
        return number if self.offer and 0 <= number < len(self.offer.rows) else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        # What was pointed at last stays so, for its problems are clicked elsewhere.
        number = self.row_at(event.position().y()) if event else None
        if number is not None:
            self.pointed.emit(number)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.row_at(event.position().y()) if event else None
        if number is not None:
            self.took.emit(number)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self.offer is None or not self.offer.rows:
            super().keyPressEvent(event)
            return
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        last = len(self.offer.rows) - 1
        if event.key() in steps:
            now = -1 if self.at is None else self.at
            self.pointed.emit(min(max(now + steps[Qt.Key(event.key())], 0), last))
        elif (
            event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space)
            and self.at is not None
        ):
            self.took.emit(self.at)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self.colours is None or self.offer is None or not self.offer.rows:
            return
        painter = QPainter(self)
        paint_offer(painter, QRectF(self.rect()), self.offer, self.at, self.colours)
        painter.end()


def columns_shown(offer: Offer, metrics: QFontMetrics, wide: float) -> list[tuple[int, float]]:
    """The columns that there is room for beside a name, each with its pixels across: the first
    three say how good it is and the last what it costs; the others come after these.
    """
    needed = []
    for place, title in enumerate(offer.columns):
        texts = [title, *(row.cells[place] for row in offer.rows)]
        widest = max(metrics.horizontalAdvance(text) for text in texts)
        needed.append(max(widest + GAP, LEAST_COLUMN))
    count = len(needed)
    first = [*range(min(3, count)), *([count - 1] if count > 3 else [])]
    rest = [place for place in range(count) if place not in first]
    shown: list[int] = []
    room = wide - LEAST_NAME
    for place in (*first, *rest):
        if needed[place] <= room:
            shown.append(place)
            room -= needed[place]
    # What is left goes to the columns up to what looks well, then to the names.
    more = max((room + LEAST_NAME - NAME) / max(len(shown), 1), 0.0)
    return [(at, max(needed[at], min(needed[at] + more, MOST_COLUMN))) for at in sorted(shown)]


def paint_offer(painter: QPainter, box: QRectF, offer: Offer, at: int | None, p: Palette) -> None:
    """A head line and a row for each layout: its number and name, and its figures."""
    painter.setFont(font("small"))
    shown = columns_shown(offer, painter.fontMetrics(), box.width())
    name_wide = box.width() - sum(wide for _, wide in shown)
    cells: list[tuple[int, QRectF]] = []
    left = name_wide
    for place, wide in shown:
        cells.append((place, QRectF(left, 0, wide - 4, ROW)))
        left += wide
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    painter.setFont(font("fine"))
    painter.setPen(p.soft)
    for place, cell in cells:
        painter.drawText(cell, right, offer.columns[place])
    for number, row in enumerate(offer.rows):
        y = ROW * (number + 1)
        if number == at:
            painter.fillRect(QRectF(0, y, box.width(), ROW), p.machine_on)
            painter.fillRect(QRectF(0, y + 3, 3, ROW - 6), p.accent)
        painter.setPen(p.ink)
        painter.setFont(font("small", bold=number in (0, at)))
        painter.drawText(QRectF(8, y, 16, ROW), Qt.AlignmentFlag.AlignVCenter, f"{number + 1}")
        draw_cut(painter, QRectF(22, y, name_wide - 26, ROW), row.name)
        for place, cell in cells:
            painter.setFont(font("small", bold=place in row.strong))
            painter.drawText(cell.translated(0, y), right, row.cells[place])


class LayingStrip(StripPanel):
    """The offer: asks for it, shows its rows, takes one.

    While nothing is asked for, it says how many machines wait and what can be asked.
    """

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.head = plain_label()
        self.head.setObjectName("head")
        self.state = OneLine()
        self.state.setObjectName("soft")
        self.why = plain_label(wraps=True)
        self.why.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        self.table = OfferTable()
        self.table.pointed.connect(self.workspace.point_at)
        self.table.took.connect(lambda row: self.attempt(lambda: self.workspace.take(row)))
        self.pictures = OfferPictures()
        self.pictures.pointed.connect(self.workspace.point_at)
        self.pictures.took.connect(lambda row: self.attempt(lambda: self.workspace.take(row)))
        self.lay = self._button("Lay the ducts", "ducts")
        self.lay.setObjectName("primary")
        self.rest = self._button("Connect what is not connected", "unconnected")
        self.end = QPushButton("Close")
        self.end.clicked.connect(self.workspace.end_offer)
        top = QHBoxLayout()
        top.addWidget(self.head)
        top.addWidget(self.state, 1)
        for button in (self.lay, self.rest, self.end):
            top.addWidget(button)
        # However low the strip is dragged, rows and reasons scroll and never lie over one another.
        self._rows, self._told = Scrolled(), Scrolled()
        self._rows.setAccessibleName("Layouts that are offered")
        self._told.setAccessibleName("Why this one")
        self._rows.setWidget(self.table)
        self._told.setWidget(self.why)
        pictures = Scrolled()
        pictures.setAccessibleName("Pictures of the layouts")
        pictures.setWidget(self.pictures)
        self._pictures = pictures
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, SPACE, 12, SPACE)
        layout.setSpacing(4)
        layout.addLayout(top)
        layout.addWidget(self._rows, 3)
        layout.addWidget(self._pictures, 2)
        layout.addWidget(self._told, 1)

    @property
    def room(self) -> int:
        """As tall as the rows and the reasons want; with nothing asked, as the question does."""
        return OFFERING if self.workspace.asked is not None else WAITING

    def _button(self, text: str, kind: OfferKind) -> QPushButton:
        button = QPushButton(text)
        button.clicked.connect(lambda: self.attempt(lambda: self.workspace.ask_for(kind)))
        return button

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        offer, asked = self.workspace.offer, self.workspace.asked
        self.end.setText("Close" if asked is not None else "Not now")
        self.lay.setVisible(asked is None)
        self._rows.setVisible(asked is not None)
        self._pictures.setVisible(asked is not None)
        self.rest.setVisible(asked is None and bool(self.workspace.project.runs))
        if offer is None or asked is None:
            self._show_waiting()
            return
        self.head.setText(offer.title)
        self.state.setText(offer.state if offer.rows or not offer.complete else "")
        at = asked.pointed or 0
        self.table.show_offer(offer, at, self.colours)
        self.pictures.show_offer(offer, at, self.colours)
        self.why.setText(_told(offer))
        self._told.setVisible(not offer.rows)

    def take_keys(self) -> None:
        """Give the rows the keyboard."""
        self.table.setFocus()

    def _show_waiting(self) -> None:
        waiting = self.workspace.waiting
        who = "1 pickup waits" if waiting == 1 else f"{waiting} pickups wait"
        self.head.setText(f"{who} without a duct")
        self.state.setText("")
        nothing = Offer("", (), (), "", (), True)
        self.table.show_offer(nothing, None, self.colours)
        self.pictures.show_offer(nothing, 0, self.colours)
        self._told.show()
        self.why.setText(
            "Lay the ducts tries whole layouts, with drops, sizes, gates and hoses, and shows "
            "the few that are worth "
            "talking about. How they may run is chosen on the right.\nOr press D and draw the "
            "main yourself."
        )


def _told(offer: Offer) -> str:
    """What is said where there is no row: how far the search is, and what could not be laid."""
    return "\n".join([*([offer.state] if offer.complete else []), *offer.notes])
