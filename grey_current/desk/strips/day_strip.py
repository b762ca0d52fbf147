"""The day on one time line: moves and jobs, and under them the fine dust against time with its
range.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt
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

from grey_current.desk.plain import MACHINE_DRAG, takes_key
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import Palette, faded, font, mixed
from grey_current.numerals import compact, decimal
from grey_current.shop.day_edits import (
    LEAST,
    STEP,
    with_job_changed,
    with_job_moved,
    with_jobs_in,
    without_job,
)
from grey_current.shop.edits import Edit
from grey_current.shop.work_edits import with_job
from grey_current.work.day import Step
from grey_current.work.day_plan import ALL_GONE
from grey_current.work.day_text import day_example
from grey_current.work.exposure import figure, floating_at_limit
from grey_current.work.room_day import minutes_words
from grey_current.workspace.jobs import Worked
from grey_current.workspace.workspace import Workspace

HEAD, LINE, LEFT, RIGHT, FOOT = 30.0, 30.0, 56.0, 14.0, 20.0
LINE_APART = 14.0
HOUR = 3600.0
KEY_STEP = 300.0
JOB_KEYS = (Qt.Key.Key_Plus, Qt.Key.Key_Minus, Qt.Key.Key_Delete, Qt.Key.Key_Backspace)
# Pixels at a job's right end by which it is made longer, and that a drag goes before it is one.
EDGE, DRAG_FROM = 7.0, 5.0


@dataclass
class _Drag:
    """A job that is dragged along the time line, or longer by its right end."""

    step: Step
    from_x: float
    x: float
    stretch: bool

    @property
    def is_one(self) -> bool:
        """Whether the pointer has gone far enough to mean it."""
        return abs(self.x - self.from_x) >= DRAG_FROM


class DayStrip(StripPanel):
    """The time line: a click looks at a job, a drag moves it or makes it longer; dragging below
    moves the clock.
    """

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self._drag: _Drag | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The day as a time line, with the dust in the air")
        self.setAcceptDrops(True)
        self.setToolTip(
            "Click a job to change it; drag it to another place, or its right end to make it "
            "longer.\n"
            "Below, drag along to see the dust in the rooms at that time. Delete takes a job out; "
            "+ and − change its minutes."
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
        return (self.width() - LEFT - RIGHT) / max(self._last(found), 1.0)

    def _last(self, found: Worked) -> float:
        """The last moment shown (s): some time after work, while the dust goes down."""
        ends = found.day.ends
        return min(float(found.room.mid.times[-1]), max(1.5 * ends, ends + HOUR))

    def x_of(self, seconds: float) -> float:
        """Where a moment stands, in pixels. Raises nothing; the left edge where no day is known."""
        return LEFT + seconds * self._scale(self.found) if self.found is not None else LEFT

    def _clock_at(self, x: float) -> float | None:
        found = self.found
        if found is None:
            return None
        return min(max((x - LEFT) / self._scale(found), 0.0), self._last(found))

    # -- mouse and keys

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.found is None:
            return
        self.setFocus()
        x = event.position().x()
        self._drag = None
        if HEAD <= event.position().y() <= HEAD + LINE:
            step = self._job_at(x)
            if step is not None and step.job is not None:
                stretch = x > self.x_of(step.ends) - EDGE
                self._drag = _Drag(step, x, x, stretch)
                self.workspace.choose_job(step.job)
        self.workspace.look_at(self._clock_at(x))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        if self._drag is not None:
            self._drag.x = event.position().x()
            self.update()
            return
        self.workspace.look_at(self._clock_at(event.position().x()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """A job that was dragged is longer, or stands elsewhere."""
        drag, self._drag = self._drag, None
        if event is None or drag is None or self.found is None or not drag.is_one:
            self.update()
            return
        number = drag.step.job or 0
        if drag.stretch:
            minutes = self._stretched(drag)
            self._change(
                "Change a job's minutes", lambda p: with_job_changed(p, number, minutes=minutes)
            )
            return
        order = self._moved(drag)
        self._change("Move a job", lambda p: with_jobs_in(p, order))
        self.workspace.choose_job(order.index(number))

    def _change(self, step: str, edit: Edit) -> None:
        self.attempt(lambda: self.workspace.edit(step, edit))

    def _job_at(self, x: float) -> Step | None:
        """The job at a place of the time line; a little beside its right end still counts."""
        found = self.found
        if found is None:
            return None
        jobs = [step for step in found.day.steps if step.kind == "work"]
        return next(
            (s for s in jobs if self.x_of(s.starts) <= x <= self.x_of(s.ends) + EDGE / 2), None
        )

    def _stretched(self, drag: _Drag) -> float:
        """Minutes of a job whose end is dragged, by fives."""
        found = self.found
        scale = self._scale(found) if found is not None else 1.0
        seconds = drag.step.seconds + (drag.x - drag.from_x) / scale
        return min(max(round(seconds / 60 / STEP) * STEP, LEAST), 720.0)

    def _moved(self, drag: _Drag) -> list[int]:
        """The day's jobs in the order that a drag makes: by the middles that it has passed."""
        found = self.found
        steps = [s for s in found.day.steps if s.kind == "work"] if found is not None else []
        shown = [s.job for s in steps if s.job is not None]
        others = [s for s in steps if s is not drag.step]
        middle = (self.x_of(drag.step.starts) + self.x_of(drag.step.ends)) / 2
        middle += drag.x - drag.from_x
        place = sum((self.x_of(s.starts) + self.x_of(s.ends)) / 2 < middle for s in others)
        order = [n for n in shown if n != drag.step.job]
        order.insert(place, drag.step.job or 0)
        missing = [n for n in range(len(self.workspace.project.work.day)) if n not in order]
        return [*order, *missing]

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

    def event(self, event: QEvent | None) -> bool:
        """Keys for the job that is looked at go to it, not to the menus that have them too."""
        wanted = JOB_KEYS if self.workspace.chosen_job is not None else ()
        return takes_key(event, wanted) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right move the clock by five minutes, or with Alt the job; + and − change how
        long it is, Delete takes it out.
        """
        if event is not None and self._job_key(event):
            return
        steps = {Qt.Key.Key_Left: -KEY_STEP, Qt.Key.Key_Right: KEY_STEP}
        if event is None or self.found is None or event.key() not in steps:
            super().keyPressEvent(event)
            return
        last = self._last(self.found)
        now = self.workspace.clock or 0.0
        self.workspace.look_at(min(max(now + steps[Qt.Key(event.key())], 0.0), last))

    def _job_key(self, event: QKeyEvent) -> bool:
        """What a key does to the job that is looked at; returns whether it is one for that."""
        number, key = self.workspace.chosen_job, event.key()
        if number is None:
            return False
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._change("Delete a job", lambda p: without_job(p, number))
            return True
        longer = {Qt.Key.Key_Plus: STEP, Qt.Key.Key_Minus: -STEP}
        if key in longer:
            minutes = self.workspace.project.work.day[number].minutes + longer[Qt.Key(key)]
            self._change(
                "Change a job's minutes",
                lambda p: with_job_changed(p, number, minutes=max(minutes, LEAST)),
            )
            return True
        moves = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if key in moves and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            to = number + moves[Qt.Key(key)]
            self._change("Move a job", lambda p: with_job_moved(p, number, to))
            self.workspace.choose_job(min(max(to, 0), len(self.workspace.project.work.day) - 1))
            return True
        return False

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
        if self.found is not None and self.found.day.steps:
            self._paint_steps(painter, self.found)
            self._paint_dust(painter, self.found)
        painter.end()

    def _head(self) -> str:
        found = self.found
        project = self.workspace.project
        if not project.work.day:
            such_as = f", such as: {day_example(project)}" if project.machines else ""
            return (
                "No day yet: click the machines that you used, ten minutes a click, or type on "
                f"the right{such_as}."
            )
        if found is None:
            return "Working out the day…"
        if not found.day.steps:
            return f"{ALL_GONE} Type the day anew on the right."
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
        return f"At {minutes_words(clock)}: {decimal(dust, 2)} mg/m³ of fine dust. {moves}."

    def _paint_steps(self, painter: QPainter, found: Worked) -> None:
        p = self.colours
        for step in found.day.steps:
            left, right = self.x_of(step.starts), self.x_of(step.ends)
            if step.kind == "move":
                painter.fillRect(QRectF(left, HEAD + LINE - 7, max(right - left, 1.5), 7), p.short)
                continue
            box = QRectF(left, HEAD, max(right - left, 2.0), LINE - 8)
            chosen = (
                step.machine in self.workspace.selected or step.job == self.workspace.chosen_job
            )
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
        if self._drag is not None and self._drag.is_one:
            self._paint_drag(painter, self._drag)

    def _paint_drag(self, painter: QPainter, drag: _Drag) -> None:
        """Where the job that is dragged would be, and how long."""
        left, right = self.x_of(drag.step.starts), self.x_of(drag.step.ends)
        minutes = drag.step.seconds / 60
        if drag.stretch:
            minutes = self._stretched(drag)
            right = self.x_of(drag.step.starts + minutes * 60)
        else:
            left, right = left + drag.x - drag.from_x, right + drag.x - drag.from_x
        box = QRectF(left, HEAD, max(right - left, 2.0), LINE - 8)
        painter.setPen(QPen(self.colours.accent, 2, Qt.PenStyle.DashLine))
        painter.setBrush(faded(self.colours.accent, 60))
        painter.drawRect(box)
        painter.setPen(self.colours.ink)
        painter.setFont(font("fine", bold=True))
        words = QRectF(left - 40, HEAD - 15, box.width() + 80, 14)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, f"{minutes:.0f} min")

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
        # The reference belongs on the chart, unless a little dust would then lie flat beneath it.
        peak = float(mid.max())
        flat = peak > 0 and limit >= 4 * peak
        most = max(peak * 1.6, 0.0 if flat else limit * 1.15)
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
        self._mark_clipped(painter, box, found, place, most)

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

    def _mark_clipped(
        self, painter: QPainter, box: QRectF, found: Worked, place: int, most: float
    ) -> None:
        """Where the band goes on above the picture: a dotted edge there, and how far it goes."""
        high = found.room.high[:, place]
        over = high > most
        if not over.any():
            return
        painter.setPen(QPen(self.colours.settled, 2, Qt.PenStyle.DotLine))
        # Where it begins to be over and where it ends, by turns.
        turns = np.flatnonzero(np.diff(np.concatenate([[False], over, [False]])))
        times = found.room.mid.times
        for first, end in turns.reshape(-1, 2):
            left, right = self.x_of(float(times[first])), self.x_of(float(times[end - 1]))
            painter.drawLine(QPointF(left, box.top()), QPointF(min(right, box.right()), box.top()))
        painter.setPen(self.colours.ink)
        painter.setFont(font("fine"))
        at = QRectF(box.right() - 220, box.top() + 16, 216, 14)
        words = f"may go up to {figure(float(high.max()))} mg/m³"
        painter.drawText(at, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)

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
            words = f"reference {figure(limit)}, far above"
            painter.drawText(QRectF(box.right() - 200, box.top(), 198, 14), right, words)
        written: list[float] = []
        for dust in (limit, most / 2, 0.0):  # the first that stand there keep their place
            y = min(self._point(box, 0.0, dust, most).y(), box.bottom() - 1)
            if dust < most and all(abs(y - other) >= LINE_APART for other in written):
                painter.drawText(QRectF(0, y - 7, LEFT - 6, 14), right, compact(dust, 2))
                written.append(y)
        last = self._last(found)
        for hour in range(int(last // HOUR) + 1):
            x = self.x_of(hour * HOUR)
            painter.drawText(
                QRectF(x - 30, box.bottom() + 2, 60, 14), Qt.AlignmentFlag.AlignCenter, f"{hour} h"
            )
