"""Small drawn marks: the state shapes that stand beside every state colour, and the icons."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

from PyQt6.QtCore import QByteArray, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap
from PyQt6.QtSvg import QSvgRenderer

from grey_current.desk.theme import Palette

# How full the drop of a state is.
FILLED = {"good": 1.0, "carries": 1.0, "nearly": 0.75, "short": 0.5, "starved": 0.0}


def draw_state(
    painter: QPainter, centre: QPointF, size: float, word: str, palette: Palette
) -> None:
    """A state as a shape: a full drop is good, one with its tip empty nearly so, a half-full one
    short, a hollow one starved.

    Chips that settle are a heap, air that is too fast is a pair of strokes, no answer is a dash.
    """
    colour = palette.state(word)
    painter.save()
    painter.translate(centre)
    painter.setPen(QPen(colour, 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if word in FILLED:
        _drop(painter, size, colour, FILLED[word])
    elif word in ("settles", "may settle"):
        _heap(painter, size, colour, full=word == "settles")
    elif word == "too fast":
        for shift in (-0.22, 0.22):
            x = shift * size
            painter.drawLine(
                QPointF(x - size * 0.12, size * 0.4), QPointF(x + size * 0.12, -size * 0.4)
            )
    else:
        painter.drawLine(QPointF(-size * 0.3, 0), QPointF(size * 0.3, 0))
    painter.restore()


def _drop(painter: QPainter, size: float, colour: QColor, fill: float) -> None:
    """A square turned on its corner, filled from below."""
    half = size / 2
    path = QPainterPath(QPointF(0, -half))
    for x, y in ((half, 0), (0, half), (-half, 0)):
        path.lineTo(QPointF(x, y))
    path.closeSubpath()
    if fill > 0:
        painter.save()
        painter.setClipRect(QRectF(-half, half - size * fill, size, size * fill))
        painter.fillPath(path, QBrush(colour))
        painter.restore()
    painter.drawPath(path)


def _heap(painter: QPainter, size: float, colour: QColor, full: bool) -> None:
    half = size / 2
    path = QPainterPath(QPointF(-half, half * 0.7))
    path.quadTo(QPointF(0, -half * 1.2), QPointF(half, half * 0.7))
    path.closeSubpath()
    if full:
        painter.fillPath(path, QBrush(colour))
    painter.drawPath(path)


@cache
def icon(name: str, colour: str, size: int = 20) -> QIcon:
    """One of the project's own icons in a colour (#rrggbb)."""
    text = (files("grey_current.desk") / "icons" / f"{name}.svg").read_text(encoding="utf-8")
    renderer = QSvgRenderer(QByteArray(text.replace("currentColor", colour).encode()))
    pixmap = QPixmap(size * 2, size * 2)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    renderer.render(painter)
    painter.end()
    pixmap.setDevicePixelRatio(2.0)
    return QIcon(pixmap)


def draw_fold(painter: QPainter, spot: QPointF, opened: bool, palette: Palette) -> None:
    """A hook that points down at what is open, and to the right where something is folded."""
    painter.setPen(QPen(palette.soft, 1.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    wide, deep = (3.5, 2.0) if opened else (2.0, 3.5)
    corner = spot + (QPointF(0, deep) if opened else QPointF(wide, 0))
    ends = ((-wide, -deep), (wide, -deep)) if opened else ((-wide, -deep), (-wide, deep))
    for x, y in ends:
        painter.drawLine(spot + QPointF(x, y), corner)


def draw_tick(painter: QPainter, box: QRectF, colour: QColor) -> None:
    """A tick in a box."""
    painter.setPen(QPen(colour, 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    low = QPointF(box.left() + box.width() * 0.42, box.bottom() - box.height() * 0.24)
    painter.drawLine(QPointF(box.left() + box.width() * 0.2, box.center().y()), low)
    painter.drawLine(
        low, QPointF(box.right() - box.width() * 0.16, box.top() + box.height() * 0.24)
    )
