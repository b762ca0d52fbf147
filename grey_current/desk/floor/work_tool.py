"""The pointer at the Work stage: everything can be selected; rooms are tinted by the dust that
hangs in them.
"""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter

from grey_current.desk.floor.build_tool import BuildTool
from grey_current.desk.floor.tool import DRAG_FROM, far, near_port, on_body
from grey_current.desk.theme import faded
from grey_current.work.exposure import floating_at_limit

# How opaque a room is at twice the dust that puts it at the reference value, of 255.
DENSEST = 150


class WorkTool(BuildTool):
    """Looks at the day: the rooms at the moment that the strip points at. A click on a machine adds
    ten minutes at it; with Shift, or on its port, it is selected.
    """

    _clicked: str | None = None

    def press(self, spot: QPointF, together: bool) -> bool:
        self._clicked = None
        machine = on_body(self, spot)
        if together or machine not in self.project.machine or near_port(self, spot) is not None:
            return super().press(spot, together=False)
        self._pressed, self._clicked = spot, machine
        return True

    def drag(self, spot: QPointF) -> None:
        # Who drags did not mean to click.
        if self._pressed is not None and far(self._pressed, spot) > DRAG_FROM:
            self._clicked = None
        super().drag(spot)

    def release(self) -> None:
        machine, self._clicked = self._clicked, None
        super().release()
        if machine is not None and machine in self.project.machine:
            self.floor.attempt(lambda: self.workspace.add_minutes(machine))

    def paint(self, painter: QPainter) -> None:
        found, clock = self.workspace.computed.worked, self.workspace.clock
        if found is None or clock is None or not self.project.work.day:
            return
        course, limit = found.room.mid, floating_at_limit(self.project)
        painter.setPen(Qt.PenStyle.NoPen)
        for place, ident in enumerate(found.room.rooms):
            room = next((item for item in self.project.rooms if item.id == ident), None)
            if room is None:
                continue
            dust = float(np.interp(clock, course.times, course.dust[:, place]))
            share = min(dust / (2 * limit), 1.0)
            painter.setBrush(faded(self.floor.colours.settled, round(DENSEST * share)))
            painter.drawPolygon(self.floor.view.polygon(room.outline))
