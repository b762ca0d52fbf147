"""A small picture of each layout that is offered: the walls, what stands there, and the ducts."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from grey_current.desk.floor.view import View
from grey_current.desk.theme import Palette, font
from grey_current.shop.catalogue import materials
from grey_current.shop.model import Project
from grey_current.shop.places import all_bodies, bounds, footprint, position
from grey_current.workspace.offering import Offer

# Pixels across and down of one picture, between two, and round what is drawn.
WIDE, HIGH, GAP, EDGE = 92, 84, 6, 7
# Pixels that the widest and the narrowest duct is drawn wide.
THICK, THIN = 3.4, 1.6
WIDEST = 0.2


class OfferPictures(QWidget):
    """The pictures, side by side. Signals: `pointed` (row), `took` (row)."""

    pointed = pyqtSignal(int)
    took = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setMouseTracking(True)
        self.setAccessibleName("Pictures of the offered layouts")
        self.setToolTip("Point at a picture to see it on the floor; click to use it.")
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.offer: Offer | None = None
        self.at = 0
        self.colours: Palette | None = None

    def show_offer(self, offer: Offer, at: int, palette: Palette) -> None:
        """Show other layouts, one of them pointed at."""
        self.offer, self.at, self.colours = offer, at, palette
        self.setVisible(bool(offer.rows))
        self.setFixedSize(self.sizeHint())
        self.update()

    def sizeHint(self) -> QSize:
        count = len(self.offer.rows) if self.offer else 0
        return QSize(max(count * (WIDE + GAP) - GAP, 0), HIGH)

    def box(self, number: int) -> QRectF:
        """Where a picture is, in pixels."""
        return QRectF(number * (WIDE + GAP), 0, WIDE, HIGH)

    def picture_at(self, place: QPointF) -> int | None:
        """The picture at a pixel, or None."""
        for number in range(len(self.offer.rows) if self.offer else 0):
            if self.box(number).contains(place):
                return number
        return None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        number = self.picture_at(event.position()) if event else None
        if number is not None:
            self.pointed.emit(number)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.picture_at(event.position()) if event else None
        if number is not None:
            self.took.emit(number)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self.offer is None or self.colours is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number, row in enumerate(self.offer.rows):
            box = self.box(number)
            _paint_frame(painter, box, number == self.at, self.colours)
            paint_plan(painter, row.shown, box.adjusted(EDGE, EDGE, -EDGE, -EDGE), self.colours)
            painter.setPen(self.colours.soft)
            painter.setFont(font("fine", bold=number == self.at))
            painter.drawText(
                box.adjusted(5, 2, -4, -2), Qt.AlignmentFlag.AlignLeft, f"{number + 1}"
            )
        painter.end()


def _paint_frame(painter: QPainter, box: QRectF, pointed: bool, p: Palette) -> None:
    painter.setPen(QPen(p.accent, 2) if pointed else QPen(p.rule, 1))
    painter.setBrush(p.machine_on if pointed else p.sheet)
    painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 3, 3)


def paint_plan(painter: QPainter, project: Project, box: QRectF, p: Palette) -> None:
    """A shop's plan, as large as a box of pixels allows: walls, what stands there, its ducts."""
    view = _fitted(project, box)
    painter.setPen(QPen(p.wall, 1.6))
    painter.setBrush(p.sheet)
    for room in project.rooms:
        painter.drawPolygon(view.polygon(room.outline))
    painter.setPen(QPen(p.soft, 0.8))
    painter.setBrush(p.machine)
    for item in all_bodies(project):
        painter.drawPolygon(view.polygon(footprint(item)))
    for run in project.runs:
        share = min(run.diameter / WIDEST, 1.0)
        pen = QPen(p.accent, THIN + (THICK - THIN) * share)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        if materials()[run.material].hose:
            pen.setStyle(Qt.PenStyle.DotLine)
        painter.setPen(pen)
        for ref in run.serves:
            a, b = position(project, ref), position(project, run.end)
            painter.drawLine(view.point(a[:2]), view.point(b[:2]))


def _fitted(project: Project, box: QRectF) -> View:
    """The view in which all of a shop lies in the middle of a box of pixels."""
    places = [*project.corners]
    for item in all_bodies(project):
        places += footprint(item)
    left, low, right, high = bounds(places)
    scale = min(box.width() / (right - left), box.height() / (high - low))
    return View(
        scale,
        box.center().x() - scale * (left + right) / 2,
        box.center().y() + scale * (low + high) / 2,
    )
