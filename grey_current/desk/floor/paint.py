"""Painting the floor: small functions that take plain values and a painter in pixels."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from functools import lru_cache

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from grey_current.design.space.reach_map import Strip
from grey_current.desk.floor.building_paint import (
    paint_beams,
    paint_feed,
    paint_grid,
    paint_lane,
    paint_lane_words,
    paint_outlets,
    paint_wall_lengths,
    wall_width,
)
from grey_current.desk.floor.label_places import size_lines
from grey_current.desk.floor.labels import LEAST_PORT, Label, halo_text, label_box, paint_label
from grey_current.desk.floor.scene import (
    CollectorShape,
    DuctShape,
    Emphasis,
    FloorScene,
    GateShape,
    MachineShape,
)
from grey_current.desk.floor.view import View, readable
from grey_current.desk.theme import Palette, faded, font, mixed
from grey_current.shop.model import Project
from grey_current.shop.places import XY
from grey_current.units import Display

CHEVRON_GAP = 24.0
# How far a chevron moves on screen in a second for each m/s of real velocity.
PIXELS_PER_VELOCITY = 3.2

# Whether something in a box of pixels must be painted.
Near = Callable[[QRectF], bool]


# How solid a duct looks that is only offered.
GHOST = 0.72
# Opacity (0 to 255) of what stands under something else.
SEEN_THROUGH = 110


def everywhere(box: QRectF) -> bool:
    """All of the floor is painted."""
    del box
    return True


def paint_floor(
    painter: QPainter,
    scene: FloorScene,
    view: View,
    p: Palette,
    selected: Sequence[str],
    emphasis: Emphasis,
    box: QRectF,
    labels: Sequence[Label],
    near: Near = everywhere,
) -> None:
    """Everything that stands still on the building, with what stands out at the stage of the work.

    What lies where `near` returns False is left out: the painter is clipped there.
    """
    project = scene.project
    display = Display(project.settings.units)
    if emphasis in ("building", "machines"):
        paint_grid(painter, view, box, p, display.us)
    _paint_lanes(painter, scene, view, p, selected)
    _paint_reach(painter, scene.reach, view, p)
    _paint_bodies(painter, scene, view, p, selected, near)
    _paint_machine_extras(painter, scene, view, p, selected)
    paint_beams(painter, project.beams, view, p, selected)
    if emphasis == "air":
        _paint_ductwork(painter, scene, view, p, selected, near)
    else:
        _paint_ducts_faint(painter, scene.ducts, view, p)
        paint_outlets(painter, project, view, p, selected)
    for label in labels:
        if near(label_box(label)):
            paint_label(painter, label, p)
    for lane in scene.lanes:
        if scene.all_lanes or lane.machine in selected or lane.running:
            paint_lane_words(painter, view.point(lane.words_at), p, lane.good, lane.text)
    if emphasis == "building":
        paint_wall_lengths(painter, project.rooms, view, p, display)
    else:
        _paint_sizes(painter, project, view, p, display)


def _paint_bodies(
    painter: QPainter,
    scene: FloorScene,
    view: View,
    p: Palette,
    selected: Sequence[str],
    near: Near,
) -> None:
    for machine in scene.machines:
        if near(body_box(machine.corners, view)):
            _paint_machine(painter, machine, view, p, selected)
    for collector in scene.collectors:
        if near(collector_box(collector, view)):
            _paint_collector(painter, collector, view, p, selected)


def body_box(corners: Sequence[XY], view: View) -> QRectF:
    """The pixels that a machine or collector takes, ports and a thick edge included."""
    return view.polygon(corners).boundingRect().adjusted(-14, -14, 14, 14)


def collector_box(collector: CollectorShape, view: View) -> QRectF:
    """The pixels that a collector, or what stands by itself of it, takes with its hose."""
    return body_box((*collector.corners, *collector.lead), view)


def duct_box(duct: DuctShape, view: View) -> QRectF:
    """The pixels that a duct takes, its edge and heaps included."""
    return _duct_box(duct.bounds, duct.width, view)


@lru_cache(maxsize=4096)
def _duct_box(bounds: tuple[float, float, float, float], width: float, view: View) -> QRectF:
    left, low, right, high = bounds
    a, b = view.point((left, high)), view.point((right, low))
    room = max(width * view.scale, 3.0) / 2 + 8
    return QRectF(a, b).adjusted(-room, -room, room, room)


def gate_box(gate: GateShape, view: View) -> QRectF:
    """The pixels that a gate takes, drawn out or not."""
    room = (max(gate.width * view.scale / 2, 4.0) + 3) * 2.3 + 4
    spot = view.point(gate.at)
    return QRectF(spot.x() - room, spot.y() - room, 2 * room, 2 * room)


def point_box(place: XY, view: View) -> QRectF:
    """The pixels of the ring round a selected joint."""
    spot = view.point(place)
    return QRectF(spot.x() - 14, spot.y() - 14, 28, 28)


def _paint_reach(painter: QPainter, strips: Sequence[Strip], view: View, p: Palette) -> None:
    """The floor that a hose's end reaches: tinted, without edges."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(faded(p.accent, 46))
    for left, low, right, high in strips:
        # Strips lie edge to edge: by whole pixels none is painted twice.
        a, b = view.point((left, high)).toPoint(), view.point((right, low)).toPoint()
        painter.drawRect(QRect(a.x(), a.y(), b.x() - a.x(), b.y() - a.y()))


def _paint_lanes(
    painter: QPainter, scene: FloorScene, view: View, p: Palette, selected: Sequence[str]
) -> None:
    """The lanes of machines that are selected or run, or of all."""
    for lane in scene.lanes:
        if scene.all_lanes or lane.machine in selected or lane.running:
            paint_lane(painter, lane.outline, view, p, lane.good)


def _paint_ductwork(
    painter: QPainter,
    scene: FloorScene,
    view: View,
    p: Palette,
    selected: Sequence[str],
    near: Near,
) -> None:
    """Ducts at their true width, gates, and a ring round the selected point."""
    for duct in scene.ducts:
        if near(duct_box(duct, view)):
            if scene.ghost:
                _paint_ghost(painter, duct, view, p)
            painter.setOpacity(GHOST if scene.ghost else 1.0)
            _paint_duct(painter, duct, view, p, scene.headroom, duct.run in selected)
            painter.setOpacity(1.0)
    for gate in scene.gates:
        if near(gate_box(gate, view)):
            _paint_gate(painter, gate, view, p, gate.gate in selected)
    _paint_point(painter, scene, view, p, selected)


def _paint_machine_extras(
    painter: QPainter, scene: FloorScene, view: View, p: Palette, selected: Sequence[str]
) -> None:
    """Feed arrows, and where machines on wheels are parked."""
    for lane in scene.lanes:
        shown = lane.machine in selected or lane.running
        paint_feed(painter, view.point(lane.start), lane.ahead, p, 22.0 if shown else 15.0)
    for ref, corners in scene.parked:
        chosen = ref in selected
        painter.setPen(
            QPen(p.accent if chosen else p.soft, 2.5 if chosen else 1.2, Qt.PenStyle.DashLine)
        )
        painter.setBrush(faded(p.machine, 90))
        polygon = view.polygon(corners)
        painter.drawPolygon(polygon)
        name = scene.project.machine[ref.split("/")[0]].name
        halo_text(painter, polygon.boundingRect().center(), f"{name} parked", p, soft=True)


def paint_flow(
    painter: QPainter, ducts: Sequence[DuctShape], view: View, p: Palette, seconds: float
) -> None:
    """The chevrons that move with the air, at a time in seconds."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for duct in ducts:
        if duct.vertical or duct.state == "idle":
            continue
        line = [view.point(place) for place in duct.line]
        if duct.velocity < 0:
            line.reverse()
        phase = seconds * abs(duct.velocity) * PIXELS_PER_VELOCITY
        colour = mixed(p.state(duct.state), p.ink, 0.35)
        reach = min(max(duct.width * view.scale * 0.26, 2.5), 6.0)
        painter.setPen(QPen(colour, 1.6))
        for spot, heading in _along(line, phase % CHEVRON_GAP, CHEVRON_GAP):
            c, s = math.cos(heading) * reach, math.sin(heading) * reach
            tip = QPointF(spot.x() + c * 0.6, spot.y() + s * 0.6)
            painter.drawLine(QPointF(spot.x() - c * 0.5 + s, spot.y() - s * 0.5 - c), tip)
            painter.drawLine(QPointF(spot.x() - c * 0.5 - s, spot.y() - s * 0.5 + c), tip)


def _along(line: list[QPointF], first: float, gap: float) -> list[tuple[QPointF, float]]:
    """Spots along a line, every `gap` from `first` on, with the heading there."""
    spots: list[tuple[QPointF, float]] = []
    walked, wanted = 0.0, first
    for a, b in itertools.pairwise(line):
        dx, dy = b.x() - a.x(), b.y() - a.y()
        length = math.hypot(dx, dy)
        while length > 0 and wanted <= walked + length:
            t = (wanted - walked) / length
            spots.append((QPointF(a.x() + dx * t, a.y() + dy * t), math.atan2(dy, dx)))
            wanted += gap
        walked += length
    return spots


def _paint_machine(
    painter: QPainter, machine: MachineShape, view: View, p: Palette, selected: Sequence[str]
) -> None:
    chosen = any(ref.split("/")[0] == machine.machine and "/parked-" not in ref for ref in selected)
    polygon = view.polygon(machine.corners)
    _paint_body(painter, polygon, p, 1.3, chosen, machine.running, machine.hidden)
    painter.setPen(QPen(p.faint, 1, Qt.PenStyle.DashLine))
    for low, high in machine.wings:
        painter.drawLine(view.point(low), view.point(high))
    for ref, place, port in machine.ports:
        spot, radius = view.point(place), max(port * view.scale / 2, LEAST_PORT)
        painter.setPen(QPen(p.accent, 3) if ref in selected else QPen(p.ink, 1.2))
        painter.setBrush(p.raised)
        painter.drawEllipse(spot, radius, radius)


def _paint_body(
    painter: QPainter,
    polygon: QPolygonF,
    p: Palette,
    weight: float,
    chosen: bool,
    running: bool,
    hidden: bool,
) -> None:
    """The outline of a machine or collector; dashed and seen through where it stands under
    something.
    """
    pen = QPen(p.accent, 3) if chosen else QPen(p.ink, weight)
    fill = p.machine_on if running else p.machine
    if hidden:
        pen.setStyle(Qt.PenStyle.DashLine)
        fill = faded(fill, SEEN_THROUGH)
    painter.setPen(pen)
    painter.setBrush(fill)
    painter.drawPolygon(polygon)


def _paint_collector(
    painter: QPainter, collector: CollectorShape, view: View, p: Palette, selected: Sequence[str]
) -> None:
    chosen = collector.collector in selected
    polygon = view.polygon(collector.corners)
    if collector.lead:
        a, b = (view.point(place) for place in collector.lead)
        painter.setPen(QPen(p.ink, 2.4, Qt.PenStyle.DotLine))
        painter.drawLine(a, b)
    _paint_body(painter, polygon, p, 1.8, chosen, collector.running, collector.hidden)
    centre = polygon.boundingRect().center()
    radius = collector.radius * view.scale
    painter.setPen(QPen(p.ink, 1.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(centre, radius, radius)
    if collector.part is not None:
        # A cone looked into from above, or a cloth in folds.
        if collector.part == "separator":
            painter.drawEllipse(centre, radius / 3, radius / 3)
        else:
            for fold in map(math.radians, range(0, 180, 30)):
                off = QPointF(radius * math.cos(fold), radius * math.sin(fold))
                painter.drawLine(centre - off, centre + off)
        return
    spiral = QPainterPath(centre)
    for i in range(1, 61):
        turn, r = i / 60 * 5 * math.pi, radius * i / 60
        spiral.lineTo(QPointF(centre.x() + r * math.cos(turn), centre.y() + r * math.sin(turn)))
    painter.drawPath(spiral)


def _paint_duct(
    painter: QPainter, duct: DuctShape, view: View, p: Palette, ceiling: float, chosen: bool
) -> None:
    width = max(duct.width * view.scale, 3.0)
    body = mixed(p.idle_low, p.idle_high, min(max(duct.height / ceiling, 0.0), 1.0))
    if duct.state != "idle":
        body = mixed(body, p.state(duct.state), 0.42)
    edge = p.accent if chosen else mixed(p.ink, body, 0.25)
    # Upright ducts are a ring in plan.
    if duct.vertical:
        _paint_riser(painter, view.point(duct.line[0]), width, body, edge, chosen)
        return
    path = QPainterPath(view.point(duct.line[0]))
    for place in duct.line[1:]:
        path.lineTo(view.point(place))
    flat = Qt.PenCapStyle.FlatCap
    join = Qt.PenJoinStyle.RoundJoin
    painter.setBrush(Qt.BrushStyle.NoBrush)
    # The outline first, wider, and the body over it.
    outline = width + (5 if chosen else 2.2)
    hidden = Qt.PenStyle.DashLine if duct.height < 0 else Qt.PenStyle.SolidLine  # under the floor
    painter.setPen(QPen(edge, outline, hidden, flat, join))
    painter.drawPath(path)
    painter.setPen(QPen(body, width, Qt.PenStyle.SolidLine, flat, join))
    painter.drawPath(path)
    if duct.hose:
        pen = QPen(faded(edge, 120), width, Qt.PenStyle.CustomDashLine, flat, join)
        pen.setDashPattern([1.2 / width, 3.6 / width])
        painter.setPen(pen)
        painter.drawPath(path)
    if duct.state in ("settles", "may settle"):
        _paint_heaps(painter, [view.point(q) for q in duct.line], width, p, duct.state == "settles")
    if duct.state == "idle":
        _paint_size(painter, duct, view, p)


def _paint_ghost(painter: QPainter, duct: DuctShape, view: View, p: Palette) -> None:
    """A broken line round a duct that is only offered."""
    width = max(duct.width * view.scale, 3.0)
    painter.setPen(QPen(p.accent, width + 5, Qt.PenStyle.DotLine, Qt.PenCapStyle.FlatCap))
    painter.drawPolyline(view.polygon(duct.line))


def _paint_ducts_faint(
    painter: QPainter, ducts: Sequence[DuctShape], view: View, p: Palette
) -> None:
    """The ductwork as a shadow, where another stage is at work."""
    for duct in ducts:
        width = max(duct.width * view.scale, 3.0)
        painter.setPen(
            QPen(faded(p.idle_high, 80), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
        )
        painter.drawPolyline(view.polygon(duct.line))


def _paint_riser(
    painter: QPainter, centre: QPointF, width: float, body: QColor, edge: QColor, chosen: bool
) -> None:
    """A drop seen from above: a ring with a dot."""
    painter.setPen(QPen(edge, 3 if chosen else 1.3))
    painter.setBrush(body)
    painter.drawEllipse(centre, width / 2, width / 2)
    painter.setBrush(edge)
    painter.drawEllipse(centre, 1.4, 1.4)


def _paint_heaps(
    painter: QPainter, line: list[QPointF], width: float, p: Palette, full: bool
) -> None:
    """Grey-brown heaps along one side of a duct where chips come to rest."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(faded(p.settled, 235 if full else 120))
    for spot, heading in _along(line, 9.0, 15.0 if full else 30.0):
        painter.save()
        painter.translate(spot)
        painter.rotate(math.degrees(heading))
        heap = QPainterPath(QPointF(-6, width / 2))
        heap.quadTo(QPointF(0, width / 2 - min(width, 11.0)), QPointF(6, width / 2))
        painter.drawPath(heap)
        painter.restore()


def _paint_size(painter: QPainter, duct: DuctShape, view: View, p: Palette) -> None:
    """The diameter, written along a still duct that has room for it."""
    if duct.hose:
        return
    a, b = view.point(duct.line[0]), view.point(duct.line[-1])
    length = math.hypot(b.x() - a.x(), b.y() - a.y())
    painter.setFont(font("fine"))
    wide = painter.fontMetrics().horizontalAdvance(duct.label)
    if length < wide + 16 or duct.width * view.scale < 9:
        return
    turn = math.degrees(math.atan2(b.y() - a.y(), b.x() - a.x()))
    painter.save()
    painter.translate((a.x() + b.x()) / 2, (a.y() + b.y()) / 2)
    painter.rotate(readable(turn))
    painter.setPen(p.ink)
    painter.drawText(
        QRectF(-wide / 2 - 2, -8, wide + 4, 16), Qt.AlignmentFlag.AlignCenter, duct.label
    )
    painter.restore()


def _paint_gate(painter: QPainter, gate: GateShape, view: View, p: Palette, chosen: bool) -> None:
    """A gate: a blade across the duct when shut, drawn out to one side when open; a dot where it is
    forced.
    """
    reach = max(gate.width * view.scale / 2, 4.0) + 3
    painter.save()
    painter.translate(view.point(gate.at))
    painter.rotate(-math.degrees(gate.heading))
    colour = p.accent if chosen else p.ink
    # Drawn out to the side when open, across the bore when shut: told without colour.
    if gate.open:
        painter.setPen(QPen(colour, 1.4))
        painter.setBrush(p.raised)
        painter.drawRect(QRectF(-2.2, -reach * 2.2, 4.4, reach * 1.5))
    else:
        painter.setPen(QPen(colour, 1))
        painter.setBrush(colour)
        painter.drawRect(QRectF(-2.2, -reach, 4.4, reach * 2))
    if gate.forced:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.short)
        painter.drawEllipse(QPointF(0, reach + 5), 3, 3)
    painter.restore()


def _paint_point(
    painter: QPainter, scene: FloorScene, view: View, p: Palette, selected: Sequence[str]
) -> None:
    """A ring round the selected point of the ductwork."""
    for ident in selected:
        point = scene.project.point.get(ident)
        if point is None:
            continue
        painter.setPen(QPen(p.accent, 2.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(view.point((point.x, point.y)), 11, 11)


def _paint_sizes(
    painter: QPainter, project: Project, view: View, p: Palette, display: Display
) -> None:
    """Length and width of the whole shop along its walls."""
    box = view.polygon(project.corners).boundingRect()
    across, deep = box.width() / view.scale, box.height() / view.scale
    below, beside = size_lines(box, wall_width(view))
    painter.setFont(font("small"))
    painter.setPen(QPen(p.soft, 1))
    y = below.center().y()
    painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
    for x in (box.left(), box.right()):
        painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
    x = beside.center().x()
    painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
    for y_end in (box.top(), box.bottom()):
        painter.drawLine(QPointF(x - 4, y_end), QPointF(x + 4, y_end))
    _on_bench(painter, QPointF(box.center().x(), y), display.length(across), p, 0)
    _on_bench(painter, QPointF(x, box.center().y()), display.length(deep), p, -90)


def _on_bench(painter: QPainter, centre: QPointF, text: str, p: Palette, turn: float) -> None:
    wide = painter.fontMetrics().horizontalAdvance(text) + 12
    painter.save()
    painter.translate(centre)
    painter.rotate(turn)
    painter.fillRect(QRectF(-wide / 2, -8, wide, 16), p.bench)
    painter.setPen(p.soft)
    painter.drawText(QRectF(-wide / 2, -8, wide, 16), Qt.AlignmentFlag.AlignCenter, text)
    painter.restore()
