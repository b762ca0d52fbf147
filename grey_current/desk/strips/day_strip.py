"""The day on one time line: moves and jobs, and under them the fine dust against time with its
range.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)

from grey_current.desk.plain import MACHINE_DRAG
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import Palette, faded, font, mixed
from grey_current.shop.work_edits import with_job
from grey_current.work.exposure import floating_at_limit
from grey_current.work.room_day import minutes_words
from grey_current.workspace.jobs import Worked
from grey_current.workspace.workspace import Workspace

HEAD, LINE, LEFT, RIGHT, FOOT = 30.0, 30.0, 56.0, 14.0, 20.0
LINE_APART = 14.0
HOUR = 3600.0
KEY_STEP = 300.0


class DayStrip(StripPanel):
    """The time line: signals `chosen` (machine) when a job is clicked; dragging over it moves the
    clock.
    """

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The day as a time line, with the dust in the air")
        self.setAcceptDrops(True)
        self.setToolTip(
            "Click a job to see its machine; drag along to see the dust in the rooms at that "
            "time.\n"
            "Drag a machine here from the rack to put it into the day."
        )

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        self.update()

    @property
    def found(self) -> Worked | None:
        """How the day goes, as it was last known; None where no day is typed."""
        return self.workspace.computed.worked if self.workspace.project.work.day else None

    @property
    def has_something(self) -> bool:
        """Whether a day is typed."""
        return bool(self.workspace.project.work.day)

    # -- where things are

    def _scale(self, found: Worked) -> float:
        """Pixels a second."""
        return (self.width() - LEFT - RIGHT) / max(float(found.room.mid.times[-1]), 1.0)

    def x_of(self, seconds: float) -> float:
        """Where a moment stands, in pixels. Raises nothing; the left edge where no day is known."""
        return LEFT + seconds * self._scale(self.found) if self.found is not None else LEFT

    def _clock_at(self, x: float) -> float | None:
        found = self.found
        if found is None:
            return None
        return min(max((x - LEFT) / self._scale(found), 0.0), float(found.room.mid.times[-1]))

    # -- mouse and keys

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.found is None:
            return
        self.setFocus()
        clock = self._clock_at(event.position().x())
        if HEAD <= event.position().y() <= HEAD + LINE and clock is not None:
            step = next(
                (
                    s
                    for s in self.found.day.steps
                    if s.kind == "work" and s.starts <= clock <= s.ends
                ),
                None,
            )
            if step is not None and step.machine in self.workspace.project.machine:
                self.chosen.emit(step.machine)
        self.workspace.look_at(clock)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self.workspace.look_at(self._clock_at(event.position().x()))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasFormat(MACHINE_DRAG):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Put a machine from the rack into the day, behind the others."""
        data = event.mimeData() if event is not None else None
        if data is None:
            return
        machine = data.data(MACHINE_DRAG).data().decode(errors="replace")
        self.attempt(
            lambda: self.workspace.edit("Put a job into the day", lambda p: with_job(p, machine))
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right move the clock by five minutes."""
        steps = {Qt.Key.Key_Left: -KEY_STEP, Qt.Key.Key_Right: KEY_STEP}
        if event is None or self.found is None or event.key() not in steps:
            super().keyPressEvent(event)
            return
        last = float(self.found.room.mid.times[-1])
        now = self.workspace.clock or 0.0
        self.workspace.look_at(min(max(now + steps[Qt.Key(event.key())], 0.0), last))

    # -- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(self.colours.ink)
        painter.setFont(font("small", bold=True))
        head = QRectF(12, 4, self.width() - 24, self.line(HEAD - 6))
        text = painter.fontMetrics().elidedText(
            self._head(), Qt.TextElideMode.ElideRight, int(head.width())
        )
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, text)
        if self.found is not None:
            self._paint_steps(painter, self.found)
            self._paint_dust(painter, self.found)
        painter.end()

    def _head(self) -> str:
        found = self.found
        if not self.workspace.project.work.day:
            return (
                "No day yet: type its jobs on the right, such as: saw 20 min, planer 25 "
                "walnut, sand 40 after saw."
            )
        if found is None:
            return "Working out the day…"
        clock = self.workspace.clock
        moving = minutes_words(found.day.move_seconds)
        moves = (
            f"{minutes_words(found.day.ends)} in all, {moving} of it on gates, hoses and walking"
        )
        if clock is None:
            return f"{moves}. Down to a tenth {minutes_words(found.room.decay)} after the last job."
        dust = max(
            float(np.interp(clock, found.room.mid.times, column))
            for column in found.room.mid.dust.T
        )
        return f"At {minutes_words(clock)}: {dust:.2f} mg/m³ of fine dust. {moves}."

    def _paint_steps(self, painter: QPainter, found: Worked) -> None:
        p = self.colours
        for step in found.day.steps:
            left, right = self.x_of(step.starts), self.x_of(step.ends)
            if step.kind == "move":
                painter.fillRect(QRectF(left, HEAD + LINE - 7, max(right - left, 1.5), 7), p.short)
                continue
            box = QRectF(left, HEAD, max(right - left, 2.0), LINE - 8)
            chosen = step.machine in self.workspace.selected
            painter.fillRect(box, p.machine_on if chosen else mixed(p.sheet, p.good, 0.35))
            painter.setPen(QPen(p.accent if chosen else p.good, 1))
            painter.drawRect(box)
            painter.setPen(p.ink)
            painter.setFont(font("fine"))
            name = painter.fontMetrics().elidedText(
                step.words, Qt.TextElideMode.ElideRight, int(box.width() - 4)
            )
            if box.width() > 16:
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)

    def _paint_dust(self, painter: QPainter, found: Worked) -> None:
        p, limit = self.colours, floating_at_limit(self.workspace.project)
        box = QRectF(
            LEFT,
            HEAD + LINE + 6,
            self.width() - LEFT - RIGHT,
            self.height() - HEAD - LINE - 6 - FOOT,
        )
        place = found.room.rooms.index(found.room.worst_room)
        mid = found.room.mid.dust[:, place]
        most = max(
            float(mid.max()) * 1.6, limit * 1.15 if limit < 4 * float(mid.max()) else 0.0, 1e-6
        )
        painter.setClipRect(box.adjusted(0, 0, 1, 1))
        self._paint_band(painter, box, found, place, most)
        line = QPolygonF(
            [self._point(box, t, c, most) for t, c in zip(found.room.mid.times, mid, strict=True)]
        )
        painter.setPen(QPen(p.settled, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(line)
        painter.setPen(QPen(p.starved, 1, Qt.PenStyle.DashLine))
        y = self._point(box, 0.0, limit, most).y()
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        if self.workspace.clock is not None:
            x = self.x_of(self.workspace.clock)
            painter.setPen(QPen(p.accent, 1.5))
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        painter.setClipping(False)
        self._paint_axes(painter, box, found, most, limit)

    def _paint_band(
        self, painter: QPainter, box: QRectF, found: Worked, place: int, most: float
    ) -> None:
        """What the allowances leave open, between the low and the high course."""
        times: NDArray[np.float64] = found.room.mid.times
        upper = [
            self._point(box, t, c, most)
            for t, c in zip(times, found.room.high[:, place], strict=True)
        ]
        lower = [
            self._point(box, t, c, most)
            for t, c in zip(times, found.room.low[:, place], strict=True)
        ]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(faded(self.colours.settled, 36))
        painter.drawPolygon(QPolygonF([*upper, *reversed(lower)]))

    def _point(self, box: QRectF, seconds: float, dust: float, most: float) -> QPointF:
        return QPointF(self.x_of(seconds), box.bottom() - min(dust / most, 3.0) * box.height())

    def _paint_axes(
        self, painter: QPainter, box: QRectF, found: Worked, most: float, limit: float
    ) -> None:
        p = self.colours
        painter.setPen(QPen(p.rule, 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.setPen(p.soft)
        painter.setFont(font("fine"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(0, box.top() - 2, LEFT - 6, 14), right, "mg/m³")
        if limit >= most:
            words = f"reference {limit:g}, far above"
            painter.drawText(QRectF(box.right() - 200, box.top(), 198, 14), right, words)
        written: list[float] = []
        for dust in (limit, most / 2, 0.0):  # the first that stand there keep their place
            y = min(self._point(box, 0.0, dust, most).y(), box.bottom() - 1)
            if dust < most and all(abs(y - other) >= LINE_APART for other in written):
                painter.drawText(QRectF(0, y - 7, LEFT - 6, 14), right, f"{dust:.2g}")
                written.append(y)
        last = float(found.room.mid.times[-1])
        for hour in range(int(last // HOUR) + 1):
            x = self.x_of(hour * HOUR)
            painter.drawText(
                QRectF(x - 30, box.bottom() + 2, 60, 14), Qt.AlignmentFlag.AlignCenter, f"{hour} h"
            )
