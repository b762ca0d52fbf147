"""Painting the building: walls, openings, things that stand there, grid and underlay. Small
functions, plain values.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from grey_current.design.space.outlines import front_outline, swing_outline, track_outline
from grey_current.desk.floor.view import View, readable
from grey_current.desk.theme import Palette, faded, font
from grey_current.shop.corner_edits import corner_of
from grey_current.shop.model import Project
from grey_current.shop.places import XY
from grey_current.shop.roofs import roof_lines
from grey_current.shop.room import HOT, ZONES, Beam, Feature, Opening, Room, walls
from grey_current.shop.room_edits import wall_of
from grey_current.units import FOOT, Display

# Thickness (m) at which walls are drawn.
WALL = 0.11
FILLS = {
    "chimney": Qt.BrushStyle.BDiagPattern,
    "post": Qt.BrushStyle.SolidPattern,
    "walkway": Qt.BrushStyle.FDiagPattern,
    "heated floor": Qt.BrushStyle.HorPattern,
    "return-air grille": Qt.BrushStyle.VerPattern,
}
# Drawn with a broken edge: it takes no room on the floor, or hangs over it.
DASHED = (
    *("walkway", "kept free", "heated floor", "hatch", "no-duct area", "cupboard"),
    *("air cleaner", *ZONES),
)


def wall_width(view: View) -> float:
    """Thickness of a wall in pixels."""
    return max(WALL * view.scale, 4.0)


def paint_building(
    painter: QPainter, project: Project, view: View, p: Palette, selected: Sequence[str]
) -> None:
    """Rooms, openings and features; beams are drawn later, over the machines."""
    flat, miter = Qt.PenCapStyle.SquareCap, Qt.PenJoinStyle.MiterJoin
    for room in project.rooms:
        painter.setPen(QPen(p.wall, wall_width(view) * 2, Qt.PenStyle.SolidLine, flat, miter))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(view.polygon(room.outline))
    for room in project.rooms:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.sheet)
        painter.drawPolygon(view.polygon(room.outline))
    _paint_partitions(painter, project, view, p)
    _paint_roofs(painter, project, view, p)
    for opening in project.openings:
        _paint_opening(painter, opening, project, view, p, opening.id in selected)
    for feature in project.features:
        _paint_feature(painter, feature, view, p, feature.id in selected)
    for ref in selected:
        _paint_chosen_wall(painter, project, ref, view, p)
        _paint_handles(painter, project, ref, view, p)


def _paint_roofs(painter: QPainter, project: Project, view: View, p: Palette) -> None:
    """Ridges and dormers overhead, dashed."""
    painter.setPen(QPen(p.faint, 1, Qt.PenStyle.DashDotLine))
    for room in project.rooms:
        for line in roof_lines(room):
            painter.drawPolyline(QPolygonF([view.point(place) for place in line]))


def _paint_partitions(painter: QPainter, project: Project, view: View, p: Palette) -> None:
    """Walls with a room on both sides, which the rooms' floors have covered."""
    plans = {room.id: view.polygon(room.outline) for room in project.rooms}
    painter.setPen(QPen(p.wall, wall_width(view), Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
    for room in project.rooms:
        others = [plan for ident, plan in plans.items() if ident != room.id]
        for a, b in walls(room.outline):
            start, end = view.point(a), view.point(b)
            length = math.hypot(end.x() - start.x(), end.y() - start.y()) or 1.0
            aside = QPointF((start.y() - end.y()) / length * 3, (end.x() - start.x()) / length * 3)
            middle = (start + end) / 2
            beside = (middle + aside, middle - aside)
            if any(
                plan.containsPoint(spot, Qt.FillRule.OddEvenFill)
                for plan in others
                for spot in beside
            ):
                painter.drawLine(start, end)


def paint_beams(
    painter: QPainter, beams: Sequence[Beam], view: View, p: Palette, selected: Sequence[str]
) -> None:
    """Beams overhead, as two dashed lines."""
    for beam in beams:
        a, b = view.point(beam.start), view.point(beam.end)
        heading = math.atan2(b.y() - a.y(), b.x() - a.x())
        half = beam.width * view.scale / 2
        shift = QPointF(-math.sin(heading) * half, math.cos(heading) * half)
        chosen = beam.id in selected
        painter.setPen(
            QPen(p.accent if chosen else p.faint, 2.5 if chosen else 1, Qt.PenStyle.DashLine)
        )
        painter.drawLine(a + shift, b + shift)
        painter.drawLine(a - shift, b - shift)


def paint_outlets(
    painter: QPainter, project: Project, view: View, p: Palette, selected: Sequence[str]
) -> None:
    """Outlets as a half disc with two pins."""
    for outlet in project.outlets:
        spot = view.point((outlet.x, outlet.y))
        painter.setPen(
            QPen(
                p.accent if outlet.id in selected else p.ink, 2.5 if outlet.id in selected else 1.3
            )
        )
        painter.setBrush(p.raised)
        painter.drawEllipse(spot, 6, 6)
        for shift in (-2.0, 2.0):
            painter.drawLine(spot + QPointF(shift, -2.5), spot + QPointF(shift, 2.5))


def _paint_handles(painter: QPainter, project: Project, ref: str, view: View, p: Palette) -> None:
    """The chosen corner, and the ends of the chosen beam, which can be dragged."""
    places: list[XY] = []
    corner = corner_of(project, ref)
    if corner is not None:
        places.append(corner[0].outline[corner[1]])
    beam = next((b for b in project.beams if ref.split("/", maxsplit=1)[0] == b.id), None)
    if beam is not None:
        places += [beam.start, beam.end]
    painter.setPen(QPen(p.accent, 2))
    painter.setBrush(p.raised)
    for place in places:
        painter.drawRect(QRectF(view.point(place).x() - 4, view.point(place).y() - 4, 8, 8))


def _paint_chosen_wall(
    painter: QPainter, project: Project, ref: str, view: View, p: Palette
) -> None:
    room = wall_of(project, ref)
    if room:
        a, b = walls(room[0].outline)[room[1]]
        painter.setPen(
            QPen(p.accent, wall_width(view) * 0.8, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
        )
        painter.drawLine(view.point(a), view.point(b))


def _paint_opening(
    painter: QPainter, opening: Opening, project: Project, view: View, p: Palette, chosen: bool
) -> None:
    """A gap in the wall: glass lines for a window, a leaf with its swing, tracks of a roll-up, a
    sliding leaf.
    """
    a, b = view.point(opening.start), view.point(opening.end)
    wall = wall_width(view)
    # First the wall is taken away, then what is in the opening is drawn.
    painter.setPen(QPen(p.sheet, wall * 2.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
    painter.drawLine(a, b)
    heading = math.atan2(b.y() - a.y(), b.x() - a.x())
    normal = QPointF(-math.sin(heading) * wall, math.cos(heading) * wall)
    ink = QPen(p.accent, 2.5) if chosen else QPen(p.wall, 1.3)
    painter.setPen(ink)
    if opening.kind == "window":
        for share in (-0.9, 0.0, 0.9):
            painter.drawLine(a + normal * share, b + normal * share)
    elif opening.kind == "sliding door":
        middle = (a + b) / 2
        painter.drawLine(a + normal * 0.4, middle + normal * 0.4)
        painter.drawLine(middle - normal * 0.4, b - normal * 0.4)
    elif opening.kind != "doorway":
        painter.setPen(QPen(ink.color(), ink.widthF(), Qt.PenStyle.DashLine))
        painter.drawLine(a, b)
    painter.setPen(QPen(ink.color(), 2))
    for end in (a, b):
        painter.drawLine(end + normal, end - normal)
    _paint_swept(painter, opening, project, view, p)


def _paint_swept(
    painter: QPainter, opening: Opening, project: Project, view: View, p: Palette
) -> None:
    centre = view.place(view.polygon(project.rooms[0].outline).boundingRect().center())
    swept = swing_outline(opening) or track_outline(opening, centre)
    if swept:
        painter.setPen(
            QPen(
                p.faint,
                1,
                Qt.PenStyle.DashLine if opening.kind == "roll-up door" else Qt.PenStyle.SolidLine,
            )
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(view.polygon(swept))


def _paint_feature(
    painter: QPainter, feature: Feature, view: View, p: Palette, chosen: bool
) -> None:
    polygon = view.polygon(feature.outline)
    dashed = feature.away or feature.kind in DASHED
    style = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
    hot = feature.kind in HOT
    if chosen:
        painter.setPen(QPen(p.accent, 3, style))
    else:
        painter.setPen(QPen(p.starved, 1.4, style) if hot else QPen(p.soft, 1.2, style))
    if feature.away:
        painter.setPen(QPen(p.accent, 3, style) if chosen else QPen(p.faint, 1, style))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(polygon)
        return
    fill = FILLS.get(feature.kind, Qt.BrushStyle.DiagCrossPattern if hot else Qt.BrushStyle.NoBrush)
    if feature.kind in ("bench", "rack", "cupboard"):
        painter.setBrush(faded(p.machine, 160))
    else:
        painter.setBrush(QBrush(faded(p.starved, 90) if hot else faded(p.faint, 130), fill))
    painter.drawPolygon(polygon)
    _paint_front(painter, feature, view, p, chosen)
    box = polygon.boundingRect()
    painter.setPen(QPen(p.faint, 1))
    if feature.kind == "hatch":
        painter.drawLine(box.topLeft(), box.bottomRight())
        painter.drawLine(box.bottomLeft(), box.topRight())
    elif feature.kind == "stair":
        steps = max(int(max(box.width(), box.height()) / 14), 2)
        for i in range(1, steps):
            if box.height() > box.width():
                y = box.top() + box.height() * i / steps
                painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            else:
                x = box.left() + box.width() * i / steps
                painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))


def _paint_front(painter: QPainter, feature: Feature, view: View, p: Palette, chosen: bool) -> None:
    """The side that doors or drawers open to, and the ground before it while it is looked at."""
    if feature.front is None:
        return
    a, b = (view.point(place) for place in walls(feature.outline)[feature.front])
    painter.setPen(QPen(p.accent if chosen else p.soft, 4, Qt.PenStyle.DotLine))
    painter.drawLine(a, b)
    if chosen:
        painter.setPen(QPen(p.accent, 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(view.polygon(front_outline(feature)))


def paint_wall_lengths(
    painter: QPainter, rooms: Sequence[Room], view: View, p: Palette, display: Display
) -> None:
    """Every wall's length, written along its outer side."""
    painter.setFont(font("small"))
    for room in rooms:
        box = view.polygon(room.outline).boundingRect()
        for a, b in walls(room.outline):
            start, end = view.point(a), view.point(b)
            text = display.length(math.dist(a, b))
            wide = painter.fontMetrics().horizontalAdvance(text) + 10
            # A wall too short for its figure goes without.
            if math.hypot(end.x() - start.x(), end.y() - start.y()) < wide * 0.6:
                continue
            middle = (start + end) / 2
            turn = math.degrees(math.atan2(end.y() - start.y(), end.x() - start.x()))
            away = QPointF(math.sin(math.radians(turn)), -math.cos(math.radians(turn)))
            # To the outer side, so that lengths do not lie among the machines.
            out = away if _points_out(room, view, middle + away * 12) else -away
            spot = middle + out * (wall_width(view) + 11)
            painter.save()
            painter.translate(spot)
            painter.rotate(readable(turn))
            painter.fillRect(QRectF(-wide / 2, -8, wide, 16), p.bench)
            painter.setPen(p.soft)
            painter.drawText(QRectF(-wide / 2, -8, wide, 16), Qt.AlignmentFlag.AlignCenter, text)
            painter.restore()
        painter.setPen(p.soft)
        painter.drawText(
            QRectF(box.left() + 8, box.bottom() - 22, box.width() - 16, 16),
            Qt.AlignmentFlag.AlignLeft,
            room.name,
        )


def _points_out(room: Room, view: View, spot: QPointF) -> bool:
    return not view.polygon(room.outline).containsPoint(spot, Qt.FillRule.OddEvenFill)


def paint_grid(painter: QPainter, view: View, box: QRectF, p: Palette, us: bool) -> None:
    """A grid of feet or half metres, as far apart as can be read, over the whole paper."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    steps = [FOOT, 5 * FOOT] if us else [0.5, 2.5]
    step = next((s for s in steps if s * view.scale >= 12), steps[-1])
    pen = QPen(faded(p.faint, 90), 1)
    painter.setPen(pen)
    (left, top), (right, bottom) = view.place(box.topLeft()), view.place(box.bottomRight())
    xs = [
        view.point((i * step, 0)).x()
        for i in range(math.floor(left / step), math.ceil(right / step) + 1)
    ]
    ys = [
        view.point((0, i * step)).y()
        for i in range(math.floor(bottom / step), math.ceil(top / step) + 1)
    ]
    upright = [QLineF(x, box.top(), x, box.bottom()) for x in xs]
    level = [QLineF(box.left(), y, box.right(), y) for y in ys]
    painter.drawLines(upright[0], *upright[1:], *level)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)


def paint_underlay(
    painter: QPainter, project: Project, view: View, p: Palette, picture: QPixmap | None
) -> None:
    """The plan under the drawing, faint."""
    under = project.underlay
    if under is None:
        return
    wide, high = under.width * view.scale, under.height * view.scale
    painter.save()
    painter.translate(view.point((under.x, under.y)))
    painter.rotate(-under.turn)
    if picture is not None and not picture.isNull():
        painter.setOpacity(0.45)
        painter.drawPixmap(QRectF(0, -high, wide, high), picture, QRectF(picture.rect()))
        painter.setOpacity(1.0)
    painter.setPen(QPen(faded(p.accent, 130), 1))
    for line in under.lines:
        scaled = [QPointF(x * wide, -y * high) for x, y in line]
        for start, end in itertools.pairwise(scaled):
            painter.drawLine(start, end)
    painter.restore()


def paint_tape(painter: QPainter, a: QPointF, b: QPointF, text: str, p: Palette) -> None:
    """A measuring tape between two pixels, with its distance."""
    painter.setPen(QPen(p.accent, 2))
    painter.drawLine(a, b)
    for end in (a, b):
        painter.drawEllipse(end, 3, 3)
    painter.setFont(font("name", bold=True))
    wide = painter.fontMetrics().horizontalAdvance(text) + 12
    box = QRectF((a.x() + b.x()) / 2 - wide / 2, (a.y() + b.y()) / 2 - 24, wide, 20)
    painter.fillRect(box, p.raised)
    painter.setPen(p.ink)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def paint_lane(
    painter: QPainter, outline: Sequence[XY], view: View, p: Palette, good: bool
) -> None:
    """The lane of a board: a tinted strip."""
    colour = p.good if good else p.short
    painter.setPen(QPen(colour, 1.2, Qt.PenStyle.DashLine))
    painter.setBrush(faded(colour, 34))
    painter.drawPolygon(view.polygon(outline))


def paint_lane_words(painter: QPainter, at: QPointF, p: Palette, good: bool, text: str) -> None:
    """The longest board in words, in the lane."""
    painter.setFont(font("small", bold=True))
    wide = painter.fontMetrics().horizontalAdvance(text) + 10
    box = QRectF(at.x() - wide / 2, at.y() - 9, wide, 18)
    painter.fillRect(box, faded(p.sheet, 230))
    painter.setPen(p.good if good else p.short)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def paint_feed(painter: QPainter, at: QPointF, ahead: XY, p: Palette, reach: float) -> None:
    """A feed arrow: a shaft with an open head."""
    ux, uy = ahead[0], -ahead[1]
    tip = QPointF(at.x() + ux * reach, at.y() + uy * reach)
    tail = QPointF(at.x() - ux * reach, at.y() - uy * reach)
    head = QPainterPath(QPointF(tip.x() - ux * 7 - uy * 5, tip.y() - uy * 7 + ux * 5))
    head.lineTo(tip)
    head.lineTo(QPointF(tip.x() - ux * 7 + uy * 5, tip.y() - uy * 7 - ux * 5))
    painter.setPen(QPen(p.ink, 1.8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawLine(tail, tip)
    painter.drawPath(head)
