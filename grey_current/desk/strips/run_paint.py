"""Paints the run strip: the path with its heights above, the pressure that is left below."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from grey_current.desk.plain import draw_cut
from grey_current.desk.strips.run_facts import StripFacts, StripPiece
from grey_current.desk.theme import Palette, faded, font, mixed
from grey_current.units import Display

LEFT, RIGHT, TOP, FOOT = 56.0, 16.0, 30.0, 22.0
# Height of a chart whose axis has room for its nought below the figure at its top.
ZERO_FROM = 34.0
# Height of the path from the side where there is room, and what lies between it and the chart.
PROFILE, GAP = 66.0, 16.0


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
    draw_cut(painter, QRectF(12, 6, box.width() - 24, 20), head)
    profile, chart = _shares(box)
    for index, piece in enumerate(facts.pieces):
        left, right = spans[index]
        tint = p.accent if index in shown else p.short
        if index in shown or piece.group == facts.largest_loss:
            column = QRectF(left, TOP, max(right - left, 2), chart.bottom() - TOP)
            painter.fillRect(column, faded(tint, 40))
    _paint_profile(painter, profile, facts, spans, p, selected, display)
    _paint_left(painter, chart, facts, spans, p, display)
    _paint_largest_loss(painter, chart, facts, spans, p, display)


def _shares(box: QRectF) -> tuple[QRectF, QRectF]:
    """The boxes of the path from the side and of the pressure left; a low strip halves."""
    wide, rest = box.width() - LEFT - RIGHT, box.height() - TOP - GAP - FOOT
    tall = min(PROFILE, rest / 2)
    return QRectF(LEFT, TOP, wide, tall), QRectF(LEFT, TOP + tall + GAP, wide, rest - tall)


def _selected_pieces(facts: StripFacts, selected: str | None) -> set[int]:
    return {
        i for i, piece in enumerate(facts.pieces) if piece.element == selected and not piece.whole
    }


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
    painter: QPainter,
    piece: StripPiece,
    at: QPointF,
    wide: float,
    thick: float,
    colour: QColor,
    p: Palette,
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
        words = {
            "intake": "intake",
            "separator": "cyclone",
            "filter": "filter",
            "return_opening": "opening",
        }.get(piece.kind, "")
        draw_cut(
            painter,
            QRectF(at.x() - half, at.y() - 9, wide, 18),
            words,
            Qt.AlignmentFlag.AlignCenter,
        )


def _paint_left(
    painter: QPainter,
    box: QRectF,
    facts: StripFacts,
    spans: list[tuple[float, float]],
    p: Palette,
    display: Display,
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
    if box.height() > ZERO_FROM:
        painter.drawText(QRectF(2, box.bottom() - 8, LEFT - 8, 14), right_aligned, "0")
    draw_cut(
        painter,
        QRectF(box.left(), box.bottom() + 3, box.width(), 16),
        "pressure left, from the machine to the exhaust",
        Qt.AlignmentFlag.AlignLeft,
    )


def _paint_largest_loss(
    painter: QPainter,
    box: QRectF,
    facts: StripFacts,
    spans: list[tuple[float, float]],
    p: Palette,
    display: Display,
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
    y = min(max(y, box.top()), box.bottom() - 16)
    painter.drawText(QRectF(max(x, LEFT), y, wide, 16), Qt.AlignmentFlag.AlignLeft, text)
