"""What is painted over the picture in space: names with their state, moving air, the tape, the line
between two designs.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from grey_current.build.solid.camera import Camera
from grey_current.desk import glyphs
from grey_current.desk.floor.scene import FloorScene
from grey_current.desk.plain import draw_cut
from grey_current.desk.theme import Palette, font
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.places import XYZ, bodies, position
from grey_current.shop.stacking import top_of

# Pixels of a name's own height, and of the row of buttons over the picture.
LABEL_HIGH, BAR = 18.0, 34.0
# m over the floor at which a name stands at most, and over what it is the name of.
LABEL_AT, OVER = 1.6, 0.12
# m between two motes of moving air, and their speed over the air's own: the eye follows slowly.
MOTES, SLOWED = 0.55, 0.06
# m/s below which air is not drawn moving; m that a mote may lie behind a duct's skin.
STILL, SKIN = 0.3, 0.16


@dataclass(frozen=True)
class Overlay:
    """Where places of the shop are on the widget, and how far away what is seen there is.

    Attributes:
        depth_at: How far before the eye (m) what is seen at a pixel is.
    """

    painter: QPainter
    camera: Camera
    colours: Palette
    wide: float
    high: float
    depth_at: Callable[[float, float], float]

    def pixels(self, places: Sequence[XYZ]) -> NDArray[np.float64]:
        """Places as pixels across and down, and their depth (m)."""
        return self.camera.seen(np.array(places, dtype=float), self.wide, self.high)

    def labels(self, scene: FloorScene, chosen: frozenset[str]) -> None:
        """Names with their state over machines and collectors, none over another."""
        painter, p = self.painter, self.colours
        states = {shape.machine: shape.state for shape in scene.machines}
        named: list[tuple[Machine | Collector, XYZ, str]] = [
            (item, (item.x, item.y, min(top_of(item), LABEL_AT) + OVER), states.get(item.id, ""))
            for item in bodies(scene.project)
        ]
        if not named:
            return
        spots = self.pixels([at for _, at, _ in named])
        room = QRectF(0, 0, self.wide, self.high)
        taken: list[QRectF] = [QRectF(0, 0, self.wide, BAR - 4)]
        painter.setFont(font("small"))
        # The nearest first: what is behind gives way.
        for number in np.argsort(spots[:, 2]):
            (item, _, state), (x, y, depth) = named[number], spots[number]
            wide = painter.fontMetrics().horizontalAdvance(item.name) + (22 if state else 10)
            box = QRectF(x - wide / 2, y - LABEL_HIGH / 2, wide, LABEL_HIGH)
            hidden = any(box.intersects(other) for other in taken)
            if depth <= 0 or hidden or not room.contains(box):
                continue
            taken.append(box)
            painter.setPen(QPen(p.accent if item.id in chosen else p.rule, 1))
            painter.setBrush(p.sheet)
            painter.drawRoundedRect(box, 4, 4)
            if state:
                glyphs.draw_state(painter, QPointF(box.left() + 11, y), 10, state, p)
            painter.setPen(p.ink)
            words = box.adjusted(18 if state else 0, 0, 0, 0)
            painter.drawText(words, Qt.AlignmentFlag.AlignCenter, item.name)

    def air(self, scene: FloorScene, seconds: float) -> None:
        """Motes along every duct that air moves in, hidden where something is before them; where
        chips settle what lies there is seen, not the air.
        """
        places: list[XYZ] = []
        colours: list[QColor] = []
        for duct in scene.ducts:
            if abs(duct.velocity) < STILL or duct.hose:
                continue
            run = scene.project.run[duct.run]
            along = _motes(
                position(scene.project, run.start),
                position(scene.project, run.end),
                (seconds * duct.velocity * SLOWED) % MOTES,
            )
            lies = duct.state == "settles"
            colours += [self.colours.settled if lies else self.colours.sheet] * len(along)
            places += along
        if not places:
            return
        self.painter.setPen(Qt.PenStyle.NoPen)
        for (x, y, depth), colour in zip(self.pixels(places), colours, strict=True):
            if depth > 0 and self.depth_at(x, y) > depth - SKIN:
                self.painter.setBrush(colour)
                self.painter.drawEllipse(QPointF(x, y), 1.8, 1.8)

    def tape(self, measured: Sequence[XYZ], words: str) -> None:
        """The places that are measured between, and how far they are apart."""
        if not measured:
            return
        painter, p = self.painter, self.colours
        painter.setPen(QPen(p.accent, 2))
        painter.setBrush(p.accent)
        ends = [QPointF(x, y) for x, y, _ in self.pixels(measured)]
        for end in ends:
            painter.drawEllipse(end, 3, 3)
        if len(ends) < 2:
            return
        painter.drawLine(ends[0], ends[1])
        painter.setFont(font("small", bold=True))
        wide = painter.fontMetrics().horizontalAdvance(words) + 12
        middle = (ends[0] + ends[1]) / 2
        box = QRectF(middle.x() - wide / 2, middle.y() - 10, wide, 20)
        painter.setBrush(p.sheet)
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(p.ink)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def line_between(self, divide: float, before: str) -> None:
        """The line between the design before and the present one, with their names."""
        painter, p, x = self.painter, self.colours, divide * self.wide
        painter.setPen(QPen(p.accent, 2))
        painter.drawLine(QPointF(x, BAR), QPointF(x, self.high))
        painter.setBrush(p.sheet)
        painter.drawEllipse(QPointF(x, self.high / 2), 6, 6)
        painter.setFont(font("small", bold=True))
        painter.setPen(p.ink)
        foot = self.high - 22
        draw_cut(painter, QRectF(8, foot, x - 16, 18), before, Qt.AlignmentFlag.AlignRight)
        now = QRectF(x + 8, foot, self.wide - x - 16, 18)
        draw_cut(painter, now, "Now", Qt.AlignmentFlag.AlignLeft)


def _motes(a: XYZ, b: XYZ, phase: float) -> list[XYZ]:
    """Places along a duct, the first so far (m) from its beginning."""
    far = math.dist(a, b)
    count = int(max(far - phase, 0.0) / MOTES) + 1
    shares = [(phase + n * MOTES) / far for n in range(count)] if far > 0 else []
    return [
        (a[0] + (b[0] - a[0]) * s, a[1] + (b[1] - a[1]) * s, a[2] + (b[2] - a[2]) * s)
        for s in shares
        if s < 1
    ]
