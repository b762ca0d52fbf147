"""What the pointer does on the floor, one tool for each stage of the work."""

from __future__ import annotations

import itertools
import math
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from grey_current.design.clashes import DuctSpace
from grey_current.design.routing import connected
from grey_current.design.space_findings import name_of
from grey_current.desk.floor_scene import FloorScene, off_line
from grey_current.desk.shop_paint import paint_tape, wall_of
from grey_current.desk.view import XY
from grey_current.errors import InputError
from grey_current.shop import edits
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_edits import (
    beside_walls,
    drawn_on,
    last_heading,
    snapped_heading,
    split,
    upright,
    with_point_moved,
)
from grey_current.shop.model import Project, Run, position
from grey_current.shop.room import area, walls
from grey_current.shop.room_edits import on_wall, refitted, with_wall_pushed
from grey_current.shop.snap import snapped
from grey_current.units import INCH, Display, parse_length
from grey_current.workspace.workspace import Edit, Workspace

if TYPE_CHECKING:
    from grey_current.desk.floor import Floor

REACH = 9.0
"""Pixels within which something small is hit, and within which things snap."""
DRAG_FROM = 4.0
WALL_REACH = 14.0
"""Pixels within which a drawn duct's corner settles close along a wall."""


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
        arrows = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1),
        }  # fmt: skip
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


class AirTool(Tool):
    """Air: everything that air passes can be selected; machines and collectors can be moved; ducts are drawn."""

    def __init__(self, floor: Floor) -> None:
        super().__init__(floor)
        self._from: str | None = None
        self._share = 0.5
        """Where along a run a branch begins, when `_from` is one."""
        self._over: QPointF | None = None

    def press(self, spot: QPointF, together: bool) -> bool:
        placing = self.workspace.placing
        if placing is None or placing.kind != "duct":
            return super().press(spot, together)
        self.floor.attempt(lambda: self._draw(spot))
        return True

    def _draw(self, spot: QPointF) -> None:
        """The first click begins at a collector or a duct; every other one draws the duct on to there.

        A click on a port that has no duct yet makes its whole branch.
        """
        port = near_port(self, spot)
        if port is not None and not any(port in (r.start, r.end, *r.also_serves) for r in self.project.runs):
            placing, name = self.workspace.placing, self.project.pickup[port][0].name
            self.workspace.edit(f"Connect the {name.lower()}", lambda p: connected(p, port))
            self.workspace.arm(placing)
            self._from = None
            return
        begun = self._from
        if begun is None or self.project.find(begun) is None:
            self._begin(spot)
            return
        made: list[str] = []
        x, y = self._aimed(begun, spot)
        drawing = self.workspace.drawing
        self._keep_clear(begun, (x, y))
        share = self._share

        def change(project: Project) -> Project:
            start = begun
            if begun in project.run:
                project, start = split(project, begun, share)
            after, point = drawn_on(project, start, x, y, drawing)
            made[:] = [point]
            return after

        placing = self.workspace.placing
        self.workspace.edit("Draw a duct", change)
        self.workspace.arm(placing)
        self._from = made[0]

    def _begin(self, spot: QPointF) -> None:
        """Begin at a joint, a collector, or somewhere along a rigid duct, where a wye will be put in."""
        found = self._near_point(spot) or self._on_duct(spot) or on_body(self, spot)
        run = self.project.run.get(found or "")
        if run is not None and upright(self.project, run):
            found, run = run.end if run.end in self.project.point else run.start, None
        if run is not None:
            self._share = self._share_of(run, self.floor.view.place(spot))
        elif found not in self.project.collector and found not in self.project.point:
            raise InputError("duct", "this place", "begin at a collector, or anywhere on a duct")
        self._from = found
        self.workspace.select(found)

    def _share_of(self, run: Run, place: XY) -> float:
        """The share of a run's way that is nearest to a place, away from its ends."""
        if materials()[run.material].hose:
            raise InputError("duct", f"the hose '{run.id}'", "begin on a rigid duct")
        a, b = position(self.project, run.start), position(self.project, run.end)
        flat = math.dist(a[:2], b[:2]) or 1.0
        along = ((place[0] - a[0]) * (b[0] - a[0]) + (place[1] - a[1]) * (b[1] - a[1])) / flat
        along = round(along / self.step) * self.step
        return min(max(along / flat, 0.02), 0.98)

    def _origin(self) -> tuple[float, float, float]:
        """Where the duct that is drawn goes on from."""
        begun = self._from or ""
        run = self.project.run.get(begun)
        if run is None:
            return position(self.project, begun)
        a, b = position(self.project, run.start), position(self.project, run.end)
        x, y, z = (p + (q - p) * self._share for p, q in zip(a, b, strict=True))
        return x, y, z

    def _aimed(self, begun: str, spot: QPointF) -> XY:
        """Where a click means: at an angle that fittings have, close along a wall that is near, else on the grid."""
        origin = self._origin()[:2]
        x, y = self.floor.view.place(spot)
        if begun in self.project.collector:
            return x, y
        if not self.workspace.drawing.free:
            x, y = snapped_heading(origin, (x, y), self._heading(begun))
        far = math.dist(origin, (x, y)) or 1.0
        whole = round(far / self.step) * self.step / far
        place = origin[0] + (x - origin[0]) * whole, origin[1] + (y - origin[1]) * whole
        reach = WALL_REACH / self.floor.view.scale
        return beside_walls(self.project, origin, place, self._width(begun), reach)

    def _heading(self, begun: str) -> XY | None:
        """The heading that the drawn duct turns from."""
        run = self.project.run.get(begun)
        if run is None:
            return last_heading(self.project, begun)
        a, b = position(self.project, run.start), position(self.project, run.end)
        flat = math.dist(a[:2], b[:2]) or 1.0
        return (b[0] - a[0]) / flat, (b[1] - a[1]) / flat

    def _width(self, begun: str) -> float:
        """Diameter (m) of the duct that is drawn."""
        meeting = (r for r in self.project.runs if begun in (r.id, r.start, r.end))
        pattern = next(meeting, None)
        return self.workspace.drawing.diameter or (pattern.diameter if pattern else 0.15)

    def _keep_clear(self, begun: str, place: XY) -> None:
        """Raises `InputError` for a way through a post or chimney."""
        if begun in self.project.collector:
            return
        width, drawing, start = self._width(begun), self.workspace.drawing, self._origin()
        as_it_goes = drawing.level == "as it goes on"
        height = start[2] if as_it_goes else drawing.centre(self.project, width)
        stops = DuctSpace(self.project).in_the_way((start[0], start[1], height), (*place, height), width)
        if stops:
            name = name_of(self.project, stops[0])
            raise InputError("duct", f"a way through {name}", "click a corner beside it first, then go on")

    def hover(self, spot: QPointF) -> None:
        self._over = spot
        if self._from is not None:
            self.floor.update()

    def stop(self) -> None:
        super().stop()
        self._from = self._over = None

    def paint(self, painter: QPainter) -> None:
        placing = self.workspace.placing
        if self._from is None or self._over is None or placing is None or self.project.find(self._from) is None:
            return
        view, p = self.floor.view, self.floor.colours
        start = self._origin()[:2]
        end = self._aimed(self._from, self._over)
        text = Display(self.project.settings.units).length(math.dist(start, end))
        paint_tape(painter, view.point(start), view.point(end), text, p)

    def hit(self, spot: QPointF) -> str | None:
        return (
            self._near_gate(spot) or near_port(self, spot) or self._near_point(spot) or self._on_duct(spot)
            or on_body(self, spot)
        )  # fmt: skip

    def draggable(self, ref: str) -> bool:
        return ref in self.project.machine or ref in self.project.collector or ref in self.project.point

    def handle(self, found: str) -> str | None:
        """A drop is moved by its gate too, which lies over its ends on the plan."""
        run = self.project.run.get(self.project.gate[found].run if found in self.project.gate else found)
        if run is not None and upright(self.project, run):
            return run.end if run.end in self.project.point else run.start
        return super().handle(found)

    def label(self, ref: str) -> str:
        return f"Move '{ref}'" if ref in self.project.point else super().label(ref)

    def move(self, ref: str, dx: float, dy: float) -> Edit:
        if ref not in (self.workspace.gesture_start or self.project).point:
            return super().move(ref, dx, dy)
        x, y = (round(v / self.step) * self.step for v in (dx, dy))
        return lambda project: with_point_moved(project, ref, x, y)

    def nudge(self, dx: float, dy: float) -> bool:
        chosen = self.workspace.selection
        if chosen is None or chosen not in self.project.point:
            return super().nudge(dx, dy)
        self.floor.attempt(
            lambda: self.workspace.edit(self.label(chosen), lambda p: with_point_moved(p, chosen, dx, dy))
        )
        return True

    def _near_gate(self, spot: QPointF) -> str | None:
        near = [(far(self.floor.view.point(g.at), spot), g.gate) for g in self.scene.gates]
        return min((found for found in near if found[0] < REACH), default=(0.0, None))[1]

    def _near_point(self, spot: QPointF) -> str | None:
        near = [(far(self.floor.view.point((p.x, p.y)), spot), p.id) for p in self.project.points]
        return min((found for found in near if found[0] < REACH * 0.7), default=(0.0, None))[1]

    def _on_duct(self, spot: QPointF) -> str | None:
        x, y = self.floor.view.place(spot)
        for duct in reversed(self.scene.ducts):
            reach = max(duct.width / 2, 4.0 / self.floor.view.scale)
            left, low, right, high = duct.bounds
            inside = left - reach <= x <= right + reach and low - reach <= y <= high + reach
            if inside and any(off_line(a, b, (x, y)) <= reach for a, b in itertools.pairwise(duct.line)):
                return duct.run
        return None


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
    middle = (
        (opening.start[0] + opening.end[0]) / 2 + dx,
        (opening.start[1] + opening.end[1]) / 2 + dy,
    )
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
