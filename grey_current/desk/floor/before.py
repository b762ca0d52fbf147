"""The kept design beside the present one on the plan: a line that is dragged across, the design
before on its left, and what differs between the two lit on both sides.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPixmap

from grey_current.desk.floor.scene import FloorScene, scene_before
from grey_current.desk.floor.static_layer import Look, StillLayer
from grey_current.desk.floor.view import View
from grey_current.desk.plain import draw_cut
from grey_current.desk.theme import Palette, faded, font
from grey_current.shop.differences import differing
from grey_current.shop.model import Project
from grey_current.workspace.workspace import Workspace

# Pixels from the line within which it is taken in hand; the tab that it is dragged by.
NEAR_LINE = 7.0
TAB_WIDE, TAB_HIGH = 18.0, 54.0
# Pixels that a mark of what differs reaches beyond it.
MARK = 4.0
# Opacity (0 to 255) of a mark, which is drawn over what it marks.
MARKED = 90


class Before:
    """What the plan shows of the kept design.

    Attributes:
        divide: Where the line is, as a share of the plan's width; 0 shows the present design only.
        scene: The design before; None where nothing is compared.
        differing: The ids of what differs.
    """

    def __init__(self) -> None:
        self.divide = 0.0
        self.scene: FloorScene | None = None
        self.differing: frozenset[str] = frozenset()
        self._of: tuple[Project, Project] | None = None
        self._still = StillLayer()

    def show_workspace(self, workspace: Workspace) -> None:
        """Take over what the workspace compares now."""
        self.scene = scene_before(workspace)
        if self.scene is None:
            self.divide, self.differing, self._of = 0.0, frozenset(), None
            return
        pair = (self.scene.project, workspace.project)
        if self._of != pair:
            self._of, self.differing = pair, differing(*pair)

    def at_line(self, spot: QPointF, wide: float, high: float) -> bool:
        """Whether a pixel is on the line, or on the tab that it is dragged by."""
        if self.scene is None:
            return False
        off = abs(spot.x() - self.divide * wide)
        return self._tab(wide, high).contains(spot) or (self.divide > 0 and off < NEAR_LINE)

    def covers(self, spot: QPointF, wide: float) -> bool:
        """Whether the design before is seen at a pixel."""
        return self.scene is not None and spot.x() < self.divide * wide

    def drag(self, spot: QPointF, wide: float) -> None:
        """Move the line to a pixel; close to an edge it goes all the way."""
        share = min(max(spot.x() / max(wide, 1.0), 0.0), 1.0)
        self.divide = 0.0 if spot.x() < NEAR_LINE else share

    def paint(self, painter: QPainter, look: Look, underlay: QPixmap | None, name: str) -> None:
        """The design before, by its name, on the left of the line; marks on what differs from a
        `look`, which is what the plan shows of the present one; the line itself.
        """
        if self.scene is None:
            return
        wide, high = look.size.width(), look.size.height()
        at = round(self.divide * wide)
        if at > 0:
            shown = Look(
                look.size, look.ratio, self.scene, look.view, look.colours, (), look.emphasis
            )
            picture = self._still.picture(shown, underlay, settled=True)
            painter.save()
            painter.setClipRect(QRect(0, 0, at, high))
            painter.drawPixmap(0, 0, picture)
            paint_marks(painter, self.scene, look.view, look.colours, self.differing)
            painter.setClipRect(QRect(at, 0, wide - at, high))
            paint_marks(painter, look.scene, look.view, look.colours, self.differing)
            painter.restore()
            self._paint_line(painter, look, at, name)
        self._paint_tab(painter, look)

    def _tab(self, wide: float, high: float) -> QRectF:
        # Above the middle, where the shop's width is written.
        left = min(max(self.divide * wide, 1.0), wide - TAB_WIDE - 1.0)
        return QRectF(left, high / 5 - TAB_HIGH / 2, TAB_WIDE, TAB_HIGH)

    def _paint_line(self, painter: QPainter, look: Look, at: int, name: str) -> None:
        p, wide, high = look.colours, look.size.width(), look.size.height()
        painter.setPen(QPen(p.accent, 2))
        painter.drawLine(QPointF(at, 0), QPointF(at, high))
        painter.setFont(font("small", bold=True))
        for box, words, side in (
            (QRectF(8, high - 24, at - 16, 18), name, Qt.AlignmentFlag.AlignRight),
            (QRectF(at + 8, high - 24, wide - at - 16, 18), "Now", Qt.AlignmentFlag.AlignLeft),
        ):
            length = min(painter.fontMetrics().horizontalAdvance(words) + 16, max(box.width(), 0))
            left = box.right() - length if side == Qt.AlignmentFlag.AlignRight else box.left()
            painter.fillRect(QRectF(left, box.top(), length, 18), p.sheet)
            painter.setPen(p.ink)
            draw_cut(painter, QRectF(left + 5, box.top(), max(length - 10, 0), 18), words, side)

    def _paint_tab(self, painter: QPainter, look: Look) -> None:
        """A tab with two arrows, which says that it can be dragged."""
        p = look.colours
        tab = self._tab(look.size.width(), look.size.height())
        painter.setPen(QPen(p.accent, 1))
        painter.setBrush(p.sheet)
        painter.drawRoundedRect(tab, 4, 4)
        painter.setPen(QPen(p.accent, 2))
        middle = tab.center()
        for way in (-1, 1):
            tip = middle + QPointF(way * 6, 0)
            painter.drawLine(tip, tip + QPointF(-way * 4, -4))
            painter.drawLine(tip, tip + QPointF(-way * 4, 4))


def paint_marks(
    painter: QPainter, scene: FloorScene, view: View, p: Palette, marked: frozenset[str]
) -> None:
    """A broad band along each duct and a dashed frame round each body that differs."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for duct in scene.ducts:
        if duct.run in marked:
            painter.setPen(_band(faded(p.short, MARKED), duct.width * view.scale + 2 * MARK))
            painter.drawPolyline(view.polygon(duct.line))
    painter.setPen(QPen(p.short, 2, Qt.PenStyle.DashLine))
    bodies = [(shape.machine, shape.corners) for shape in scene.machines]
    bodies += [(shape.collector, shape.corners) for shape in scene.collectors]
    for ident, corners in bodies:
        if ident in marked:
            painter.drawPolygon(view.polygon(corners))


def _band(colour: QColor, wide: float) -> QPen:
    return QPen(
        colour, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin
    )
