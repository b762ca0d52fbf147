"""The pointer at the Shop stage: walls, openings and what stands there; the tape; the scale of a
plan.
"""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from grey_current.desk.floor.building_paint import paint_tape
from grey_current.desk.floor.canvas import Canvas
from grey_current.desk.floor.tool import REACH, Tool
from grey_current.shop import edits
from grey_current.shop.corner_edits import corner_of, squared, with_corner_at
from grey_current.shop.edits import Edit
from grey_current.shop.places import XY
from grey_current.shop.room import Room, area, off_line, walls
from grey_current.shop.room_edits import on_wall, slid_along, wall_of, with_wall_pushed
from grey_current.shop.underlays import with_underlay_moved
from grey_current.units import Display, parse_length_like

# What is grabbed while the plan underneath is moved.
PLAN = "plan"


class ShopTool(Tool):
    """Shop: walls, openings, beams and everything that stands there; the tape and the underlay's
    scale.
    """

    def __init__(self, floor: Canvas) -> None:
        super().__init__(floor)
        self.tape: tuple[XY, XY] | None = None
        self._marks: list[XY] = []
        self._typed = ""
        self._out = 0.0

    def hit(self, spot: QPointF) -> str | None:
        return self._small_thing(spot) or self._wide_thing(spot)

    def _small_thing(self, spot: QPointF) -> str | None:
        """An outlet, a corner of a room, an end of the chosen beam, an opening or a feature."""
        place, scale = self.floor.view.place(spot), self.floor.view.scale
        # The smallest first: what lies under a large thing could not be taken otherwise.
        for outlet in self.project.outlets:
            if math.dist(place, (outlet.x, outlet.y)) * scale < REACH:
                return outlet.id
        for room in self.project.rooms:
            for number, corner in enumerate(room.outline, 1):
                if math.dist(place, corner) * scale < REACH:
                    return f"{room.id}/corner-{number}"
        for beam in self.project.beams:
            if beam.id in self.workspace.selected or any(
                r.startswith(f"{beam.id}/") for r in self.workspace.selected
            ):
                for number, end in enumerate((beam.start, beam.end), 1):
                    if math.dist(place, end) * scale < REACH:
                        return f"{beam.id}/end-{number}"
        for opening in self.project.openings:
            if off_line(place, opening.start, opening.end) * scale < REACH:
                return opening.id
        return next(
            (f.id for f in reversed(self.project.features) if self._covers(f.outline, spot)), None
        )

    def _wide_thing(self, spot: QPointF) -> str | None:
        """A wall, a beam or a room; the first room is the paper itself, where dragging moves the
        view.
        """
        place, scale = self.floor.view.place(spot), self.floor.view.scale
        for room in self.project.rooms:
            for number, (a, b) in enumerate(walls(room.outline), 1):
                if off_line(place, a, b) * scale < REACH:
                    return f"{room.id}/wall-{number}"
        for beam in self.project.beams:
            if off_line(place, beam.start, beam.end) < beam.width / 2 + 3 / scale:
                return beam.id
        return next((r.id for r in self.project.rooms[1:] if self._covers(r.outline, spot)), None)

    def _covers(self, outline: tuple[XY, ...], spot: QPointF) -> bool:
        return self.floor.view.polygon(outline).containsPoint(spot, Qt.FillRule.OddEvenFill)

    def draggable(self, ref: str) -> bool:
        machine = ref in self.project.machine or ref in self.project.collector
        part_of_room = (
            wall_of(self.project, ref) is not None or corner_of(self.project, ref) is not None
        )
        return not machine and (part_of_room or edits.movable(self.project, ref))

    def press(self, spot: QPointF, together: bool) -> bool:
        placing = self.workspace.placing
        self._typed = ""
        if placing is not None and placing.kind == "plan":
            self._pressed, self._grabbed = spot, PLAN
            return True
        if placing is not None and placing.kind == "tape":
            self._pressed = spot
            self.tape = (self.floor.view.place(spot), self.floor.view.place(spot))
            return True
        if placing is not None and placing.kind == "scale":
            self._marks.append(self.floor.view.place(spot))
            if len(self._marks) == 2:
                first, second = self._marks
                self._marks = []
                self.workspace.arm(None)
                self.floor.ask_scale(first, second)
            return True
        return super().press(spot, together)

    def drag(self, spot: QPointF) -> None:
        if self.tape is not None and self.workspace.placing is not None:
            self.tape = (self.tape[0], self.floor.view.place(spot))
            self.floor.update()
        elif not self._typed:
            super().drag(spot)

    def label(self, ref: str) -> str:
        if ref == PLAN:
            return "Move the plan underneath"
        return "Push the wall" if wall_of(self.project, ref) else super().label(ref)

    def move(self, ref: str, dx: float, dy: float) -> Edit:
        if ref == PLAN:
            return lambda project: with_underlay_moved(project, dx, dy)
        corner = corner_of(self.workspace.gesture_start or self.project, ref)
        if corner is not None:
            return self._corner_moved(*corner, dx, dy)
        wall = wall_of(self.workspace.gesture_start or self.project, ref)
        if wall is not None:
            room, number = wall
            # Only the part of the step that goes outwards moves a wall.
            nx, ny = _outward(room.outline, number)
            self._out = round((dx * nx + dy * ny) / self.step) * self.step
            return lambda project: with_wall_pushed(project, room.id, number, self._out)
        opening = self.project.element.get(ref)
        if hasattr(opening, "swing"):
            return lambda project: slid_along(project, ref, dx, dy)
        return super().move(ref, dx, dy)

    def _corner_moved(self, room: Room, number: int, dx: float, dy: float) -> Edit:
        """A corner dragged: drawn to where its walls stand square, else to whole steps."""
        x, y = room.outline[number]
        place = (x + round(dx / self.step) * self.step, y + round(dy / self.step) * self.step)
        there = squared(room.outline, number, place, REACH / self.floor.view.scale)
        return lambda project: with_corner_at(project, room.id, number, there)

    def nudge(self, dx: float, dy: float) -> bool:
        corner = corner_of(self.project, self.workspace.selection)
        if corner is not None:
            room, number = corner
            x, y = room.outline[number]
            there = (x + dx, y + dy)
            self.floor.attempt(
                lambda: self.workspace.edit(
                    "Move the corner", lambda p: with_corner_at(p, room.id, number, there)
                )
            )
            return True
        wall = wall_of(self.project, self.workspace.selection)
        if wall is None:
            return super().nudge(dx, dy)
        room, number = wall
        nx, ny = _outward(room.outline, number)
        out = dx * nx + dy * ny
        if abs(out) > 1e-9:
            self.floor.attempt(
                lambda: self.workspace.edit(
                    "Push the wall", lambda p: with_wall_pushed(p, room.id, number, out)
                )
            )
        return True

    @property
    def wants_keys(self) -> bool:
        return self.workspace.in_gesture and wall_of(self.project, self._grabbed) is not None

    def release(self) -> None:
        if self._typed:
            return
        if wall_of(self.project, self._grabbed) and self.workspace.in_gesture:
            wall = self._grabbed
        else:
            wall = None
        middle = self._moved_middle() if wall else None
        super().release()
        if middle is not None:
            room, number, _, _ = on_wall(self.project.rooms, middle)
            self.workspace.select(f"{room}/wall-{number + 1}")

    def key(self, event: QKeyEvent) -> bool:
        """While a wall is dragged, digits type the length of the wall that grows with it; Enter
        takes it.
        """
        if not self.wants_keys:
            return super().key(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._typed:
            self.floor.attempt(self._take_typed)
        elif event.key() == Qt.Key.Key_Backspace:
            self._typed = self._typed[:-1]
        elif event.text().isprintable() and event.text():
            self._typed += event.text()
        self.floor.update()
        return True

    def _take_typed(self) -> None:
        text, self._typed = self._typed, ""
        base, jog = self._grown()
        length = parse_length_like(text, self.project.settings.units, "Wall length", abs(base))
        room, number = self._grabbed_wall()
        out = length if jog else length - base
        out = -out if jog and self._out < 0 else out
        self._out = out
        self.workspace.preview(lambda project: with_wall_pushed(project, room, number, out))
        self.release()

    def _grabbed_wall(self) -> tuple[str, int]:
        owner, _, number = (self._grabbed or "").partition("/wall-")
        return owner, int(number) - 1

    def _moved_middle(self) -> XY:
        """The middle of the dragged wall where it is now."""
        owner, number = self._grabbed_wall()
        start = self.workspace.gesture_start or self.project
        outline = start.element[owner].outline
        (ax, ay), (bx, by) = walls(outline)[number]
        nx, ny = _outward(outline, number)
        return (ax + bx) / 2 + nx * self._out, (ay + by) / 2 + ny * self._out

    def _grown(self) -> tuple[float, bool]:
        """Length (m) before the drag of the wall that grows with it, and whether it is a jog that
        was nothing.
        """
        owner, number = self._grabbed_wall()
        start = self.workspace.gesture_start
        outline = start.element[owner].outline if start else self.project.element[owner].outline
        sides = walls(outline)
        (a, b), (c, d) = sides[number - 1], sides[number]
        cross = (b[0] - a[0]) * (d[1] - c[1]) - (b[1] - a[1]) * (d[0] - c[0])
        if abs(cross) < 1e-3 * math.dist(a, b) * math.dist(c, d):
            return 0.0, True
        return math.dist(a, b), False

    def stop(self) -> None:
        super().stop()
        self.tape, self._marks, self._typed = None, [], ""

    def paint(self, painter: QPainter) -> None:
        display, view, p = Display(self.project.settings.units), self.floor.view, self.floor.colours
        if self.tape:
            text = display.length(math.dist(*self.tape))
            paint_tape(painter, view.point(self.tape[0]), view.point(self.tape[1]), text, p)
        for mark in self._marks:
            painter.setPen(p.accent)
            painter.drawEllipse(view.point(mark), 5, 5)
        if self.wants_keys:
            base, jog = self._grown()
            text = display.length(abs(self._out) if jog else base + self._out)
            if self._typed:
                text = f"{self._typed}▏ Enter"
            middle = view.point(self._moved_middle())
            paint_tape(painter, middle, middle, text, p)


def _outward(outline: tuple[XY, ...], wall: int) -> XY:
    (ax, ay), (bx, by) = walls(outline)[wall]
    length = math.dist((ax, ay), (bx, by))
    sign = 1.0 if area(outline) > 0 else -1.0
    return (by - ay) / length * sign, -(bx - ax) / length * sign
