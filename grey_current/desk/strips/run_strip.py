"""The run strip: the selected machine's air path unrolled, heights above, the pressure that is left below."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from grey_current.air.pieces import Piece, Straight
from grey_current.design.flow.assessment import PickupAir, ScenarioAir
from grey_current.design.flow.losses import NOT_COUNTED, group_of
from grey_current.design.words import piece_words
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import Palette, faded, font, mixed
from grey_current.shop import edits
from grey_current.shop.model import Project, distance, position
from grey_current.units import INCH, Display
from grey_current.workspace.workspace import Workspace

EDGE = 5.0
"""Pixels beside a hose's end within which it can be taken."""
LEFT, RIGHT, TOP = 56.0, 16.0, 30.0
POINT_WIDTH = 9.0
"""Pixels for a fitting, which has no length of its own."""
END_WIDTH = {"intake": 46.0, "separator": 58.0, "filter": 42.0, "return_opening": 52.0}
NO_WIDTH = {"spacing", "inlet_disturbance"}


@dataclass(frozen=True)
class StripPiece:
    """One piece along the path: its length (m) or its fixed width (px), loss, and the pressure left.

    `group` is what it belongs to when losses are added up: a hose and its bends are one thing. `whole`: it
    stands for a machine or collector, so that selecting that shows the whole path.
    """

    element: str
    kind: str
    words: str
    length: float
    width: float
    height_start: float
    height_end: float
    diameter: float
    loss: float
    left_after: float
    group: tuple[str, str]
    whole: bool


@dataclass(frozen=True)
class StripFacts:
    """A pickup's whole path; `total` is the fan's pressure, `head` the line above it.

    `thief` is the group that takes most.
    """

    head: str
    pieces: tuple[StripPiece, ...]
    largest_loss: tuple[str, str]
    largest_pressure: float
    total: float
    ceiling: float


def strip_facts(workspace: Workspace) -> StripFacts | None:
    """The path shown: of the selected or running machine's selected or worst pickup; None without one."""
    project = workspace.project
    found = _shown_pickup(workspace)
    if found is None:
        return None
    answer, pickup = found
    if pickup.collector is None or pickup.leaf is None:
        return None
    system = answer.systems[pickup.collector]
    if not system.converged:
        return None
    display = Display(project.settings.units)
    path = system.network.path(pickup.leaf)
    own_fan = system.fan_piece
    total = -system.losses[own_fan]
    heights = _heights(project, pickup, [system.network.pieces[i] for i in path])
    pieces: list[StripPiece] = []
    left = total
    bodies = {*project.machine, *project.collector}
    for index, (low, high) in zip(path, heights, strict=True):
        piece = system.network.pieces[index]
        if index == own_fan:
            continue
        loss = system.losses[index]
        words = piece_words(project, piece, display, system.gate_open(piece))
        pieces.append(
            StripPiece(
                piece.source_id,
                piece.kind,
                words,
                *_extent(piece),
                low,
                high,
                piece.diameter,
                loss,
                left - loss,
                group_of(piece),
                piece.source_id in bodies,
            )
        )
        left -= loss
    sums: dict[tuple[str, str], float] = {}
    for shown in pieces:
        sums[shown.group] = sums.get(shown.group, 0.0) + shown.loss
    largest_loss = max((g for g in sums if g[1] not in NOT_COUNTED), key=lambda g: sums[g])
    machine, item = project.pickup[f"{pickup.machine}/{pickup.pickup}"]
    name = machine.name + (f", {item.name.lower()}" if len(machine.pickups) > 1 else "")
    got, lift = display.airflow(pickup.airflow), display.pressure(total)
    head = f"{name}: {got} from the port to the exhaust, fan pressure {lift}"
    return StripFacts(
        head,
        tuple(pieces),
        largest_loss,
        sums[largest_loss],
        total,
        max(max(r.ceiling, r.far_ceiling or 0.0) for r in project.rooms),
    )


def _shown_pickup(workspace: Workspace) -> tuple[ScenarioAir, PickupAir] | None:
    """The pickup whose path is shown, and the scenario it is computed in."""
    chosen = (workspace.selection or "").split("/")
    scenario = workspace.scenario
    machine = chosen[0] if chosen[0] in workspace.project.machine else ""
    if scenario is None or (machine and machine not in workspace.running):
        scenario = workspace.assessment.of_machine.get(machine) if machine else None
    if scenario is None or not scenario.converged:
        return None
    mine = [p for p in scenario.pickups if p.leaf is not None and (not machine or p.machine == machine)]
    exact = [p for p in mine if len(chosen) > 1 and p.pickup == chosen[1]]
    best = min(exact or mine, key=lambda p: p.share, default=None)
    return (scenario, best) if best else None


def _extent(piece: Piece) -> tuple[float, float]:
    """(length in m, fixed width in px) of a piece on the strip; one of them is 0."""
    if isinstance(piece, Straight):
        return max(piece.length, 0.02), 0.0
    return 0.0, 0.0 if piece.kind in NO_WIDTH else END_WIDTH.get(piece.kind, POINT_WIDTH)


def _heights(project: Project, pickup: PickupAir, pieces: list[Piece]) -> list[tuple[float, float]]:
    """Height (m) at both ends of each piece; a run's slope is shared out over its pieces."""
    here = position(project, f"{pickup.machine}/{pickup.pickup}")[2]
    heights: list[tuple[float, float]] = []
    for piece in pieces:
        if not isinstance(piece, Straight):
            heights.append((here, here))
            continue
        run = project.run[piece.source_id]
        far = position(project, run.end if piece.forward else run.start)[2]
        near = position(project, run.start if piece.forward else run.end)[2]
        mine = [p for p in pieces if isinstance(p, Straight) and p.source_id == piece.source_id]
        share = piece.length / (sum(p.length for p in mine) or 1.0)
        nxt = here + (far - near) * share
        heights.append((here, nxt))
        here = nxt
    return heights


@dataclass(frozen=True)
class _HoseDrag:
    """A hose whose end is dragged: its run, its length and least length (m), pixels a metre, where it was taken."""

    run: str
    length: float
    least: float
    scale: float
    x: float


class RunStrip(StripPanel):
    """The run strip: signals `chosen` when a piece is clicked.

    A hose's right edge can be dragged: the hose gets shorter or longer, and the pressure line moves with it.
    """

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.setMouseTracking(True)
        self.setAccessibleName("Air path of the selected machine")
        self.facts: StripFacts | None = strip_facts(workspace)
        self._hover: int | None = None
        self._hose: _HoseDrag | None = None

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        self.facts = strip_facts(self.workspace)
        self._hover = None
        self.update()

    def spans(self) -> list[tuple[float, float]]:
        """Left and right edge of every piece in pixels: lengths to one scale, fittings at a fixed width."""
        pieces = self.facts.pieces if self.facts else ()
        fixed = sum(piece.width for piece in pieces)
        length = sum(piece.length for piece in pieces) or 1.0
        scale = max(self.width() - LEFT - RIGHT - fixed, 10.0) / length
        edges = [LEFT]
        for piece in pieces:
            edges.append(edges[-1] + piece.width + piece.length * scale)
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
        if self.facts is None:
            painter.setPen(self.colours.soft)
            painter.setFont(font("body"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, _empty_words(self.workspace))
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

    def hose_edge_at(self, x: float) -> int | None:
        """The hose whose right edge is at a pixel across, or None."""
        for index, (_, right) in enumerate(self.spans()):
            if self.facts and self.facts.pieces[index].kind == "hose" and abs(right - x) < EDGE:
                return index
        return None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
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
        self.attempt(lambda: self.workspace.preview(lambda p: edits.with_hose_length(p, drag.run, length)))

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
        distances = [distance(project, run, ref) for ref in (run.start, *run.also_serves)]
        scale = max((right - left) / max(piece.length, 0.02), 1.0)
        self._hose = _HoseDrag(run.id, run.length or max(distances), max(distances), scale, x)

    def leaveEvent(self, event: object) -> None:
        del event
        self._hover = None
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        edge = self.hose_edge_at(event.position().x()) if event else None
        if event is not None and edge is not None:
            self._take_hose(edge, event.position().x())
        found = edge if edge is not None else self.piece_at(event.position().x()) if event else None
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


def paint_strip(
    painter: QPainter,
    box: QRectF,
    facts: StripFacts,
    spans: list[tuple[float, float]],
    p: Palette,
    display: Display,
    selected: str | None,
    hover: int | None,
) -> None:
    """The head line, the path with its heights, and under it the pressure left."""
    painter.setFont(font("small", bold=True))
    painter.setPen(p.ink)
    shown = {hover} if hover is not None else _selected_pieces(facts, selected)
    head = _head(facts, [facts.pieces[i] for i in sorted(shown)], display)
    painter.drawText(QRectF(12, 6, box.width() - 24, 20), Qt.AlignmentFlag.AlignVCenter, head)
    profile = QRectF(LEFT, TOP, box.width() - LEFT - RIGHT, 66)
    chart = QRectF(LEFT, TOP + 82, profile.width(), box.height() - TOP - 82 - 22)
    for index, piece in enumerate(facts.pieces):
        left, right = spans[index]
        tint = p.accent if index in shown else p.short if piece.group == facts.largest_loss else None
        if tint is not None:
            column = QRectF(left, TOP, max(right - left, 2), chart.bottom() - TOP)
            painter.fillRect(column, faded(tint, 40))
    _paint_profile(painter, profile, facts, spans, p, selected, display)
    _paint_left(painter, chart, facts, spans, p, display)
    _paint_largest_loss(painter, chart, facts, spans, p, display)


def _selected_pieces(facts: StripFacts, selected: str | None) -> set[int]:
    return {i for i, piece in enumerate(facts.pieces) if piece.element == selected and not piece.whole}


def _head(facts: StripFacts, pieces: list[StripPiece], display: Display) -> str:
    """The line above the strip: the whole path, or what the marked pieces take together."""
    if not pieces:
        return facts.head
    loss = sum(piece.loss for piece in pieces)
    words = pieces[0].words[:1].upper() + pieces[0].words[1:]
    more = " and what belongs to it" if len(pieces) > 1 else ""
    share = f", {loss / facts.total:.0%} of the fan's pressure" if facts.total > 0 else ""
    return f"{words}{more}: {display.pressure(loss)}{share}"


def _paint_profile(
    painter: QPainter,
    box: QRectF,
    facts: StripFacts,
    spans: list[tuple[float, float]],
    p: Palette,
    selected: str | None,
    display: Display,
) -> None:
    """The path from the side: each length at its height and, to a scale of its own, its width."""

    def y(height: float) -> float:
        return box.bottom() - 4 - (box.height() - 8) * min(max(height / facts.ceiling, 0), 1)

    painter.setPen(QPen(p.rule, 1))
    painter.drawLine(QPointF(box.left(), box.bottom()), QPointF(box.right(), box.bottom()))
    painter.setFont(font("fine"))
    painter.setPen(p.soft)
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    painter.drawText(QRectF(2, box.bottom() - 8, LEFT - 8, 14), right, "floor")
    painter.drawText(QRectF(2, box.top() - 2, LEFT - 8, 14), right, display.length(facts.ceiling))
    plain = mixed(p.idle_high, p.ink, 0.25)
    for piece, (a, b) in zip(facts.pieces, spans, strict=True):
        if b - a < 0.5:
            continue
        thick = max(piece.diameter * 60, 3.0)
        colour = p.accent if piece.element == selected else plain
        pen = QPen(colour, thick, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
        start, end = QPointF(a, y(piece.height_start)), QPointF(b, y(piece.height_end))
        if piece.kind in ("duct", "hose"):
            if piece.kind == "hose":
                pen.setDashPattern([2.0 / thick, 1.6 / thick])
            painter.setPen(pen)
            painter.drawLine(start, end)
        else:
            _paint_symbol(painter, piece, QPointF((a + b) / 2, start.y()), b - a, thick, colour, p)


def _paint_symbol(
    painter: QPainter, piece: StripPiece, at: QPointF, wide: float, thick: float, colour: QColor, p: Palette
) -> None:
    """A fitting as what it is, in the width that it has."""
    half, reach = wide / 2, thick / 2
    painter.setPen(QPen(colour, 1.4))
    painter.setBrush(mixed(colour, p.sheet, 0.55))
    if piece.kind == "gate":
        painter.drawRect(QRectF(at.x() - 1.5, at.y() - reach - 4, 3, thick + 8))
    elif piece.kind in ("elbow", "mitre", "hose_bend"):
        painter.drawEllipse(at, min(half, reach + 1), min(half, reach + 1))
    elif piece.kind in ("wye_branch", "wye_main", "splitter"):
        painter.drawRect(QRectF(at.x() - half, at.y() - reach, wide, thick))
        painter.drawLine(QPointF(at.x() + half, at.y()), QPointF(at.x() - half, at.y() + reach + 5))
    elif piece.kind in ("expansion", "contraction", "entry"):
        small, large = (reach * 0.6, reach) if piece.kind == "expansion" else (reach, reach * 0.6)
        corners = [(-half, -small), (half, -large), (half, large), (-half, small)]
        painter.drawPolygon(QPolygonF([QPointF(at.x() + dx, at.y() + dy) for dx, dy in corners]))
    else:
        painter.drawRect(QRectF(at.x() - half + 1, at.y() - 9, wide - 2, 18))
        painter.setFont(font("fine"))
        painter.setPen(p.ink)
        words = {"intake": "intake", "separator": "cyclone", "filter": "filter", "return_opening": "opening"}.get(
            piece.kind, ""
        )
        text = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(wide))
        painter.drawText(QRectF(at.x() - half, at.y() - 9, wide, 18), Qt.AlignmentFlag.AlignCenter, text)


def _paint_left(
    painter: QPainter, box: QRectF, facts: StripFacts, spans: list[tuple[float, float]], p: Palette, display: Display
) -> None:
    """The pressure that is left, falling from the fan's whole pressure to nothing."""
    top = max([facts.total, *(piece.left_after for piece in facts.pieces)])
    scale = box.height() / top if top > 0 else 0.0
    line = QPolygonF([QPointF(box.left(), box.bottom() - facts.total * scale)])
    for piece, (_, right) in zip(facts.pieces, spans, strict=True):
        line.append(QPointF(right, box.bottom() - piece.left_after * scale))
    area = QPolygonF(line)
    area.append(QPointF(spans[-1][1], box.bottom()))
    area.append(QPointF(box.left(), box.bottom()))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(faded(p.good, 46))
    painter.drawPolygon(area)
    painter.setPen(QPen(p.good, 2))
    painter.drawPolyline(line)
    painter.setPen(QPen(p.rule, 1))
    painter.drawLine(box.bottomLeft(), box.bottomRight())
    painter.setPen(p.soft)
    painter.setFont(font("fine"))
    right_aligned = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    value, unit = display.pressure(facts.total).split(" ", 1)
    painter.drawText(QRectF(2, box.top() - 8, LEFT - 8, 14), right_aligned, value)
    painter.drawText(QRectF(2, box.top() + 5, LEFT - 8, 14), right_aligned, unit)
    painter.drawText(QRectF(2, box.bottom() - 8, LEFT - 8, 14), right_aligned, "0")
    painter.drawText(
        QRectF(box.left(), box.bottom() + 3, box.width(), 16),
        Qt.AlignmentFlag.AlignLeft,
        "pressure left, from the machine to the exhaust",
    )


def _paint_largest_loss(
    painter: QPainter, box: QRectF, facts: StripFacts, spans: list[tuple[float, float]], p: Palette, display: Display
) -> None:
    """A word beside the biggest loss, in the room above the falling line."""
    last = max(i for i, piece in enumerate(facts.pieces) if piece.group == facts.largest_loss)
    painter.setFont(font("fine", bold=True))
    painter.setPen(p.short)
    text = f"biggest loss, {display.pressure(facts.largest_pressure)}"
    wide = painter.fontMetrics().horizontalAdvance(text) + 6
    x = spans[last][1] + 8
    y = box.bottom() - box.height() * facts.pieces[last].left_after / facts.total - 20
    if x + wide > box.right():
        x, y = spans[last][1] - wide, box.top()
    painter.drawText(QRectF(x, max(y, box.top()), wide, 16), Qt.AlignmentFlag.AlignLeft, text)
