"""What the pointer does on the floor, one tool for each stage of the work."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from grey_current.desk.floor.building_paint import paint_tape, wall_of
from grey_current.desk.floor.scene import FloorScene, off_line
from grey_current.desk.floor.view import XY
from grey_current.shop import edits
from grey_current.shop.model import Project
from grey_current.shop.room import area, walls
from grey_current.shop.room_edits import on_wall, refitted, with_wall_pushed
from grey_current.shop.snap import snapped
from grey_current.units import INCH, Display, parse_length
from grey_current.workspace.workspace import Edit, Workspace

if TYPE_CHECKING:
    from grey_current.desk.floor.floor import Floor

REACH = 9.0
"""Pixels within which something small is hit, and within which things snap."""
DRAG_FROM = 4.0


class Tool:
    """Base: clicks select, drags move what is selected, and what is in hand is put down."""

    def __init__(self, floor: Floor) -> None:
        self.floor = floor
        self._pressed: QPointF | None = None
        self._grabbed: str | None = None

    @property
    def workspace(self) -> Workspace:
        return self.floor.workspace

    @property
    def project(self) -> Project:
        return self.workspace.project

    @property
    def scene(self) -> FloorScene:
        return self.floor.scene

    @property
    def wants_keys(self) -> bool:
        """Whether letters typed now belong to this tool and not to the window's shortcuts."""
        return False

    @property
    def step(self) -> float:
        """The smallest move: an inch or 10 mm."""
        return INCH if self.project.settings.units == "us" else 0.01

    def hit(self, spot: QPointF) -> str | None:
        """The id or reference of what this tool finds at a pixel."""
        raise NotImplementedError

    def draggable(self, ref: str) -> bool:
        """Whether this tool moves something."""
        return edits.movable(self.project, ref)

    def press(self, spot: QPointF, together: bool) -> bool:
        """The left button goes down; answers whether the tool takes the drag that may follow."""
        self._pressed, self._grabbed = spot, None
        if self.workspace.placing is not None:
            self.put_down(spot)
            return True
        found = self.hit(spot)
        if together or found is None or found not in self.workspace.selected:
            self.workspace.select(found, together)
        self._grabbed = self.handle(found) if found and not together else None
        return found is not None

    def handle(self, found: str) -> str | None:
        """What a drag that begins on something moves: the thing itself, or the machine that it belongs to."""
        owner = found if self.draggable(found) else found.split("/", maxsplit=1)[0]
        return owner if self.draggable(owner) else None

    def put_down(self, spot: QPointF) -> None:
        """Put down what is in hand."""
        placing = self.workspace.placing
        if placing is not None:
            x, y = (round(v / self.step) * self.step for v in self.floor.view.place(spot))
            self.floor.attempt(lambda: self.workspace.put(placing, x, y))

    def drag(self, spot: QPointF) -> None:
        """The pointer moves with the button down."""
        if self._pressed is None or self._grabbed is None:
            return
        moved = spot - self._pressed
        if not self.workspace.in_gesture and math.hypot(moved.x(), moved.y()) < DRAG_FROM:
            return
        if not self.workspace.in_gesture:
            self.workspace.begin(self.label(self._grabbed))
        change = self.move(self._grabbed, moved.x() / self.floor.view.scale, -moved.y() / self.floor.view.scale)
        self.floor.attempt(lambda: self.workspace.preview(change))

    def label(self, ref: str) -> str:
        """What a drag is called in the undo list."""
        item = self.project.find(ref)
        return f"Move the {getattr(item, 'name', ref).lower()}"

    def move(self, ref: str, dx: float, dy: float) -> Edit:
        """The edit that a drag by (dx, dy) m makes, counted from where the drag began."""
        chosen = tuple(r for r in self.workspace.selected if self.draggable(r))
        together = chosen if ref in chosen else (ref,)

        def change(project: Project) -> Project:
            x, y = snapped(project, together, dx, dy, REACH / self.floor.view.scale, self.step)
            return edits.moved_all(project, together, x, y)

        return change

    def release(self) -> None:
        """The button comes up."""
        self._pressed = self._grabbed = None
        self.workspace.commit()

    def key(self, event: QKeyEvent) -> bool:
        """A key that this tool may want; answers whether it took it."""
        arrows = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        if event.key() not in arrows:
            return False
        x, y = arrows[Qt.Key(event.key())]
        far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        return self.nudge(x * far * self.step, y * far * self.step)

    def nudge(self, dx: float, dy: float) -> bool:
        """Move what is selected by a step; answers whether there was anything to move."""
        chosen = tuple(r for r in self.workspace.selected if self.draggable(r))
        if not chosen:
            return False
        step = self.label(chosen[-1])
        self.floor.attempt(lambda: self.workspace.edit(step, lambda p: edits.moved_all(p, chosen, dx, dy)))
        return True

    def hover(self, spot: QPointF) -> None:
        """The pointer moves with no button down."""

    def stop(self) -> None:
        """Let go of everything that is under way."""
        self._pressed = self._grabbed = None

    def paint(self, painter: QPainter) -> None:
        """Paint what belongs to the tool itself, over the floor."""


class MachinesTool(Tool):
    """Machines: machines, collectors and parked places can be selected and moved."""

    def hit(self, spot: QPointF) -> str | None:
        for ref, corners in self.scene.parked:
            if self.floor.view.polygon(corners).containsPoint(spot, Qt.FillRule.OddEvenFill):
                return ref
        return on_body(self, spot)

    def draggable(self, ref: str) -> bool:
        return ref in self.project.machine or ref in self.project.collector or "/parked-" in ref


class ShopTool(Tool):
    """Shop: walls, openings, beams and everything that stands there; the tape and the underlay's scale."""

    def __init__(self, floor: Floor) -> None:
        super().__init__(floor)
        self.tape: tuple[XY, XY] | None = None
        self._marks: list[XY] = []
        self._typed = ""
        self._out = 0.0

    def hit(self, spot: QPointF) -> str | None:
        return self._small_thing(spot) or self._wide_thing(spot)

    def _small_thing(self, spot: QPointF) -> str | None:
        """An outlet, an opening or a feature."""
        place, scale = self.floor.view.place(spot), self.floor.view.scale
        for outlet in self.project.outlets:
            if math.dist(place, (outlet.x, outlet.y)) * scale < REACH:
                return outlet.id
        for opening in self.project.openings:
            if off_line(opening.start, opening.end, place) * scale < REACH:
                return opening.id
        return next((f.id for f in reversed(self.project.features) if self._covers(f.outline, spot)), None)

    def _wide_thing(self, spot: QPointF) -> str | None:
        """A wall, a beam or a room; the first room is the paper itself, where dragging moves the view."""
        place, scale = self.floor.view.place(spot), self.floor.view.scale
        for room in self.project.rooms:
            for number, (a, b) in enumerate(walls(room.outline), 1):
                if off_line(a, b, place) * scale < REACH:
                    return f"{room.id}/wall-{number}"
        for beam in self.project.beams:
            if off_line(beam.start, beam.end, place) < beam.width / 2 + 3 / scale:
                return beam.id
        return next((r.id for r in self.project.rooms[1:] if self._covers(r.outline, spot)), None)

    def _covers(self, outline: tuple[XY, ...], spot: QPointF) -> bool:
        return self.floor.view.polygon(outline).containsPoint(spot, Qt.FillRule.OddEvenFill)

    def draggable(self, ref: str) -> bool:
        machine = ref in self.project.machine or ref in self.project.collector
        return not machine and (wall_of(self.project, ref) is not None or edits.movable(self.project, ref))

    def press(self, spot: QPointF, together: bool) -> bool:
        placing = self.workspace.placing
        self._typed = ""
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
                self.floor.scale_asked.emit(first, second)
            return True
        return super().press(spot, together)

    def drag(self, spot: QPointF) -> None:
        if self.tape is not None and self.workspace.placing is not None:
            self.tape = (self.tape[0], self.floor.view.place(spot))
            self.floor.update()
        elif not self._typed:
            super().drag(spot)

    def label(self, ref: str) -> str:
        return "Push the wall" if wall_of(self.project, ref) else super().label(ref)

    def move(self, ref: str, dx: float, dy: float) -> Edit:
        wall = wall_of(self.workspace.gesture_start or self.project, ref)
        if wall is not None:
            room, number = wall
            nx, ny = _outward(room.outline, number)
            self._out = round((dx * nx + dy * ny) / self.step) * self.step
            return lambda project: with_wall_pushed(project, room.id, number, self._out)
        opening = self.project.element.get(ref)
        if hasattr(opening, "swing"):
            return lambda project: _slid_along(project, ref, dx, dy)
        return super().move(ref, dx, dy)

    def nudge(self, dx: float, dy: float) -> bool:
        wall = wall_of(self.project, self.workspace.selection)
        if wall is None:
            return super().nudge(dx, dy)
        room, number = wall
        nx, ny = _outward(room.outline, number)
        out = dx * nx + dy * ny
        if abs(out) > 1e-9:
            self.floor.attempt(
                lambda: self.workspace.edit("Push the wall", lambda p: with_wall_pushed(p, room.id, number, out))
            )
        return True

    @property
    def wants_keys(self) -> bool:
        return self.workspace.in_gesture and wall_of(self.project, self._grabbed) is not None

    def release(self) -> None:
        if self._typed:
            return
        wall = self._grabbed if wall_of(self.project, self._grabbed) and self.workspace.in_gesture else None
        middle = self._moved_middle() if wall else None
        super().release()
        if middle is not None:
            room, number, _, _ = on_wall(self.project.rooms, middle)
            self.workspace.select(f"{room}/wall-{number + 1}")

    def key(self, event: QKeyEvent) -> bool:
        """While a wall is dragged, digits type the length of the wall that grows with it; Enter takes it."""
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
        length = parse_length(text, self.project.settings.units, "Wall length")
        base, jog = self._grown()
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
        """Length (m) before the drag of the wall that grows with it, and whether it is a jog that was nothing."""
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
            text = (
                f"{self._typed}▏ Enter" if self._typed else display.length(abs(self._out) if jog else base + self._out)
            )
            middle = view.point(self._moved_middle())
            paint_tape(painter, middle, middle, text, p)


def _outward(outline: tuple[XY, ...], wall: int) -> XY:
    (ax, ay), (bx, by) = walls(outline)[wall]
    length = math.dist((ax, ay), (bx, by))
    sign = 1.0 if area(outline) > 0 else -1.0
    return (by - ay) / length * sign, -(bx - ax) / length * sign


def _slid_along(project: Project, ident: str, dx: float, dy: float) -> Project:
    """An opening moved along the walls: its middle goes with the pointer, and to the wall nearest there."""
    opening = project.element[ident]
    middle = ((opening.start[0] + opening.end[0]) / 2 + dx, (opening.start[1] + opening.end[1]) / 2 + dy)
    new = refitted(project, opening, middle, math.dist(opening.start, opening.end))
    return edits.changed(project, ident, start=new.start, end=new.end)


def near_port(tool: Tool, spot: QPointF) -> str | None:
    """The pickup whose port is at a pixel."""
    view = tool.floor.view
    for machine in tool.scene.machines:
        for ref, place, port in machine.ports:
            if far(view.point(place), spot) <= max(port * view.scale / 2, 4.0):
                return ref
    return None


def on_body(tool: Tool, spot: QPointF) -> str | None:
    """The machine or collector that covers a pixel."""
    bodies = [(m.machine, m.corners) for m in tool.scene.machines]
    bodies += [(c.collector, c.corners) for c in tool.scene.collectors]
    for ident, corners in reversed(bodies):
        if tool.floor.view.polygon(corners).containsPoint(spot, Qt.FillRule.OddEvenFill):
            return ident
    return None


def far(a: QPointF, b: QPointF) -> float:
    """Distance of two pixels."""
    return math.hypot(a.x() - b.x(), a.y() - b.y())
