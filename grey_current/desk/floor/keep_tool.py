"""The pointer at the Keep stage: everything can be selected; rings say where to measure next, dots
where it was.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from grey_current.desk.floor.build_tool import BuildTool
from grey_current.desk.theme import font
from grey_current.keep.answers import SHOWN
from grey_current.shop.places import position

RING, DOT = 10.0, 4.0


class KeepTool(BuildTool):
    """Looks at where readings are taken."""

    def paint(self, painter: QPainter) -> None:
        found, p = self.workspace.computed.doubt, self.floor.colours
        painter.setPen(QPen(p.sheet, 1))
        painter.setBrush(p.accent)
        for reading in self.project.keep.readings:
            spot = self._spot(reading.place)
            if spot is not None:
                painter.drawEllipse(spot, DOT, DOT)
        if found is None or found.project != self.project or self.project.keep.practising:
            return
        painter.setFont(font("fine", bold=True))
        if self.workspace.finding and found.step is not None:
            # While a fault is looked for, only the place that one is sent to.
            asked = found.step.asked
            for place in (asked[2],) if asked is not None else found.step.places:
                self._ring(painter, place, "?", p.accent, p.sheet)
            return
        holes = {one.place for one in found.monthly}
        for number, wanted in enumerate(found.wanted[:SHOWN], 1):
            if wanted.place not in holes:
                self._ring(painter, wanted.place, f"{number}", p.sheet, p.accent)
        for place in holes:
            self._ring(painter, place, "M", p.accent, p.sheet)

    def _ring(self, painter: QPainter, place: str, words: str, ground: QColor, ink: QColor) -> None:
        """A ring where a reading is wanted; the monthly hole's is filled."""
        spot = self._spot(place)
        if spot is None:
            return
        painter.setBrush(ground)
        painter.setPen(QPen(self.floor.colours.accent, 2))
        painter.drawEllipse(spot, RING, RING)
        painter.setPen(ink)
        box = QRectF(spot.x() - RING, spot.y() - RING, 2 * RING, 2 * RING)
        painter.drawText(box, CENTRE, words)

    def _spot(self, place: str) -> QPointF | None:
        """Where a reading is taken, in pixels: the middle of a run, a pickup or a collector; None
        where it is gone.
        """
        run = self.project.run.get(place)
        if run is not None:
            ends = [position(self.project, end) for end in run.ends]
            return self.floor.view.point(
                ((ends[0][0] + ends[1][0]) / 2, (ends[0][1] + ends[1][1]) / 2)
            )
        if place in self.project.pickup:
            x, y, _ = position(self.project, place)
            return self.floor.view.point((x, y))
        collector = self.project.collector.get(place)
        return None if collector is None else self.floor.view.point((collector.x, collector.y))


CENTRE = Qt.AlignmentFlag.AlignCenter
