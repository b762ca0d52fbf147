"""Names on the floor: which there are, where each goes, and how one is painted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QPainter

from grey_current.desk import glyphs
from grey_current.desk.floor.label_places import WantedLabel, label_places
from grey_current.desk.floor.scene import CollectorShape, DuctShape, FloorScene, MachineShape
from grey_current.desk.floor.view import View
from grey_current.desk.theme import Palette, faded, font

# Pixels before a machine's name for the shape of its state.
MARK_WIDTH = 18.0


@dataclass(frozen=True)
class Label:
    """A name at its place in pixels, with the state whose shape stands before it, if any."""

    text: str
    left: float
    top: float
    wide: float
    high: float
    bold: bool = False
    soft: bool = False
    state: str = ""

    @property
    def box(self) -> QRectF:
        """Where it goes."""
        return QRectF(self.left, self.top, self.wide, self.high)


def placed_labels(
    scene: FloorScene, ducts: Sequence[DuctShape], view: View, mark: bool
) -> list[Label]:
    """Names of machines, collectors and features, each where it covers the least of the `ducts`."""
    items: list[MachineShape | CollectorShape] = [*scene.machines, *scene.collectors]
    margins = [MARK_WIDTH if mark and isinstance(item, MachineShape) else 0.0 for item in items]
    wanted = [
        WantedLabel(_wide(item.name, item.running) + margin + 4, item.corners, optional=False)
        for item, margin in zip(items, margins, strict=True)
    ]
    features = scene.project.features
    wanted += [WantedLabel(_wide(f.name, False) + 4, f.outline, optional=True) for f in features]
    lines = tuple((duct.line, duct.width) for duct in ducts)
    for machine in scene.machines:
        lines += tuple(((place, place), port) for _, place, port in machine.ports)
    corners = tuple(scene.project.corners)
    places = label_places(tuple(wanted), lines, corners, view)
    made = [
        _label(
            item.name,
            place,
            bold=item.running,
            state=item.state if isinstance(item, MachineShape) and margin else "",
        )
        for item, margin, place in zip(items, margins, places, strict=False)
        if place is not None
    ]
    soft = zip(features, places[len(items) :], strict=True)
    return made + [_label(f.name, place, soft=True) for f, place in soft if place is not None]


def _label(
    text: str, place: QRectF, *, bold: bool = False, soft: bool = False, state: str = ""
) -> Label:
    return Label(text, place.left(), place.top(), place.width(), place.height(), bold, soft, state)


@lru_cache(maxsize=2048)
def _wide(text: str, bold: bool) -> int:
    return QFontMetrics(font("small", bold)).horizontalAdvance(text)


def label_box(label: Label) -> QRectF:
    """The pixels that a label takes."""
    return label.box.adjusted(-6, -6, 6, 6)


def paint_label(painter: QPainter, label: Label, p: Palette) -> None:
    """A name at its place, and before it the machine's state."""
    margin = MARK_WIDTH if label.state else 0.0
    centre = label.box.center()
    text = QPointF(centre.x() + margin / 2, centre.y())
    halo_text(painter, text, label.text, p, bold=label.bold, soft=label.soft)
    if label.state:
        spot = QPointF(label.left + 9, centre.y())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(faded(p.sheet, 215))
        painter.drawEllipse(spot, 8, 8)
        glyphs.draw_state(painter, spot, 11, label.state, p)


def halo_text(
    painter: QPainter,
    centre: QPointF,
    text: str,
    p: Palette,
    *,
    bold: bool = False,
    soft: bool = False,
) -> None:
    """Text that stays readable over lines: on a patch of paper."""
    painter.setFont(font("small", bold))
    metrics = painter.fontMetrics()
    wide, high = metrics.horizontalAdvance(text), metrics.height()
    box = QRectF(centre.x() - wide / 2 - 2, centre.y() - high / 2, wide + 4, high)
    painter.fillRect(box, faded(p.sheet, 190))
    painter.setPen(p.soft if soft else p.ink)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
